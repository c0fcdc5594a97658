"""Operations that treat: shots and cutaways, and ranges of the programme."""

import math
from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.compile import active, dissolve_of, dissolve_room, made_of, trouble_of
from zembi.core.edit.model import AngleSource, ClipSource, Cutaway, Edit, Shot
from zembi.core.edit.operations.context import Context
from zembi.core.edit.operations.cutting import shot_at
from zembi.core.edit.operations.laying import cutaway_at
from zembi.core.errors import BadInput, Refused
from zembi.core.programme.model import Hole, Span
from zembi.core.treatments.model import (
    OF_A_CUT,
    OF_ONE_SHOT,
    TIME,
    Speed,
    Treated,
    Treatment,
    checked_treatment,
)
from zembi.core.treatments.timing import warped

#: Most treatments of one shot or range, and shots treated at once.
MOST_TREATMENTS, MOST_SHOTS = 24, 5000


@dataclass(frozen=True)
class Treat:
    """Give shots (or with ``over`` cutaways), named by their first frames, these treatments in this order, and no others.

    Held shots are treated too: it is asked for by hand.
    """

    starts: tuple[int, ...]
    treatments: tuple[Treatment, ...]
    over: bool = False
    op: Literal["treat"] = "treat"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        shots = "cutaway" if self.over else "shot"
        which = f"a {shots}" if len(self.starts) == 1 else f"{len(self.starts)} {shots}s"
        return f"Treat {which}: {_said(self.treatments)}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if not 0 < len(self.starts) <= MOST_SHOTS:
            raise BadInput(f"Between 1 and {MOST_SHOTS} shots can be treated at once.")
        _checked(self.treatments)
        if self.over:
            lane = list(edit.cutaways)
            for start in self.starts:
                index = cutaway_at(edit, start)
                lane[index] = replace(lane[index], treatments=self.treatments)
                if any(isinstance(t, OF_A_CUT) for t in self.treatments):
                    raise Refused(
                        "A cutaway begins over a picture, not at a cut: fade it in over what lies beneath."
                    )
            after = replace(edit, cutaways=tuple(lane))
            for start in self.starts:
                item = after.cutaways[cutaway_at(after, start)]
                _can_be_done(item, item.end, 0, 0, context)
            return after
        shots = list(edit.shots)
        for start in self.starts:
            index = shot_at(edit, start)
            shots[index] = replace(shots[index], treatments=self.treatments)
        after = replace(edit, shots=tuple(shots))
        for start in self.starts:
            index = shot_at(after, start)
            before, beyond = _transition(after, index, context)
            _, next_before = _transition(after, index + 1, context) if index + 1 < len(shots) else (0, 0)
            _can_be_done(after.shots[index], after.end_of(index), before, next_before, context)
            if beyond:
                earlier = after.shots[index - 1]
                _can_be_done(earlier, start, 0, beyond, context, "The shot before it")
        return after


@dataclass(frozen=True)
class TreatRange:
    """Lay treatments over frames ``first`` to ``end`` (exclusive), whatever is cut there; those of a range that is there
    already (its ``number`` from 0) are changed, and without treatments it goes.
    """

    first: int
    end: int
    treatments: tuple[Treatment, ...]
    number: int | None = None
    op: Literal["treat range"] = "treat range"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return f"Treat a passage: {_said(self.treatments)}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        _checked(self.treatments)
        first, end = max(0, self.first), min(self.end, edit.length)
        if end <= first:
            raise BadInput("The passage is empty.")
        ground = context.material.ground(first, end)
        for t in self.treatments:
            if isinstance(t, OF_ONE_SHOT):
                raise Refused(f"“{t.kind}” is of one shot: choose the shot, and treat it.")
            if trouble := trouble_of(t, ground, context.material.aspect):
                raise Refused(trouble)
        # Each can be done by itself; together they may not.
        warped([t for t in active(self.treatments) if isinstance(t, TIME)], ground)  # type: ignore[misc]
        ranges = list(edit.treated)
        if self.number is not None and not 0 <= self.number < len(ranges):
            raise Refused("That treated passage is not there any more.")
        new = [Treated(first, end, self.treatments)] if self.treatments else []
        if self.number is None:
            ranges += new
        else:
            ranges[self.number : self.number + 1] = new
        if len(ranges) > MOST_TREATMENTS * 10:
            raise Refused("There are too many treated passages: join some.")
        return replace(edit, treated=tuple(ranges))


def _said(treatments: tuple[Treatment, ...]) -> str:
    return ", ".join(t.kind for t in treatments) or "nothing"


def _checked(treatments: tuple[Treatment, ...]) -> None:
    if len(treatments) > MOST_TREATMENTS:
        raise BadInput(f"One shot or passage holds at most {MOST_TREATMENTS} treatments.")
    for treatment in treatments:
        checked_treatment(treatment)


def _transition(edit: Edit, index: int, context: Context) -> tuple[int, int]:
    """Frames before and after its cut that a shot's dissolve takes.

    Raises:
        Refused: it is longer than one of the two shots, or meets the dissolve of the shot before.
    """
    shot = edit.shots[index]
    dissolve = dissolve_of(shot, context.material)
    if dissolve is None:
        return 0, 0
    if index == 0:
        raise Refused("Nothing comes before the first shot: fade it in.")
    _, before, after = dissolve
    room, length = dissolve_room(edit, index, context.material)
    if before > room or after > length:
        start = edit.shots[index - 1].start
        meets = (
            f" The dissolve at frame {start} ends at {shot.start - room}, and two dissolves cannot share a frame: make one "
            "of them shorter."
            if room < before < shot.start - start
            else ""
        )
        raise Refused(
            f"The dissolve at frame {shot.start} takes {before} frames before the cut and {after} after it; the two shots "
            f"have room for {room} and {length}.{meets}"
        )
    return before, after


def _can_be_done(
    item: Shot | Cutaway, end: int, before: int, after: int, context: Context, who: str = "The shot"
) -> None:
    """Check treatments of a shot that is seen ``before`` frames before its start to ``after`` after its end.

    Raises:
        Refused: a treatment cannot be done, or its picture does not reach, with what would fit.
    """
    material = context.material
    first, last = item.whole or (item.start, end)
    ground = material.ground(first, last, item.source)
    for t in active(item.treatments):
        if trouble := trouble_of(t, ground, material.aspect):
            raise Refused(trouble)
    warped([t for t in active(item.treatments) if isinstance(t, TIME)], ground)  # type: ignore[misc]
    spans = made_of(item, end, before, after, material)
    if isinstance(item.source, AngleSource):
        holes = sum(s.frames for s in spans if isinstance(s.content, Hole))
        if holes and (before or after):
            raise Refused(f"{who} has no picture for {_frames(holes)} of the dissolve.")
        return
    if not isinstance(item.source, ClipSource) or not (context.clips.get(item.source.media)):
        return
    known = context.clips[item.source.media]
    missing = sum(s.time.outside(0.0, known.seconds, context.rate) for s in spans)
    if missing:
        raise Refused(
            f"“{known.name}” has no picture for {_frames(missing)}{_helps(item, spans, before, after, missing, context)}"
        )


def _helps(
    item: Shot | Cutaway, spans: list[Span], before: int, after: int, missing: int, context: Context
) -> str:
    """What would fit, in words."""
    if before or after:
        fits = max(0, before + after - missing)
        return f" of the dissolve; one of {_frames(fits)} fits." if fits else " of the dissolve."
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
