"""Operations that lay clips: into a shot, over the base lane, and off again."""

import math
from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil
from typing import Literal

from zembi.core.edit.items import (
    frames_missing,
    move_item,
    remove_item,
    split_item,
    too_short,
    without_transitions,
)
from zembi.core.edit.lanes import base
from zembi.core.edit.lanes.over import OVER, lay_over
from zembi.core.edit.model import SPEEDS, ClipSource, Edit, Item, Lane
from zembi.core.edit.operations.context import Context, Footage
from zembi.core.edit.operations.cutting import shot_index
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit, place_among, time_at
from zembi.core.timebase import seconds_to_frame

#: What of a clip is seen in a place: from its head, up to its tail, about its middle, with its marked moment on a frame,
#: or slowed as far as it needs to be long enough.
By = Literal["head", "tail", "middle", "moment", "fitted"]


def seen(
    clip: ClipSource, known: Footage, frames: int, by: By, moment_at: int, context: Context
) -> ClipSource:
    """The part of a clip that is seen in a place of so many frames.

    Args:
        clip: The clip from its in point.
        known: What may be used of it.
        frames: Length of the place.
        by: What of it is asked for.
        moment_at: Frame of the place on which its marked moment lies, where that is asked for.
        context: For the rate.

    Raises:
        Refused: it has no marked moment, too little before it, or would be slower than clips are laid.
    """
    seconds = float(frames / context.rate) * clip.speed
    if by == "tail":
        return replace(clip, in_s=max(known.in_s, known.out_s - seconds))
    if by == "middle":
        return replace(clip, in_s=max(known.in_s, (known.in_s + known.out_s - seconds) / 2))
    if by == "moment":
        return _with_its_moment(clip, known, moment_at, context)
    if by == "fitted" and (missing := frames_missing(clip, frames, known.out_s, context.rate)):
        slower = (known.out_s - clip.in_s) / float(frames / context.rate)
        if slower < SPEEDS[0]:
            raise Refused(too_short(known.name, clip, frames, missing)[0])
        return replace(clip, speed=slower)
    return clip


def _with_its_moment(clip: ClipSource, known: Footage, at: int, context: Context) -> ClipSource:
    if known.moment_s is None:
        raise Refused(f"No moment is marked on “{known.name}”: look at it and press M.")
    before = float(Fraction(at) / context.rate) * clip.speed
    first = known.moment_s - before
    if first < known.in_s - 1e-9:
        missing = ceil((known.in_s - first) / clip.speed * float(context.rate) - 1e-6)
        slower = clip.speed * (known.moment_s - known.in_s) / before
        raise Refused(
            f"“{known.name}” has too little before its moment: {missing} frame{'s' if missing > 1 else ''} missing. "
            + (
                f"At {slower:.2f} times it reaches."
                if slower >= SPEEDS[0]
                else "Put the moment on the first frame."
            )
        )
    return replace(clip, in_s=max(0.0, first))


@dataclass(frozen=True)
class Lay:
    """Fill a shot with a clip or a select of it, the shot's length kept.

    ``by`` says what of it is seen; its marked moment lies in the frame ``at``. With ``in_s`` it is seen from that second
    of its file.
    """

    item: int
    media: str
    speed: float | None = None
    select: int | None = None
    by: By = "head"
    at: int | None = None
    in_s: float | None = None
    op: Literal["lay"] = "lay"

    def named(self, context: Context) -> str:
        """Name of the operation for undo."""
        return f"Lay {context.clip(self.media, self.speed, self.select)[1].name}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        clip, known = context.clip(self.media, self.speed, self.select)
        if self.in_s is not None:
            if not 0 <= self.in_s < known.seconds:
                raise BadInput(f"“{known.name}” has no picture at {self.in_s:.2f} s.")
            known = replace(known, in_s=self.in_s, out_s=max(known.out_s, self.in_s))
            clip = replace(clip, in_s=self.in_s)
        index = shot_index(edit, self.item)
        start = edit.shots[index].start
        frames = edit.end_of(index) - start
        at = start if self.at is None else self.at
        if self.by == "moment" and (self.at is None or not start <= at < start + frames):
            raise BadInput("The moment has to lie on a frame of the shot.")
        clip = seen(clip, known, frames, self.by, at - start, context)
        return base.lay_into_shot(edit, index, clip, known.out_s, known.name, context.rate)


@dataclass(frozen=True)
class LayOver:
    """Lay a clip or a select of it as a cutaway from the grid point nearest to a working time.

    Without a ``lane`` it goes to the lowest that is on and not locked. Without ``end_s`` it ends by itself, as
    :func:`ends_by_itself` says.
    """

    working_s: float
    media: str
    unit: Unit = "beat"
    lead: int | None = None
    end_s: float | None = None
    speed: float | None = None
    select: int | None = None
    lane: int | None = None
    op: Literal["lay over"] = "lay over"

    def named(self, context: Context) -> str:
        """Name of the operation for undo."""
        return f"Lay {context.clip(self.media, self.speed, self.select)[1].name} over"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        clip, known = context.clip(self.media, self.speed, self.select)
        first = context.frame_around(edit, self.working_s, self.unit, self.lead)
        reach = (known.out_s - clip.in_s) / clip.speed
        if self.end_s is not None:
            last = context.end_around(edit, self.end_s, self.unit, self.lead)
        elif (part := around(edit, first)) is not None:
            last = max(first + 1, min(part, first + int(reach * float(context.rate) + 1e-6)))
        else:
            here = self.working_s if self.unit == "free" else context.point(self.working_s, self.unit)
            ends = min(edit.length, ends_by_itself(here, self.unit, reach, context, self.lead))
            last = max(first + 1, ends)
        last = min(last, edit.end)
        lane = lane_for(edit, self.lane)
        return lay_over(edit, lane, first, last, clip, known.out_s, known.name, context.rate)


def around(edit: Edit, frame: int) -> int | None:
    """End (exclusive) of the lead-in or the tail where a frame lies in one: there what is laid ends by itself."""
    if frame < 0:
        return 0
    return edit.end if frame >= edit.length else None


def ends_by_itself(
    here: float, unit: Unit, reach_s: float | None, context: Context, lead: int | None = None
) -> int:
    """Frame at which what is laid ends by itself: at the next phrase, mark, line or hit where cuts fall on those, else a bar on.

    Args:
        here: Working time of the grid point from which it is laid ("free": of the playhead).
        unit: What cuts fall on.
        reach_s: Seconds that it reaches; it ends on the last beat before that where it is less. None where it does not
            matter.
        context: The song.
        lead: Asked for by itself; None for the section's.
    """
    grid, free = context.need_grid(), unit == "free"
    lasts = math.inf if reach_s is None else reach_s
    following = None if unit in A_BAR_LONG else context.next_point(here, unit)
    if following is not None and following - here <= lasts + 1e-6:
        return context.cuts.frame_of(following, lead)
    bar = grid.bar_of(here)[2]
    whole = bar if lasts == math.inf else int(grid.beats_between(here, here + lasts) + 1e-6)
    beats = max(1, whole if following is not None else min(bar, whole))
    until = time_at(grid.beats, place_among(grid.beats, here) + beats)
    return seconds_to_frame(until, context.rate) if free else context.cuts.frame_of(until, lead)


#: Units for which what is laid lasts a bar by itself: their points lie too close.
A_BAR_LONG = ("free", "half", "beat", "bar")


def lane_for(edit: Edit, lane_id: int | None = None) -> Lane:
    """The lane that something is laid on: the one asked for, or the lowest that is on and not locked.

    Raises:
        Refused: it is gone or no such lane; every one is locked or off.
    """
    if lane_id is not None:
        lane = edit.lane(lane_id)
        if lane.kind is not OVER:
            raise Refused(f"Nothing is laid on the lane “{lane.name}”.")
        return lane
    for lane in edit.of_kind(OVER):
        if lane.on and not lane.locked:
            return lane
    raise Refused("Every lane to lay on is locked or switched off.")


def _with_gaps(edit: Edit, item: int) -> tuple[Lane, int]:
    """The lane of an item that has ends of its own, and its index.

    Raises:
        Refused: it is not there, or a shot of the base lane.
    """
    lane, index = edit.find(item)
    if not lane.kind.gaps:
        raise Refused("A shot of the base lane has no ends of its own: move its cuts.")
    return lane, index


@dataclass(frozen=True)
class TakeOff:
    """Take an item off its lane; what lies beneath shows again."""

    item: int
    op: Literal["take off"] = "take off"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Take off a cutaway"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return remove_item(edit, *_with_gaps(edit, self.item))


@dataclass(frozen=True)
class MoveItem:
    """Move an item with ends of its own, or only its in or its out, by so many frames."""

    item: int
    frames: int
    edge: Literal["all", "in", "out"] = "all"
    op: Literal["move item"] = "move item"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return {"all": "Move a cutaway", "in": "Move a cutaway's in", "out": "Move a cutaway's out"}[
            self.edge
        ]

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        lane, index = _with_gaps(edit, self.item)
        (now, until), edge = edit.placed([lane])[index], self.edge
        start = now.start + (self.frames if edge != "out" else 0)
        end = until + (self.frames if edge != "in" else 0)
        after = move_item(edit, lane, index, start, end, context.rate)
        there, at = after.find(self.item)
        source = there.items[at].source
        known = context.clips.get(source.media) if isinstance(source, ClipSource) else None
        if known is not None and isinstance(source, ClipSource):
            missing = frames_missing(source, end - start, known.out_s, context.rate)
            if missing:
                raise Refused(f"“{known.name}” ends too soon for that: {missing} frames missing.")
        return after


@dataclass(frozen=True)
class Split:
    """Split an item with ends of its own in two at a frame; both go on showing what they showed."""

    item: int
    at: int
    op: Literal["split"] = "split"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Split a cutaway"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        return split_item(edit, *_with_gaps(edit, self.item), self.at, context.rate)


@dataclass(frozen=True)
class Lift:
    """Lift a shot off the base lane onto a lane above it; the shot before it runs on beneath.

    Without a ``lane`` it goes to the lowest that is on, not locked and free there.
    """

    item: int
    lane: int | None = None
    op: Literal["lift"] = "lift"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Lift a shot into a cutaway"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        index = shot_index(edit, self.item)
        shot, end = edit.shots[index], edit.end_of(index)
        under = base.join(edit, index)
        lifted = replace(shot, end=end, held=False, treatments=without_transitions(shot.treatments))
        lanes = (
            [lane_for(edit, self.lane)] if self.lane is not None else [lane_for(edit), *edit.of_kind(OVER)]
        )
        for lane in lanes:
            free = not any(c.start < end and shot.start < until for c, until in edit.placed([lane]))
            if free and lane.on and not lane.locked:
                return under.with_items(lane, [*lane.items, lifted])
        raise Refused("A cutaway lies over this shot already.")


@dataclass(frozen=True)
class Drop:
    """Drop a cutaway into the base lane: what it covers gives way to it, held shots excepted."""

    item: int
    op: Literal["drop"] = "drop"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Drop a cutaway into the base"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        lane, index = _with_gaps(edit, self.item)
        if lane.kind is not OVER:
            raise Refused(f"A {lane.kind.named} cannot be dropped into the base lane.")
        now, end = edit.placed([lane])[index]
        off = remove_item(edit, lane, index)
        dropped = Item(now.start, now.source, treatments=now.treatments, whole=now.whole, id=now.id)
        return base.around_held(off, now.start, end, [dropped], context.rate)
