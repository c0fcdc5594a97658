"""Correcting the grid and the sections. Times are song time: of the whole song, whatever is left out."""

import dataclasses
import re
from collections.abc import Mapping
from dataclasses import dataclass
from inspect import signature
from typing import Any

from zembi.core.edit.carry import bring_cuts, cuts_on_grid, on_music
from zembi.core.errors import BadInput, Refused
from zembi.core.song import corrections as corrected
from zembi.core.song.corrections import Corrections, checked_metre
from zembi.core.song.grid import PHRASE_BARS, Grid
from zembi.service.project.snapshot import Snapshot, edit_of, edits_of, snapshot_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.edits import save_edit
from zembi.store.entities import Section


@dataclass(frozen=True)
class FollowInEdit:
    """Cuts of an edit that were on the grid before it moved: (frame, frame on the grid now)."""

    edit: int
    moves: list[list[int]]


@dataclass(frozen=True)
class Follow:
    """Cuts that were on the grid before it moved, edit by edit, and the farthest that one would go in frames."""

    edits: list[FollowInEdit]
    farthest: int


@one_transaction
def correct_grid(
    project: Project,
    action: str,
    *,
    song_s: float | None = None,
    to_s: float | None = None,
    metre: int | None = None,
    seconds: float | None = None,
    bpm: float | None = None,
    taps: list[float] | None = None,
) -> Follow:
    """Change the grid by one action; no cut moves.

    Args:
        project: The project.
        action: A key of the actions below.
        song_s: Song time of the beat or bar meant.
        to_s: Where it belongs, or where a range ends.
        metre: Beats in a bar.
        seconds: How far to move the whole grid.
        bpm: Tempo of a straight grid.
        taps: Song times tapped along with the beat.

    Returns:
        Cuts that the editor may want brought along.

    Raises:
        Refused: it cannot go further that way.
        BadInput: an unknown action or a missing value.
    """
    snapshot = snapshot_of(project)
    values = {"song_s": song_s, "to_s": to_s, "metre": metre, "seconds": seconds, "bpm": bpm, "taps": taps}
    given = {k: v for k, v in values.items() if v is not None}
    name, after = _corrected(snapshot, action, given)
    grid = dataclasses.replace(snapshot, corrections=after).need_grid()
    with project.database.changing(name, {"action": action, **given}) as written:
        written.update(tables.corrections, {"id": 1}, {"data": dataclasses.asdict(after)})
    if snapshot.about.edit is None or snapshot.grid is None:
        return Follow([], 0)
    found = {
        edit_id: cuts_on_grid(edit, snapshot.grid, grid, snapshot.rate)
        for edit_id, edit in edits_of(project).items()
    }
    moves = [m for of_one in found.values() for m in of_one]
    return Follow(
        [FollowInEdit(edit_id, [list(m) for m in of_one]) for edit_id, of_one in found.items() if of_one],
        max((abs(b - a) for a, b in moves), default=0),
    )


@dataclass(frozen=True)
class GridClick:
    """A beat as a click, in working time."""

    at_s: float
    down: bool


@one_moment
def clicks_of(project: Project, action: str, **values: Any) -> list[GridClick]:
    """Beats of the working song as they would be after a correction, which is not made; see :func:`correct_grid`."""
    snapshot = snapshot_of(project)
    _, after = _corrected(snapshot, action, {k: v for k, v in values.items() if v is not None})
    now = dataclasses.replace(snapshot, corrections=after)
    grid, end_s = now.need_grid(), float(now.length / now.rate)
    downs = set(grid.bars)
    return [GridClick(at, i in downs) for i, at in enumerate(grid.beats) if 0 <= at < end_s]


def _corrected(snapshot: Snapshot, action: str, given: dict[str, Any]) -> tuple[str, Corrections]:
    """Name of an action in the journal, and the corrections that it leads to."""
    if action not in ACTIONS:
        raise BadInput(f"“{action}” is not something to do to the grid.")
    name, change = ACTIONS[action]
    beside = _Beside(snapshot)
    try:
        signature(change).bind(beside, **given)
    except TypeError as fault:
        raise BadInput(f"To do “{action}” to the grid: {fault}.") from None
    return name.format(**given), change(beside, **given)


class _Beside:
    """The corrections as they are, and the grid of the whole song they gave."""

    def __init__(self, snapshot: Snapshot) -> None:
        self.now = snapshot.corrections
        self.found = snapshot.analysis
        self.seconds = snapshot.song_seconds
        self._snapshot = snapshot

    @property
    def grid(self) -> Grid:
        self._snapshot.need_grid()
        assert self._snapshot.song_grid is not None
        return self._snapshot.song_grid

    def beat(self, song_s: float) -> float:
        """The beat nearest to a time."""
        return self.grid.nearest(song_s, "beat")


def _one(b: _Beside, song_s: float) -> Corrections:
    return dataclasses.replace(b.now, one_s=b.beat(song_s))


def _metre(b: _Beside, metre: int) -> Corrections:
    return dataclasses.replace(b.now, metre=checked_metre(metre), metres=())


def _metre_range(b: _Beside, song_s: float, to_s: float, metre: int) -> Corrections:
    start, end = b.beat(min(song_s, to_s)), b.beat(max(song_s, to_s))
    if end - start < 1e-3:
        raise BadInput("The range holds no beat: choose a longer one.")
    kept = [m for m in b.now.metres if m[1] <= start + 1e-3 or m[0] >= end - 1e-3]
    return dataclasses.replace(b.now, metres=(*kept, (start, end, checked_metre(metre))))


def _unpin(b: _Beside, song_s: float) -> Corrections:
    if not b.now.pins:
        raise Refused("There is no pin to take off.")
    nearest = min(b.now.pins, key=lambda p: abs(p[1] - song_s))
    return dataclasses.replace(b.now, pins=tuple(p for p in b.now.pins if p != nearest))


def _beats(b: _Beside, song_s: float, more: int) -> Corrections:
    start, end, count = b.grid.bar_of(song_s)
    if count + more < 1:
        raise Refused("This bar has only one beat left.")
    kept = [x for x in b.now.beats if not start - 1e-3 <= x[0] < end - 1e-3]
    before = sum(x[1] for x in b.now.beats if start - 1e-3 <= x[0] < end - 1e-3)
    changed = ((start + min(0.05, (end - start) / 8), before + more),) if before + more else ()
    return dataclasses.replace(b.now, beats=(*kept, *changed))


def _pin(b: _Beside, song_s: float, to_s: float) -> Corrections:
    """The nearest beat brought to another time; in a passage in doubt, without moving any beat outside it."""
    beat, now = b.beat(song_s), b.now
    for doubtful in b.found.doubtful if b.found else ():
        start, end = b.beat(doubtful.start_s), b.beat(doubtful.end_s)
        if start + 1e-3 < beat < end - 1e-3:
            now = corrected.hold(now, start, end, b.seconds)
    return corrected.pin(now, beat, to_s, b.seconds)


def _mend(b: _Beside, song_s: float, to_s: float, taps: list[float]) -> Corrections:
    start, end = b.beat(min(song_s, to_s)), b.beat(max(song_s, to_s))
    outside = [t for t in taps if not start - 0.5 <= t <= end + 0.5]
    if outside:
        raise BadInput("Tap inside the passage: some of the taps lie outside it.")
    return corrected.mend_passage(b.now, start, end, taps, b.seconds)


def _unmend(b: _Beside, song_s: float) -> Corrections:
    if not b.now.passages:
        raise Refused("No passage was tapped.")
    nearest = min(b.now.passages, key=lambda p: max(p[0] - song_s, song_s - p[1]))
    return dataclasses.replace(b.now, passages=tuple(p for p in b.now.passages if p != nearest))


def _tempo(b: _Beside, bpm: float, song_s: float) -> Corrections:
    if not b.found or len(b.found.beats) < 2:
        return corrected.set_tempo(b.now, bpm, song_s)
    return corrected.set_tempo(b.now, bpm, b.grid.nearest(song_s, "bar"))


def _tapped(b: _Beside, taps: list[float]) -> Corrections:
    """The found grid counted otherwise where the taps fit it so, else a straight one through the taps."""
    bpm, beat = corrected.tempo_from_taps(taps)
    found = b.found
    for factor in (1.0, 0.5, 2.0, 3.0, 1 / 3, 0.25, 4.0):
        if found and len(found.beats) > 1 and abs(found.tempo_bpm * factor / bpm - 1) < 0.04:
            plain = Corrections(factor=factor, metre=b.now.metre)
            grid = corrected.build_grid(found.beats, found.downbeats, found.metre, found.duration_s, plain)
            off = abs(grid.nearest(beat, "beat") - beat)
            return dataclasses.replace(plain, half_shift=off > 0.3 * 60 / bpm)
    return corrected.set_tempo(b.now, bpm, beat)


#: What the editor can do to the grid: its name in the journal, and the change.
ACTIONS: dict[str, tuple[str, Any]] = {
    "halve": ("Count half as fast", lambda b: corrected.halve(b.now)),
    "double": ("Count twice as fast", lambda b: corrected.double(b.now)),
    "half beat": (
        "Shift the beat by half",
        lambda b: dataclasses.replace(b.now, half_shift=not b.now.half_shift),
    ),
    "the one": ("Set the one", _one),
    "metre": ("Count in {metre}", _metre),
    "metre range": ("Count some bars in {metre}", _metre_range),
    "nudge": (
        "Nudge the grid",
        lambda b, seconds: dataclasses.replace(b.now, nudge_s=b.now.nudge_s + seconds),
    ),
    "tempo": ("Set the tempo to {bpm:.2f}", _tempo),
    "tap": ("Tap the tempo", _tapped),
    "pin": ("Pin a beat", _pin),
    "mend": ("Tap a passage", _mend),
    "take off passage": ("Take off a tapped passage", _unmend),
    "take off pin": ("Take off a pin", _unpin),
    "more beats": ("Insert a beat in a bar", lambda b, song_s: _beats(b, song_s, 1)),
    "fewer beats": ("Remove a beat from a bar", lambda b, song_s: _beats(b, song_s, -1)),
    "as found": ("Grid as found", lambda _b: Corrections()),
}


@one_transaction
def bring_along(project: Project, moves: Mapping[int, list[tuple[int, int]]]) -> None:
    """Move cuts of edits that were on the grid to where it is now, as :func:`correct_grid` offered; one step of undo.

    Raises:
        Refused: an edit has changed since.
    """
    count = sum(len(m) for m in moves.values())
    said = {"moves": {str(k): v for k, v in moves.items()}}
    with project.database.changing(f"Bring {count} cuts along", said) as change:
        rate = project.rate
        for edit_id, of_one in moves.items():
            edit = edit_of(project, edit_id)
            if {a for a, _ in of_one} - on_music(edit):
                raise Refused("The edit has changed since; correct the grid again to bring cuts along.")
            save_edit(change, edit_id, bring_cuts(edit, of_one, rate), edit)


@one_transaction
def change_section(
    project: Project,
    section_id: int,
    *,
    name: str | None = None,
    start_s: float | None = None,
    snap: bool = True,
    phrase_bars: int | None = None,
) -> None:
    """Rename a section, move its border and set its phrases, as one step of undo: all of it or nothing."""
    with project.database.changing():
        if name is not None:
            rename_section(project, section_id, name)
        if start_s is not None:
            move_section(project, section_id, start_s, snap=snap)
        if phrase_bars is not None:
            set_phrase_bars(project, section_id, phrase_bars)


@one_transaction
def rename_section(project: Project, section_id: int, name: str) -> None:
    """Give a section another name."""
    cleaned = name.strip()
    if not cleaned:
        raise BadInput("Give the section a name.")
    row = project.database.one(Section, id=section_id)
    with project.database.changing(f"Rename {row.name}") as change:
        change.update(tables.section, {"id": section_id}, {"name": cleaned})


@one_transaction
def copy_name(project: Project, section_id: int) -> int:
    """Give a section's name to all its repeats, numbered in order; returns how many were renamed.

    "Chorus 2" names them "Chorus 1", "Chorus 2" and so on.

    Raises:
        Refused: nothing repeats it.
    """
    ordered = sorted(project.database.all(Section), key=lambda r: r.start_s)
    row = next((r for r in ordered if r.id == section_id), None)
    if row is None:
        raise BadInput("There is no such section any more.")
    repeats = [r for r in ordered if r.repeat_group == row.repeat_group]
    if len(repeats) < 2:
        raise Refused(f"Nothing repeats “{row.name}”.")
    stem = re.sub(r"\s*\d+$", "", row.name)
    with project.database.changing(f"Name the repeats of {stem}") as change:
        for number, r in enumerate(repeats, 1):
            change.update(
                tables.section,
                {"id": r.id},
                {"name": f"{stem} {number}", "phrase_bars": row.phrase_bars},
            )
    return len(repeats)


def _bar_line(snapshot: Snapshot, song_s: float) -> float:
    snapshot.need_grid()
    assert snapshot.song_grid is not None
    return snapshot.song_grid.nearest(song_s, "bar")


@one_transaction
def move_section(project: Project, section_id: int, start_s: float, *, snap: bool = True) -> None:
    """Move a section's border, to the nearest bar line unless ``snap`` is off.

    Raises:
        Refused: it would pass its neighbour, or it is the first.
    """
    snapshot = snapshot_of(project)
    ordered = sorted(snapshot.song_sections, key=lambda r: r.start_s)
    index = next((i for i, r in enumerate(ordered) if r.id == section_id), None)
    if index is None:
        raise BadInput("There is no such section any more.")
    if index == 0:
        raise Refused("The first section starts with the song.")
    at = _bar_line(snapshot, start_s) if snap else start_s
    after = ordered[index + 1].start_s if index + 1 < len(ordered) else snapshot.song_seconds
    if not ordered[index - 1].start_s + 0.1 < at < after - 0.1:
        raise Refused(f"“{ordered[index].name}” has to start between its neighbours.")
    with project.database.changing(f"Move the border of {ordered[index].name}") as change:
        change.update(tables.section, {"id": section_id}, {"start_s": at})


@one_transaction
def split_section(project: Project, song_s: float) -> None:
    """Start a new section at the bar line nearest to a song time.

    Raises:
        Refused: a section starts there already.
    """
    snapshot = snapshot_of(project)
    at = _bar_line(snapshot, song_s)
    if any(abs(r.start_s - at) < 0.1 for r in snapshot.song_sections):
        raise Refused("A section starts at this bar already.")
    before = max((r for r in snapshot.song_sections if r.start_s < at), key=lambda r: r.start_s, default=None)
    values = {
        "start_s": at, "name": f"{before.name} b" if before else "Section",
        "phrase_bars": before.phrase_bars if before else 4,
        "repeat_group": 1 + max((r.repeat_group for r in snapshot.song_sections), default=-1),
    }  # fmt: skip
    with project.database.changing("Split a section") as change:
        change.insert(tables.section, values)


@one_transaction
def join_section(project: Project, section_id: int) -> None:
    """Join a section to the one before it.

    Raises:
        Refused: it is the first.
    """
    ordered = sorted(project.database.all(Section), key=lambda r: r.start_s)
    if ordered and ordered[0].id == section_id:
        raise Refused("The first section has none before it.")
    row = project.database.one(Section, id=section_id)
    with project.database.changing(f"Join {row.name} to the section before") as change:
        change.delete(tables.section, {"id": section_id})


@one_transaction
def set_phrase_bars(project: Project, section_id: int, bars: int) -> None:
    """Set how many bars make a phrase (a row of the sheet) in a section."""
    if not PHRASE_BARS[0] <= bars <= PHRASE_BARS[1]:
        raise BadInput(f"A phrase of {bars} bars is outside {PHRASE_BARS[0]} to {PHRASE_BARS[1]}.")
    row = project.database.one(Section, id=section_id)
    with project.database.changing(f"Phrases of {bars} bars in {row.name}") as change:
        change.update(tables.section, {"id": section_id}, {"phrase_bars": bars})
