"""The line-up: keeping what alignment found, and settling takes by hand."""

import dataclasses
from datetime import datetime
from fractions import Fraction
from typing import Any

from sqlalchemy import Connection

from zembi.core.errors import BadInput, Refused
from zembi.core.interchange.lineup import PassRow
from zembi.core.sync.clock import Clocked, LockedRun, place_by_clock
from zembi.core.sync.found import FoundPass, TakeAlignment
from zembi.core.sync.refine import Line
from zembi.core.timebase import timecode_to_frame
from zembi.jobs.runner import JobRunner
from zembi.service.lineup.grouping import give_angles
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import About, KeptFeed, Lineup, Media, Pass, every


def queue_alignment(project: Project, runner: JobRunner, media_id: str) -> int:
    """Queue aligning a take."""
    row = project.database.one(Media, id=media_id)
    if row.kind != "take":
        raise Refused(f"{row.name} is no take; only takes are lined up.")
    return runner.add(project.database, "align", f"Lining up {row.name}", {"media": media_id})


def found_to_dict(found: FoundPass) -> dict[str, Any]:
    """Stored form of a found pass, to show and to revert to."""
    data = dataclasses.asdict(found)
    data["residuals"] = [[round(t, 3), r] for t, r in found.residuals]
    return data


@one_transaction
def keep_alignment(project: Project, media_id: str, song_id: str, result: TakeAlignment) -> None:
    """Store what alignment found; passes settled by hand stay as they are.

    A pass found again keeps its row, so that its angle and what is fed from it stay. Looking again is a step of
    undo; the first look at a take with a song is not, unless it changes passes of which the editor said something. What
    was found with another song than the present one is dropped: the take is looked at again with that.
    """
    if project.about.song != song_id:
        return
    rows = project.database.all(Lineup, media=media_id)
    takes = project.database.all(Media, id=media_id)
    if not takes:
        return
    passes = project.database.all(Pass, media=media_id)
    fed = {f.pass_id for f in project.database.all(KeptFeed)}
    told = any(p.verdict or p.note or p.id in fed for p in passes)
    if told or (rows and rows[0].song == song_id):
        with project.database.changing(f"Look again at {takes[0].name}") as change:
            _store(project, change, media_id, song_id, result)
    else:
        with project.database.writing() as connection:
            _store(project, Change(connection), media_id, song_id, result)


def _store(project: Project, change: Change, media_id: str, song_id: str, result: TakeAlignment) -> None:
    connection = change.connection
    rows = every(connection, Pass, media=media_id)
    kept = [p for p in rows if p.origin == "by hand"]
    left = {p.id: p for p in rows if p.origin != "by hand"}
    for found in result.passes:
        if any(_shared(p, found.take_start_s, found.take_end_s) > 0 for p in kept):
            continue
        status = "locked" if found.locked else "choose"
        values = {
            "take_start_s": found.take_start_s, "take_end_s": found.take_end_s, "song_start_s": found.song_start_s,
            "rate": found.rate, "status": status, "confidence": found.confidence, "origin": "found",
            "found": found_to_dict(found),
        }  # fmt: skip
        _put(change, media_id, values, left)
    for row in left.values():
        change.delete(tables.pass_, {"id": row.id})
    known = {"media": media_id, "status": result.status, "confidence": result.confidence, "song": song_id}
    change.replace_all(tables.lineup, {"media": media_id}, [known])
    give_angles(project, change)
    refresh_status(connection, change, media_id)
    propose_by_clock(connection, change)


def _shared(row: Pass, start_s: float, end_s: float) -> float:
    """Seconds that a kept pass has in common with a stretch of its take."""
    return float(min(row.take_end_s, end_s) - max(row.take_start_s, start_s))


def _most_shared(rows: dict[int, Pass], start_s: float, end_s: float) -> Pass | None:
    """The pass that has most of a stretch; None where none has any."""
    best = max(rows.values(), key=lambda p: _shared(p, start_s, end_s), default=None)
    return best if best is not None and _shared(best, start_s, end_s) > 0 else None


def _put(change: Change, media_id: str, values: dict[str, Any], left: dict[int, Pass]) -> None:
    """Store a pass in the row of the old one it overlaps most, which then is no longer left; else in a new one."""
    old = _most_shared(left, values["take_start_s"], values["take_end_s"])
    if old is not None:
        change.update(tables.pass_, {"id": old.id}, values)
        del left[old.id]
        return
    position = next_position(change.connection)
    change.insert(tables.pass_, {**values, "media": media_id, "angle": None, "position": position})


def _clocked(row: Media) -> Clocked:
    facts = row.facts
    rate = facts.rate or Fraction(25)
    try:
        timecode = float(timecode_to_frame(facts.timecode, rate) / rate) if facts.timecode else None
    except BadInput:
        timecode = None
    try:
        created = datetime.fromisoformat(facts.created).timestamp() if facts.created else None
    except ValueError:
        created = None
    return Clocked(row.name, facts.duration_s, timecode, created)


def propose_by_clock(connection: Connection, change: Change) -> None:
    """Offer takes without a place one beside a locked take that ran by the same clock; to be confirmed."""
    media = {m.id: m for m in every(connection, Media, kind="take")}
    passes = every(connection, Pass)
    placed = {p.media for p in passes}
    open_ = [
        r
        for r in every(connection, Lineup)
        if r.status in ("silent", "unmatched") and not r.declined and r.media not in placed
    ]
    runs = [
        LockedRun(
            _clocked(media[p.media]), p.take_start_s, p.take_end_s,
            Line(p.song_start_s - p.rate * p.take_start_s, p.rate),
        )
        for p in passes if p.status == "locked" and p.media in media
    ]  # fmt: skip
    for row in open_ if runs else []:
        for place in place_by_clock(_clocked(media[row.media]), runs):
            change.insert(tables.pass_, {
                "media": row.media, "take_start_s": place.start_s, "take_end_s": place.end_s,
                "song_start_s": place.line.song(place.start_s), "rate": place.line.rate, "status": "choose",
                "confidence": 0.0, "origin": "clock", "found": {"by": place.by, "beside": place.beside},
                "angle": None, "position": next_position(connection),
            })  # fmt: skip
        refresh_status(connection, change, row.media)


def next_position(connection: Connection) -> int:
    return 1 + max((p.position for p in every(connection, Pass)), default=0)


def refresh_status(connection: Connection, change: Change, media_id: str) -> None:
    """A take is locked when all its passes are; it needs choosing while one is open."""
    passes = every(connection, Pass, media=media_id)
    rows = every(connection, Lineup, media=media_id)
    status = rows[0].status if rows else "unmatched"
    if passes:
        status = "locked" if all(p.status == "locked" for p in passes) else "choose"
    elif status in ("locked", "choose"):
        (take,) = every(connection, Media, id=media_id)
        status = "unmatched" if take.facts.has_sound else "silent"
    confidence = min((p.confidence for p in passes), default=rows[0].confidence if rows else 0.0)
    declined = bool(rows and rows[0].declined)
    song = rows[0].song if rows else every(connection, About)[0].song or ""
    values = {
        "media": media_id, "status": status, "confidence": confidence, "declined": declined, "song": song,
    }  # fmt: skip
    change.replace_all(tables.lineup, {"media": media_id}, [values])


def replace_passes(
    project: Project, change: Change, media_id: str, rows: list[PassRow], before: dict[int, Pass]
) -> None:
    """Give a take the passes that a file names.

    A pass that lies about where an old one of the take lay keeps that one's angle, and its name for the feeds.
    """
    left = dict(before)
    for row in rows:
        values = {
            "take_start_s": row.take_start_s, "take_end_s": row.take_end_s, "song_start_s": row.song_start_s,
            "rate": row.rate, "status": row.status, "confidence": row.confidence, "origin": row.origin,
        }  # fmt: skip
        old = _most_shared(left, row.take_start_s, row.take_end_s)
        _put(change, media_id, {**values, "found": old.found if old else {}}, left)
    for old in left.values():
        change.delete(tables.pass_, {"id": old.id})
    give_angles(project, change)
    refresh_status(change.connection, change, media_id)
