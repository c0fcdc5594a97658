"""Compile a lane of treated ranges: treatments of everything that lies beneath, whatever is cut there."""

from collections.abc import Sequence
from dataclasses import replace

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.retiming import lane_through, outside
from zembi.core.edit.compiling.treated import worked
from zembi.core.edit.compiling.weaving import Woven, tints_of
from zembi.core.edit.model import Edit, Item, Lane
from zembi.core.programme.curves import AS_IT_IS, PLAIN, Curves
from zembi.core.programme.model import Hole, Span, trimmed


def compile_ranges(lane: Lane, edit: Edit, beneath: Sequence[Woven], material: Material) -> Woven:
    """Change the lanes beneath: first the time of every range, then what is done to pictures; its colours lie over all."""
    woven = Woven(lane.name, "Colours over all")
    # Where ranges overlap they act in the order in which they were laid.
    placed = sorted(edit.placed([lane]), key=lambda pair: pair[0].id)
    for item, end in placed:
        if worked(item, end, material).time is not None:
            for below in beneath:
                below.spans = _retimed(below, item, end, edit.length, material)
    for item, end in placed:
        curves = worked(item, end, material).curves
        woven.tints += tints_of(item, end, material, lane.kind.name)
        if curves != PLAIN:
            for below in beneath:
                below.spans = _seen_through(below.spans, item.start, end, curves, material)
    return woven


def _retimed(below: Woven, item: Item, end: int, length: int, material: Material) -> list[Span]:
    """Spans of a lane whose pictures in a range are those of another time."""
    done = worked(item, end, material)
    assert done.time is not None
    shown = below.finish(below.spans)
    before, after = outside(below.spans, item.start, end, material.rate)
    return [*before, *lane_through(shown, item.start, done.time, length, material.rate, done.blend), *after]


def _seen_through(lane: list[Span], first: int, end: int, curves: Curves, material: Material) -> list[Span]:
    """A lane whose pictures in a range are seen through curves; parted at its ends only where these do something there."""
    quiet = all(curves.at(k, material.aspect) == AS_IT_IS for k in (-1, end - first))
    out = []
    for span in lane:
        inside = span.end > first and span.start < end
        if not inside or isinstance(span.content, Hole):
            out.append(span)
            continue
        edges = [] if quiet else [e for e in (first, end) if span.start < e < span.end]
        for a, b in zip([span.start, *edges], [*edges, span.end], strict=True):
            part = trimmed(span, a, b, material.rate)
            if quiet or first <= a < end:
                part = replace(part, curves=part.curves.through(curves.later(a - first)))
            out.append(part)
    return out
