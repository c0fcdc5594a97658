"""Marks: tapping, making them from hits and from the grid, tidying, thinning, and their sets. Times are song time."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from zembi.core.errors import BadInput, Refused
from zembi.core.interchange.limits import at_most
from zembi.core.song import marks as tidying
from zembi.core.song.grid import Grid, phrases
from zembi.core.song.hits import HIT_KINDS, HIT_NAMES, HitKind, strongest_of_each
from zembi.core.song.marks import THINNED
from zembi.core.song.spectrum import BANDS
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import Mark, MarkSet, every

#: What marks can be made on, besides hits: every so many beats, or the starts of bars and phrases.
EVERY = ("beat", "2 beats", "4 beats", "half", "bar", "phrase")
HUES = 6


@dataclass(frozen=True)
class Tidied:
    """A mark and the time it would move to."""

    id: int
    from_s: float
    to_s: float


@dataclass(frozen=True)
class Made:
    """A set that was made, and how many marks it holds."""

    id: int
    count: int


@one_transaction
def add_marks(
    project: Project, times_s: list[float], *, set_id: int | None = None, working: bool = False
) -> list[int]:
    """Tap marks: add them to a set (the first one, made if there is none).

    Args:
        project: The project.
        times_s: Song times, or working times where ``working``.
        set_id: The set they go to.
        working: The times are on the working song's clock.
    """
    snapshot = snapshot_of(project)
    times = [snapshot.map.to_song(t) for t in times_s] if working else times_s
    inside = [t for t in times if 0 <= t <= snapshot.song_seconds]
    if not inside:
        raise BadInput("A mark has to lie inside the song.")
    with project.database.changing(
        "Tap a mark" if len(inside) == 1 else f"Add {len(inside)} marks"
    ) as change:
        chosen = _set(project, change, set_id)
        return _add(change, chosen, inside)


def _add(change: Change, set_id: int, times_s: Sequence[float]) -> list[int]:
    rows = [{"set_id": set_id, "at_s": float(t), "name": "", "hue": -1} for t in times_s]
    at_most(len(rows) + len(every(change.connection, Mark)), "The project")
    return change.insert_all(tables.mark, rows)


def _set(project: Project, change: Change, set_id: int | None) -> int:
    sets = project.database.all(MarkSet)
    if set_id is not None:
        if all(s.id != set_id for s in sets):
            raise BadInput("There is no such set of marks any more.")
        return set_id
    if sets:
        return int(sets[0].id)
    return int(change.insert(tables.mark_set, {"name": "tapped", "shown": True, "hue": 0})["id"])


@one_transaction
def add_set(project: Project, name: str) -> int:
    """Make an empty set of marks."""
    cleaned = name.strip()
    if not cleaned:
        raise BadInput("Give the set of marks a name.")
    count = len(project.database.all(MarkSet))
    with project.database.changing(f"New marks “{cleaned}”") as change:
        return int(
            change.insert(tables.mark_set, {"name": cleaned, "shown": True, "hue": count % HUES})["id"]
        )


@one_transaction
def change_set(
    project: Project,
    set_id: int,
    *,
    name: str | None = None,
    shown: bool | None = None,
    hue: int | None = None,
) -> None:
    """Rename, show or hide, or colour a set."""
    row = project.database.one(MarkSet, id=set_id)
    values: dict[str, Any] = {}
    if name is not None:
        if not name.strip():
            raise BadInput("Give the set of marks a name.")
        values["name"] = name.strip()
    if shown is not None:
        values["shown"] = shown
    if hue is not None:
        values["hue"] = hue % HUES
    with project.database.changing(f"Change marks “{row.name}”") as change:
        change.update(tables.mark_set, {"id": set_id}, values)


@one_transaction
def delete_set(project: Project, set_id: int) -> None:
    """Delete a set and its marks."""
    row = project.database.one(MarkSet, id=set_id)
    with project.database.changing(f"Delete marks “{row.name}”") as change:
        change.delete_all(tables.mark, {"set_id": set_id})
        change.delete(tables.mark_set, {"id": set_id})


@one_transaction
def change_mark(
    project: Project,
    mark_id: int,
    *,
    song_s: float | None = None,
    name: str | None = None,
    hue: int | None = None,
) -> None:
    """Move, name or colour a mark."""
    values: dict[str, Any] = {}
    if song_s is not None:
        if not 0 <= song_s <= snapshot_of(project).song_seconds:
            raise BadInput("A mark has to lie inside the song.")
        values["at_s"] = song_s
    if name is not None:
        values["name"] = name.strip()
    if hue is not None:
        values["hue"] = max(-1, hue) if hue < HUES else hue % HUES
    what = "Move a mark" if song_s is not None else "Name a mark" if name is not None else "Colour a mark"
    with project.database.changing(what) as change:
        change.update(tables.mark, {"id": mark_id}, values)


@one_transaction
def delete_marks(project: Project, mark_ids: list[int]) -> None:
    """Delete marks."""
    with project.database.changing(
        "Delete a mark" if len(mark_ids) == 1 else f"Delete {len(mark_ids)} marks"
    ) as change:
        for mark_id in mark_ids:
            change.delete(tables.mark, {"id": mark_id})


def _chosen(project: Project, set_id: int | None) -> list[Mark]:
    rows = project.database.all(Mark) if set_id is None else project.database.all(Mark, set_id=set_id)
    if not rows:
        raise Refused("There are no marks to work on.")
    return sorted(rows, key=lambda r: (r.at_s, r.id))


def _grid(snapshot: Snapshot) -> Grid:
    snapshot.need_grid()
    assert snapshot.song_grid is not None
    return snapshot.song_grid


def _hits(snapshot: Snapshot, bands: Sequence[HitKind], sensitivity: float | None) -> list[float]:
    """Times of the hits of some kinds that are strong enough; by each kind's own sensitivity where none is given."""
    found = snapshot.hits
    unknown = set(bands) - set(found)
    if unknown:
        known = ", ".join(many for _one, many in HIT_NAMES.values())
        raise BadInput(f"“{unknown.pop()}” is no kind of hits; there are {known}.")
    least = {
        band: 1 - (snapshot.sensitivities[band] if sensitivity is None else sensitivity) for band in bands
    }
    return sorted(h.at_s for band in bands for h in found[band] if h.strength >= least[band])


@one_moment
def tidied(
    project: Project, to: str, reach_s: float, *, set_id: int | None = None, sensitivity: float | None = None
) -> list[Tidied]:
    """Moves by tidying marks: to the nearest beat, half-beat or hit within reach; only those that move."""
    snapshot = snapshot_of(project)
    if to in ("beat", "half"):
        targets = list(_grid(snapshot).points("beat" if to == "beat" else "half"))
    elif to == "hit":
        targets = _hits(snapshot, [kind for kind in HIT_KINDS if kind in snapshot.hits], sensitivity)
    else:
        raise BadInput(f"Marks can be tidied to beat, half or hit, not “{to}”.")
    rows = _chosen(project, set_id)
    moved = tidying.tidy([r.at_s for r in rows], targets, reach_s)
    return [Tidied(r.id, r.at_s, at) for r, at in zip(rows, moved, strict=True) if abs(r.at_s - at) > 1e-9]


@one_transaction
def tidy_marks(
    project: Project, to: str, reach_s: float, *, set_id: int | None = None, sensitivity: float | None = None
) -> list[Tidied]:
    """Do what :func:`tidied` shows; returns what moved."""
    moves = tidied(project, to, reach_s, set_id=set_id, sensitivity=sensitivity)
    seconds = snapshot_of(project).song_seconds
    with project.database.changing(f"Tidy {len(moves)} marks") as change:
        for m in moves:
            change.update(tables.mark, {"id": m.id}, {"at_s": min(max(m.to_s, 0.0), seconds)})
    return moves


@one_transaction
def marks_from_hits(
    project: Project, bands: Sequence[HitKind], sensitivity: float | None = None, *, name: str = ""
) -> Made:
    """Make a set of marks from the hits of some bands."""
    times = tidying.apart(_hits(snapshot_of(project), bands, sensitivity), 0.03)
    if not times:
        raise Refused("No hit is that strong: raise the sensitivity.")
    return _new_set(project, name or f"hits {', '.join(bands)}", times)


@one_transaction
def marks_on_accents(project: Project, bands: Sequence[HitKind], *, name: str = "") -> Made:
    """Make a set of marks on the strongest hit of each bar, of some kinds or of the attacks."""
    snapshot = snapshot_of(project)
    _hits(snapshot, bands, 1.0)
    found = [hit for band in bands or BANDS for hit in snapshot.hits.get(band, [])]
    times = [hit.at_s for hit in strongest_of_each(found, _grid(snapshot).bar_times)]
    if not times:
        raise Refused("No hit was heard in this song.")
    return _new_set(project, name or "accents", times)


@one_transaction
def marks_on_grid(project: Project, every: str, *, name: str = "") -> Made:
    """Make a set of marks on every beat, second or fourth beat, half-beat, bar or phrase."""
    snapshot = snapshot_of(project)
    grid = _grid(snapshot)
    if every == "phrase":
        whole = snapshot.whole
        times: Sequence[float] = [p.start_s for p in phrases(whole.section_spans, grid, whole.seconds)]
    elif every in ("2 beats", "4 beats"):
        step = int(every[0])
        times = [
            grid.beats[i]
            for k, first in enumerate(grid.bars)
            for i in range(first, grid.bars[k + 1] if k + 1 < len(grid.bars) else len(grid.beats), step)
        ]
    elif every in ("beat", "half", "bar"):
        times = grid.points(every)  # type: ignore[arg-type]
    else:
        raise BadInput(f"Marks can be made on every {', '.join(EVERY)}; “{every}” is none of them.")
    inside = [t for t in times if 0 <= t < snapshot.song_seconds]
    return _new_set(project, name or f"every {every}", inside)


def _new_set(project: Project, name: str, times: Sequence[float]) -> Made:
    count = len(project.database.all(MarkSet))
    with project.database.changing(f"Marks from {name}") as change:
        made = change.insert(tables.mark_set, {"name": name, "shown": True, "hue": count % HUES})
        _add(change, int(made["id"]), times)
    return Made(int(made["id"]), len(times))


@one_transaction
def thin_marks(project: Project, keep_every: int, *, set_id: int | None = None, first: int = 0) -> int:
    """Keep every n-th mark from the ``first`` on; returns how many were taken away."""
    if not THINNED[0] <= keep_every <= THINNED[1]:
        raise BadInput(f"Keeping every {keep_every}th mark is outside {THINNED[0]} to {THINNED[1]}.")
    rows = _chosen(project, set_id)
    gone = [r for i, r in enumerate(rows) if (i - first) % keep_every]
    with project.database.changing(f"Thin marks to every {keep_every}") as change:
        for r in gone:
            change.delete(tables.mark, {"id": r.id})
    return len(gone)


@one_transaction
def shift_marks(project: Project, seconds: float, *, set_id: int | None = None) -> int:
    """Move all marks of a set by the same time; those that would leave the song stop at its ends."""
    rows, length = _chosen(project, set_id), snapshot_of(project).song_seconds
    with project.database.changing(f"Shift {len(rows)} marks by {seconds * 1000:+.0f} ms") as change:
        for r in rows:
            change.update(tables.mark, {"id": r.id}, {"at_s": min(length, max(0.0, r.at_s + seconds))})
    return len(rows)
