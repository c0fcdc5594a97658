"""Settling takes by hand: choosing, nudging, locking by pairs, splitting and joining, several at once."""

from typing import Any

from zembi.core.errors import BadInput, NotFound, Refused
from zembi.core.sync.confidence import LOCK_AT
from zembi.jobs.runner import JobRunner
from zembi.service.lineup.grouping import give_angles
from zembi.service.lineup.placing import next_position, propose_by_clock, queue_alignment, refresh_status
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import KeptFeed, Lineup, Media, Pass, every

#: Shortest pass that moving a joint may leave, in seconds.
LEAST_S = 1.0
#: Longest distance in seconds that a nudge or a hand lock may leave between the pass and the song's ends.
_SLACK_S = 0.5


def _take_name(project: Project, media_id: str) -> str:
    return project.database.one(Media, id=media_id).name


def _lock(project: Project, change: Change, row: Pass, values: dict[str, Any]) -> None:
    snapshot = snapshot_of(project, change.connection)
    start = values.get("song_start_s", row.song_start_s)
    end = start + values.get("rate", row.rate) * (row.take_end_s - row.take_start_s)
    if end < -_SLACK_S or start > snapshot.song_seconds + _SLACK_S:
        raise Refused("There the pass would lie outside the song.")
    if row.origin == "clock":
        values = {"origin": "by hand", "confidence": 1.0, **values}
    change.update(tables.pass_, {"id": row.id}, {"status": "locked", **values})
    give_angles(project, change)
    refresh_status(change.connection, change, row.media)
    propose_by_clock(change.connection, change)


@one_transaction
def choose_place(project: Project, pass_id: int, song_start_s: float) -> None:
    """Settle a pass at one of the places that fit it."""
    row = project.database.one(Pass, id=pass_id)
    with project.database.changing(f"Lock {_take_name(project, row.media)} here") as change:
        _lock(project, change, row, {"song_start_s": song_start_s, "origin": "by hand", "confidence": 1.0})


@one_transaction
def accept(project: Project, pass_id: int) -> None:
    """Lock a pass where it lies."""
    row = project.database.one(Pass, id=pass_id)
    with project.database.changing(f"Lock {_take_name(project, row.media)}") as change:
        _lock(project, change, row, {})


@one_transaction
def nudge(project: Project, pass_id: int, seconds: float) -> None:
    """Move a pass against the song; every shot that shows it follows, no cut moves."""
    if abs(seconds) > 3600:
        raise BadInput("A nudge of more than an hour is not a nudge.")
    row = project.database.one(Pass, id=pass_id)
    with project.database.changing(
        f"Nudge {_take_name(project, row.media)} by {seconds * 1000:+.1f} ms"
    ) as change:
        change.update(
            tables.pass_,
            {"id": pass_id},
            {"song_start_s": row.song_start_s + seconds, "origin": "by hand"},
        )


@one_transaction
def revert(project: Project, pass_id: int) -> None:
    """Put a pass back where the computation found it.

    Raises:
        Refused: it was made by hand and has no found place.
    """
    row = project.database.one(Pass, id=pass_id)
    found = row.found
    if "song_start_s" not in found:
        raise Refused("This pass was made by hand; there is no found place to go back to.")
    settled = not found["rivals"] and found["confidence"] >= LOCK_AT
    values = {k: found[k] for k in ("take_start_s", "take_end_s", "song_start_s", "rate", "confidence")}
    values |= {"origin": "found", "status": "locked" if settled else "choose"}
    with project.database.changing(f"Put {_take_name(project, row.media)} back as found") as change:
        change.update(tables.pass_, {"id": pass_id}, values)
        refresh_status(change.connection, change, row.media)


@one_transaction
def lock_by_hand(project: Project, media_id: str, pairs: list[tuple[float, float]]) -> int:
    """Lock a take by pairs of (take time, song time) of the same moment: one pair gives the offset, two the rate.

    A pass under the first pair's take time is moved; otherwise one is made over the whole take.

    Raises:
        BadInput: no pair, or two pairs that give an impossible rate.
    """
    if not pairs:
        raise BadInput("Mark the same beat in the song and in the take first.")
    row = project.database.one(Media, id=media_id)
    if row.kind != "take":
        raise Refused(f"{row.name} is no take; only takes have a place in the song.")
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
    passes = project.database.all(Pass, media=media_id)
    under = next((p for p in passes if p.take_start_s - 0.01 <= take_s <= p.take_end_s + 0.01), None)
    with project.database.changing(f"Lock {row.name} by hand") as change:
        if under is not None:
            start = song_s + rate * (under.take_start_s - take_s)
            _lock(
                project,
                change,
                under,
                {"song_start_s": start, "rate": rate, "origin": "by hand", "confidence": 1.0},
            )
            return int(under.id)
        seconds = row.seconds
        song_length = snapshot_of(project, change.connection).song_seconds
        first = max(0.0, take_s - song_s / rate)
        last = min(seconds, take_s + (song_length - song_s) / rate)
        if last - first < 0.04:
            raise Refused("There the take would lie outside the song.")
        made = change.insert(tables.pass_, {
            "media": media_id, "take_start_s": first, "take_end_s": last, "song_start_s": song_s + rate * (first - take_s),
            "rate": rate, "status": "locked", "confidence": 1.0, "origin": "by hand", "found": {},
            "angle": None, "position": next_position(change.connection),
        })  # fmt: skip
        give_angles(project, change)
        refresh_status(change.connection, change, media_id)
        return int(made["id"])


@one_transaction
def unlock(project: Project, pass_id: int) -> None:
    """Open a pass again: it feeds no angle until it is locked."""
    row = project.database.one(Pass, id=pass_id)
    with project.database.changing(f"Unlock {_take_name(project, row.media)}") as change:
        change.update(tables.pass_, {"id": pass_id}, {"status": "choose"})
        refresh_status(change.connection, change, row.media)


@one_transaction
def split(project: Project, pass_id: int, take_s: float) -> None:
    """Cut a pass in two at a take time; both keep its line, and each can then be moved on its own.

    Raises:
        BadInput: less than half a second from an end.
    """
    row = project.database.one(Pass, id=pass_id)
    if not row.take_start_s + 0.5 <= take_s <= row.take_end_s - 0.5:
        raise BadInput(
            "Put the playhead inside the pass, half a second or more from its ends, and split there."
        )
    with project.database.changing(f"Split a pass of {_take_name(project, row.media)}") as change:
        change.update(tables.pass_, {"id": pass_id}, {"take_end_s": take_s})
        second = {k: v for k, v in vars(row).items() if k != "id"}
        start = row.song_start_s + row.rate * (take_s - row.take_start_s)
        second |= {
            "take_start_s": take_s,
            "song_start_s": start,
            "position": next_position(change.connection),
        }
        found = dict(row.found)
        if "song_start_s" in found:
            at = found["song_start_s"] + found["rate"] * (take_s - found["take_start_s"])
            second["found"] = {**found, "take_start_s": take_s, "song_start_s": at, "rivals": []}
            change.update(tables.pass_, {"id": pass_id}, {"found": {**found, "take_end_s": take_s}})
        change.insert(tables.pass_, second)


@one_transaction
def join(project: Project, pass_id: int) -> None:
    """Make one of a pass and the next of its take: the next takes this one's line.

    Raises:
        Refused: there is no next pass, or it lies somewhere else in the song.
    """
    row = project.database.one(Pass, id=pass_id)
    following = _following(project, row)
    told = row.song_start_s + row.rate * (following.take_start_s - row.take_start_s)
    apart = following.song_start_s - told
    if abs(apart) > 1.0:
        raise Refused(
            f"The next pass lies {apart:+.1f} s away from where this one would run on: playback was restarted "
            "between them. Move it first, if it is one run."
        )
    with project.database.changing(f"Join passes of {_take_name(project, row.media)}") as change:
        change.delete(tables.pass_, {"id": following.id})
        found = dict(row.found)
        if "take_end_s" in found:
            found["take_end_s"] = following.found.get("take_end_s", following.take_end_s)
        change.update(tables.pass_, {"id": pass_id}, {"take_end_s": following.take_end_s, "found": found})
        for feed in every(change.connection, KeptFeed, pass_id=following.id):
            change.update(tables.feed, {"id": feed.id}, {"pass_id": pass_id})
        refresh_status(change.connection, change, row.media)


def _following(project: Project, row: Pass) -> Pass:
    later = sorted(
        (p for p in project.database.all(Pass, media=row.media) if p.take_start_s > row.take_start_s),
        key=lambda p: p.take_start_s,
    )  # fmt: skip
    if not later:
        raise Refused("No pass follows this one in the take.")
    return later[0]


@one_transaction
def move_joint(project: Project, pass_id: int, take_s: float) -> None:
    """Move the joint of a pass with the next one of its take; both stay on their lines, one gets what the other loses.

    Raises:
        Refused: there is no next pass, or one of the two would be left with less than a second.
    """
    row = project.database.one(Pass, id=pass_id)
    following = _following(project, row)
    if not row.take_start_s + LEAST_S <= take_s <= following.take_end_s - LEAST_S:
        raise Refused("There one of the two passes would be left with less than a second.")
    begins = following.song_start_s + following.rate * (take_s - following.take_start_s)
    found = dict(following.found)
    if "song_start_s" in found:
        at = found["song_start_s"] + found["rate"] * (take_s - found["take_start_s"])
        found |= {"take_start_s": take_s, "song_start_s": at}
    values = {"take_start_s": take_s, "song_start_s": begins, "found": found}
    with project.database.changing(f"Move a joint of {_take_name(project, row.media)}") as change:
        change.update(tables.pass_, {"id": pass_id}, {"take_end_s": take_s})
        change.update(tables.pass_, {"id": following.id}, values)


@one_transaction
def place_exactly(project: Project, pass_id: int, song_start_s: float) -> None:
    """Put a pass's head at a typed song time."""
    row = project.database.one(Pass, id=pass_id)
    with project.database.changing(f"Place {_take_name(project, row.media)}") as change:
        _lock(project, change, row, {"song_start_s": song_start_s, "origin": "by hand"})


@one_transaction
def batch(project: Project, runner: JobRunner, action: str, media_ids: list[str]) -> str:
    """Do one thing to several takes, as one step of undo; returns what was done, in words.

    Args:
        project: The project.
        runner: Where alignments are queued.
        action: "accept" locks every pass that fits one place only, "unlock" opens all, "clear" removes all passes,
            "redo" looks again for what is not placed by hand.
        media_ids: The takes.

    Raises:
        BadInput: no take, or another action.
    """
    if not media_ids:
        raise BadInput("Choose takes first.")
    unknown = set(media_ids) - {m.id for m in project.database.all(Media, kind="take")}
    if unknown:
        raise NotFound(f"{len(unknown)} of these takes are not in the project any more.")
    media_ids = list(dict.fromkeys(media_ids))
    if action == "redo":
        for media_id in media_ids:
            queue_alignment(project, runner, media_id)
        return f"{len(media_ids)} takes are looked at again"
    words = {"accept": "Lock", "unlock": "Unlock", "clear": "Clear"}
    if action not in words:
        raise BadInput(f"“{action}” is not something to do with takes.")
    done = left = 0
    with project.database.changing(f"{words[action]} {len(media_ids)} takes") as change:
        for media_id in media_ids:
            for row in every(change.connection, Pass, media=media_id):
                if action == "clear":
                    change.delete(tables.pass_, {"id": row.id})
                elif action == "unlock" and row.status == "locked":
                    change.update(tables.pass_, {"id": row.id}, {"status": "choose"})
                elif action == "accept" and row.status == "choose":
                    if len(row.found.get("rivals", [])) > 1:
                        left += 1
                        continue
                    _lock(project, change, row, {})
                else:
                    continue
                done += 1
            if action == "clear":
                rows = every(change.connection, Lineup, media=media_id)
                for kept in rows:
                    change.update(tables.lineup, {"media": kept.media}, {"declined": True})
            refresh_status(change.connection, change, media_id)
    doing = {"accept": "locked", "unlock": "unlocked", "clear": "cleared"}[action]
    rest = f"; {left} fit several places and wait for your choice" if left else ""
    return f"{done} pass{'es' if done != 1 else ''} {doing}{rest}"
