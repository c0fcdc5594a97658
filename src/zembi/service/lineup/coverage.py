"""Angles: naming, ordering, colouring, and which pass feeds them."""

from typing import Any

from zembi.core.errors import BadInput, Refused
from zembi.core.lineup.coverage import Feed
from zembi.core.lineup.feeds import chosen
from zembi.service.lineup.placing import MOST_ANGLES
from zembi.service.project.snapshot import look
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Angle, KeptCutaway, KeptFeed, KeptShot, Media, Pass

HUES = 9


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
        values["name"] = name.strip()
    if hue is not None:
        if not 1 <= hue <= HUES:
            raise BadInput(f"Hue {hue} is outside 1 to {HUES}.")
        values["hue"] = hue
    with project.database.changing(f"Describe angle {row.number}") as change:
        change.update(tables.angle, {"id": angle_id}, values)


@one_transaction
def add_angle(project: Project, name: str = "") -> int:
    """Make an empty angle with the lowest free number.

    Raises:
        Refused: there are nine already.
    """
    taken = {a.number for a in project.database.all(Angle)}
    free = sorted(set(range(1, MOST_ANGLES + 1)) - taken)
    if not free:
        raise Refused("There are nine angles already; the number keys go no further.")
    with project.database.changing(f"Add angle {free[0]}") as change:
        values = {"number": free[0], "name": name.strip() or f"Angle {free[0]}", "hue": free[0]}
        return int(change.insert(tables.angle, values)["id"])


@one_transaction
def remove_angle(project: Project, angle_id: int) -> None:
    """Remove an angle that no pass feeds and no shot shows.

    Raises:
        Refused: it is in use.
    """
    row = project.database.one(Angle, id=angle_id)
    if project.database.all(Pass, angle=angle_id):
        raise Refused(f"Angle {row.number} has passes; move them to another angle first.")
    lanes: list[KeptShot | KeptCutaway] = [
        *project.database.all(KeptShot),
        *project.database.all(KeptCutaway),
    ]
    if any(s.source.get("angle") == angle_id for s in lanes):
        raise Refused(f"Angle {row.number} is used in the edit.")
    with project.database.changing(f"Remove angle {row.number}") as change:
        change.delete(tables.angle, {"id": angle_id})


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
    song = look(project).map
    start_s, end_s = song.to_song(start_s), song.to_song(end_s - 1e-6) + 1e-6
    row = project.database.one(Pass, id=pass_id)
    if row.angle != angle_id:
        raise Refused("This pass belongs to another angle; move it here first.")
    end = row.song_start_s + row.rate * (row.take_end_s - row.take_start_s)
    if end <= start_s or row.song_start_s >= end_s:
        raise Refused("This pass has no picture there.")
    take = project.database.one(Media, id=row.media)
    rows = project.database.all(KeptFeed, angle=angle_id)
    before = [Feed(angle_id, f.start_s, f.end_s, str(f.pass_id)) for f in rows]
    after = chosen(before, Feed(angle_id, start_s, end_s, str(pass_id)))
    with project.database.changing(f"Circle {take.name}") as change:
        for f, was in zip(rows, before, strict=True):
            if was not in after:
                change.delete(tables.feed, {"id": f.id})
        for feed in after:
            if feed not in before:
                change.insert(tables.feed, {
                    "angle": angle_id, "start_s": feed.start_s, "end_s": feed.end_s, "pass_id": int(feed.pass_id),
                })  # fmt: skip
