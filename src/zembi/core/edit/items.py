"""Moving single items of any lane: one function, edit in, edit out, or a refusal in plain words.

What is not meant stays: parts are replaced field by field, never built anew.
"""

import math
from dataclasses import replace
from fractions import Fraction

from zembi.core.edit.model import SPEEDS, AngleSource, ClipSource, Edit, Item, Lane, Source
from zembi.core.errors import Refused
from zembi.core.timebase import frame_to_seconds
from zembi.core.timemap import Piece, playback
from zembi.core.treatments.model import OF_A_CUT, Treatment


def continued(source: Source, frames: int, rate: Fraction) -> Source:
    """The source ``frames`` later, so that splitting a shot changes no picture."""
    if isinstance(source, ClipSource):
        return later(source, frame_to_seconds(frames, rate))
    return source


def later(clip: ClipSource, seconds: float) -> ClipSource:
    """The clip as it goes on so many programme seconds later (earlier where negative)."""
    return replace(clip, in_s=Piece(1, clip.in_s, clip.speed, clip.speed).after(seconds, Fraction(1)))


def part_of(item: Item, start: int, end: int, rate: Fraction) -> Item:
    """The tail of an item that ends at ``end``, from another first frame on, each picture where it was."""
    stays = without_transitions(item.treatments) if start != item.start else item.treatments
    if stays or item.whole:
        return replace(item, start=start, treatments=stays, whole=item.whole or (item.start, end))
    return replace(
        item, start=start, treatments=stays, source=continued(item.source, start - item.start, rate)
    )


def head_of(item: Item, end: int) -> Item:
    """The head of an item that lasted to ``end`` and of which a tail is parted."""
    if without_transitions(item.treatments) and not item.whole:
        return replace(item, whole=(item.start, end))
    return item


def head_trimmed(item: Item, start: int, rate: Fraction) -> Item:
    """Trim an item's head. Untreated pictures keep their source frames; a part of a treated one stays a part of it."""
    if item.whole or start == item.start:
        return replace(item, start=start)
    return replace(item, start=start, source=continued(item.source, start - item.start, rate))


def moved_on(item: Item, frames: int) -> Item:
    """An item so many frames later, with its end and what it is a part of."""
    return replace(
        item,
        start=item.start + frames,
        end=None if item.end is None else item.end + frames,
        whole=item.whole and (item.whole[0] + frames, item.whole[1] + frames),
    )


def missing_before(item: Item, end: int, rate: Fraction) -> int:
    """Number of frames of an item that ends at ``end`` that lie before its clip's first picture."""
    source = item.source
    if not isinstance(source, ClipSource) or source.in_s >= -1e-9:
        return 0
    return max(1, playback(end - item.start, source.in_s, source.speed).outside(0.0, float("inf"), rate))


def without_transitions(treatments: tuple[Treatment, ...]) -> tuple[Treatment, ...]:
    """Treatments that are not of the cut at which a shot begins."""
    return tuple(t for t in treatments if not isinstance(t, OF_A_CUT))


def frames_missing(clip: ClipSource, frames: int, clip_end_s: float, rate: Fraction) -> int:
    """Number of ``frames`` programme frames that lie beyond the end of what may be used of a clip."""
    return playback(frames, clip.in_s, clip.speed).outside(clip.in_s, clip_end_s, rate)


def check_long_enough(name: str, clip: ClipSource, frames: int, clip_end_s: float, rate: Fraction) -> None:
    """Check that a clip reaches for so many frames.

    Raises:
        Refused: it is too short, with the number of frames missing and what helps.
    """
    missing = frames_missing(clip, frames, clip_end_s, rate)
    if missing:
        raise Refused(too_short(name, clip, frames, missing)[0])


def too_short(name: str, clip: ClipSource, frames: int, missing: int) -> tuple[str, float | None]:
    """Message about a clip that has no picture for some of the frames of its place, and a speed at which it has."""
    # Rounded down to what is said, so that it reaches at the very speed that is named.
    slower = math.floor(100 * clip.speed * (frames - missing) / frames) / 100
    reaches = slower if slower >= SPEEDS[0] else None
    helps = f"at {slower:.2f} times it reaches, or " if reaches else ""
    return (
        f"“{name}” is too short for this place: {missing} frame{'s' if missing > 1 else ''} missing. What helps: "
        f"{helps}a place of {frames - missing} frames, or another select."
    ), reaches


def move_item(edit: Edit, lane: Lane, index: int, start: int, end: int, rate: Fraction) -> Edit:
    """Give an item of a lane with gaps other ends: a trim where its length changes, else a move with its picture.

    Raises:
        Refused: it would be empty, leave the song or meet another, or its clip has no picture that early.
    """
    now = lane.items[index]
    assert now.end is not None
    whole = now.whole and (now.whole[0] + start - now.start, now.whole[1] + start - now.start)
    moved = replace(now, start=start, whole=whole)
    if end - start != now.end - now.start:
        moved = head_trimmed(now, start, rate)
    if missing_before(moved, end, rate):
        raise Refused("The clip has no picture before its start.")
    return edit.with_items(lane, [*lane.items[:index], replace(moved, end=end), *lane.items[index + 1 :]])


def split_item(edit: Edit, lane: Lane, index: int, frame: int, rate: Fraction) -> Edit:
    """Split an item of a lane with gaps; both parts go on showing what they showed.

    Raises:
        Refused: the frame is not inside it.
    """
    now = lane.items[index]
    assert now.end is not None
    if not now.start < frame < now.end:
        raise Refused(f"Put the playhead inside the {lane.kind.named}, and split there.")
    parts = replace(head_of(now, now.end), end=frame), part_of(now, frame, now.end, rate)
    return edit.with_items(lane, [*lane.items[:index], *parts, *lane.items[index + 1 :]])


def remove_item(edit: Edit, lane: Lane, index: int) -> Edit:
    """Take an item off a lane with gaps; what lies beneath shows again."""
    return edit.with_items(lane, [*lane.items[:index], *lane.items[index + 1 :]])


def with_item(edit: Edit, lane: Lane, index: int, item: Item) -> Edit:
    """An item in the place of another."""
    return edit.with_items(lane, [*lane.items[:index], item, *lane.items[index + 1 :]])


def set_source(edit: Edit, lane: Lane, index: int, source: Source) -> Edit:
    """Give an item another source."""
    item = lane.items[index]
    same = isinstance(source, AngleSource) and isinstance(item.source, AngleSource)
    # A part of a treated shot is one only as long as its picture is.
    kept = item.whole if same or _media(source) == _media(item.source) is not None else None
    return with_item(edit, lane, index, replace(item, source=source, whole=kept))


def _media(source: Source) -> str | None:
    return source.media if isinstance(source, ClipSource) else None
