"""Edits between rows and the core's frozen form."""

import json
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from threading import Lock
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.engine import Connection

from zembi.core.edit.lanes import kind_of
from zembi.core.edit.model import Edit, Item, Lane, Source, source_from_dict, source_to_dict
from zembi.core.memory import same_ends
from zembi.core.treatments.model import Treatment, treatment_from_dict, treatment_to_dict
from zembi.store import tables
from zembi.store.database import Change, Database, one_of

#: Items of an edit in their order, JSON as text; all of them, or those with ids of a JSON list.
_ITEMS = 'SELECT lane, start, "end", source, held, treated, id FROM item WHERE edit = ? {}ORDER BY start, id'
_ALL, _SOME = _ITEMS.format(""), _ITEMS.format("AND id IN (SELECT value FROM json_each(?)) ")


#: Edits as they were read or written last, by database and id, each with its stamp.
_KNOWN: OrderedDict[tuple[str, int], tuple[int, Edit]] = OrderedDict()
_MOST_KNOWN = 16
_ONE_WRITER = Lock()


def load_edit(connection: Connection, edit_id: int) -> Edit:
    """Read an edit; the same object as last time where no row of it was changed, by whatever process.

    Raises:
        NotFound: there is no such edit.
    """
    stamp = _stamp(connection, edit_id)
    known = _KNOWN.get((str(connection.engine.url), edit_id))
    if known is not None and known[0] == stamp:
        return known[1]
    edit = _read(connection, edit_id)
    _keep(connection, edit_id, edit)
    return edit


def _stamp(connection: Connection, edit_id: int) -> int | None:
    stamp = tables.edit_stamp.c
    return connection.execute(select(stamp.value).where(stamp.edit == edit_id)).scalar()


def _keep(connection: Connection, edit_id: int, edit: Edit) -> None:
    """Remember an edit by its present stamp; one of a transaction that is taken back has a stamp that is never met."""
    key, stamp = (str(connection.engine.url), edit_id), _stamp(connection, edit_id)
    if stamp is None:
        return
    with _ONE_WRITER:
        _KNOWN[key] = stamp, edit
        _KNOWN.move_to_end(key)
        while len(_KNOWN) > _MOST_KNOWN:
            _KNOWN.popitem(last=False)


def turn(database: Database, *, back: bool) -> str:
    """Undo or redo the journal's last or next operation; returns its name.

    An edit of which it changes nothing but items stays known: only those are read again.

    Raises:
        Refused: there is nothing to undo or redo.
    """
    with database.writing() as connection:
        before = _unchanged(connection)
        turned = database.undo() if back else database.redo()
        for edit_id, edit in before.items():
            images = [
                i for i in turned.images if edit_id == i["key"].get("id" if i["table"] == "edit" else "edit")
            ]
            if images and all(i["table"] == "item" for i in images):
                ids = {i["key"]["id"] for i in images}
                _keep(connection, edit_id, _with_items_read(connection, edit_id, edit, ids))
    return turned.name


def _unchanged(connection: Connection) -> dict[int, Edit]:
    """The known edits of a database that are still as they were."""
    here = str(connection.engine.url)
    kept = {edit_id: known for (url, edit_id), known in [*_KNOWN.items()] if url == here}
    return {i: edit for i, (stamp, edit) in kept.items() if stamp == _stamp(connection, i)}


def _with_items_read(connection: Connection, edit_id: int, before: Edit, ids: set[int]) -> Edit:
    """An edit with the items of these ids as they are stored now."""
    now: dict[int, list[Item]] = {lane.id: [] for lane in before.lanes}
    for number, item in _items(connection, _SOME, edit_id, json.dumps([*ids])):
        now[number].append(item)
    lanes = []
    for lane in before.lanes:
        if now[lane.id] or any(i.id in ids for i in lane.items):
            items = [*(i for i in lane.items if i.id not in ids), *now[lane.id]]
            lane = replace(lane, items=tuple(sorted(items, key=lambda i: (i.start, i.id))))
        lanes.append(lane)
    return replace(before, lanes=tuple(lanes))


def _items(connection: Connection, query: str, *values: Any) -> list[tuple[int, Item]]:
    """Items, each with the id of its lane."""
    # Of the driver itself: making row objects of thousands of items took longer than all else about an operation.
    cursor = connection.connection.cursor()
    rows = cursor.execute(query, values).fetchall()
    cursor.close()
    return [(number, _item(*of)) for number, *of in rows]


def _read(connection: Connection, edit_id: int) -> Edit:
    row = one_of(connection, tables.edit, {"id": edit_id})
    lane = tables.lane.c
    lanes = connection.execute(
        select(lane.id, lane.kind, lane.name, lane.shown, lane.locked)
        .where(lane.edit == edit_id)
        .order_by(lane.position)
    ).all()
    items: dict[int, list[Item]] = {number: [] for number, *_ in lanes}
    for number, item in _items(connection, _ALL, edit_id):
        items[number].append(item)
    return Edit(
        row["length"],
        tuple(
            Lane(kind_of(kind), tuple(items[number]), name, shown, locked, number)
            for number, kind, name, shown, locked in lanes
        ),
        row["fresh"],
        row["lead"],
        row["tail"],
    )


@lru_cache(maxsize=1 << 14)
def _item(start: int, end: int | None, source: str, held: bool, treated: str | None, number: int) -> Item:
    """An item from its row; the same object as long as nothing of it changes, as what is worked out of it is kept by."""
    treatments, whole, accepted = _treated(treated)
    return Item(start, _source(source), end, bool(held), treatments, whole, accepted, number)


@lru_cache(maxsize=1 << 12)
def _treated(
    text: str | None,
) -> tuple[tuple[Treatment, ...], tuple[int, int] | None, tuple[tuple[str, str], ...]]:
    """Treatments, the frames that they were meant for, and checks that are accepted."""
    if text is None:
        return (), None, ()
    data = json.loads(text)
    whole = data.get("whole")
    accepted = tuple((str(check), str(word)) for check, word in data.get("accepted", ()))
    treatments = tuple(treatment_from_dict(d) for d in data["treatments"])
    return treatments, (whole[0], whole[1]) if whole else None, accepted


@lru_cache(maxsize=1 << 14)
def _source(text: str) -> Source:
    """A source from its stored form; items share most of them."""
    return source_from_dict(json.loads(text))


def insert_edit(change: Change, name: str, edit: Edit, parent: int | None = None) -> int:
    """Write a new edit; returns its id."""
    values = {"name": name, "parent": parent, "fresh": edit.fresh, **_extent(edit)}
    edit_id = int(change.insert(tables.edit, values)["id"])
    save_edit(change, edit_id, edit, replace(edit, lanes=()))
    return edit_id


def _extent(edit: Edit) -> dict[str, int]:
    return {"length": edit.length, "lead": edit.lead, "tail": edit.tail}


def save_edit(change: Change, edit_id: int, edit: Edit, before: Edit) -> None:
    """Write an edit; only rows that differ from ``before``, what is stored, are touched and journaled.

    The next id only rises and is no part of the journal: what undo takes away, or brings back, meets no stranger under
    its id.
    """
    if _extent(edit) != _extent(before):
        change.update(tables.edit, {"id": edit_id}, _extent(edit))
    if edit.fresh > before.fresh:
        row = tables.edit.c.id == edit_id
        change.connection.execute(update(tables.edit).where(row).values(fresh=edit.fresh))
    if edit.lanes is not before.lanes:
        _write_items(change, edit_id, edit, before)
    _keep(change.connection, edit_id, replace(edit, fresh=max(edit.fresh, before.fresh)))


def _write_items(change: Change, edit_id: int, edit: Edit, before: Edit) -> None:
    _write_lanes(change, edit_id, edit, before)
    old, new = _differing(before.lanes, edit.lanes)
    for number in old.keys() - new.keys():
        change.delete(tables.item, {"edit": edit_id, "id": number})
    for number, (on, item) in new.items():
        was = old.get(number)
        if was is None:
            change.insert(tables.item, {"edit": edit_id, "id": number, **_row(on, item)})
        elif (was[1] is not item and was[1] != item) or was[0] != on:
            change.update(tables.item, {"edit": edit_id, "id": number}, _row(on, item))


def _differing(
    before: Sequence[Lane], after: Sequence[Lane]
) -> tuple[dict[int, tuple[int, Item]], dict[int, tuple[int, Item]]]:
    """Items by id, with the id of their lane, less those at the head and tail of each lane that are the very same."""
    was = {lane.id: lane.items for lane in before}
    old: dict[int, tuple[int, Item]] = {}
    new: dict[int, tuple[int, Item]] = {}
    for lane in after:
        items = was.pop(lane.id, ())
        head, tail = same_ends(lane.items, items)
        new.update((i.id, (lane.id, i)) for i in lane.items[head : len(lane.items) - tail])
        old.update((i.id, (lane.id, i)) for i in items[head : len(items) - tail])
    for number, items in was.items():
        old.update((i.id, (number, i)) for i in items)
    return old, new


def _write_lanes(change: Change, edit_id: int, edit: Edit, before: Edit) -> None:
    def values(lane: Lane, position: int) -> dict[str, Any]:
        return {
            "kind": lane.kind.name, "name": lane.name, "position": position, "shown": lane.on, "locked": lane.locked,
        }  # fmt: skip

    old = {lane.id: values(lane, n) for n, lane in enumerate(before.lanes)}
    new = {lane.id: values(lane, n) for n, lane in enumerate(edit.lanes)}
    for number in old.keys() - new.keys():
        change.delete(tables.lane, {"edit": edit_id, "id": number})
    for number, row in new.items():
        if number not in old:
            change.insert(tables.lane, {"edit": edit_id, "id": number, **row})
        elif row != old[number]:
            change.update(tables.lane, {"edit": edit_id, "id": number}, row)


def _row(lane: int, item: Item) -> dict[str, Any]:
    treated: dict[str, Any] = {
        "treatments": [treatment_to_dict(t) for t in item.treatments],
        "whole": list(item.whole) if item.whole else None,
    }
    if item.accepted:
        treated["accepted"] = [list(pair) for pair in item.accepted]
    return {
        "lane": lane, "start": item.start, "end": item.end, "source": source_to_dict(item.source), "held": item.held,
        "treated": treated if item.treatments or item.whole or item.accepted else None,
    }  # fmt: skip
