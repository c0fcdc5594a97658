"""Edits between rows and the core's frozen form."""

import json
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from sqlalchemy import Column, Connection, String, Table, select, type_coerce

from zembi.core.edit.model import Cutaway, Edit, Shot, Source, source_from_dict, source_to_dict
from zembi.core.treatments.model import Treated, Treatment, treatment_from_dict, treatment_to_dict
from zembi.store import tables
from zembi.store.database import Change, one_of


def load_edit(connection: Connection, edit_id: int) -> Edit:
    """Read an edit."""
    row = one_of(connection, tables.edit, {"id": edit_id})
    shot, cutaway = tables.shot.c, tables.cutaway.c
    shots = connection.execute(
        select(shot.start, _text(shot.source), shot.held, _text(shot.treated))
        .where(shot.edit == edit_id)
        .order_by(shot.start)
    ).all()
    cutaways = connection.execute(
        select(cutaway.start, cutaway.end, _text(cutaway.source), _text(cutaway.treated))
        .where(cutaway.edit == edit_id)
        .order_by(cutaway.start)
    ).all()
    return Edit(
        row["length"],
        tuple(_shot(*values) for values in shots),
        tuple(
            Cutaway(start, end, _source(text), *_treated(treated)) for start, end, text, treated in cutaways
        ),
        tuple(
            Treated(t["first"], t["end"], tuple(treatment_from_dict(d) for d in t["treatments"]))
            for t in row["treated"] or ()
        ),
    )


def _text(column: Column[Any]) -> Any:
    return type_coerce(column, String)


@lru_cache(maxsize=1 << 14)
def _shot(start: int, source: str, held: bool, treated: str | None) -> Shot:
    """A shot from its row; the same object as long as nothing of it changes."""
    return Shot(start, _source(source), held, *_treated(treated))


@lru_cache(maxsize=1 << 12)
def _treated(text: str | None) -> tuple[tuple[Treatment, ...], tuple[int, int] | None]:
    """Treatments, and the frames that they were meant for."""
    if text is None:
        return (), None
    data = json.loads(text)
    whole = data.get("whole")
    return tuple(treatment_from_dict(d) for d in data["treatments"]), (whole[0], whole[1]) if whole else None


@lru_cache(maxsize=1 << 14)
def _source(text: str) -> Source:
    """A source from its stored form; shots share most of them."""
    return source_from_dict(json.loads(text))


def save_edit(change: Change, edit_id: int, edit: Edit, before: Edit) -> None:
    """Write an edit; only rows that differ from ``before``, what is stored, are touched and journaled."""
    if edit.length != before.length:
        change.update(tables.edit, {"id": edit_id}, {"length": edit.length})
    if edit.treated != before.treated:
        ranges = [
            {"first": t.first, "end": t.end, "treatments": [treatment_to_dict(d) for d in t.treatments]}
            for t in edit.treated
        ]
        change.update(tables.edit, {"id": edit_id}, {"treated": ranges or None})
    _write(change, tables.shot, edit_id, {s.start: s for s in before.shots}, {s.start: s for s in edit.shots})
    _write(
        change,
        tables.cutaway,
        edit_id,
        {c.start: c for c in before.cutaways},
        {c.start: c for c in edit.cutaways},
    )


def _write(
    change: Change,
    table: Table,
    edit_id: int,
    old: Mapping[int, Shot | Cutaway],
    new: Mapping[int, Shot | Cutaway],
) -> None:
    for start in old.keys() - new.keys():
        change.delete(table, {"edit": edit_id, "start": start})
    for start, item in new.items():
        if start not in old:
            change.insert(table, _row(edit_id, item))
        elif item is not old[start] and item != old[start]:
            change.update(table, {"edit": edit_id, "start": start}, _row(edit_id, item))


def _row(edit_id: int, item: Shot | Cutaway) -> dict[str, Any]:
    row: dict[str, Any] = {"edit": edit_id, "start": item.start, "source": source_to_dict(item.source)}
    treated = item.treatments or item.whole
    row["treated"] = (
        {
            "treatments": [treatment_to_dict(t) for t in item.treatments],
            "whole": list(item.whole) if item.whole else None,
        }
        if treated
        else None
    )
    return row | ({"held": item.held} if isinstance(item, Shot) else {"end": item.end})
