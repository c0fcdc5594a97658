"""Operations that treat: items, and ranges of the programme."""

import math
from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.compiling.base import transition_of, transition_room
from zembi.core.edit.compiling.treated import active, made_of, worked
from zembi.core.edit.items import with_item
from zembi.core.edit.lanes.ranges import RANGES
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import AngleSource, Beneath, ClipSource, Edit, Item
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused
from zembi.core.programme.model import Hole, Span
from zembi.core.treatments.model import (
    OF_A_CUT,
    OF_ONE_SHOT,
    TIME,
    WORDS,
    Speed,
    Treatment,
    checked_treatment,
)

#: Most treatments of one item, and items treated at once.
MOST_TREATMENTS, MOST_SHOTS = 24, 5000


@dataclass(frozen=True)
class Treat:
    """Give items these treatments in this order, and no others.

    Held shots are treated too: it is asked for by hand.
    """

    items: tuple[int, ...]
    treatments: tuple[Treatment, ...]
    op: Literal["treat"] = "treat"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        which = "a shot" if len(self.items) == 1 else f"{len(self.items)} shots"
        return f"Treat {which}: {_said(self.treatments)}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if not 0 < len(self.items) <= MOST_SHOTS:
            raise BadInput(f"Between 1 and {MOST_SHOTS} shots can be treated at once.")
        _checked(self.treatments)
        after, asked = edit, set(self.items)
        for lane in edit.lanes:
            if not any(item.id in asked for item in lane.items):
                continue
            if lane.kind is RANGES:
                raise Refused("A treated range is treated by itself.")
            if lane.kind is not TITLES and any(isinstance(t, WORDS) for t in self.treatments):
                raise Refused("Only the words of a title come one after another: choose a title.")
            if lane.kind is TITLES and any(isinstance(t, TIME) for t in self.treatments):
                raise Refused(
                    "A title has no time of its own to be changed: it comes and stays in the film's."
                )
            if lane.kind.gaps and any(isinstance(t, OF_A_CUT) for t in self.treatments):
                raise Refused(
                    f"A {lane.kind.named} begins over a picture, not at a cut: fade it in over what lies beneath."
                )
            treated = [replace(i, treatments=self.treatments) if i.id in asked else i for i in lane.items]
            after = after.with_items(lane, treated)
        for item in self.items:
            self._check(after, item, context)
        return after

    def _check(self, after: Edit, item_id: int, context: Context) -> None:
        """Check that an item can be treated so, and on the base lane, that the transitions at its ends still can.

        Raises:
            Refused: in words, what cannot be done.
        """
        lane, index = after.find(item_id)
        if lane.kind.gaps:
            item, end = after.placed([lane])[index]
            _can_be_done(item, end, 0, 0, context)
            return
        before, beyond = _transition(after, index, context)
        _, next_before = _transition(after, index + 1, context) if index + 1 < len(after.shots) else (0, 0)
        _can_be_done(after.shots[index], after.end_of(index), before, next_before, context)
        if beyond:
            earlier = after.shots[index - 1]
            _can_be_done(earlier, after.shots[index].start, 0, beyond, context, "The shot before it")


@dataclass(frozen=True)
class TreatRange:
    """Lay treatments over frames ``first`` to ``end`` (exclusive), whatever is cut there; those of a range that is there
    already (``item``) are changed, and without treatments it goes.
    """

    first: int
    end: int
    treatments: tuple[Treatment, ...]
    item: int | None = None
    op: Literal["treat range"] = "treat range"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Treat a passage: {_said(self.treatments)}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        _checked(self.treatments)
        first, end = max(0, self.first), min(self.end, edit.length)
        if end <= first:
            raise BadInput("The passage is empty.")
        for t in self.treatments:
            if isinstance(t, OF_ONE_SHOT):
                raise Refused(f"“{t.kind}” is of one shot: choose the shot, and treat it.")
        (lane,) = edit.of_kind(RANGES)
        if self.item is None:
            new = Item(first, Beneath(), end, treatments=self.treatments)
            after = edit.with_items(lane, [*lane.items, new] if self.treatments else lane.items)
        else:
            index = lane.index_of(self.item)
            new = replace(lane.items[index], start=first, end=end, treatments=self.treatments)
            others = [*lane.items[:index], *lane.items[index + 1 :]]
            after = with_item(edit, lane, index, new) if self.treatments else edit.with_items(lane, others)
        _refuse_what_is_wrong(new, end, context)
        if len(after.of_kind(RANGES)[0].items) > MOST_TREATMENTS * 10:
            raise Refused("There are too many treated passages: join some.")
        return after


def _refuse_what_is_wrong(item: Item, end: int, context: Context) -> None:
    """Check that each treatment of an item can be done by itself, and those of time together.

    Raises:
        Refused: in words, what cannot be done.
    """
    done = worked(item, end, context.material)
    for t, trouble in zip(item.treatments, done.wrong, strict=False):
        if trouble and not t.off:
            raise Refused(trouble)
    if done.clash:
        raise Refused(done.clash)


def _said(treatments: tuple[Treatment, ...]) -> str:
    return ", ".join(t.kind for t in treatments) or "nothing"


def _checked(treatments: tuple[Treatment, ...]) -> None:
    if len(treatments) > MOST_TREATMENTS:
        raise BadInput(f"One shot or passage holds at most {MOST_TREATMENTS} treatments.")
    for treatment in treatments:
        checked_treatment(treatment)


def _transition(edit: Edit, index: int, context: Context) -> tuple[int, int]:
    """Frames before and after its cut that a shot's transition takes.

    Raises:
        Refused: it is longer than one of the two shots, or meets the transition of the shot before.
    """
    shot = edit.shots[index]
    found = transition_of(shot, context.material)
    if found is None:
        return 0, 0
    if index == 0:
        raise Refused("Nothing comes before the first shot: fade it in.")
    transition, before, after = found
    room, length = transition_room(edit, index, context.material)
    if before > room or after > length:
        start = edit.shots[index - 1].start
        other = transition_of(edit.shots[index - 1], context.material)
        meets = (
            f" The {other[0].kind} at frame {start} ends at {shot.start - room}, and two of them cannot share a frame: make "
            "one shorter."
            if other and room < before < shot.start - start
            else ""
        )
        raise Refused(
            f"The {transition.kind} at frame {shot.start} takes {before} frames before the cut and {after} after it; the two "
            f"shots have room for {room} and {length}.{meets}"
        )
    return before, after


def _can_be_done(
    item: Item, end: int, before: int, after: int, context: Context, who: str = "The shot"
) -> None:
    """Check treatments of a shot that is seen ``before`` frames before its start to ``after`` after its end.

    Raises:
        Refused: a treatment cannot be done, or its picture does not reach, with what would fit.
    """
    material = context.material
    _refuse_what_is_wrong(item, end, context)
    spans = made_of(item, end, before, after, material)
    if isinstance(item.source, AngleSource):
        holes = sum(s.frames for s in spans if isinstance(s.content, Hole))
        if holes and (before or after):
            raise Refused(f"{who} has no picture for {_frames(holes)} of the transition.")
        return
    if not isinstance(item.source, ClipSource) or not (context.clips.get(item.source.media)):
        return
    known = context.clips[item.source.media]
    missing = sum(s.time.outside(0.0, known.seconds, context.rate) for s in spans)
    if missing:
        raise Refused(
            f"“{known.name}” has no picture for {_frames(missing)}{_helps(item, spans, before, after, missing, context)}"
        )


def _helps(item: Item, spans: list[Span], before: int, after: int, missing: int, context: Context) -> str:
    """Suggestion of what would fit, in words."""
    if before or after:
        fits = max(0, before + after - missing)
        return f" of the transition; one of {_frames(fits)} fits." if fits else " of the transition."
    total = sum(s.frames for s in spans)
    source = item.source
    last = [t for t in active(item.treatments) if isinstance(t, Speed)]
    if isinstance(source, ClipSource) and len(last) == 1 and last[0].keep == "head" and last[0].factor > 0:
        room = context.clips[source.media].seconds - source.in_s
        nearest = room / source.speed / (total / float(context.rate))
        return f" of {total} at that speed; {math.floor(nearest * 100) / 100:.2f} times is the fastest that fits here."
    return f" of {total}: begin elsewhere in it, run slower, or use a shorter shot."


def _frames(count: int) -> str:
    return f"{count} frame{'s' if count != 1 else ''}"
