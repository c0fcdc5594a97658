"""Angles: naming, ordering, colouring, and which pass feeds them."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from zembi.core.edit.model import AngleSource, Edit
from zembi.core.errors import BadInput, Refused
from zembi.core.lineup.coverage import Feed, within
from zembi.core.lineup.feeds import beside, chosen
from zembi.service.lineup.grouping import HUES, new_angle
from zembi.service.project.snapshot import Snapshot, edits_of, snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.edits import save_edit
from zembi.store.entities import Angle, KeptFeed, KeptItem, Media, Pass, every


@one_transaction
def describe_angle(
    project: Project, angle_id: int, *, name: str | None = None, hue: int | None = None
) -> None:
    """Rename or recolour an angle.

    Raises:
        BadInput: an empty name or a hue outside 1 to 9.
    """
    row = project.database.one(Angle, id=angle_id)
    values: dict[str, Any] = {}
    if name is not None:
        if not name.strip():
            raise BadInput("Give the angle a name.")
        values |= {"name": name.strip(), "by_hand": True}
    if hue is not None:
        if not 1 <= hue <= HUES:
            raise BadInput(f"Hue {hue} is outside 1 to {HUES}.")
        values["hue"] = hue
    with project.database.changing(f"Describe angle {row.number}") as change:
        change.update(tables.angle, {"id": angle_id}, values)


@one_transaction
def add_angle(project: Project, name: str = "") -> int:
    """Make an empty angle with the lowest free number; no grouping takes it away."""
    with project.database.changing(f"Add angle {name.strip()}".rstrip()) as change:
        return new_angle(change, name.strip(), by_hand=True)


@one_transaction
def remove_angle(project: Project, angle_id: int) -> None:
    """Remove an angle that no pass feeds and no shot shows.

    Raises:
        Refused: it is in use.
    """
    row = project.database.one(Angle, id=angle_id)
    if project.database.all(Pass, angle=angle_id):
        raise Refused(f"Angle {row.number} has passes; move them to another angle first.")
    if any(s.source.get("angle") == angle_id for s in project.database.all(KeptItem)):
        raise Refused(f"Angle {row.number} is used in the edit.")
    with project.database.changing(f"Remove angle {row.number}") as change:
        change.delete(tables.angle, {"id": angle_id})


@one_transaction
def merge_angles(project: Project, into: int, angles: list[int]) -> None:
    """Make several angles one, with the number, name and hue of the first: all shots show what they showed.

    Raises:
        BadInput: an angle is named twice.
    """
    target = project.database.one(Angle, id=into)
    if len({into, *angles}) != 1 + len(angles):
        raise BadInput("Each angle can be merged only once, and not with itself.")
    others = [project.database.one(Angle, id=a) for a in angles]
    snapshot = snapshot_of(project)
    numbers = ", ".join(str(o.number) for o in others)
    with project.database.changing(f"Merge angle {numbers} into {target.number}") as change:
        change.update(tables.angle, {"id": into}, {"by_hand": True, "because": "put together by hand"})
        feeds = _feeds(every(change.connection, KeptFeed, angle=into))
        for other in others:
            for f in _feeds(every(change.connection, KeptFeed, angle=other.id)):
                # What was chosen on the angle that stays goes before.
                for part in beside(f, feeds):
                    feeds = chosen(feeds, replace(part, angle=into))
        edits = edits_of(project)
        for edit in edits.values():
            for item, end in edit.placed(edit.lanes):
                if isinstance(item.source, AngleSource) and item.source.angle in (into, *angles):
                    for feed in _shown(snapshot, item.source.angle, item.start, end):
                        feeds = chosen(feeds, replace(feed, angle=into))
        for other in others:
            for p in every(change.connection, Pass, angle=other.id):
                change.update(tables.pass_, {"id": p.id}, {"angle": into})
            change.delete_all(tables.feed, {"angle": other.id})
            change.delete(tables.angle, {"id": other.id})
        _keep_feeds(change, into, feeds)
        for edit_id, edit in edits.items():
            _turn(
                change, edit_id, edit, lambda source, _first, _end: into if source.angle in angles else None
            )


@one_transaction
def split_angle(project: Project, angle_id: int, passes: list[int], name: str = "") -> int:
    """Make an angle of some passes of another; shots of every edit that show only these go with them.

    Raises:
        BadInput: none of its passes, or all of them.
    """
    row = project.database.one(Angle, id=angle_id)
    mine = {p.id for p in project.database.all(Pass, angle=angle_id)}
    going = set(passes)
    if not going or not going <= mine or going == mine:
        raise BadInput(f"Choose some of the passes of angle {row.number}, but not all, to split off.")
    snapshot = snapshot_of(project)
    with project.database.changing(f"Split angle {row.number}") as change:
        made = new_angle(change, name.strip() or f"{row.name} 2", by_hand=True, because="split off by hand")
        change.update(tables.angle, {"id": angle_id}, {"by_hand": True})

        def turned(source: AngleSource, first: int, end: int) -> int | None:
            if source.angle != angle_id:
                return None
            seen = {int(f.pass_id) for f in _shown(snapshot, angle_id, first, end)}
            return made if seen and seen <= going else None

        for edit_id, edit in edits_of(project).items():
            _turn(change, edit_id, edit, turned)
        for p in going:
            change.update(tables.pass_, {"id": p}, {"angle": made})
        for f in every(change.connection, KeptFeed, angle=angle_id):
            if f.pass_id in going:
                change.update(tables.feed, {"id": f.id}, {"angle": made})
        return made


@one_transaction
def judge(project: Project, pass_id: int, *, verdict: str | None, note: str | None) -> None:
    """Circle or reject a pass, or write a word on it. A rejected one feeds nothing until it is brought back.

    Raises:
        BadInput: no such verdict.
    """
    row = project.database.one(Pass, id=pass_id)
    take = project.database.one(Media, id=row.media)
    values: dict[str, Any] = {}
    if verdict is not None:
        if verdict not in ("", "circled", "rejected"):
            raise BadInput(f"A pass is circled or rejected; “{verdict}” is neither.")
        values["verdict"] = verdict
    if note is not None:
        values["note"] = note.strip()
    words = {"circled": "Circle", "rejected": "Reject", "": "Bring back", None: "Note on"}
    if verdict == "" and row.verdict == "circled":
        words[""] = "Uncircle"
    with project.database.changing(f"{words[verdict]} {take.name}") as change:
        change.update(tables.pass_, {"id": pass_id}, values)


@one_transaction
def reorder_angles(project: Project, order: list[int]) -> None:
    """Number the angles 1, 2, 3… in the order given; shots follow their angle.

    Raises:
        BadInput: not exactly the angles there are.
    """
    rows = {a.id: a for a in project.database.all(Angle)}
    if sorted(order) != sorted(rows):
        raise BadInput("The new order has to name every angle once.")
    with project.database.changing("Reorder angles") as change:
        for number, angle_id in enumerate(order, 1):
            change.update(tables.angle, {"id": angle_id}, {"number": number})


@one_transaction
def move_pass(project: Project, pass_id: int, angle_id: int | None) -> None:
    """Give a pass to another angle, or to none."""
    row = project.database.one(Pass, id=pass_id)
    if angle_id is not None:
        project.database.one(Angle, id=angle_id)
    take = project.database.one(Media, id=row.media)
    with project.database.changing(f"Move {take.name} to another angle") as change:
        change.update(tables.pass_, {"id": pass_id}, {"angle": angle_id})
        # Both are now as the editor wants them.
        for touched in {row.angle, angle_id} - {None}:
            change.update(tables.angle, {"id": touched}, {"by_hand": True})
        for f in project.database.all(KeptFeed, pass_id=pass_id):
            change.delete(tables.feed, {"id": f.id})


@one_transaction
def choose_feed(project: Project, angle_id: int, start_s: float, end_s: float, pass_id: int) -> None:
    """Let a pass feed an angle in a range of working time (a section); earlier choices inside it give way.

    Raises:
        BadInput: an empty range.
        Refused: the pass belongs to another angle, or has no picture there.
    """
    if end_s - start_s < 1e-3:
        raise BadInput("The range to feed is empty.")
    song = snapshot_of(project).map
    start_s, end_s = song.to_song(start_s), song.to_song(end_s - 1e-6) + 1e-6
    row = project.database.one(Pass, id=pass_id)
    if row.angle != angle_id:
        raise Refused("This pass belongs to another angle; move it here first.")
    end = row.song_start_s + row.rate * (row.take_end_s - row.take_start_s)
    if end <= start_s or row.song_start_s >= end_s:
        raise Refused("This pass has no picture there.")
    take = project.database.one(Media, id=row.media)
    with project.database.changing(f"{take.name} feeds its angle") as change:
        before = _feeds(every(change.connection, KeptFeed, angle=angle_id))
        if row.verdict == "rejected":
            change.update(tables.pass_, {"id": pass_id}, {"verdict": ""})
        _keep_feeds(change, angle_id, chosen(before, Feed(angle_id, start_s, end_s, str(pass_id))))


def _shown(snapshot: Snapshot, angle: int, start: int, end: int) -> list[Feed]:
    """Feeds that show the passes of an angle in frames of the edit; song time."""
    song, out = snapshot.map, []
    for a, b, p in within(snapshot.runs(angle), start, end):
        first = song.to_song(float(a / snapshot.rate))
        last = song.to_song(float(b / snapshot.rate) - 1e-6) + 1e-6
        out.append(Feed(angle, first, last, p.id))
    return out


def _turn(
    change: Change, edit_id: int, edit: Edit, to: Callable[[AngleSource, int, int], int | None]
) -> None:
    """Give items of an edit that show an angle another, where ``to`` (source, first frame, end) names one."""
    lanes = []
    for lane in edit.lanes:
        items = list(lane.items)
        for n, (item, end) in enumerate(edit.placed([lane])):
            source = item.source
            angle = to(source, item.start, end) if isinstance(source, AngleSource) else None
            if angle is not None and isinstance(source, AngleSource):
                items[n] = replace(item, source=replace(source, angle=angle))
        lanes.append(replace(lane, items=tuple(items)))
    save_edit(change, edit_id, replace(edit, lanes=tuple(lanes)), edit)


def _feeds(rows: Sequence[KeptFeed]) -> list[Feed]:
    return [Feed(f.angle, f.start_s, f.end_s, str(f.pass_id)) for f in rows]


def _keep_feeds(change: Change, angle: int, feeds: Sequence[Feed]) -> None:
    """Make the feeds of an angle these, touching only what differs."""
    rows = every(change.connection, KeptFeed, angle=angle)
    before = _feeds(rows)
    for f, was in zip(rows, before, strict=True):
        if was not in feeds:
            change.delete(tables.feed, {"id": f.id})
    for feed in feeds:
        if feed not in before:
            change.insert(tables.feed, {
                "angle": angle, "start_s": feed.start_s, "end_s": feed.end_s, "pass_id": int(feed.pass_id),
            })  # fmt: skip
