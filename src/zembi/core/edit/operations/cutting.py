"""Operations on the base lane's cuts: cut, join, move, switch, angle, black, hold."""

from dataclasses import dataclass
from typing import Literal

from zembi.core.edit.lanes import base
from zembi.core.edit.model import BlackSource, Edit, Item
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit
from zembi.core.timebase import frame_to_seconds, seconds_to_frame

#: Most beats by which a cut is moved at once.
MOST_STEP = 64


def shot_index(edit: Edit, shot: int) -> int:
    """Index of a shot of the base lane by its id.

    Raises:
        Refused: it is not there.
    """
    return edit.lanes[0].index_of(shot)


@dataclass(frozen=True)
class Cut:
    """Cut at the grid point nearest to a working time, so many frames before it; without a ``lead``, by the section's."""

    working_s: float
    unit: Unit = "beat"
    lead: int | None = None
    op: Literal["cut"] = "cut"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        return base.cut(edit, context.frame(edit, self.working_s, self.unit, self.lead), context.rate)


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
        """Name of the operation for undo."""
        return f"Switch to angle {context.angles[context.angle(self.angle).angle].number}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        source = context.angle(self.angle)
        frame = context.frame(edit, self.working_s, self.unit, self.lead)
        if self.until_s is None:
            return base.switch(edit, frame, source.angle, context.rate)
        end = min(edit.length, seconds_to_frame(self.until_s, context.rate))
        if self.unit != "free" and end < edit.length:
            end = context.cuts.frame_of(self.until_s, self.lead)
        if end <= frame:
            raise Refused("The passage that is switched ends before that.")
        after = base.around_held(edit, frame, end, [Item(frame, source)], context.rate)
        index = after.index_at(frame)
        # What was on before goes on: no cut is needed.
        on = (
            index > 0
            and after.shots[index].start == frame
            and after.shots[index - 1] == Item(after.shots[index - 1].start, source)
        )
        return base.join(after, index) if on else after


@dataclass(frozen=True)
class Join:
    """Take away the cut at the start of a shot."""

    item: int
    op: Literal["join"] = "join"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Join"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return base.join(edit, shot_index(edit, self.item))


@dataclass(frozen=True)
class Move:
    """Move the cut at the start of a shot to another frame, or by whole beats, kept at its distance from the beat."""

    item: int
    to: int | None = None
    beats: int = 0
    op: Literal["move"] = "move"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Move a cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if abs(self.beats) > MOST_STEP:
            raise BadInput(f"A cut moves by at most {MOST_STEP} beats at a time.")
        index = shot_index(edit, self.item)
        start = edit.shots[index].start
        target = start if self.to is None else self.to
        if self.beats:
            grid, rate = context.need_grid(), context.rate
            beat = grid.nearest(frame_to_seconds(start, rate), "beat")
            off = start - seconds_to_frame(beat, rate)
            target = seconds_to_frame(grid.step(beat, self.beats), rate) + off
        return base.move_cut(edit, index, target, context.rate)


@dataclass(frozen=True)
class SetAngle:
    """Give a shot another angle."""

    item: int
    angle: int
    op: Literal["angle"] = "angle"

    def named(self, context: Context) -> str:
        """Name of the operation for undo."""
        return f"Angle {context.angles[context.angle(self.angle).angle].number} for a shot"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        return base.set_source(edit, shot_index(edit, self.item), context.angle(self.angle))


@dataclass(frozen=True)
class SetBlack:
    """Make a shot black."""

    item: int
    op: Literal["black"] = "black"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Black"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return base.set_source(edit, shot_index(edit, self.item), BlackSource())


@dataclass(frozen=True)
class Hold:
    """Hold a shot against filling, or let it go."""

    item: int
    held: bool = True
    op: Literal["hold"] = "hold"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Hold a shot" if self.held else "Let a shot go"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return base.hold(edit, shot_index(edit, self.item), self.held)
