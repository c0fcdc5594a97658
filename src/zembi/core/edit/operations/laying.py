"""Operations that lay clips: into a shot, over the base lane, and off again."""

from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil
from typing import Literal

from zembi.core.edit import lanes
from zembi.core.edit.model import ClipSource, Cutaway, Edit, Shot
from zembi.core.edit.operations.context import SPEEDS, Context, Footage
from zembi.core.edit.operations.cutting import shot_at
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit, place_among, time_at
from zembi.core.timebase import seconds_to_frame


@dataclass(frozen=True)
class Lay:
    """Fill the shot that starts at a frame with a clip or a select of it, the shot's length kept.

    It is seen from its ``head`` (in point), up to its ``tail``, about its ``middle``, or with its marked ``moment`` on
    display in the frame ``at``.
    """

    start: int
    media: str
    speed: float | None = None
    select: int | None = None
    by: Literal["head", "tail", "middle", "moment"] = "head"
    at: int | None = None
    op: Literal["lay"] = "lay"

    def named(self, context: Context) -> str:
        """What undo calls it."""
        return f"Lay {context.clip(self.media, self.speed, self.select)[1].name}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        clip, known = context.clip(self.media, self.speed, self.select)
        index = shot_at(edit, self.start)
        frames = edit.end_of(index) - self.start
        seconds = float(frames / context.rate) * clip.speed
        if self.by == "tail":
            clip = replace(clip, in_s=max(known.in_s, known.out_s - seconds))
        elif self.by == "middle":
            clip = replace(clip, in_s=max(known.in_s, (known.in_s + known.out_s - seconds) / 2))
        elif self.by == "moment":
            clip = self._with_its_moment(clip, known, frames, context)
        return lanes.lay_into_shot(edit, index, clip, known.out_s, known.name, context.rate)

    def _with_its_moment(self, clip: ClipSource, known: Footage, frames: int, context: Context) -> ClipSource:
        if known.moment_s is None:
            raise Refused(f"No moment is marked on “{known.name}”: look at it on Coverage and press M.")
        if self.at is None or not self.start <= self.at < self.start + frames:
            raise BadInput("The moment has to lie on a frame of the shot.")
        before = float(Fraction(self.at - self.start) / context.rate) * clip.speed
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

    Without ``end_s`` it lasts a bar, or as long as the clip reaches on whole beats if that is less.
    """

    working_s: float
    media: str
    unit: Unit = "beat"
    lead: int | None = None
    end_s: float | None = None
    speed: float | None = None
    select: int | None = None
    op: Literal["lay over"] = "lay over"

    def named(self, context: Context) -> str:
        """What undo calls it."""
        return f"Lay {context.clip(self.media, self.speed, self.select)[1].name} over"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        clip, known = context.clip(self.media, self.speed, self.select)
        first = context.frame(edit, self.working_s, self.unit, self.lead)
        if self.end_s is not None:
            last = context.frame(edit, self.end_s, self.unit, self.lead)
        else:
            last = max(first + 1, self._bar_on(clip, known.out_s, context))
        last = min(last, edit.length)
        return lanes.lay_cutaway(edit, first, last, clip, known.out_s, known.name, context.rate)

    def _bar_on(self, clip: ClipSource, out_s: float, context: Context) -> int:
        """Where it ends by itself: a bar on, or sooner by whole beats where the clip is shorter."""
        grid, free = context.need_grid(), self.unit == "free"
        here = self.working_s if free else context.point(self.working_s, self.unit)
        lasts = (out_s - clip.in_s) / clip.speed
        whole = int(grid.beats_between(here, here + lasts) + 1e-6)
        beats = max(1, min(grid.bar_of(here)[2], whole))
        until = time_at(grid.beats, place_among(grid.beats, here) + beats)
        return seconds_to_frame(until, context.rate) if free else context.cuts.frame_of(until, self.lead)


@dataclass(frozen=True)
class TakeOff:
    """Take off the cutaway that starts at a frame."""

    start: int
    op: Literal["take off"] = "take off"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Take off a cutaway"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return lanes.remove_cutaway(edit, cutaway_at(edit, self.start))


def cutaway_at(edit: Edit, start: int) -> int:
    """Index of the cutaway that starts at a frame.

    Raises:
        Refused: none does.
    """
    index = next((i for i, c in enumerate(edit.cutaways) if c.start == start), None)
    if index is None:
        raise Refused("That cutaway is not there any more.")
    return index


@dataclass(frozen=True)
class MoveCutaway:
    """Move the cutaway at a frame, or only its in or its out, by so many frames."""

    start: int
    frames: int
    edge: Literal["all", "in", "out"] = "all"
    op: Literal["move cutaway"] = "move cutaway"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return {"all": "Move a cutaway", "in": "Move a cutaway's in", "out": "Move a cutaway's out"}[
            self.edge
        ]

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        index = cutaway_at(edit, self.start)
        now = edit.cutaways[index]
        start = now.start + (self.frames if self.edge != "out" else 0)
        end = now.end + (self.frames if self.edge != "in" else 0)
        after = lanes.move_cutaway(edit, index, start, end, context.rate)
        moved = next(c for c in after.cutaways if c.start == start)
        known = context.clips.get(moved.source.media) if isinstance(moved.source, ClipSource) else None
        if known is not None and isinstance(moved.source, ClipSource):
            missing = lanes.frames_missing(moved.source, end - start, known.out_s, context.rate)
            if missing:
                raise Refused(f"“{known.name}” ends too soon for that: {missing} frames missing.")
        return after


@dataclass(frozen=True)
class SplitCutaway:
    """Split the cutaway at a frame in two; both go on showing what they showed."""

    start: int
    at: int
    op: Literal["split cutaway"] = "split cutaway"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Split a cutaway"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        index = cutaway_at(edit, self.start)
        now = edit.cutaways[index]
        if not now.start < self.at < now.end:
            raise Refused("Put the playhead inside the cutaway, and split there.")
        parts = (
            replace(lanes.head_of(now, now.end), end=self.at),
            lanes.part_of(now, self.at, now.end, context.rate),
        )
        return replace(edit, cutaways=(*edit.cutaways[:index], *parts, *edit.cutaways[index + 1 :]))


@dataclass(frozen=True)
class Lift:
    """Lift a shot off the base lane into a cutaway over the shot before it, which runs on beneath."""

    start: int
    op: Literal["lift"] = "lift"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Lift a shot into a cutaway"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        index = shot_at(edit, self.start)
        shot, end = edit.shots[index], edit.end_of(index)
        if any(c.start < end and self.start < c.end for c in edit.cutaways):
            raise Refused("A cutaway lies over this shot already.")
        under = lanes.join(edit, index)
        stays = lanes.without_transitions(shot.treatments)
        lifted = Cutaway(self.start, end, shot.source, stays, shot.whole)
        lane = sorted([*under.cutaways, lifted], key=lambda c: c.start)
        return replace(under, cutaways=tuple(lane))


@dataclass(frozen=True)
class Drop:
    """Drop a cutaway into the base lane: what it covers gives way to it, held shots excepted."""

    start: int
    op: Literal["drop"] = "drop"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Drop a cutaway into the base"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        index = cutaway_at(edit, self.start)
        now = edit.cutaways[index]
        off = lanes.remove_cutaway(edit, index)
        dropped = Shot(now.start, now.source, treatments=now.treatments, whole=now.whole)
        return lanes.around_held(off, now.start, now.end, [dropped], context.rate)
