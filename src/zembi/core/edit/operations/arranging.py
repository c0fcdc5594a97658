"""Operations that arrange shots: slip, swap, bring elsewhere, take out, cut one passage as another."""

from bisect import bisect_left
from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit import items
from zembi.core.edit.lanes import base
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty, Item, Source, ends_of
from zembi.core.edit.operations.context import Context
from zembi.core.edit.operations.cutting import shot_index
from zembi.core.errors import BadInput, Refused
from zembi.core.timebase import frame_to_seconds, seconds_to_frame
from zembi.core.treatments.model import Treatment
from zembi.core.treatments.moving import moved_on

#: Most frames by which a picture is slipped at once.
MOST_SLIP = 10_000


@dataclass(frozen=True)
class Slip:
    """Show an item's picture ``frames`` later in its source, under fixed cuts.

    An angle is slipped only ``on_purpose``: its lips are out of sync then.
    """

    item: int
    frames: int
    on_purpose: bool = False
    op: Literal["slip"] = "slip"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Slip by {self.frames:+d} f"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if abs(self.frames) > MOST_SLIP:
            raise BadInput(f"A picture is slipped by at most {MOST_SLIP} frames at a time.")
        lane, index = edit.find(self.item)
        now = lane.items[index]
        frames = ends_of(lane, edit.length)[index] - now.start
        return items.set_source(edit, lane, index, self._slipped(now.source, frames, context))

    def _slipped(self, source: Source, frames: int, context: Context) -> Source:
        if isinstance(source, AngleSource):
            if not self.on_purpose:
                raise Refused(
                    "An angle follows the song, so that lips stay in sync. Say that it is on purpose."
                )
            return replace(source, slip=source.slip + self.frames)
        if not isinstance(source, ClipSource):
            raise Refused("There is no picture to slip.")
        moved = items.later(source, frame_to_seconds(self.frames, context.rate))
        known = context.clips.get(source.media)
        if moved.in_s < -1e-9:
            raise Refused("The clip has no picture before its start: it cannot be slipped that far.")
        missing = items.frames_missing(moved, frames, known.out_s, context.rate) if known else 0
        if missing:
            raise Refused(
                f"The clip ends too soon for that: {missing} frame{'s' if missing > 1 else ''} missing."
            )
        return moved


@dataclass(frozen=True)
class Swap:
    """Let two shots change their pictures; the cuts stay."""

    item: int
    other: int
    op: Literal["swap"] = "swap"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Swap two shots"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        one, two = shot_index(edit, self.item), shot_index(edit, self.other)
        if one == two:
            raise BadInput("A shot cannot change places with itself.")
        for content, index in ((one, two), (two, one)):
            _long_enough(edit.shots[content].source, edit.end_of(index) - edit.shots[index].start, context)
        shots = list(edit.shots)
        shots[one] = _showing(shots[one], edit.shots[two], context)
        shots[two] = _showing(shots[two], edit.shots[one], context)
        return base.with_shots(edit, shots)


def _showing(shot: Item, other: Item | None, context: Context) -> Item:
    """A shot with the picture of another, and what that is treated with; what is of its own cut stays, as the cut does."""
    own = tuple(t for t in shot.treatments if t not in items.without_transitions(shot.treatments))
    if other is None:
        return replace(shot, source=Empty(), treatments=own, whole=None)
    source = items.continued(other.source, other.start - (other.whole or (other.start,))[0], context.rate)
    brought = _moved_on(items.without_transitions(other.treatments), other.start, shot.start, context)
    return replace(shot, source=source, treatments=own + brought, whole=None)


def _moved_on(
    treatments: tuple[Treatment, ...], start: int, to: int, context: Context
) -> tuple[Treatment, ...]:
    if context.grid is None:
        return treatments
    return moved_on(
        treatments, frame_to_seconds(start, context.rate), frame_to_seconds(to, context.rate), context.grid
    )


def _long_enough(source: Source, frames: int, context: Context) -> None:
    known = context.clips.get(source.media) if isinstance(source, ClipSource) else None
    if known is None or not isinstance(source, ClipSource):
        return
    missing = items.frames_missing(source, frames, known.out_s, context.rate)
    if missing:
        said = "1 frame is" if missing == 1 else f"{missing} frames are"
        raise Refused(f"“{known.name}” is too short for that place: {said} missing.")


@dataclass(frozen=True)
class Bring:
    """Bring a shot's picture to another shot, whose own gives way; the shot before it runs on where it was."""

    item: int
    to: int
    op: Literal["bring"] = "bring"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Bring a shot elsewhere"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        index, target = shot_index(edit, self.item), shot_index(edit, self.to)
        if index == target:
            raise BadInput("The shot is there already.")
        shots = list(edit.shots)
        _long_enough(shots[index].source, edit.end_of(target) - edit.shots[target].start, context)
        shots[target] = _showing(shots[target], shots[index], context)
        if index == 0:
            shots[0] = _showing(shots[0], None, context)
        after = base.with_shots(edit, shots)
        return after if index == 0 else base.join(after, index)


@dataclass(frozen=True)
class TakeOut:
    """Take a shot out, in one of three ways.

    "before": the one before runs on. "after": the one after begins earlier, from its head. "up": the pictures of all that
    follow move up by a slot, the cuts stay where they are, and the last slot is empty; held shots stay.
    """

    item: int
    how: Literal["before", "after", "up"] = "before"
    op: Literal["take out"] = "take out"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Take a shot out"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        index = shot_index(edit, self.item)
        start = edit.shots[index].start
        if self.how == "before":
            return base.join(edit, index)
        if self.how == "after":
            if index + 1 == len(edit.shots):
                raise Refused("No shot comes after the last.")
            following = edit.shots[index + 1]
            _long_enough(following.source, edit.end_of(index + 1) - start, context)
            shots = [*edit.shots[:index], replace(following, start=start), *edit.shots[index + 2 :]]
            return base.with_shots(edit, shots)
        free = [i for i in range(index, len(edit.shots)) if i == index or not edit.shots[i].held]
        shots = list(edit.shots)
        for slot, follower in zip(free, [*free[1:], None], strict=True):
            after = edit.shots[follower] if follower is not None else None
            shots[slot] = _showing(shots[slot], after, context)
        return base.with_shots(edit, shots)


@dataclass(frozen=True)
class CutAs:
    """Cut one passage as another is cut, beat for beat: its cuts, and its pictures the same or with the angles turned on.

    All times are working time; the passage from ``to_s`` lasts to ``until_s`` or as long as the model does. Held shots stay.
    With ``angles`` "next" each angle is the one after it in order; clips are the same in both.
    """

    from_s: float
    end_s: float
    to_s: float
    until_s: float
    angles: Literal["same", "next"] = "same"
    op: Literal["cut as"] = "cut as"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Cut a passage as another"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        grid, rate = context.need_grid(), context.rate
        first, end = (self._frame(s, edit, context) for s in (self.from_s, self.end_s))
        start, until = (self._frame(s, edit, context) for s in (self.to_s, self.until_s))
        if end <= first or until <= start:
            raise BadInput("Both passages have to be longer than nothing.")
        if first < until and start < end:
            raise Refused("The two passages share a part of the song.")
        begin = grid.nearest(self.to_s, "beat")

        def there(frame: int) -> int:
            """Frame in the passage of a frame of the model: as many beats on, and as many frames off the beat."""
            at = frame_to_seconds(frame, rate)
            beat = grid.nearest(at, "beat")
            count = bisect_left(grid.beats, beat) - bisect_left(grid.beats, grid.nearest(self.from_s, "beat"))
            return seconds_to_frame(grid.step(begin, count), rate) + frame - seconds_to_frame(beat, rate)

        model = edit.shots[edit.index_at(first)]
        treated = _moved_on(model.treatments, first, start, context) if model.start == first else ()
        shots = [Item(start, self._source(_at(edit, first, context), context), treatments=treated)]
        for shot in edit.shots:
            inside = first < shot.start < end
            if inside and shots[-1].start < (to := there(shot.start)) < until:
                source = self._source(shot.source, context)
                moved = _moved_on(shot.treatments, shot.start, to, context)
                shots.append(
                    replace(shot, start=to, source=source, held=False, treatments=moved, whole=None, id=0)
                )
        return base.around_held(edit, start, until, shots, rate)

    @staticmethod
    def _frame(working_s: float, edit: Edit, context: Context) -> int:
        return min(edit.length, context.cuts.frame_of(working_s))

    def _source(self, source: Source, context: Context) -> Source:
        if self.angles == "same" or not isinstance(source, AngleSource) or source.angle not in context.angles:
            return source
        order = list(context.angles)
        return AngleSource(order[(order.index(source.angle) + 1) % len(order)])


def _at(edit: Edit, frame: int, context: Context) -> Source:
    """Source of the shot at a frame from there on."""
    shot = edit.shots[edit.index_at(frame)]
    return items.continued(shot.source, frame - (shot.whole or (shot.start,))[0], context.rate)
