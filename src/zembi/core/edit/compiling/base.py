"""Compile the base lane: shots, and how each comes in over the one before it."""

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import chain

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.treated import item_spans
from zembi.core.edit.compiling.weaving import Woven, tints_of
from zembi.core.edit.model import Edit, Item, Lane
from zembi.core.memory import each_by_identity
from zembi.core.picture.chain import PLAIN, Chain, later
from zembi.core.programme.model import Span, trimmed
from zembi.core.treatments.colours import around_cut, coming_in
from zembi.core.treatments.model import Dissolve


def compile_base(lane: Lane, edit: Edit, _beneath: Sequence[Woven], material: Material) -> Woven:
    """Spans of the shots, dissolves reaching over their cuts; they become opacity once all else is done to the pictures."""
    woven = Woven(lane.name, "Colours", finish=lambda spans: _dissolved(spans, edit, material))
    placed = edit.placed([lane])
    reach = [_reach(edit, i, material) if s.treatments else (0, 0) for i, (s, _) in enumerate(placed)]
    ends, before, after = [end for _, end in placed], [b for b, _ in reach], [a for _, a in reach[1:]]
    shown = _shots_spans(lane.items, material, lane.kind.name, beside=(ends, before, [*after, 0]))
    for shot, end in placed:
        if shot.treatments:
            woven.tints += tints_of(shot, end, material, lane.kind.name)
    if not any(before) and not any(after):
        woven.spans += chain.from_iterable(shown)
        return woven
    below: Sequence[Span] = ()
    for spans, early in zip(shown, before, strict=True):
        over = tuple(_later_over(below, spans, material.rate)) if early else spans
        woven.spans += over
        below = over
    woven.spans.sort(key=lambda s: s.start)
    return woven


_shots_spans = each_by_identity(8)(item_spans)


def dissolve_of(item: Item, material: Material) -> tuple[Dissolve, int, int] | None:
    """The dissolve by which a shot comes in over the one before it, and its frames before and after the cut."""
    found = [t for t in item.treatments if isinstance(t, Dissolve) and not t.off]
    if not found:
        return None
    return found[-1], *around_cut(
        found[-1].over, found[-1].place, material.ground(item.start, item.start + 1)
    )


def dissolve_room(edit: Edit, index: int, material: Material) -> tuple[int, int]:
    """Most frames that a shot's dissolve may take before and after its cut.

    It stays inside its two shots and begins once that of the shot before has ended, so that at most two shots share a
    frame.
    """
    if not index:
        return 0, 0
    before, shot = edit.shots[index - 1], edit.shots[index]
    length = shot.start - before.start
    coming = dissolve_of(before, material) if before.treatments and index > 1 else None
    taken = min(coming[2], length) if coming else 0
    return max(0, length - max(1, taken)), edit.end_of(index) - shot.start


def _reach(edit: Edit, index: int, material: Material) -> tuple[int, int]:
    """Reach of a shot's dissolve before and after its cut, in frames: never beyond the room there is now."""
    dissolve = dissolve_of(edit.shots[index], material) if index else None
    if dissolve is None:
        return 0, 0
    room = dissolve_room(edit, index, material)
    return min(dissolve[1], room[0]), min(dissolve[2], room[1])


def _dissolved(base: list[Span], edit: Edit, material: Material) -> list[Span]:
    """The base lane with what comes in over the shot before it; how it does is the last that is done to its picture."""
    coming: dict[int, tuple[int, Chain]] = {}
    for index, shot in enumerate(edit.shots):
        if not shot.treatments:
            continue
        dissolve = dissolve_of(shot, material)
        before, after = _reach(edit, index, material) if dissolve else (0, 0)
        if dissolve and before + after:
            coming[shot.start] = shot.start - before, coming_in(dissolve[0], before, after)
    if not coming:
        return base
    out = []
    for span in base:
        # In a passage with a time of its own it has come in already.
        own = span.why is not None and span.why.kind == "base"
        first, comes = coming.get(span.why.at, (0, PLAIN)) if span.why and own else (0, PLAIN)
        out.append(replace(span, chain=span.chain + later(comes, span.start - first)) if comes else span)
    return out


def _later_over(below: Sequence[Span], spans: tuple[Span, ...], rate: Fraction) -> list[Span]:
    """The spans parted where one of those beneath begins, so that in order of start they still lie over it."""
    out = []
    for span in spans:
        edges = sorted({s.start for s in below if span.start < s.start < span.end})
        for a, b in zip([span.start, *edges], [*edges, span.end], strict=True):
            out.append(trimmed(span, a, b, rate))
    return out
