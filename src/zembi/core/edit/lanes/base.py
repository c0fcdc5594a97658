"""The base lane: shots without gaps over the whole song; each ends where the next begins."""

import itertools
from dataclasses import replace
from fractions import Fraction

from zembi.core.edit import items
from zembi.core.edit.items import check_long_enough, head_of, head_trimmed, missing_before, part_of
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Edit, Empty, Item, LaneKind, Source
from zembi.core.errors import Refused

BASE = LaneKind(
    "base", "Shots", (AngleSource, ClipSource, BlackSource, Empty), gaps=False, several=False, named="shot"
)


def _in_song(edit: Edit, frame: int) -> None:
    if not 0 <= frame < edit.length:
        raise Refused(f"Frame {frame} lies outside the song (0 to {edit.length - 1}).")


def _shot(edit: Edit, index: int) -> Item:
    if not 0 <= index < len(edit.shots):
        raise Refused(f"There is no shot {index + 1}; the edit has {len(edit.shots)}.")
    return edit.shots[index]


def with_shots(edit: Edit, shots: list[Item]) -> Edit:
    """The edit with other shots."""
    return edit.with_items(edit.lanes[0], shots)


def cut(edit: Edit, frame: int, rate: Fraction) -> Edit:
    """Cut at a frame: both parts go on showing what they showed."""
    _in_song(edit, frame)
    index = edit.index_at(frame)
    shot = edit.shots[index]
    if shot.start == frame:
        raise Refused("There is a cut here already.")
    end = edit.end_of(index)
    new = part_of(shot, frame, end, rate)
    return with_shots(edit, [*edit.shots[:index], head_of(shot, end), new, *edit.shots[index + 1 :]])


def join(edit: Edit, index: int) -> Edit:
    """Take away the cut at the start of a shot: the shot before runs on through it."""
    _shot(edit, index)
    if index == 0:
        raise Refused("The first shot has no cut before it to take away.")
    return with_shots(edit, [*edit.shots[:index], *edit.shots[index + 1 :]])


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
    moved = head_trimmed(shot, frame, rate)
    missing = missing_before(moved, edit.end_of(index), rate)
    if missing:
        said = "1 frame is" if missing == 1 else f"{missing} frames are"
        raise Refused(f"The clip has no picture before its start: {said} missing.")
    shots = list(edit.shots)
    shots[index] = moved
    return with_shots(edit, shots)


def set_source(edit: Edit, index: int, source: Source) -> Edit:
    """Give a shot another source."""
    _shot(edit, index)
    return items.set_source(edit, edit.lanes[0], index, source)


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
    return with_shots(edit, shots)


def lay_into_shot(
    edit: Edit, index: int, clip: ClipSource, clip_end_s: float, name: str, rate: Fraction
) -> Edit:
    """Fill a shot with a clip, from the clip's in point.

    Raises:
        Refused: the clip is too short; the message gives the number of frames missing.
    """
    frames = edit.end_of(index) - _shot(edit, index).start
    check_long_enough(name, clip, frames, clip_end_s, rate)
    return set_source(edit, index, clip)


def around_held(edit: Edit, first: int, end: int, shots: list[Item], rate: Fraction) -> Edit:
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
    return with_shots(edit, list(unique.values()))


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
        moved = head_trimmed(shot, start, rate)
        if missing_before(moved, edit.end_of(index), rate):
            raise Refused("A clip among them has no picture before its start: they cannot move that far.")
        shots.append(moved)
    for a, b in itertools.pairwise(shots):
        if b.start <= a.start:
            raise Refused("They cannot move that far: a cut would meet its neighbour.")
    return with_shots(edit, shots)


def insert(edit: Edit, first: int, frames: int, source: Source, rate: Fraction) -> Edit:
    """Put something in front of what comes at a frame: all lanes move on from there, and the end falls out of the song; what lies after the song stays.

    Shots that run over the frame go on after it, each picture as it was. The caller has checked that nothing is lost.
    """
    if edit.shots[edit.index_at(first)].start != first:
        edit = cut(edit, first, rate)
    shots = [
        *(s for s in edit.shots if s.start < first),
        Item(first, source),
        *(
            moved
            for s in edit.shots
            if s.start >= first and (moved := items.moved_on(s, frames)).start < edit.length
        ),
    ]
    over = [
        replace(
            lane,
            items=tuple(
                items.moved_on(i, frames) if first <= i.start < edit.length else i for i in lane.items
            ),
        )
        for lane in edit.lanes[1:]
    ]
    return with_shots(replace(edit, lanes=(edit.lanes[0], *over)), shots)
