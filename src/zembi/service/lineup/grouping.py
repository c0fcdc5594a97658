"""Angles from takes: grouped by what they say of their camera and by what is seen, until the editor changes it."""

import json
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, String, or_, type_coerce
from sqlalchemy import select as query

from zembi.core.errors import BadInput
from zembi.core.footage.likeness import Pictures
from zembi.core.lineup.grouping import Group, Traits, all_alike, group_takes, seen_alike
from zembi.jobs.worker import Report
from zembi.media.derive import STILLS_SHEET
from zembi.media.looking import pictures_of_sheet, some_pictures
from zembi.media.probe import probe, traits_of
from zembi.service.media.analyses import derived_facts
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project, write_json
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import Angle, KeptItem, Media, Pass, every

HUES = 9
#: Moments of a take that are compared with those of others.
MOMENTS = 8


def angles_of(connection: Connection) -> list[Angle]:
    """Angles in order of their number."""
    return sorted(every(connection, Angle), key=lambda a: a.number)


def new_angle(change: Change, name: str, *, by_hand: bool, because: str = "") -> int:
    """Make an angle with the lowest free number; returns its id."""
    taken = {a.number for a in every(change.connection, Angle)}
    number = next(n for n in range(1, len(taken) + 2) if n not in taken)
    values = {
        "number": number, "name": name or f"Angle {number}", "hue": 1 + (number - 1) % HUES, "by_hand": by_hand,
        "because": because,
    }  # fmt: skip
    return int(change.insert(tables.angle, values)["id"])


@one_transaction
def group_again(project: Project) -> None:
    """Group all takes anew, whatever was put together by hand, as one step of undo; angles in the edit stay."""
    with project.database.changing("Group the takes again") as change:
        for angle in every(change.connection, Angle):
            change.update(tables.angle, {"id": angle.id}, {"by_hand": False})
        _settle(project, change, free=True)


def give_angles(project: Project, change: Change) -> None:
    """Give every locked pass an angle, as part of a change that locked one.

    While nobody touched passes or angles, angles that no edit shows are made anew from all takes.
    """
    _settle(project, change, free=_untouched(change.connection))


def look_again(project: Project) -> None:
    """Group by what is seen, once pictures of a take are there; nothing changes once the editor changed anything."""
    compare(project)
    with project.database.writing() as connection:
        if _untouched(connection):
            _settle(project, Change(connection), free=True)


def _untouched(connection: Connection) -> bool:
    """True if no step of undo touches a pass or an angle."""
    # Asked of the text: a long journal is not read into memory for it.
    text = type_coerce(tables.journal.c.changes, String)
    told = or_(*(text.contains(f'"table": "{name}"') for name in ("pass", "angle", "feed")))
    return connection.execute(query(tables.journal.c.number).where(told).limit(1)).first() is None


@dataclass
class _Take:
    row: Media
    passes: list[Pass]

    @property
    def seconds(self) -> float:
        return sum(p.rate * (p.take_end_s - p.take_start_s) for p in self.passes)


def _settle(project: Project, change: Change, *, free: bool) -> None:
    connection = change.connection
    locked: dict[str, list[Pass]] = {}
    for p in every(connection, Pass):
        if p.status == "locked":
            locked.setdefault(p.media, []).append(p)
    media = sorted(every(connection, Media, kind="take"), key=lambda m: (m.position, m.name))
    takes = [_Take(m, locked[m.id]) for m in media if m.id in locked]
    angles = {a.id: a for a in angles_of(connection)}
    shown = {s.source.get("angle") for s in every(connection, KeptItem)}
    fixed = {a for a, row in angles.items() if not free or row.by_hand or a in shown}
    if not takes or all(p.angle in fixed for t in takes for p in t.passes):
        return
    groups = group_takes([_traits(project, t.row) for t in takes], _alike(project, [t.row for t in takes]))
    # The angle with most picture is the first.
    groups.sort(key=lambda g: (-round(sum(takes[i].seconds for i in g.takes)), g.takes[0]))
    claimed = set(fixed)
    for group in groups:
        members = [takes[i] for i in group.takes]
        target = _angle_of(change, group, members, angles, fixed, claimed)
        claimed.add(target)
        for take in members:
            own = next((p.angle for p in take.passes if p.angle in fixed), target)
            for p in take.passes:
                if p.angle not in fixed and p.angle != own:
                    change.update(tables.pass_, {"id": p.id}, {"angle": own})
    gone = [a for a in angles if a not in claimed]
    for angle in gone:
        change.delete(tables.angle, {"id": angle})
        change.delete_all(tables.feed, {"angle": angle})
    if not fixed:
        _number(change, groups, takes)


def _angle_of(
    change: Change,
    group: Group,
    members: Sequence[_Take],
    angles: dict[int, Angle],
    fixed: set[int],
    claimed: set[int],
) -> int:
    """The angle of a group: one that is settled and has most of it, one that can be used again, or a new one."""
    has = Counter(p.angle for t in members for p in t.passes if p.angle is not None)
    settled = [a for a, _ in has.most_common() if a in fixed]
    named = [a for a in fixed if angles[a].name == group.name]
    if settled or named:
        return (settled or named)[0]
    again = [a for a, _ in has.most_common() if a not in claimed]
    if not again:
        return new_angle(change, group.name, by_hand=False, because=group.because)
    change.update(tables.angle, {"id": again[0]}, {"name": group.name, "because": group.because})
    return again[0]


def _number(change: Change, groups: Sequence[Group], takes: Sequence[_Take]) -> None:
    """Number angles in the order of their groups."""
    rows = {p.id: p.angle for p in every(change.connection, Pass)}
    for number, group in enumerate(groups, 1):
        angle = rows[takes[group.takes[0]].passes[0].id]
        change.update(tables.angle, {"id": angle}, {"number": number, "hue": 1 + (number - 1) % HUES})


def _traits(project: Project, row: Media) -> Traits:
    return traits_of(project.path_of(row), row.facts, row.said.camera)


def _pair(one: Media, other: Media) -> str:
    return " ".join(sorted((one.content, other.content)))


def _kept_alike(project: Project) -> dict[str, float]:
    file = project.cache / "alike.json"
    return json.loads(file.read_text()) if file.exists() else {}


def compare(project: Project) -> None:
    """Work out how alike what takes show is, for each pair of contents that has pictures, and keep it."""
    rows = project.database.all(Media, kind="take")
    kept = _kept_alike(project)
    known = len(kept)
    seen = {row.id: pictures(project, row) for row in rows}
    for a, b in combinations(rows, 2):
        one, other = seen[a.id], seen[b.id]
        if one is not None and other is not None and _pair(a, b) not in kept:
            kept[_pair(a, b)] = round(seen_alike(one, other), 4)
    if len(kept) > known:
        write_json(project.cache / "alike.json", kept)


def _alike(project: Project, rows: Sequence[Media]) -> NDArray[np.float64]:
    """Known similarities, shape (takes, takes); NaN where it has not been worked out yet."""
    kept = _kept_alike(project)
    return np.array([[kept.get(_pair(a, b), np.nan) for b in rows] for a in rows]).reshape(
        len(rows), len(rows)
    )


def pictures(project: Project, row: Media) -> Pictures | None:
    """A few small pictures of a file; None before its stills are made."""
    derived = project.derived(row)
    made = derived_facts(derived) if row.content else None
    if not made or not made.get("stills") or not (derived / STILLS_SHEET).exists():
        return None
    return _pictures(derived, int(made["stills"]), (derived / STILLS_SHEET).stat().st_mtime_ns)


@lru_cache(maxsize=512)
def _pictures(derived: Path, stills: int, _stamp: int) -> Pictures:
    return pictures_of_sheet(derived / STILLS_SHEET, stills, MOMENTS)


#: Moments of a take outside any project that are compared with those of others.
_MOMENTS_OUTSIDE = 8


def groups_of(paths: Sequence[Path], report: Report) -> list[Group]:
    """Group takes by camera set-up.

    Raises:
        BadInput: a file is named twice.
        UnreadableMedia: one cannot be read, or has no picture.
    """
    twice = {p for p in paths if list(paths).count(p) > 1}
    if twice:
        raise BadInput(f"{min(twice)} is named twice.")
    traits, seen = [], []
    for n, path in enumerate(paths):
        report(n / len(paths), f"Looking at {path.name}")
        traits.append(traits_of(path, probe(path, need=("picture",))))
        seen.append(some_pictures(path, _MOMENTS_OUTSIDE))
    return group_takes(traits, all_alike(seen))
