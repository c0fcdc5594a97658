"""What is on screen: runs of programme frames with the media they show. Preview, render and exports share it."""

from bisect import bisect_right
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from zembi.core.timebase import frames_on_display


@dataclass(frozen=True)
class Span:
    """Programme frames ``start`` (inclusive) to ``end`` (exclusive) showing one stretch of one file.

    The media time on display in frame *n* is ``in_s + speed * (n - start + 1/2) / rate``, counted from the
    file's first picture frame. ``media`` None is black.
    """

    start: int
    end: int
    media: str | None
    in_s: float = 0.0
    speed: float = 1.0
    label: str = ""

    @property
    def frames(self) -> int:
        """Length in frames."""
        return self.end - self.start


def media_times(span: Span, rate: Fraction) -> NDArray[np.float64]:
    """Media time at the middle of each of the span's frames, shape (frames,)."""
    middles = (np.arange(span.frames) * 2 + 1) * float(Fraction(1, 2) / rate)
    return np.asarray(span.in_s + span.speed * middles)


def source_frames(span: Span, rate: Fraction, times: NDArray[np.float64]) -> NDArray[np.int64]:
    """Index of the source frame shown in each of the span's frames.

    Args:
        span: A span with media.
        rate: Programme rate.
        times: The file's presentation times from its first frame, ascending.
    """
    return frames_on_display(times, media_times(span, rate))


def trimmed(span: Span, start: int, end: int, rate: Fraction) -> Span:
    """The part of a span inside ``start`` to ``end``; the picture in each frame stays the same."""
    first, last = max(start, span.start), min(end, span.end)
    into = (first - span.start) * rate.denominator / rate.numerator
    return replace(span, start=first, end=last, in_s=span.in_s + span.speed * into)


def overlaid(base: list[Span], over: list[Span], rate: Fraction) -> list[Span]:
    """Lay ``over`` on ``base``; where an upper span is black (no media) what is underneath shows."""
    cover = [s for s in sorted(over, key=lambda s: s.start) if s.media is not None]
    if not cover:
        return list(base)
    out: list[Span] = []
    ends = [top.end for top in cover]
    for span in base:
        at = span.start
        # Upper spans do not overlap: those that end before this one begins are passed over.
        for top in cover[bisect_right(ends, at) :]:
            if top.start >= span.end:
                break
            if top.start > at:
                out.append(trimmed(span, at, top.start, rate))
            at = min(span.end, max(at, top.end))
        if at < span.end:
            out.append(span if at == span.start else trimmed(span, at, span.end, rate))
    return sorted([*out, *cover], key=lambda s: s.start)
