"""Moving things on the lanes of an edit: one function, edit in, edit out, or a refusal in plain words.

What is not meant stays: parts are replaced field by field, never built anew.
"""

import itertools
from dataclasses import replace
from fractions import Fraction
from typing import TypeVar

from zembi.core.edit.model import AngleSource, ClipSource, Cutaway, Edit, Shot, Source, checked
from zembi.core.errors import Refused
from zembi.core.timebase import frame_to_seconds
from zembi.core.timemap import Piece, playback
from zembi.core.treatments.model import Dip, Dissolve, Treatment

Lane = TypeVar("Lane", Shot, Cutaway)


def _in_song(edit: Edit, frame: int) -> None:
    if not 0 <= frame < edit.length:
        raise Refused(f"Frame {frame} lies outside the song (0 to {edit.length - 1}).")


def _shot(edit: Edit, index: int) -> Shot:
    if not 0 <= index < len(edit.shots):
        raise Refused(f"There is no shot {index + 1}; the edit has {len(edit.shots)}.")
    return edit.shots[index]


def _with_shots(edit: Edit, shots: list[Shot]) -> Edit:
    return checked(replace(edit, shots=tuple(shots)))


def continued(source: Source, frames: int, rate: Fraction) -> Source:
    """What a source shows ``frames`` later, so that splitting a shot changes no picture."""
    if isinstance(source, ClipSource):
        return later(source, frame_to_seconds(frames, rate))
    return source


def later(clip: ClipSource, seconds: float) -> ClipSource:
    """The clip as it goes on so many programme seconds later (earlier where negative)."""
    return replace(clip, in_s=Piece(1, clip.in_s, clip.speed, clip.speed).after(seconds, Fraction(1)))


def part_of(item: Lane, start: int, end: int, rate: Fraction) -> Lane:
    """What a shot or cutaway that ends at ``end`` shows from another first frame on, each picture where it was."""
    stays = without_transitions(item.treatments) if start != item.start else item.treatments
    if stays or item.whole:
        return replace(item, start=start, treatments=stays, whole=item.whole or (item.start, end))
    return replace(
        item, start=start, treatments=stays, source=continued(item.source, start - item.start, rate)
    )


def head_of(item: Lane, end: int) -> Lane:
    """The item before what is parted from it, which lasted to ``end``."""
    if without_transitions(item.treatments) and not item.whole:
        return replace(item, whole=(item.start, end))
    return item


def begun(item: Lane, start: int, rate: Fraction) -> Lane:
    """The item with another first frame; a picture that is no part of a treated one stays in place."""
    if item.whole or start == item.start:
        return replace(item, start=start)
    return replace(item, start=start, source=continued(item.source, start - item.start, rate))


def missing_before(item: Lane, end: int, rate: Fraction) -> int:
    """How many frames of an item that ends at ``end`` lie before its clip's first picture."""
    source = item.source
    if not isinstance(source, ClipSource) or source.in_s >= -1e-9:
        return 0
    return max(1, playback(end - item.start, source.in_s, source.speed).outside(0.0, float("inf"), rate))


def without_transitions(treatments: tuple[Treatment, ...]) -> tuple[Treatment, ...]:
    """Treatments that are not of the cut at which a shot begins."""
    return tuple(t for t in treatments if not isinstance(t, Dissolve | Dip))


def cut(edit: Edit, frame: int, rate: Fraction) -> Edit:
    """Cut at a frame: both parts go on showing what they showed."""
    _in_song(edit, frame)
    index = edit.index_at(frame)
    shot = edit.shots[index]
    if shot.start == frame:
        raise Refused("There is a cut here already.")
    end = edit.end_of(index)
    new = part_of(shot, frame, end, rate)
    return _with_shots(edit, [*edit.shots[:index], head_of(shot, end), new, *edit.shots[index + 1 :]])


def join(edit: Edit, index: int) -> Edit:
    """Take away the cut at the start of a shot: the shot before runs on through it."""
    _shot(edit, index)
    if index == 0:
        raise Refused("The first shot has no cut before it to take away.")
    return _with_shots(edit, [*edit.shots[:index], *edit.shots[index + 1 :]])


def move_cut(edit: Edit, index: int, frame: int, rate: Fraction) -> Edit:
    """Move the cut at the start of a shot; both neighbours change length, nothing else moves.

    A clip keeps its picture in place: its in point moves along with the cut.
    """
    shot = _shot(edit, index)
    if index == 0:
        raise Refused("The song's start cannot be moved.")
    low, high = edit.shots[index - 1].start + 1, edit.end_of(index) - 1
    if not low <= frame <= high:
        raise Refused(
            f"This cut can move between frames {low} and {high}: a shot is at least one frame long."
        )
    moved = begun(shot, frame, rate)
    missing = missing_before(moved, edit.end_of(index), rate)
    if missing:
        said = "1 frame is" if missing == 1 else f"{missing} frames are"
        raise Refused(f"The clip has no picture before its start: {said} missing.")
    shots = list(edit.shots)
    shots[index] = moved
    return _with_shots(edit, shots)


def set_source(edit: Edit, index: int, source: Source) -> Edit:
    """Give a shot another source."""
    shot = _shot(edit, index)
    shots = list(edit.shots)
    same = isinstance(source, AngleSource) and isinstance(shot.source, AngleSource)
    # A part of a treated shot is one only as long as its picture is.
    kept = shot.whole if same or _media(source) == _media(shot.source) is not None else None
    shots[index] = replace(shot, source=source, whole=kept)
    return _with_shots(edit, shots)


def _media(source: Source) -> str | None:
    return source.media if isinstance(source, ClipSource) else None


def switch(edit: Edit, frame: int, angle: int, rate: Fraction) -> Edit:
    """Switch to an angle at a frame: it shows until the next cut. On an existing cut the shot changes angle."""
    _in_song(edit, frame)
    index = edit.index_at(frame)
    shot = edit.shots[index]
    if isinstance(shot.source, AngleSource) and shot.source == AngleSource(angle):
        raise Refused("That angle is on already.")
    if shot.start != frame:
        edit = cut(edit, frame, rate)
        index += 1
    edit = set_source(edit, index, AngleSource(angle))
    return edit


def hold(edit: Edit, index: int, held: bool) -> Edit:
    """Hold a shot, so that filling leaves it alone, or let it go."""
    shots = list(edit.shots)
    shots[index] = replace(_shot(edit, index), held=held)
    return _with_shots(edit, shots)


def frames_missing(clip: ClipSource, frames: int, clip_end_s: float, rate: Fraction) -> int:
    """How many of ``frames`` programme frames lie beyond the end of what may be used of a clip."""
    return playback(frames, clip.in_s, clip.speed).outside(clip.in_s, clip_end_s, rate)


def _long_enough(name: str, clip: ClipSource, frames: int, clip_end_s: float, rate: Fraction) -> None:
    missing = frames_missing(clip, frames, clip_end_s, rate)
    if missing:
        slower = clip.speed * (frames - missing) / frames
        helps = f"at {slower:.2f} times it reaches, or " if slower >= 0.05 else ""
        raise Refused(
            f"“{name}” is too short for this place: {missing} frame{'s' if missing > 1 else ''} missing. What helps: "
            f"{helps}a place of {frames - missing} frames, or another select."
        )


def lay_into_shot(
    edit: Edit, index: int, clip: ClipSource, clip_end_s: float, name: str, rate: Fraction
) -> Edit:
    """Fill a shot with a clip, from the clip's in point.

    Raises:
        Refused: the clip is too short; the message gives the number of frames missing.
    """
    frames = edit.end_of(index) - _shot(edit, index).start
    _long_enough(name, clip, frames, clip_end_s, rate)
    return set_source(edit, index, clip)


def lay_cutaway(
    edit: Edit, start: int, end: int, clip: ClipSource, clip_end_s: float, name: str, rate: Fraction
) -> Edit:
    """Lay a clip over the base lane; cutaways underneath it give way.

    Raises:
        Refused: outside the song, or the clip is too short (with the number of frames missing).
    """
    _in_song(edit, start)
    if end <= start:
        raise Refused("A cutaway is at least one frame long.")
    end = min(end, edit.length)
    _long_enough(name, clip, end - start, clip_end_s, rate)
    kept: list[Cutaway] = []
    for c in edit.cutaways:
        if c.start < start:
            kept.append(replace(head_of(c, c.end) if c.end > end else c, end=min(c.end, start)))
        if c.end > end:
            rest = max(c.start, end)
            kept.append(part_of(c, rest, c.end, rate))
    lane = sorted([*kept, Cutaway(start, end, clip)], key=lambda c: c.start)
    return checked(replace(edit, cutaways=tuple(lane)))


def remove_cutaway(edit: Edit, index: int) -> Edit:
    """Take a cutaway off; the base lane shows again."""
    if not 0 <= index < len(edit.cutaways):
        raise Refused(f"There is no cutaway {index + 1}.")
    return checked(replace(edit, cutaways=edit.cutaways[:index] + edit.cutaways[index + 1 :]))


def around_held(edit: Edit, first: int, end: int, shots: list[Shot], rate: Fraction) -> Edit:
    """Shots take the place of what lies in frames ``first`` to ``end`` (exclusive); held shots stay, and so does the rest.

    What runs out of the range at its end goes on there as it was.

    Args:
        edit: The edit.
        first, end: The range.
        shots: In order, the first at ``first``; what of them lies under a held shot is not seen.
        rate: Programme rate.
    """
    held = [
        (s, edit.end_of(i))
        for i, s in enumerate(edit.shots)
        if s.held and edit.end_of(i) > first and s.start < end
    ]
    out = [s for s in edit.shots if s.start < first]
    ends = [*(s.start for s in shots[1:]), end]
    for shot, until in zip(shots, ends, strict=True):
        at = shot.start
        for kept, to in [*held, (None, until)]:
            stop = until if kept is None else min(kept.start, until)
            if at < stop:
                out.append(part_of(shot, at, until, rate) if at != shot.start else shot)
            at = max(at, min(to, until))
    out += [s for s, _ in held if s.start >= first]
    if end < edit.length and edit.shots[edit.index_at(end)].start < end:
        running = edit.shots[edit.index_at(end)]
        if not (running.held and edit.end_of(edit.index_at(end)) > end):
            runs_to = edit.end_of(edit.index_at(end))
            out.append(part_of(running, end, runs_to, rate))
            out = [head_of(s, runs_to) if s == running else s for s in out]
    out += [s for s in edit.shots if s.start >= end]
    unique = {s.start: s for s in sorted(out, key=lambda s: s.start)}
    return _with_shots(edit, list(unique.values()))


def move_cuts(edit: Edit, to: dict[int, int], rate: Fraction) -> Edit:
    """Move several cuts at once, each from its frame to another; clips keep their picture in place.

    Raises:
        Refused: a cut would meet another or leave the song, or a clip has no picture that early.
    """
    shots = []
    for index, shot in enumerate(edit.shots):
        start = to.get(shot.start, shot.start)
        if shot.start == 0 and start != 0:
            raise Refused("The song's start cannot be moved.")
        moved = begun(shot, start, rate)
        if missing_before(moved, edit.end_of(index), rate):
            raise Refused("A clip among them has no picture before its start: they cannot move that far.")
        shots.append(moved)
    for a, b in itertools.pairwise(shots):
        if b.start <= a.start:
            raise Refused("They cannot move that far: a cut would meet its neighbour.")
    return _with_shots(edit, shots)


def move_cutaway(edit: Edit, index: int, start: int, end: int, rate: Fraction) -> Edit:
    """Give a cutaway other ends; its picture stays in place where only its start moves, and moves along with its body.

    Raises:
        Refused: it would be empty, leave the song or meet another, or its clip has no picture that early.
    """
    now = edit.cutaways[index]
    whole = now.whole and (now.whole[0] + start - now.start, now.whole[1] + start - now.start)
    moved = replace(now, start=start, whole=whole)
    if end - start != now.end - now.start:
        moved = begun(now, start, rate)
    if missing_before(moved, end, rate):
        raise Refused("The clip has no picture before its start.")
    lane = list(edit.cutaways)
    lane[index] = replace(moved, end=end)
    return checked(replace(edit, cutaways=tuple(sorted(lane, key=lambda c: c.start))))
