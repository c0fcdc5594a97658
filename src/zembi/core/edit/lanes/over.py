"""The lanes laid over the base: clips and angles with gaps between them, none overlapping another of its lane."""

from dataclasses import replace
from fractions import Fraction

from zembi.core.edit.items import check_long_enough, head_of, part_of
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Edit, Item, Lane, LaneKind
from zembi.core.errors import Refused

OVER = LaneKind(
    "over",
    "Cutaways",
    (AngleSource, ClipSource, BlackSource),
    named="cutaway",
    meets="Two cutaways cannot overlap.",
)


def lay_over(
    edit: Edit,
    lane: Lane,
    start: int,
    end: int,
    clip: ClipSource,
    clip_end_s: float,
    name: str,
    rate: Fraction,
) -> Edit:
    """Lay a clip on a lane; what of that lane lies underneath gives way.

    Raises:
        Refused: outside the film, or the clip is too short (with the number of frames missing).
    """
    if not edit.first <= start < edit.end:
        raise Refused(f"Frame {start} lies outside the film ({edit.first} to {edit.end - 1}).")
    if end <= start:
        raise Refused("A cutaway is at least one frame long.")
    end = min(end, edit.end)
    check_long_enough(name, clip, end - start, clip_end_s, rate)
    kept: list[Item] = []
    for item in lane.items:
        until = edit.length if item.end is None else item.end
        if item.start < start:
            kept.append(replace(head_of(item, until) if until > end else item, end=min(until, start)))
        if until > end:
            kept.append(part_of(item, max(item.start, end), until, rate))
    return edit.with_items(lane, [*kept, Item(start, clip, end)])
