"""Operations on the base lane's cuts: cut, join, move, switch, angle, black, hold."""

from dataclasses import dataclass
from typing import Literal

from zembi.core.edit import lanes
from zembi.core.edit.model import Black, Edit, Shot
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit
from zembi.core.timebase import frame_to_seconds, seconds_to_frame

#: Most beats by which a cut is moved at once.
MOST_STEP = 64


def shot_at(edit: Edit, start: int) -> int:
    """Index of the shot that starts at a frame.

    Raises:
        Refused: none does.
    """
    index = edit.index_at(start)
    if edit.shots[index].start != start:
        raise Refused("That cut is not there any more.")
    return index


@dataclass(frozen=True)
class Cut:
    """Cut at the grid point nearest to a working time, so many frames before it; without a ``lead``, by the section's."""

    working_s: float
    unit: Unit = "beat"
    lead: int | None = None
    op: Literal["cut"] = "cut"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        return lanes.cut(edit, context.frame(edit, self.working_s, self.unit, self.lead), context.rate)


@dataclass(frozen=True)
class Switch:
    """Switch to an angle at the grid point nearest to a working time: it shows until the next cut.

    With ``until_s`` it is laid over what is cut from there to that time; held shots stay.
    """

    working_s: float
    angle: int
    unit: Unit = "beat"
    lead: int | None = None
    until_s: float | None = None
    op: Literal["switch"] = "switch"

    def named(self, context: Context) -> str:
        """What undo calls it."""
        return f"Switch to angle {context.angles[context.angle(self.angle).angle].number}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        source = context.angle(self.angle)
        frame = context.frame(edit, self.working_s, self.unit, self.lead)
        if self.until_s is None:
            return lanes.switch(edit, frame, source.angle, context.rate)
        end = min(edit.length, seconds_to_frame(self.until_s, context.rate))
        if self.unit != "free" and end < edit.length:
            end = context.cuts.frame_of(self.until_s, self.lead)
        if end <= frame:
            raise Refused("The passage that is switched ends before that.")
        after = lanes.around_held(edit, frame, end, [Shot(frame, source)], context.rate)
        index = after.index_at(frame)
        # What was on before goes on: no cut is needed.
        on = (
            index > 0
            and after.shots[index].start == frame
            and after.shots[index - 1] == Shot(after.shots[index - 1].start, source)
        )
        return lanes.join(after, index) if on else after


@dataclass(frozen=True)
class Join:
    """Take away the cut at a frame."""

    start: int
    op: Literal["join"] = "join"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Join"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return lanes.join(edit, shot_at(edit, self.start))


@dataclass(frozen=True)
class Move:
    """Move the cut at a frame to another frame, or by whole beats, kept at its distance from the beat."""

    start: int
    to: int | None = None
    beats: int = 0
    op: Literal["move"] = "move"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Move a cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if abs(self.beats) > MOST_STEP:
            raise BadInput(f"A cut moves by at most {MOST_STEP} beats at a time.")
        target = self.start if self.to is None else self.to
        if self.beats:
            grid, rate = context.need_grid(), context.rate
            beat = grid.nearest(frame_to_seconds(self.start, rate), "beat")
            off = self.start - seconds_to_frame(beat, rate)
            target = seconds_to_frame(grid.step(beat, self.beats), rate) + off
        return lanes.move_cut(edit, shot_at(edit, self.start), target, context.rate)


@dataclass(frozen=True)
class SetAngle:
    """Give the shot that starts at a frame another angle."""

    start: int
    angle: int
    op: Literal["angle"] = "angle"

    def named(self, context: Context) -> str:
        """What undo calls it."""
        return f"Angle {context.angles[context.angle(self.angle).angle].number} for a shot"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        return lanes.set_source(edit, shot_at(edit, self.start), context.angle(self.angle))


@dataclass(frozen=True)
class SetBlack:
    """Make the shot that starts at a frame black."""

    start: int
    op: Literal["black"] = "black"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Black"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return lanes.set_source(edit, shot_at(edit, self.start), Black())


@dataclass(frozen=True)
class Hold:
    """Hold the shot that starts at a frame against filling, or let it go."""

    start: int
    held: bool = True
    op: Literal["hold"] = "hold"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Hold a shot" if self.held else "Let a shot go"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return lanes.hold(edit, shot_at(edit, self.start), self.held)
