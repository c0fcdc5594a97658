"""The line-up: keeping what alignment found, and settling takes by hand."""

import dataclasses
from typing import Any

from sqlalchemy import Connection

from zembi.core.errors import BadInput, Refused
from zembi.core.sync.align import FoundPass, TakeAlignment
from zembi.jobs.runner import JobRunner
from zembi.service.snapshot import look
from zembi.service.workspace import Project
from zembi.store import tables
from zembi.store.database import Change, rows_of

MOST_ANGLES = 9
#: Longest distance in seconds that a nudge or a hand lock may leave between the pass and the song's ends.
_SLACK_S = 0.5


def queue_alignment(project: Project, runner: JobRunner, media_id: str) -> int:
    """Queue aligning a take."""
    row = project.database.one(tables.media, id=media_id)
    return runner.add(project.database, "align", f"Lining up {row['name']}", {"media": media_id})


def found_to_dict(found: FoundPass) -> dict[str, Any]:
    """What is kept of a found pass to show and to revert to."""
    data = dataclasses.asdict(found)
    data["residuals"] = [[round(t, 3), r] for t, r in found.residuals]
    return data


def keep_alignment(project: Project, connection: Connection, media_id: str, result: TakeAlignment) -> None:
    """Store what alignment found; passes settled by hand stay as they are."""
    kept = [p for p in rows_of(connection, tables.pass_, {"media": media_id}) if p["origin"] == "by hand"]
    change = Change(connection)
    for row in rows_of(connection, tables.pass_, {"media": media_id}):
        if row["origin"] != "by hand":
            change.delete(tables.pass_, {"id": row["id"]})
    for found in result.passes:
        if any(p["take_start_s"] < found.take_end_s and found.take_start_s < p["take_end_s"] for p in kept):
            continue
        status = "locked" if found.locked else "choose"
        angle = _angle_for(connection, change, media_id) if status == "locked" else None
        change.insert(tables.pass_, {
            "media": media_id, "take_start_s": found.take_start_s, "take_end_s": found.take_end_s,
            "song_start_s": found.song_start_s, "rate": found.rate, "status": status,
            "confidence": found.confidence, "origin": "found", "found": found_to_dict(found), "angle": angle,
            "position": _next_position(connection),
        })  # fmt: skip
    values = {"media": media_id, "status": result.status, "confidence": result.confidence}
    change.replace_all(tables.lineup, {"media": media_id}, [values])
    _refresh_status(connection, change, media_id)


def _next_position(connection: Connection) -> int:
    return 1 + max((p["position"] for p in rows_of(connection, tables.pass_)), default=0)


def _angle_for(connection: Connection, change: Change, media_id: str) -> int | None:
    """The angle of a take's camera; made while there are fewer than nine."""
    takes = {
        m["id"]: m["tags"].get("camera", "") for m in rows_of(connection, tables.media, {"kind": "take"})
    }
    camera = takes.get(media_id, "") or "Camera"
    for p in rows_of(connection, tables.pass_):
        if p["angle"] is not None and takes.get(p["media"]) == camera:
            return int(p["angle"])
    angles = rows_of(connection, tables.angle)
    if len(angles) >= MOST_ANGLES:
        return None
    number = min(set(range(1, MOST_ANGLES + 1)) - {a["number"] for a in angles})
    return int(change.insert(tables.angle, {"number": number, "name": camera, "hue": number})["id"])


def _refresh_status(connection: Connection, change: Change, media_id: str) -> None:
    """A take is locked when all its passes are; it needs choosing while one is open."""
    passes = rows_of(connection, tables.pass_, {"media": media_id})
    rows = rows_of(connection, tables.lineup, {"media": media_id})
    status = rows[0]["status"] if rows else "unmatched"
    if passes:
        status = "locked" if all(p["status"] == "locked" for p in passes) else "choose"
    elif status in ("locked", "choose"):
        status = "unmatched"
    confidence = min((p["confidence"] for p in passes), default=rows[0]["confidence"] if rows else 0.0)
    values = {"media": media_id, "status": status, "confidence": confidence}
    change.replace_all(tables.lineup, {"media": media_id}, [values])


def _take_name(project: Project, media_id: str) -> str:
    return str(project.database.one(tables.media, id=media_id)["name"])


def _lock(project: Project, change: Change, row: Any, values: dict[str, Any]) -> None:
    snapshot = look(project, change.connection)
    start = values.get("song_start_s", row["song_start_s"])
    end = start + values.get("rate", row["rate"]) * (row["take_end_s"] - row["take_start_s"])
    if end < -_SLACK_S or start > snapshot.song_seconds + _SLACK_S:
        raise Refused("There the pass would lie outside the song.")
    angle = row["angle"] if row["angle"] is not None else _angle_for(change.connection, change, row["media"])
    change.update(tables.pass_, {"id": row["id"]}, {"status": "locked", "angle": angle, **values})
    _refresh_status(change.connection, change, row["media"])


def choose_place(project: Project, pass_id: int, song_start_s: float) -> None:
    """Settle a pass at one of the places that fit it."""
    row = project.database.one(tables.pass_, id=pass_id)
    with project.database.changing(f"Lock {_take_name(project, row['media'])} here") as change:
        _lock(project, change, row, {"song_start_s": song_start_s, "origin": "by hand", "confidence": 1.0})


def accept(project: Project, pass_id: int) -> None:
    """Lock a pass where it lies."""
    row = project.database.one(tables.pass_, id=pass_id)
    with project.database.changing(f"Lock {_take_name(project, row['media'])}") as change:
        _lock(project, change, row, {})


def nudge(project: Project, pass_id: int, seconds: float) -> None:
    """Move a pass against the song; every shot that shows it follows, no cut moves."""
    if abs(seconds) > 3600:
        raise BadInput("A nudge of more than an hour is not a nudge.")
    row = project.database.one(tables.pass_, id=pass_id)
    with project.database.changing(
        f"Nudge {_take_name(project, row['media'])} by {seconds * 1000:+.1f} ms"
    ) as change:
        change.update(
            tables.pass_,
            {"id": pass_id},
            {"song_start_s": row["song_start_s"] + seconds, "origin": "by hand"},
        )


def revert(project: Project, pass_id: int) -> None:
    """Put a pass back where the computation found it.

    Raises:
        Refused: it was made by hand and has no found place.
    """
    row = project.database.one(tables.pass_, id=pass_id)
    found = row["found"]
    if "song_start_s" not in found:
        raise Refused("This pass was made by hand; there is no found place to go back to.")
    settled = not found["rivals"] and found["confidence"] >= 0.9
    values = {k: found[k] for k in ("take_start_s", "take_end_s", "song_start_s", "rate", "confidence")}
    values |= {"origin": "found", "status": "locked" if settled else "choose"}
    with project.database.changing(f"Put {_take_name(project, row['media'])} back as found") as change:
        change.update(tables.pass_, {"id": pass_id}, values)
        _refresh_status(change.connection, change, row["media"])


def lock_by_hand(project: Project, media_id: str, pairs: list[tuple[float, float]]) -> int:
    """Lock a take by pairs of (take time, song time) of the same moment: one pair gives the offset, two the rate.

    A pass under the first pair's take time is moved; otherwise one is made over the whole take.

    Raises:
        BadInput: no pair, or two pairs that give an impossible rate.
    """
    if not pairs:
        raise BadInput("Mark the same beat in the song and in the take first.")
    row = project.database.one(tables.media, id=media_id)
    rate = 1.0
    if len(pairs) > 1:
        (t0, s0), (t1, s1) = min(pairs), max(pairs)
        if t1 - t0 < 0.5:
            raise BadInput(
                "The two moments are too close together to give a rate: mark one near each end of the take."
            )
        rate = (s1 - s0) / (t1 - t0)
        if not 0.25 <= rate <= 4:
            raise BadInput(f"These two moments give a rate of {rate:.3f}; one of them is on the wrong beat.")
    take_s, song_s = pairs[0]
    passes = project.database.all(tables.pass_, media=media_id)
    under = next((p for p in passes if p["take_start_s"] - 0.01 <= take_s <= p["take_end_s"] + 0.01), None)
    with project.database.changing(f"Lock {row['name']} by hand") as change:
        if under is not None:
            start = song_s + rate * (under["take_start_s"] - take_s)
            _lock(
                project,
                change,
                under,
                {"song_start_s": start, "rate": rate, "origin": "by hand", "confidence": 1.0},
            )
            return int(under["id"])
        seconds = float(row["facts"].get("duration_s", 0.0))
        song_length = look(project, change.connection).song_seconds
        first = max(0.0, take_s - song_s / rate)
        last = min(seconds, take_s + (song_length - song_s) / rate)
        if last - first < 0.04:
            raise Refused("There the take would lie outside the song.")
        made = change.insert(tables.pass_, {
            "media": media_id, "take_start_s": first, "take_end_s": last, "song_start_s": song_s + rate * (first - take_s),
            "rate": rate, "status": "locked", "confidence": 1.0, "origin": "by hand", "found": {},
            "angle": _angle_for(change.connection, change, media_id), "position": _next_position(change.connection),
        })  # fmt: skip
        _refresh_status(change.connection, change, media_id)
        return int(made["id"])


def unlock(project: Project, pass_id: int) -> None:
    """Open a pass again: it feeds no angle until it is locked."""
    row = project.database.one(tables.pass_, id=pass_id)
    with project.database.changing(f"Unlock {_take_name(project, row['media'])}") as change:
        change.update(tables.pass_, {"id": pass_id}, {"status": "choose"})
        _refresh_status(change.connection, change, row["media"])
