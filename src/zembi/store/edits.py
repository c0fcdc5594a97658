"""Edits between rows and the core's frozen form."""

from sqlalchemy import Connection

from zembi.core.edit.model import Cutaway, Edit, Shot, source_from_dict, source_to_dict
from zembi.store import tables
from zembi.store.database import Change, one_of, rows_of


def load_edit(connection: Connection, edit_id: int) -> Edit:
    """Read an edit."""
    row = one_of(connection, tables.edit, {"id": edit_id})
    shots = rows_of(connection, tables.shot, {"edit": edit_id})
    cutaways = rows_of(connection, tables.cutaway, {"edit": edit_id})
    return Edit(
        row["length"],
        tuple(Shot(s["start"], source_from_dict(s["source"]), s["held"]) for s in shots),
        tuple(Cutaway(c["start"], c["end"], source_from_dict(c["source"])) for c in cutaways),
    )


def save_edit(change: Change, edit_id: int, edit: Edit) -> None:
    """Write an edit; only rows that differ are touched and journaled."""
    change.update(tables.edit, {"id": edit_id}, {"length": edit.length})
    change.replace_all(
        tables.shot, {"edit": edit_id},
        [{"edit": edit_id, "start": s.start, "source": source_to_dict(s.source), "held": s.held} for s in edit.shots],
    )  # fmt: skip
    change.replace_all(
        tables.cutaway, {"edit": edit_id},
        [
            {"edit": edit_id, "start": c.start, "end": c.end, "source": source_to_dict(c.source)}
            for c in edit.cutaways
        ],
    )  # fmt: skip
