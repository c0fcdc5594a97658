"""Compile a lane of treated ranges: treatments of everything that lies beneath, whatever is cut there."""

from collections.abc import Sequence
from dataclasses import replace

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.retiming import lane_through, outside
from zembi.core.edit.compiling.treated import worked
from zembi.core.edit.compiling.weaving import Woven, tints_of
from zembi.core.edit.model import Edit, Item, Lane
from zembi.core.picture.chain import Chain, acts_at, later
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
        chain = worked(item, end, material).chain
        woven.tints += tints_of(item, end, material, lane.kind.name)
        if chain:
            for below in beneath:
                below.spans = _seen_through(below.spans, item.start, end, chain, material)
    return woven


def _retimed(below: Woven, item: Item, end: int, length: int, material: Material) -> list[Span]:
    """Spans of a lane whose pictures in a range are those of another time."""
    done = worked(item, end, material)
    assert done.time is not None
    shown = below.finish(below.spans)
    before, after = outside(below.spans, item.start, end, material.rate)
    return [*before, *lane_through(shown, item.start, done.time, length, material.rate, done.blend), *after]


def _seen_through(lane: list[Span], first: int, end: int, chain: Chain, material: Material) -> list[Span]:
    """A lane whose pictures in a range are seen through a chain; parted at its ends only where these do something there."""
    quiet = not any(acts_at(chain, k, material.aspect) for k in (-1, end - first))
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
                part = replace(part, chain=part.chain + later(chain, a - first))
            out.append(part)
    return out
