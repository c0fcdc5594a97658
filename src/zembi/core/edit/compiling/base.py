"""Compile the base lane: shots, and how each comes in over the one before it."""

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache
from itertools import chain

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.treated import item_spans
from zembi.core.edit.compiling.weaving import Woven, tints_of
from zembi.core.edit.model import Edit, Item, Lane
from zembi.core.errors import ZembiError
from zembi.core.memory import each_by_identity
from zembi.core.picture.chain import PLAIN, Chain, later
from zembi.core.programme.model import Black, Span, Why, trimmed
from zembi.core.treatments.model import TRANSITIONS, Transition
from zembi.core.treatments.transitions import Crossing, around_cut, crossing


def compile_base(lane: Lane, edit: Edit, _beneath: Sequence[Woven], material: Material) -> Woven:
    """Spans of the shots, transitions reaching over their cuts; they act once all else is done to the pictures."""
    woven = Woven(lane.name, "Colours", finish=lambda spans: _crossed(spans, edit, material))
    placed = edit.placed([lane])
    reach = [_reach(edit, i, material) if s.treatments else (0, 0) for i, (s, _) in enumerate(placed)]
    ends, before, after = [end for _, end in placed], [b for b, _ in reach], [a for _, a in reach[1:]]
    shown = _shots_spans(lane.items, material, lane.kind.name, beside=(ends, before, [*after, 0]))
    for shot, end in placed:
        if shot.treatments:
            woven.tints += tints_of(shot, end, material, lane.kind.name)
    # Before and after the song the film is black where nothing lies over it.
    head, tail = (
        [_black(edit.first, 0)] if edit.lead else [],
        [_black(edit.length, edit.end)] if edit.tail else [],
    )
    woven.spans += head
    if not any(before) and not any(after):
        woven.spans += [*chain.from_iterable(shown), *tail]
        return woven
    below: Sequence[Span] = ()
    for spans, early in zip(shown, before, strict=True):
        over = tuple(_later_over(below, spans, material.rate)) if early else spans
        woven.spans += over
        below = over
    woven.spans += tail
    woven.spans.sort(key=lambda s: s.start)
    return woven


@lru_cache(maxsize=64)
def _black(first: int, end: int) -> Span:
    return Span(first, end, Black(), why=Why("around", first))


_shots_spans = each_by_identity(8)(item_spans)


def transition_of(item: Item, material: Material) -> tuple[Transition, int, int] | None:
    """The transition by which a shot comes in over the one before it, and its frames before and after the cut."""
    found: list[Transition] = [t for t in item.treatments if isinstance(t, TRANSITIONS) and not t.off]  # type: ignore[misc]
    if not found:
        return None
    return found[-1], *around_cut(
        found[-1].over, found[-1].place, material.ground(item.start, item.start + 1)
    )


def transition_room(edit: Edit, index: int, material: Material) -> tuple[int, int]:
    """Most frames that a shot's transition may take before and after its cut.

    It stays inside its two shots and begins once that of the shot before has ended, so that at most two shots share a
    frame.
    """
    if not index:
        return 0, 0
    before, shot = edit.shots[index - 1], edit.shots[index]
    length = shot.start - before.start
    coming = transition_of(before, material) if before.treatments and index > 1 else None
    taken = min(coming[2], length) if coming else 0
    return max(0, length - max(1, taken)), edit.end_of(index) - shot.start


def _reach(edit: Edit, index: int, material: Material) -> tuple[int, int]:
    """Reach of a shot's transition before and after its cut, in frames: never beyond the room there is now."""
    found = transition_of(edit.shots[index], material) if index else None
    if found is None:
        return 0, 0
    room = transition_room(edit, index, material)
    return min(found[1], room[0]), min(found[2], room[1])


def _crossed(base: list[Span], edit: Edit, material: Material) -> list[Span]:
    """The base lane with how its shots come and go; that is the last that is done to their pictures."""
    coming, going = dict[int, tuple[int, Chain]](), dict[int, tuple[int, Chain]]()
    for index, shot in enumerate(edit.shots):
        if not shot.treatments:
            continue
        found = transition_of(shot, material)
        before, after = _reach(edit, index, material) if found else (0, 0)
        if found and before + after:
            first = shot.start - before
            done = _together(found[0], first, shot.start + after, material)
            coming[shot.start], going[edit.shots[index - 1].start] = (first, done.coming), (first, done.going)
    if not coming:
        return base
    out = []
    for span in base:
        # In a passage with a time of its own it has come in already.
        why = span.why if span.why is not None and span.why.kind == "base" else None
        for of in (going, coming) if why else ():
            first, chain = of.get(why.at, (0, PLAIN)) if why else (0, PLAIN)
            if chain:
                span = replace(span, chain=span.chain + later(chain, span.start - first))
        out.append(span)
    return out


def _together(transition: Transition, first: int, end: int, material: Material) -> Crossing:
    """Crossing of two pictures; by a hard cut where that cannot be worked out any more, which the checks name."""
    try:
        return crossing(transition, material.ground(first, end))
    except ZembiError:
        return Crossing(PLAIN, PLAIN)


def _later_over(below: Sequence[Span], spans: tuple[Span, ...], rate: Fraction) -> list[Span]:
    """The spans parted where one of those beneath begins, so that in order of start they still lie over it."""
    out = []
    for span in spans:
        edges = sorted({s.start for s in below if span.start < s.start < span.end})
        for a, b in zip([span.start, *edges], [*edges, span.end], strict=True):
            out.append(trimmed(span, a, b, rate))
    return out
