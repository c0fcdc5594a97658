"""Titles that follow lines of the lyrics: a line that is moved or corrected moves and corrects its title."""

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction

from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import CardSource, Edit, Item, Lane
from zembi.core.edit.operations.context import SungLine
from zembi.core.timebase import seconds_to_frame
from zembi.core.titles.lyric import broken_line
from zembi.core.titles.presets import worded

Lines = Mapping[int, SungLine]


def followed(edit: Edit, before: Lines, after: Lines, now: Mapping[int, int], rate: Fraction) -> Edit:
    """The edit after its song's lyrics changed.

    A title keeps the leads that it has before and after its line, its place and its letters, and words that were changed by
    hand. It gives way to the title after it. One whose line is gone stays, and follows none.

    Args:
        edit: The edit.
        before: Timed lines by id as they were.
        after: Timed lines by id as they are.
        now: The id that each line that is still there has now, by the one it had.
        rate: Programme rate.
    """
    out = edit
    for lane in edit.of_kind(TITLES):
        items = [_one(item, edit, before, after, now, rate) for item in lane.items]
        if items != list(lane.items) or any(
            a.source != b.source for a, b in zip(items, lane.items, strict=True)
        ):
            out = out.with_items(lane, _apart(items, lane))
    return out


def _one(item: Item, edit: Edit, before: Lines, after: Lines, now: Mapping[int, int], rate: Fraction) -> Item:
    source = item.source
    if not isinstance(source, CardSource) or source.line is None:
        return item
    line = now.get(source.line)
    was, here = before.get(source.line), after.get(line) if line is not None else None
    if was is None or here is None:
        return replace(item, source=replace(source, line=line))
    start = item.start + seconds_to_frame(here.start_s, rate) - seconds_to_frame(was.start_s, rate)
    end = (item.end or edit.length) + seconds_to_frame(here.end_s, rate) - seconds_to_frame(was.end_s, rate)
    start = max(edit.first, min(start, edit.length - 1))
    card = source.card
    if here.text != was.text and card.text.split() == was.text.split():
        longest = max(max(len(part.text) for part in card.lines), 24)
        card = worded(card, *broken_line(here.text, longest))
    return replace(
        item,
        start=start,
        end=max(start + 1, min(end, edit.end)),
        source=replace(source, card=card, line=line),
    )


def _apart(items: list[Item], lane: Lane) -> list[Item]:
    """Titles of a lane in order, each ended where the next begins; where two begin together, those that moved stay where they were."""
    ordered = sorted(items, key=lambda i: i.start)
    starts = [i.start for i in ordered]
    if len(set(starts)) < len(starts):
        old = {i.id: i for i in lane.items}
        return [replace(i, start=old[i.id].start, end=old[i.id].end) for i in items]
    out = []
    for n, item in enumerate(ordered):
        following = ordered[n + 1].start if n + 1 < len(ordered) else None
        out.append(
            item
            if following is None or item.end is None or item.end <= following
            else replace(item, end=following)
        )
    return out
