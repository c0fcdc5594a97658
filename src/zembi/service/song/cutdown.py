"""The cutdown and the song's level in the film: leaving passages out, bringing them back, gain and fades."""

import dataclasses
from typing import Any

from zembi.core.edit.carry import through_cutdown
from zembi.core.errors import BadInput, Refused
from zembi.core.song.cutdown import LEAST_S, MOST_GAIN_DB, SHAPES, SongLevel, SongMap, merged, song_map
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.edits import load_edit, save_edit
from zembi.store.entities import LeftOut, Version, every


def _beat(snapshot: Snapshot, at_s: float) -> float:
    """The beat nearest to a time; the song's own ends where those are nearer."""
    snapshot.need_grid()
    assert snapshot.song_grid is not None
    at = snapshot.song_grid.nearest(at_s, "beat")
    ends = (0.0, snapshot.song_seconds)
    near = min((at, *ends), key=lambda t: abs(t - at_s))
    return min(max(near, 0.0), snapshot.song_seconds)


def _change(
    project: Project, name: str, left_out: list[tuple[float, float]], arguments: dict[str, Any]
) -> None:
    """Set what is left out; every edit follows, so that each shot stays with its part of the song."""
    with project.database.changing(name, arguments) as change:
        before = snapshot_of(project, change.connection)
        after = song_map(left_out, before.song_seconds)
        for row in before.left_out:
            change.delete(tables.left_out, {"id": row.id})
        for a, b in merged(left_out):
            change.insert(tables.left_out, {"start_s": a, "end_s": b})
        for version in every(change.connection, Version):
            _follow(change, before, version.id, after)


def _follow(change: Change, before: Snapshot, edit_id: int, after: SongMap) -> None:
    edit = load_edit(change.connection, edit_id)
    save_edit(change, edit_id, through_cutdown(edit, before.map, after, before.grid, before.rate), edit)


@one_transaction
def leave_out(project: Project, start_s: float, end_s: float) -> None:
    """Leave a passage of the song out, from beat to beat; shots, marks, lyrics and sections follow.

    Raises:
        Refused: nothing of the song would be left.
        BadInput: the passage is too short.
    """
    snapshot = snapshot_of(project)
    start, end = _beat(snapshot, min(start_s, end_s)), _beat(snapshot, max(start_s, end_s))
    if end - start < LEAST_S:
        raise BadInput("The passage is too short to leave out: choose at least a beat.")
    now = [(r.start_s, r.end_s) for r in snapshot.left_out]
    _change(project, "Leave a passage out", [*now, (start, end)], {"start_s": start, "end_s": end})


@one_transaction
def keep_only(project: Project, start_s: float, end_s: float) -> None:
    """Use only a passage of the song, from beat to beat.

    Raises:
        BadInput: the passage is too short.
    """
    snapshot = snapshot_of(project)
    start, end = _beat(snapshot, min(start_s, end_s)), _beat(snapshot, max(start_s, end_s))
    if end - start < 1.0:
        raise BadInput("The passage is too short to be a song: choose at least a second.")
    now = [(r.start_s, r.end_s) for r in snapshot.left_out]
    rest = [(0.0, start), (end, snapshot.song_seconds)]
    _change(
        project,
        "Use part of the song",
        [*now, *((a, b) for a, b in rest if b > a)],
        {"start_s": start, "end_s": end},
    )


def _row(snapshot: Snapshot, passage_id: int) -> LeftOut:
    row = next((r for r in snapshot.left_out if r.id == passage_id), None)
    if row is None:
        raise Refused("This passage is not left out any more.")
    return row


@one_transaction
def bring_back(project: Project, passage_id: int) -> None:
    """Bring a passage back; the shot before it runs on through it."""
    snapshot = snapshot_of(project)
    row = _row(snapshot, passage_id)
    rest = [(r.start_s, r.end_s) for r in snapshot.left_out if r is not row]
    _change(project, "Bring a passage back", rest, {"start_s": row.start_s, "end_s": row.end_s})


@one_transaction
def move_passage(project: Project, passage_id: int, start_s: float, end_s: float) -> None:
    """Change where a passage that is left out starts and ends, to the nearest beats.

    Raises:
        BadInput: nothing would be left out.
    """
    snapshot = snapshot_of(project)
    row = _row(snapshot, passage_id)
    start, end = _beat(snapshot, start_s), _beat(snapshot, end_s)
    if end - start < LEAST_S:
        raise BadInput("The passage would be empty: bring it back instead.")
    rest = [(r.start_s, r.end_s) for r in snapshot.left_out if r is not row]
    _change(project, "Move a join", [*rest, (start, end)], {"start_s": start, "end_s": end})


@one_transaction
def set_level(project: Project, **values: Any) -> SongLevel:
    """Set the song's gain in the film and its fades; what is not given stays.

    Raises:
        BadInput: out of range.
    """
    snapshot = snapshot_of(project)
    level = dataclasses.replace(snapshot.level, **values)
    if abs(level.gain_db) > MOST_GAIN_DB:
        raise BadInput(f"A gain of {level.gain_db:g} dB is outside ±{MOST_GAIN_DB:g} dB.")
    if min(level.fade_in_s, level.fade_out_s) < 0 or level.fade_in_s + level.fade_out_s > snapshot.seconds:
        raise BadInput("The fades are longer than the song.")
    if level.shape not in SHAPES:
        raise BadInput(f"A fade is {', '.join(SHAPES)}; “{level.shape}” is none of them.")
    with project.database.changing(
        "Change the song's level in the film", dataclasses.asdict(level)
    ) as change:
        change.update(tables.project, {"id": 1}, {"level": dataclasses.asdict(level)})
    return level
