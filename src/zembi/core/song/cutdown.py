"""The cutdown: part of the song left out, joined on beats; its two-way map of times and its sound."""

from bisect import bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import Refused
from zembi.core.picture.curves import Shape as CurveShape
from zembi.core.picture.curves import shaped

#: Length of the crossfade that ends at each join, so that the stroke after it stays whole.
CROSSFADE_S = 0.02
#: Least length of what is kept or left out.
LEAST_S = 0.25

Samples = NDArray[np.float32]
Shape = Literal["even", "smooth", "slow"]
#: Shapes of the song's fades, each with the shape of curve that it is.
CURVES: dict[Shape, CurveShape] = {"even": "straight", "smooth": "smooth", "slow": "slow start"}
SHAPES: tuple[Shape, ...] = tuple(CURVES)


@dataclass(frozen=True)
class SongMap:
    """Two clocks: the song's own, and that of what is kept of it, the working song.

    Attributes:
        kept: Song ranges that stay, ascending, not touching. With the whole song kept both clocks agree.
    """

    kept: tuple[tuple[float, float], ...]

    @cached_property
    def starts(self) -> tuple[float, ...]:
        """Working time at which each kept range starts."""
        out = [0.0]
        for a, b in self.kept[:-1]:
            out.append(out[-1] + b - a)
        return tuple(out)

    @property
    def seconds(self) -> float:
        """Length of the working song."""
        return sum(b - a for a, b in self.kept)

    @property
    def joins(self) -> tuple[float, ...]:
        """Working times of the joins."""
        return self.starts[1:]

    def holds(self, song_s: float) -> bool:
        """True if a song time is kept."""
        return any(a <= song_s < b for a, b in self.kept)

    def to_working(self, song_s: float) -> float:
        """Working time of a song time; what is left out falls on its join."""
        for (a, b), start in zip(self.kept, self.starts, strict=True):
            if song_s < b:
                return start + max(0.0, song_s - a)
        return self.seconds

    def to_song(self, working_s: float) -> float:
        """Song time of a working time."""
        k = min(max(bisect_right(self.starts, working_s) - 1, 0), len(self.kept) - 1)
        return self.kept[k][0] + working_s - self.starts[k]

    def pieces(self, start_s: float, end_s: float) -> list[tuple[float, float, float]]:
        """Kept pieces of a song range: (song start, song end, working start) of each piece."""
        out = []
        for (a, b), at in zip(self.kept, self.starts, strict=True):
            low, high = max(a, start_s), min(b, end_s)
            if high > low:
                out.append((low, high, at + low - a))
        return out

    def open_ended(self) -> "SongMap":
        """The same map going on past its end: the film's last frame may reach beyond it by half a frame."""
        last = self.kept[-1]
        return SongMap((*self.kept[:-1], (last[0], last[1] + 1.0)))


def song_map(left_out: Iterable[tuple[float, float]], duration_s: float) -> SongMap:
    """The map for a song of a length with ranges left out (in any order, they may overlap).

    Raises:
        Refused: nothing would be left.
    """
    kept, at = [], 0.0
    for a, b in merged(left_out):
        if a - at >= LEAST_S:
            kept.append((at, a))
        at = b
    if duration_s - at >= LEAST_S:
        kept.append((at, duration_s))
    if not kept:
        raise Refused("Nothing of the song would be left.")
    return SongMap(tuple(kept))


def merged(left_out: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    """Ranges left out, ascending, those that touch made one."""
    out: list[tuple[float, float]] = []
    for a, b in sorted(left_out):
        if out and a <= out[-1][1] + LEAST_S:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((a, b))
    return out


def fade_curve(share: NDArray[np.float64], shape: Shape) -> NDArray[np.float64]:
    """Gain of a fade-in at a share 0..1 of its length: "even" is straight, "smooth" eases, "slow" starts late."""
    return shaped(CURVES[shape], np.clip(share, 0.0, 1.0))


#: Most that the song is made louder or softer in the film, in dB.
MOST_GAIN_DB = 24.0


@dataclass(frozen=True)
class SongLevel:
    """Level of the song in the film: gain, and fades of the working song at head and tail."""

    gain_db: float = 0.0
    fade_in_s: float = 0.0
    fade_out_s: float = 0.0
    shape: Shape = "smooth"

    def gains(self, first: int, count: int, rate: int, total: int) -> NDArray[np.float32]:
        """Gain of ``count`` samples from sample ``first`` of a working song of ``total`` samples."""
        out = np.full(count, 10 ** (self.gain_db / 20))
        n = first + np.arange(count)
        if self.fade_in_s > 0:
            out *= fade_curve(n / (self.fade_in_s * rate), self.shape)
        if self.fade_out_s > 0:
            out *= fade_curve((total - n) / (self.fade_out_s * rate), self.shape)
        return out.astype(np.float32)


#: The song at its own level, without fades.
AS_RECORDED = SongLevel()


class WorkingSound:
    """The working song's samples, made block by block from the song's, memory bounded.

    A join cuts at whole samples; over the last 20 ms before it what was playing fades out and what comes
    fades in with equal power (sine and cosine), so that the beat on the join sounds whole.
    """

    def __init__(self, kept: Iterable[tuple[float, float]], level: SongLevel, rate: int) -> None:
        self._rate, self._level = rate, level
        self._kept = [(round(a * rate), round(b * rate)) for a, b in kept]
        self._fade = round(CROSSFADE_S * rate)
        self.total = sum(b - a for a, b in self._kept)

    def blocks(self, song: Iterable[Samples]) -> Iterator[Samples]:
        """Working samples (n, channels) from the song's blocks (n, channels), which start at its sample 0."""
        done = 0
        for block in self._joined(song):
            yield block * self._level.gains(done, len(block), self._rate, self.total)[:, None]
            done += len(block)

    def _joined(self, song: Iterable[Samples]) -> Iterator[Samples]:
        source = _Window(song)
        tail: Samples | None = None
        for k, (a, b) in enumerate(self._kept):
            follows = k + 1 < len(self._kept)
            lead = min(self._fade, a, b - a) if tail is not None else 0
            if tail is not None:
                lead = min(lead, len(tail))
                source.skip_to(a - lead)
                yield tail[: len(tail) - lead]
                if lead:
                    angle = (np.arange(lead) + 0.5) / lead * (np.pi / 2)
                    fresh = source.take(lead)
                    old = tail[len(tail) - lead :][: len(fresh)]
                    yield (
                        old * np.cos(angle)[: len(fresh), None] + fresh * np.sin(angle)[: len(fresh), None]
                    ).astype(np.float32)
            source.skip_to(a)
            end = b - self._fade if follows and b - a > self._fade else b if not follows else a
            while source.at < end:
                piece = source.take(min(65_536, end - source.at))
                if not len(piece):
                    return
                yield piece
            tail = source.take(b - source.at) if follows else None


class _Window:
    """Reading on in a stream of blocks by sample position."""

    def __init__(self, blocks: Iterable[Samples]) -> None:
        self._blocks = iter(blocks)
        self._now: Samples | None = None
        self._used = 0
        self.at = 0

    def _more(self) -> bool:
        while self._now is None or self._used >= len(self._now):
            self._now = next(self._blocks, None)
            self._used = 0
            if self._now is None:
                return False
        return True

    def take(self, count: int) -> Samples:
        """The next ``count`` samples, fewer where the stream ends."""
        parts = []
        while count > 0 and self._more():
            assert self._now is not None
            part = self._now[self._used : self._used + count]
            self._used += len(part)
            self.at += len(part)
            count -= len(part)
            parts.append(part)
        return np.concatenate(parts) if parts else np.zeros((0, 2), np.float32)

    def skip_to(self, position: int) -> None:
        """Pass over samples up to a position; never back."""
        while self.at < position and len(self.take(min(65_536, position - self.at))):
            pass
