"""Choosing the song, and what follows from it.

The rules when another song takes the place of one: every cut, mark, line of lyrics, section and correction keeps
its time. What lies beyond the end of a shorter song goes; under a longer one the last shot runs on. Takes are lined
up with the new song; passes placed by hand stay. Undo brings all of it back.
"""

import dataclasses
from typing import Any

from sqlalchemy import Connection

from zembi.core.edit.carry import fitted
from zembi.core.edit.lanes import new_edit
from zembi.core.errors import Refused
from zembi.core.song.corrections import Corrections, corrections_from_dict
from zembi.core.song.cutdown import song_map
from zembi.core.song.listen import FoundSection
from zembi.core.timebase import frames_for_length
from zembi.service.media.analyses import load_analysis
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import entities, tables
from zembi.store.database import Change
from zembi.store.edits import insert_edit, load_edit, save_edit
from zembi.store.entities import About, KeptCorrections, LeftOut, Lyric, Mark, Media, Version, every, single


def choose_song(project: Project, change: Change, media_id: str) -> None:
    """Make a file, whose facts are known, the project's song; what is there already is carried over."""
    seconds = single(change.connection, Media, id=media_id).seconds
    change.update(tables.project, {"id": 1}, {"song": media_id})
    _cut_off(change, seconds)
    _fit_edits(project, change)


def take_as_it_is(project: Project, media_id: str, values: dict[str, Any]) -> None:
    """Take the song's file as it is now, where another lies in its place: one step of undo, as choosing another song.

    Args:
        project: The project.
        media_id: The file's row.
        values: What is kept of the file as it is.
    """
    name = project.database.one(Media, id=media_id).name
    with project.database.changing(f"Take {name} as it is now") as change:
        change.update(tables.media, {"id": media_id}, values)
        if single(change.connection, About, id=1).song == media_id:
            choose_song(project, change, media_id)


def _cut_off(change: Change, seconds: float) -> None:
    """Take away what lies beyond a song's end."""
    connection = change.connection
    for part in every(connection, entities.Section):
        if part.start_s >= seconds:
            change.delete(tables.section, {"id": part.id})
    for mark in every(connection, Mark):
        if mark.at_s >= seconds:
            change.delete(tables.mark, {"id": mark.id})
    for r in every(connection, Lyric):
        if r.timed and r.at_s >= seconds:
            change.update(tables.lyric, {"id": r.id}, {"timed": False, "words": []})
    passages = every(connection, LeftOut)
    try:
        nothing_left = song_map([(p.start_s, p.end_s) for p in passages], seconds).seconds < 1.0
    except Refused:
        nothing_left = True
    for p in passages:
        if nothing_left or p.start_s >= seconds:
            change.delete(tables.left_out, {"id": p.id})
        elif p.end_s > seconds:
            change.update(tables.left_out, {"id": p.id}, {"end_s": seconds})
    now = corrections_from_dict(single(connection, KeptCorrections, id=1).data)
    kept = _corrections_within(now, seconds)
    if kept != now:
        change.update(tables.corrections, {"id": 1}, {"data": dataclasses.asdict(kept)})


def _corrections_within(now: Corrections, seconds: float) -> Corrections:
    beats = [b for b in now.read_beats if b < seconds + 10]
    return dataclasses.replace(
        now,
        pins=tuple(p for p in now.pins if max(p) < seconds),
        beats=tuple(b for b in now.beats if b[0] < seconds),
        metres=tuple(m for m in now.metres if m[0] < seconds),
        read_beats=tuple(beats) if len(beats) > 1 else (),
        read_bars=tuple(i for i in now.read_bars if i < len(beats)) if len(beats) > 1 else (),
    )


def _fit_edits(project: Project, change: Change) -> None:
    """Make every edit as long as the working song."""
    length = _length(project, change.connection)
    for row in every(change.connection, Version) if length else []:
        if row.length != length:
            edit = load_edit(change.connection, row.id)
            save_edit(change, row.id, fitted(edit, length), edit)


def _length(project: Project, connection: Connection) -> int:
    return snapshot_of(project, connection).length


@one_transaction
def begin(project: Project) -> None:
    """Once the song is listened to: its sections, where there are none, and an edit to cut in.

    Both follow from the song and are not in the journal: undoing leaves them, and they are made again whenever they are
    missing. What a person made is changed only as a step of undo.
    """
    with project.database.writing() as connection:
        snapshot = snapshot_of(project, connection)
        if snapshot.song is None or not snapshot.song.content:
            return
        found = load_analysis(project.derived(snapshot.song))
        if found is None:
            return
        change = Change(connection)
        if not snapshot.song_sections:
            for s in found.sections or [FoundSection(0.0, snapshot.song_seconds, "Song", 0, 0)]:
                change.insert(tables.section, {
                    "start_s": s.start_s, "name": s.label, "phrase_bars": 4, "repeat_group": s.group,
                })  # fmt: skip
        if snapshot.about.edit is None:
            _first_edit(change, frames_for_length(snapshot.seconds, snapshot.rate))
    with project.database.changing("Fit the edit to the song") as change:
        _fit_edits(project, change)


def _first_edit(change: Change, length: int) -> None:
    made = insert_edit(change, "Edit 1", new_edit(length))
    change.update(tables.project, {"id": 1}, {"edit": made})
