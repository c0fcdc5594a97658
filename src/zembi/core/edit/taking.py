"""Taking over a passage of another version of the cut."""

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from zembi.core.edit.items import head_of, part_of
from zembi.core.edit.model import Edit, Item, Lane, checked
from zembi.core.errors import BadInput


def taken_over(edit: Edit, other: Edit, first: int, end: int, rate: Fraction) -> Edit:
    """The edit with frames ``first`` to ``end`` (exclusive) as another version has them.

    On the base lane shots are cut at both ends of the passage; on other lanes what begins in it is taken whole, and takes the
    place of what it would lie on. All frames together give the other version.

    Args:
        edit, other: Versions of one song.
        first, end: The passage; what lies before and after the song is taken with all of it.
        rate: Programme rate.

    Raises:
        BadInput: the passage is empty, or the versions are not of one length.
    """
    if edit.length != other.length:
        raise BadInput(
            "The two versions are of songs of another length: what is left out of the song differs."
        )
    if first <= min(edit.first, other.first, 0) and end >= max(edit.end, other.end, edit.length):
        lanes = [replace(lane, id=0, items=_anew(lane.items)) for lane in other.lanes]
        return checked(replace(other, lanes=tuple(lanes), fresh=max(edit.fresh, other.fresh)))
    first, end = max(edit.first, first), min(edit.end, end)
    if first >= end:
        raise BadInput("The passage is empty.")
    lanes = []
    for lane in edit.lanes:
        theirs = _counterpart(lane, edit, other)
        lanes.append(_taken_lane(lane, theirs, edit, other, first, end, rate))
    for lane in other.lanes:
        if _counterpart(lane, other, edit) is None:
            items = [i for i in lane.items if first <= i.start < end]
            if items:
                lanes.append(replace(lane, id=0, items=_anew(items)))
    return checked(replace(edit, lanes=tuple(lanes)))


def _anew(items: Sequence[Item]) -> tuple[Item, ...]:
    """The same items with ids still to be given."""
    return tuple(replace(i, id=0) for i in items)


def _counterpart(lane: Lane, of: Edit, other: Edit) -> Lane | None:
    """The lane of another version with the kind of one and its number among those of that kind."""
    number = [one.id for one in of.of_kind(lane.kind)].index(lane.id)
    alike = other.of_kind(lane.kind)
    return alike[number] if number < len(alike) else None


def _taken_lane(
    lane: Lane, theirs: Lane | None, edit: Edit, other: Edit, first: int, end: int, rate: Fraction
) -> Lane:
    if lane.kind.gaps:
        new = _anew([i for i in theirs.items if first <= i.start < end]) if theirs else ()
        stays = [
            i
            for i in lane.items
            if not first <= i.start < end
            and (lane.kind.overlap or not any(i.start < n.end and n.start < i.end for n in new))  # type: ignore[operator]
        ]
        return replace(lane, items=tuple(sorted([*stays, *new], key=lambda i: i.start)))
    assert theirs is not None
    mine, given = edit.placed([lane]), other.placed([theirs])
    before = [head_of(i, e) if e > first else i for i, e in mine if i.start < first]
    inside = [_clipped(i, e, first, end, rate) for i, e in given if i.start < end and e > first]
    # A shot that goes on behind the passage is split: its tail gets an id of its own.
    after = [part_of(i, end, e, rate) if i.start < end else i for i, e in mine if e > end]
    return replace(lane, items=(*before, *_anew(inside), *after))


def _clipped(item: Item, ends: int, first: int, end: int, rate: Fraction) -> Item:
    """An item from ``first`` at the earliest; where it ends sooner than it did, what it was meant for is kept."""
    kept = head_of(item, ends) if ends > end else item
    return part_of(kept, first, ends, rate) if item.start < first else kept
