"""Operations that lay clips: into a shot, over the base lane, and off again."""

from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil
from typing import Literal

from zembi.core.edit.items import frames_missing, move_item, remove_item, split_item, without_transitions
from zembi.core.edit.lanes import base
from zembi.core.edit.lanes.over import OVER, lay_over
from zembi.core.edit.model import ClipSource, Edit, Item, Lane
from zembi.core.edit.operations.context import SPEEDS, Context, Footage
from zembi.core.edit.operations.cutting import shot_index
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit, place_among, time_at
from zembi.core.timebase import seconds_to_frame


@dataclass(frozen=True)
class Lay:
    """Fill a shot with a clip or a select of it, the shot's length kept.

    It is seen from its ``head`` (in point), up to its ``tail``, about its ``middle``, or with its marked ``moment`` on
    display in the frame ``at``; with ``in_s``, from that second of its file.
    """

    item: int
    media: str
    speed: float | None = None
    select: int | None = None
    by: Literal["head", "tail", "middle", "moment"] = "head"
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
        seconds = float(frames / context.rate) * clip.speed
        if self.by == "tail":
            clip = replace(clip, in_s=max(known.in_s, known.out_s - seconds))
        elif self.by == "middle":
            clip = replace(clip, in_s=max(known.in_s, (known.in_s + known.out_s - seconds) / 2))
        elif self.by == "moment":
            clip = self._with_its_moment(clip, known, start, frames, context)
        return base.lay_into_shot(edit, index, clip, known.out_s, known.name, context.rate)

    def _with_its_moment(
        self, clip: ClipSource, known: Footage, start: int, frames: int, context: Context
    ) -> ClipSource:
        if known.moment_s is None:
            raise Refused(f"No moment is marked on “{known.name}”: look at it on Coverage and press M.")
        if self.at is None or not start <= self.at < start + frames:
            raise BadInput("The moment has to lie on a frame of the shot.")
        before = float(Fraction(self.at - start) / context.rate) * clip.speed
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
class LayOver:
    """Lay a clip or a select of it as a cutaway from the grid point nearest to a working time.

    Without a ``lane`` it goes to the lowest that is on and not locked. Without ``end_s`` it lasts until the next phrase,
    mark, line or hit where cuts fall on those, else a bar; or as long as the clip reaches, on whole beats, if that is less.
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
        first = context.frame(edit, self.working_s, self.unit, self.lead)
        if self.end_s is not None:
            last = context.frame(edit, self.end_s, self.unit, self.lead)
        else:
            last = max(first + 1, self._by_itself(clip, known.out_s, context))
        last = min(last, edit.length)
        lane = lane_for(edit, self.lane)
        return lay_over(edit, lane, first, last, clip, known.out_s, known.name, context.rate)

    def _by_itself(self, clip: ClipSource, out_s: float, context: Context) -> int:
        """Frame at which it ends by itself: at the next point or a bar on, or on the last beat before that which it reaches."""
        grid, free = context.need_grid(), self.unit == "free"
        here = self.working_s if free else context.point(self.working_s, self.unit)
        lasts = (out_s - clip.in_s) / clip.speed
        following = None if self.unit in _A_BAR_LONG else context.next_point(here, self.unit)
        if following is not None and following - here <= lasts + 1e-6:
            return context.cuts.frame_of(following, self.lead)
        whole = int(grid.beats_between(here, here + lasts) + 1e-6)
        beats = max(1, whole if following is not None else min(grid.bar_of(here)[2], whole))
        until = time_at(grid.beats, place_among(grid.beats, here) + beats)
        return seconds_to_frame(until, context.rate) if free else context.cuts.frame_of(until, self.lead)


#: Units for which a cutaway lasts a bar by itself: their points lie too close.
_A_BAR_LONG = ("free", "half", "beat", "bar")


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
