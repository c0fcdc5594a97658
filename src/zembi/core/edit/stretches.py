"""Stretches of clips that are free for a slot: long enough, shown nowhere else, the best there is."""

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.edit.items import frames_missing
from zembi.core.edit.model import ClipSource
from zembi.core.footage.look import Look
from zembi.core.footage.measure import EVERY_S

#: Seconds left between stretches of one clip where there is room: one that goes on where another ended looks the same.
_GAP_S = 0.5
#: Seconds between the places that are tried for a stretch.
_STEP_S = 0.25
#: Shorter leftovers, in seconds, are of no use.
_LEAST_S = 0.02

Range = tuple[float, float]


@dataclass(frozen=True)
class Clip:
    """A clip, or a select of one, to fill with.

    Attributes:
        media, name: Its file, and what to call it.
        ranges: Parts of the file that may be shown, in seconds, ascending; none runs over a cut within the file.
        speed: At which it is laid.
        tags: What it is tagged with, in lower case.
        moves: How much moves in it against the others, 0 (the stillest) to 1; None where nothing is known.
        light: How light it is against the others, likewise.
        look: Where it was measured.
        worth: Value of each moment of the file, :data:`~zembi.core.footage.measure.EVERY_S` apart, 0 to 1; empty where
            nothing was measured.
        still: Whether it is one picture, which is the same wherever it is entered.
        rest: Whether something else was kept of the same file.
    """

    media: str
    name: str
    ranges: tuple[Range, ...]
    speed: float = 1.0
    tags: frozenset[str] = frozenset()
    moves: float | None = None
    light: float | None = None
    look: Look | None = None
    worth: tuple[float, ...] = ()
    still: bool = False
    rest: bool = False

    @property
    def seconds(self) -> float:
        """Seconds for which it can be seen at its speed."""
        return sum(b - a for a, b in self.ranges) / self.speed


def parted(range_: Range, cuts: Iterable[float]) -> tuple[Range, ...]:
    """A range, parted at the cuts that lie in it."""
    start, end = range_
    edges = [start, *sorted(c for c in cuts if start < c < end), end]
    return tuple((a, b) for a, b in itertools.pairwise(edges) if b - a > _LEAST_S)


def shown_of(source: ClipSource, frames: int, rate: Fraction) -> Range:
    """The part of its file that a clip shows in so many frames."""
    return source.in_s, source.in_s + float(frames / rate) * source.speed


def free_parts(clip: Clip, shown: Sequence[Range], gap_s: float = 0.0) -> list[Range]:
    """Parts of a clip of which nothing is shown yet, so far from what is."""
    if clip.still:
        return [] if shown else list(clip.ranges)
    out = []
    for start, end in clip.ranges:
        at = start
        for a, b in sorted(shown):
            if a - gap_s >= end or b + gap_s <= at:
                continue
            out.append((at, a - gap_s))
            at = max(at, b + gap_s)
        out.append((at, end))
    return [(a, b) for a, b in out if b - a > _LEAST_S]


def frames_of(clip: Clip, range_: Range, rate: Fraction) -> int:
    """Number of programme frames that a part of a clip lasts at its speed."""
    return int((range_[1] - range_[0]) / clip.speed * float(rate) + 1e-6)


def stretch(
    clip: Clip, frames: int, shown: Sequence[Range], rate: Fraction, *, tightly: bool = False
) -> ClipSource | None:
    """The stretch of a clip that a slot shows best; None where none that is free is long enough.

    Args:
        clip: The clip.
        frames: Of the slot.
        shown: What is shown of its file already.
        rate: Programme rate.
        tightly: Whether as much as can be has to be left for other slots, rather than the best be shown.
    """
    seconds = float(frames / rate) * clip.speed
    for gap_s in (0.0,) if tightly else (_GAP_S, 0.0):
        fitting = [r for r in free_parts(clip, shown, gap_s) if _fits(clip, r, frames, rate)]
        if not fitting:
            continue
        if tightly:
            start, _ = min(fitting, key=lambda r: r[1] - r[0])
            return ClipSource(clip.media, start, clip.speed)
        start = max(
            (at for r in fitting for at in _places(r, seconds)),
            key=lambda at: (_worth(clip, at, seconds), -at),
        )
        return ClipSource(clip.media, start, clip.speed)
    return None


def _fits(clip: Clip, range_: Range, frames: int, rate: Fraction) -> bool:
    return not frames_missing(ClipSource(clip.media, range_[0], clip.speed), frames, range_[1], rate)


def _places(range_: Range, seconds: float) -> list[float]:
    """Places at which so many seconds may begin, the first and the last there are among them."""
    start, room = range_[0], range_[1] - range_[0] - seconds
    if room <= 0:
        return [start]
    return [*(start + _STEP_S * k for k in range(int(room / _STEP_S) + 1)), start + room]


def _worth(clip: Clip, start_s: float, seconds: float) -> float:
    """Mean worth of a stretch, to a thousandth, so that what is alike is taken from the front."""
    first, end = start_s / EVERY_S, (start_s + seconds) / EVERY_S
    inside = clip.worth[int(first) : max(int(first) + 1, round(end))]
    return round(sum(inside) / len(inside), 3) if inside else 0.0
