"""The operation that lays a clip at the playhead, and where it would come: what is shown before a key is pressed."""

from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.items import frames_missing, too_short
from zembi.core.edit.lanes import base
from zembi.core.edit.lanes.over import lay_over
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty, Item
from zembi.core.edit.operations.context import Context, Footage
from zembi.core.edit.operations.laying import A_BAR_LONG, By, around, ends_by_itself, lane_for, seen
from zembi.core.errors import Refused
from zembi.core.song.grid import Unit
from zembi.core.timebase import frame_at, frame_to_seconds

#: Ways of laying: into the slot or shot under the playhead; until the next place that cuts fall on; in its own length;
#: on a lane over what is there; at the end of what is cut so far; in front of what comes, which all moves on.
Way = Literal["into", "next", "own", "over", "end", "front"]


@dataclass(frozen=True)
class Placement:
    """Place of a clip that is to be laid.

    Attributes:
        first, end: Frames (half-open) of the edit that it would take.
        lane: Id of the lane.
        in_s, out_s: Part of its file that would be seen, at ``speed``.
        missing: Frames for which the clip has no picture.
        why: Why it cannot be laid so, in plain words; empty where it can.
        reaches: Speed at which it would be long enough, where it is too short and one is.
        then: Frame at which laying goes on: the next empty slot, or where the clip ends.
    """

    first: int
    end: int
    lane: int
    in_s: float
    out_s: float
    speed: float
    missing: int
    why: str
    reaches: float | None
    then: int


@dataclass(frozen=True)
class LayAt:
    """Lay a clip, or a select of it, at a working time in one of the ways there are.

    ``by`` says what of the clip is seen: from its ``head``, up to its ``tail``, about its ``middle``, with its marked
    ``moment`` on the place, or ``fitted``: slowed as far as it needs to be long enough. In its own length it is that part
    which lies on the place, so that a clip laid by its tail ends there.
    """

    working_s: float
    media: str
    way: Way
    unit: Unit = "beat"
    by: By = "head"
    select: int | None = None
    speed: float | None = None
    lane: int | None = None
    op: Literal["lay at"] = "lay at"

    def named(self, context: Context) -> str:
        """Name of the operation for undo."""
        return f"Lay {context.clip(self.media, self.speed, self.select)[1].name}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        place = self.placement(edit, context)
        if place.why:
            raise Refused(place.why)
        clip, known = context.clip(self.media, self.speed, self.select)
        clip = replace(clip, in_s=place.in_s, speed=place.speed)
        if self.way == "into":
            return base.set_source(edit, edit.index_at(place.first), clip)
        if self.way == "over":
            lane = edit.lane(place.lane)
            return lay_over(edit, lane, place.first, place.end, clip, known.out_s, known.name, context.rate)
        if self.way == "front":
            return base.insert(edit, place.first, place.end - place.first, clip, context.rate)
        return base.around_held(edit, place.first, place.end, [Item(place.first, clip)], context.rate)

    def placement(self, edit: Edit, context: Context) -> Placement:
        """Place that it would take.

        Raises:
            BadInput, Refused: no place can be told at all.
        """
        clip, known = context.clip(self.media, self.speed, self.select)
        first, end, at = self._frames(edit, clip, known, context)
        if end <= first:
            raise Refused(f"“{known.name}” is shorter than a frame.")
        why, reaches, frames = "", None, end - first
        try:
            clip = seen(clip, known, frames, self.by, at - first, context)
        except Refused as refused:
            why = str(refused)
        missing = frames_missing(clip, frames, known.out_s, context.rate)
        if missing and not why:
            why, reaches = too_short(known.name, clip, frames, missing)
        why = why or self._in_the_way(edit, first, end)
        lane = lane_for(edit, self.lane).id if self.way == "over" else edit.lanes[0].id
        seconds = float((frames - missing) / context.rate) * clip.speed
        return Placement(
            first, end, lane, clip.in_s, clip.in_s + seconds, clip.speed, missing, why, reaches,
            self._then(edit, first, end),
        )  # fmt: skip

    def _frames(self, edit: Edit, clip: ClipSource, known: Footage, context: Context) -> tuple[int, int, int]:
        """First frame, end, and the frame on which the marked moment would lie."""
        last = edit.length - 1
        if self.way == "into":
            under = min(max(0, frame_at(self.working_s, context.rate)), last)
            index = edit.index_at(under)
            return edit.shots[index].start, edit.end_of(index), under
        if self.way == "end":
            first = _cut_so_far(edit)
            return first, self._until(edit, self._point_before(first, context), None, context), first
        if self.way == "over" and (part := around(edit, frame_at(self.working_s, context.rate))) is not None:
            first = context.frame_around(edit, self.working_s, self.unit, None)
            reach_s = (known.out_s - clip.in_s) / clip.speed
            frames = part - first if self.by == "fitted" else int(reach_s * float(context.rate) + 1e-6)
            return first, max(first + 1, min(part, first + frames)), first
        first = context.frame(edit, self.working_s, self.unit, None)
        here = self.working_s if self.unit == "free" else context.point(self.working_s, self.unit)
        if self.way in ("next", "over"):
            reach = (known.out_s - clip.in_s) / clip.speed
            shortened = reach if self.way == "over" and self.by != "fitted" else None
            return first, max(first + 1, self._until(edit, here, shortened, context)), first
        if known.still:
            frames = self._until(edit, here, None, context) - first
        else:
            frames = int((known.out_s - known.in_s) / clip.speed * float(context.rate) + 1e-6)
        if self.way == "front":
            return first, first + frames, first
        before = {"tail": frames, "middle": frames // 2}.get(self.by, 0)
        if self.by == "moment" and known.moment_s is not None:
            before = round((known.moment_s - known.in_s) / clip.speed * float(context.rate))
        if first < before:
            raise Refused(
                f"“{known.name}” would begin {before - first} frames before the song: lay it by its head."
            )
        return first - before, min(edit.length, first - before + frames), first

    def _until(self, edit: Edit, here: float, reach_s: float | None, context: Context) -> int:
        return min(edit.length, ends_by_itself(here, self.unit, reach_s, context))

    def _point_before(self, first: int, context: Context) -> float:
        """The point after which what begins at a frame ends by itself."""
        grid, cuts = context.need_grid(), context.cuts
        if self.unit == "free":
            return frame_to_seconds(first, context.rate)
        points = grid.points(self.unit, context.others(self.unit))
        before = [p for p in points if cuts.frame_of(p) <= first]
        if self.unit in A_BAR_LONG or len(before) == len(points):
            return cuts.nearest_point(first, grid)
        return before[-1] if before else -1.0

    def _in_the_way(self, edit: Edit, first: int, end: int) -> str:
        if self.way in ("into", "over"):
            return ""
        shots = [(s, edit.end_of(i)) for i, s in enumerate(edit.shots)]
        if self.way != "front":
            held = any(s.held and s.start < end and until > first for s, until in shots)
            return "A held shot lies there: let it go first." if held else ""
        return _cannot_move_on(edit, first, end - first)

    def _then(self, edit: Edit, first: int, end: int) -> int:
        if self.way == "into":
            slots = [s.start for s in edit.shots if s.start > first and isinstance(s.source, Empty)]
            if slots:
                return slots[0]
        return min(end, edit.length - 1)


def _cut_so_far(edit: Edit) -> int:
    """Frame at which the empty rest of a song begins.

    Raises:
        Refused: it is cut to its end.
    """
    first = edit.length
    for index in reversed(range(len(edit.shots))):
        if not isinstance(edit.shots[index].source, Empty):
            break
        first = edit.shots[index].start
    if first == edit.length:
        raise Refused("The song is cut to its end already.")
    return first


def _cannot_move_on(edit: Edit, first: int, frames: int) -> str:
    """Reason that what lies from a frame on cannot move on by so many frames; empty where it can."""
    for lane in edit.lanes:
        for item, end in edit.placed([lane]):
            # What lies after the song stays there.
            if end <= first or (lane.kind.gaps and not first <= item.start < edit.length):
                continue
            if isinstance(item.source, AngleSource):
                return "An angle comes after that: its lips would leave the song. Lay the clip over it instead, or into its shot."
            if item.held:
                return "A held shot comes after that: let it go first."
            if end + frames > edit.length and lane.kind.gaps:
                return f"What lies on “{lane.name}” would run out of the song."
    rest = edit.shots[edit.index_at(max(0, edit.length - frames)) :]
    if any(not isinstance(s.source, Empty) for s in rest):
        return f"The last {frames} frames of the song are cut: what is there would fall out. Take something out first."
    return ""
