"""The time of a passage: what its pictures show when the whole of them is slowed, turned back or shown again."""

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import Refused
from zembi.core.picture.chain import Chain, later
from zembi.core.picture.curves import Curve, Key
from zembi.core.programme.model import InBetween, Span, Why, trimmed
from zembi.core.timebase import ON_TIME
from zembi.core.timemap import NO_TIME, Piece, TimeMap


def lane_through(
    lane: Sequence[Span], first: int, seen: TimeMap, length: int, rate: Fraction, blend: InBetween = ""
) -> list[Span]:
    """Spans of a lane from frame ``first`` on, seen through a map of programme time.

    Args:
        lane: Spans in order of their start; two may overlap, the later over the earlier.
        first: Programme frame at which the passage begins.
        seen: Its time, in seconds from there; it may lead out of the passage.
        length: Frames of the programme: what leads out of that shows its first or last frame.
        rate: Programme rate.
        blend: How frames in between are made, where it is not said already.
    """
    wanted = np.floor(seen.times(rate) * float(rate) + ON_TIME).astype(int) + first
    frames = np.clip(wanted, 0, length - 1)
    edges = sorted({e for s in lane for e in (s.start, s.end)})
    between = 2 * np.searchsorted(edges, frames, side="right") + (wanted != frames)
    starts = [0, *(np.nonzero(np.diff(between))[0] + 1).tolist(), len(frames)]
    out = []
    for a, b in pairwise(starts):
        shown = frames[a:b]
        for span in lane:
            if span.start <= shown[0] < span.end:
                if span.media is None:
                    time = NO_TIME
                elif wanted[a] != shown[0]:
                    time = _held(span, shown - span.start, rate)
                else:
                    time = _time(span, seen, first, a, b, rate)
                why = Why("ranges", span.why.at, span.why.item) if span.why else None
                out.append(
                    Span(
                        first + a,
                        first + b,
                        span.content,
                        time,
                        _steps(span.chain, shown - span.start),
                        why,
                        span.blend or (blend if span.media is not None else ""),
                    )
                )
    return out


def outside(lane: Sequence[Span], first: int, end: int, rate: Fraction) -> tuple[list[Span], list[Span]]:
    """The parts of a lane before and after a passage."""
    before = [trimmed(s, s.start, min(s.end, first), rate) for s in lane if s.start < first]
    return before, [trimmed(s, max(s.start, end), s.end, rate) for s in lane if s.end > end]


def _time(span: Span, seen: TimeMap, first: int, a: int, b: int, rate: Fraction) -> TimeMap:
    """The media time of a span in frames ``a`` to ``b`` of a passage."""
    begins = (span.start - first) * rate.denominator / rate.numerator
    moved = TimeMap(tuple(replace(p, at_s=p.at_s - begins) for p in seen.cut(a, b, rate).pieces))
    try:
        return span.time.through(moved, rate)
    except Refused:
        # A ramp through a ramp has no pieces of its own.
        return _held(span, np.floor(moved.times(rate) * float(rate) + ON_TIME).astype(int), rate)


def _held(span: Span, frames: NDArray[np.int_], rate: Fraction) -> TimeMap:
    """The media time of frames of a span, one by one."""
    times = span.time.times(rate)[np.clip(frames, 0, span.frames - 1)]
    return TimeMap(tuple(Piece(1, float(t), 0.0, 0.0) for t in times))


def _steps(chain: Chain, frames: NDArray[np.int_]) -> Chain:
    """A chain as it is in frames of its span, in this order."""
    if not chain:
        return chain
    if len(frames) == 1 or set(np.diff(frames).tolist()) == {1}:
        return later(chain, int(frames[0]))

    def reordered(curve: Curve) -> Curve:
        if len({k.value for k in curve.keys}) == 1:
            return curve
        values = enumerate(curve.at(int(f)) for f in frames)
        runs = (next(same) for _, same in groupby(values, key=lambda item: item[1]))
        return Curve(tuple(Key(k, value, "hold") for k, value in runs))

    return tuple(step.changed(reordered) for step in chain)
