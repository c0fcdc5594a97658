"""Shots, cutaways and treated ranges become items of lanes, each with an id, also in the journal; which names its edit."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"

#: Ids of the three lanes of every edit; its items follow.
_BASE, _OVER, _RANGES = 1, 2, 3
_LANES = (("base", "Shots"), ("over", "Cutaways"), ("ranges", "Treated ranges"))

Row = dict[str, Any]
Named = dict[tuple[str, int, int], int]


def upgrade() -> None:
    op.create_table(
        "lane",
        sa.Column("edit", sa.Integer, sa.ForeignKey("edit.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("shown", sa.Boolean, nullable=False),
        sa.Column("locked", sa.Boolean, nullable=False),
    )
    op.create_table(
        "item",
        sa.Column("edit", sa.Integer, sa.ForeignKey("edit.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("lane", sa.Integer, nullable=False),
        sa.Column("start", sa.Integer, nullable=False),
        sa.Column("end", sa.Integer, nullable=True),
        sa.Column("source", sa.JSON, nullable=False),
        sa.Column("held", sa.Boolean, nullable=False),
        sa.Column("treated", sa.JSON(none_as_null=True), nullable=True),
    )
    ids = _Ids()
    named, ranges = _move_rows(ids)
    _rewrite_journal(ids, named, ranges)
    op.drop_column("edit", "treated")
    op.add_column("edit", sa.Column("fresh", sa.Integer, nullable=False, server_default="1"))
    for edit_id, fresh in ids.next.items():
        _run("UPDATE edit SET fresh = :fresh WHERE id = :id", fresh=fresh, id=edit_id)
    op.drop_table("shot")
    op.drop_table("cutaway")
    op.add_column("journal", sa.Column("edit", sa.Integer, nullable=True))
    op.add_column("job", sa.Column("edit", sa.Integer, nullable=True))
    op.add_column("job", sa.Column("operations", sa.Integer, nullable=True))


class _Ids:
    """The next id of each edit."""

    def __init__(self) -> None:
        self.next: dict[int, int] = {}

    def new(self, edit: int) -> int:
        number = self.next.setdefault(edit, len(_LANES) + 1)
        self.next[edit] = number + 1
        return number


def _run(statement: str, **values: Any) -> Any:
    return op.get_bind().execute(sa.text(statement), values)


def _move_rows(ids: _Ids) -> tuple[Named, dict[int, list[tuple[int, Row]]]]:
    """Make lanes and items of what there is; returns the ids by table, edit and first frame, and ranges by edit."""
    named: Named = {}
    ranges: dict[int, list[tuple[int, Row]]] = {}
    for edit_id, treated in _run("SELECT id, treated FROM edit ORDER BY id").all():
        ids.next[edit_id] = len(_LANES) + 1
        for n, (kind, name) in enumerate(_LANES):
            _run(
                "INSERT INTO lane VALUES (:edit, :id, :kind, :name, :position, 1, 0)",
                edit=edit_id, id=n + 1, kind=kind, name=name, position=n,
            )  # fmt: skip
        ranges[edit_id] = [(ids.new(edit_id), r) for r in json.loads(treated or "null") or []]
        for number, r in ranges[edit_id]:
            _insert(_range_row(edit_id, number, r))
    for table in ("shot", "cutaway"):
        for row in _run(f"SELECT * FROM {table} ORDER BY edit, start").mappings().all():
            number = named[table, row["edit"], row["start"]] = ids.new(row["edit"])
            data = {k: json.loads(v) if k in ("source", "treated") and v else v for k, v in row.items()}
            _insert(_item_row(table, number, data))
    return named, ranges


def _insert(row: Row) -> None:
    stored = {**row, "source": json.dumps(row["source"]), "held": bool(row["held"])}
    stored["treated"] = json.dumps(row["treated"]) if row["treated"] else None
    _run(
        'INSERT INTO item (edit, id, lane, start, "end", source, held, treated) '
        "VALUES (:edit, :id, :lane, :start, :end, :source, :held, :treated)",
        **stored,
    )


def _item_row(table: str, number: int, row: Row) -> Row:
    """A whole row of a shot or cutaway as that of an item."""
    return {
        "edit": row["edit"], "id": number, "lane": _BASE if table == "shot" else _OVER, "start": row["start"],
        "end": row.get("end"), "source": row["source"], "held": bool(row.get("held", False)),
        "treated": row.get("treated"),
    }  # fmt: skip


def _range_row(edit: int, number: int, r: Row) -> Row:
    return {
        "edit": edit, "id": number, "lane": _RANGES, "start": r["first"], "end": r["end"],
        "source": {"kind": "beneath"}, "held": False, "treated": {"treatments": r["treatments"], "whole": None},
    }  # fmt: skip


def _rewrite_journal(ids: _Ids, named: Named, ranges: dict[int, list[tuple[int, Row]]]) -> None:
    """Rewrite images of shots, cutaways and ranges, walking from what there is as undo and as redo would."""
    for undone, order in ((0, "DESC"), (1, "ASC")):
        walk = _Walk(ids, dict(named), {k: list(v) for k, v in ranges.items()})
        rows = _run(
            f"SELECT number, changes FROM journal WHERE undone = {undone} ORDER BY number {order}"
        ).all()
        for number, changes in rows:
            images = json.loads(changes)
            turned = [new for image in reversed(images) for new in reversed(walk.back(image))]
            if turned[::-1] != images:
                _run(
                    "UPDATE journal SET changes = :changes WHERE number = :number",
                    changes=json.dumps(turned[::-1]), number=number,
                )  # fmt: skip


class _Walk:
    """Ids of what is there, while images are turned one after the other."""

    def __init__(self, ids: _Ids, named: Named, ranges: dict[int, list[tuple[int, Row]]]) -> None:
        self.ids, self.named, self.ranges = ids, named, ranges

    def back(self, image: Row) -> list[Row]:
        """An image as images of items, in order; what is there becomes what was before it."""
        if image["table"] in ("shot", "cutaway"):
            return [self._item(image)]
        if image["table"] == "edit":
            return self._edit(image)
        return [image]

    def _item(self, image: Row) -> Row:
        table, before, after = image["table"], image["before"], image["after"]
        key = image.get("key") or {k: (after or before)[k] for k in ("edit", "start")}
        place = (table, key["edit"], key["start"])
        number = (self.named.pop(place, None) if after is not None else None) or self.ids.new(key["edit"])
        if before is not None:
            self.named[place] = number
        if before is None or after is None:
            sides = [row and _item_row(table, number, {**key, **row}) for row in (before, after)]
        else:
            sides = [{k: v for k, v in row.items() if k not in key} for row in (before, after)]
        return {
            "table": "item",
            "key": {"edit": key["edit"], "id": number},
            "before": sides[0],
            "after": sides[1],
        }

    def _edit(self, image: Row) -> list[Row]:
        before, after = image["before"], image["after"]
        edit = (image.get("key") or after or before)["id"]
        then, now = ((side or {}).get("treated") for side in (before, after))
        out: list[Row] = []
        if "treated" in (before or {}) or "treated" in (after or {}):
            out = self._ranges(edit, then or [], now or [])
        stripped = [
            None if side is None else {k: v for k, v in side.items() if k != "treated"}
            for side in (before, after)
        ]
        made, gone = before is None, after is None
        lanes = [
            {
                "edit": edit,
                "id": n + 1,
                "kind": kind,
                "name": name,
                "position": n,
                "shown": True,
                "locked": False,
            }
            for n, (kind, name) in enumerate(_LANES)
        ]
        of_lanes = [
            {"table": "lane", "key": {"edit": edit, "id": row["id"]}, "before": None if made else row, "after": None if gone else row}
            for row in lanes if made or gone
        ]  # fmt: skip
        own = {**image, "before": stripped[0], "after": stripped[1]}
        if made or gone or stripped[0] or stripped[1]:
            # An edit comes before what lies in it, and goes after it.
            out = [*out, *of_lanes, own] if gone else [own, *of_lanes, *out]
        return out

    def _ranges(self, edit: int, then: list[Row], now: list[Row]) -> list[Row]:
        here = self.ranges.get(edit, [])
        known = {number: r for number, r in here if r in now}
        out = [
            {"table": "item", "key": {"edit": edit, "id": n}, "before": None, "after": _range_row(edit, n, r)}
            for n, r in known.items() if r not in then
        ]  # fmt: skip
        left = [(n, r) for n, r in here if r in then]
        back = [(self.ids.new(edit), r) for r in then if r not in now]
        out += [
            {"table": "item", "key": {"edit": edit, "id": n}, "before": _range_row(edit, n, r), "after": None}
            for n, r in back
        ]
        self.ranges[edit] = [*left, *back]
        return out


def downgrade() -> None:
    """No older version can read the journal again: a copy is kept by whoever wants to go back."""
    raise NotImplementedError
