"""Edits between rows and the core's frozen form."""

import json
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from sqlalchemy import Connection, String, Table, select, type_coerce

from zembi.core.edit.model import Cutaway, Edit, Shot, Source, source_from_dict, source_to_dict
from zembi.store import tables
from zembi.store.database import Change, one_of


def load_edit(connection: Connection, edit_id: int) -> Edit:
    """Read an edit."""
    row = one_of(connection, tables.edit, {"id": edit_id})
    shot, cutaway = tables.shot.c, tables.cutaway.c
    shots = connection.execute(
        select(shot.start, type_coerce(shot.source, String), shot.held)
        .where(shot.edit == edit_id)
        .order_by(shot.start)
    ).all()
    cutaways = connection.execute(
        select(cutaway.start, cutaway.end, type_coerce(cutaway.source, String))
        .where(cutaway.edit == edit_id)
        .order_by(cutaway.start)
    ).all()
    return Edit(
        row["length"],
        tuple(_shot(start, text, held) for start, text, held in shots),
        tuple(Cutaway(start, end, _source(text)) for start, end, text in cutaways),
    )


@lru_cache(maxsize=1 << 14)
def _shot(start: int, text: str, held: bool) -> Shot:
    """A shot from its row; the same object as long as nothing of it changes."""
    return Shot(start, _source(text), held)


@lru_cache(maxsize=1 << 14)
def _source(text: str) -> Source:
    """A source from its stored form; shots share most of them."""
    return source_from_dict(json.loads(text))


def save_edit(change: Change, edit_id: int, edit: Edit, before: Edit) -> None:
    """Write an edit; only rows that differ from ``before``, what is stored, are touched and journaled."""
    if edit.length != before.length:
        change.update(tables.edit, {"id": edit_id}, {"length": edit.length})
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
    return row | ({"held": item.held} if isinstance(item, Shot) else {"end": item.end})
