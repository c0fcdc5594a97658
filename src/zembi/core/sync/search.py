"""Search for the places of a take in the song, by two kinds of evidence, because each has a blind side."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.sync.features import FLUX_RATE, PIECE_S, RATE, WINDOW_S, Singles, SoundFeatures
from zembi.core.sync.sliding import fft_size

Floats = NDArray[np.float64]

#: Places that a search names at most.
_MOST_PLACES = 8


@dataclass(frozen=True)
class OffsetCandidate:
    """A possible place: the song time at take time 0, and where in the take the evidence for it lies."""

    offset_s: float
    score: float
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Vote:
    """One window's opinion: take time of its start, the song time it fits, and how far it stands out."""

    at_s: float
    song_s: float
    z: float


def _peaks(row: Singles, count: int, apart: int) -> list[int]:
    """The highest values at least ``apart`` from each other."""
    values = row.copy()
    found = []
    for _ in range(count):
        i = int(np.argmax(values))
        if not np.isfinite(values[i]):
            break
        found.append(i)
        values[max(0, i - apart) : i + apart + 1] = -np.inf
    return found


def flux_votes(
    song: SoundFeatures,
    take: SoundFeatures,
    spans: list[tuple[float, float]],
    *,
    told: Callable[[], None] = lambda: None,
) -> list[Vote]:
    """Correlate windows of the take's flux with the whole song; finds restarts and survives changed speed.

    ``told`` is called at every window; it may raise to stop.
    """
    votes = []
    for start_s, end_s in spans:
        length = min(WINDOW_S, end_s - start_s)
        if length < 2.0:
            continue
        steps = max(1, int(np.ceil((end_s - start_s - length) / (WINDOW_S / 2))) + 1)
        for at in np.linspace(start_s, max(start_s, end_s - length), steps):
            told()
            first = int(at * FLUX_RATE)
            piece = take.flux[first : first + int(length * FLUX_RATE)]
            if len(piece) < FLUX_RATE:
                continue
            reach = len(piece) - FLUX_RATE  # a window may hang over the song's ends by all but a second
            row = song.flux_slide.over(piece[None], reach)[0]
            centre = np.median(row)
            z = (row - centre) / (1.4826 * np.median(np.abs(row - centre)) + 1e-9)
            for i in _peaks(z, 6, 8):
                votes.append(Vote(float(first / FLUX_RATE), float((i - reach) / FLUX_RATE), float(z[i])))
    return votes


def flux_places(
    song: SoundFeatures,
    take: SoundFeatures,
    spans: list[tuple[float, float]],
    *,
    told: Callable[[], None] = lambda: None,
) -> list[OffsetCandidate]:
    """The likeliest places by :func:`flux_votes`, best first."""
    return gather(flux_votes(song, take, spans, told=told), bin_s=0.05, count=_MOST_PLACES)


def matched_places(
    song: SoundFeatures,
    take: SoundFeatures,
    spans: list[tuple[float, float]],
    *,
    told: Callable[[], None] = lambda: None,
) -> list[OffsetCandidate]:
    """Places by a whitened matched filter over the whole song; finds takes in which the song is nearly buried.

    Pieces vote for their own best places, and are added up before any is chosen: a song 20 dB below the talk is the
    best of no piece, and clear in their sum. ``told`` is called at every piece; it may raise to stop.
    """
    votes: list[Vote] = []
    summed: list[OffsetCandidate] = []
    for start_s, end_s in spans:
        length = min(PIECE_S, end_s - start_s)
        if length < 2.0:
            continue
        steps = max(1, int(np.ceil((end_s - start_s - length) / (PIECE_S * 0.85))) + 1)
        pieces = _PieceSum()
        for at in np.linspace(start_s, max(start_s, end_s - length), steps):
            told()
            first = int(at * RATE)
            piece = take.white[first : first + int(length * RATE)]
            before = len(piece) - RATE
            row = np.abs(song.white_slide.over(piece[None], before)[0])
            z = row / (np.sqrt(np.mean(row * row)) + 1e-9)
            for i in _peaks(z, 4, int(0.02 * RATE)):
                votes.append(Vote(first / RATE, (i - before) / RATE, float(z[i])))
            pieces.add(first / RATE, before, z)
        summed += pieces.places(start_s, end_s - length)
    found = gather(votes, bin_s=0.03, count=_MOST_PLACES)
    # Those of the sum are looked into as if they were as likely as the best.
    return [*found, *(replace(c, score=max(c.score, found[0].score if found else 0.0)) for c in summed)]


class _PieceSum:
    """Squared correlations of a take's pieces with the song, added up place by place, along several clock drifts."""

    #: Places a second, and samples that share one.
    PLACES, SHARE = 1000, RATE // 1000
    DRIFTS = np.arange(-80, 81, 16) * 1e-6
    LEAST_Z, MOST = 7.0, 4

    def __init__(self) -> None:
        self._rows: list[tuple[float, int, Singles]] = []

    def add(self, at_s: float, before: int, z: Singles) -> None:
        """Add a piece that begins at ``at_s``; ``z[k]`` is its correlation ``k - before`` samples into the song."""
        whole = z[: len(z) // self.SHARE * self.SHARE].reshape(-1, self.SHARE).max(axis=1) ** 2
        # A place is good to a millisecond either way.
        wide = scipy.ndimage.maximum_filter1d(whole, 3)
        wide -= wide.mean()
        self._rows.append((at_s, before, wide / (wide.std() + 1e-9)))

    def places(self, start_s: float, end_s: float) -> list[OffsetCandidate]:
        """The places at which the sum stands out; none of fewer than three pieces."""
        if len(self._rows) < 3:
            return []
        middle = (start_s + end_s) / 2
        firsts = np.array([-before / RATE - at for at, before, _ in self._rows])
        low = int(np.floor(firsts.min() * self.PLACES)) - 64
        ends = [f * self.PLACES + len(row) for f, (_, _, row) in zip(firsts, self._rows, strict=True)]
        best = np.zeros(0)
        for drift in self.DRIFTS:
            total = np.zeros(int(max(ends)) - low + 128)
            for first, (at, _, row) in zip(firsts, self._rows, strict=True):
                begin = round((first + drift * (middle - at)) * self.PLACES) - low
                total[begin : begin + len(row)] += row
            best = np.maximum(best, total) if len(best) else total
        best /= np.sqrt(len(self._rows))
        peaks = _peaks(best.astype(np.float32), self.MOST, self.PLACES // 20)
        return [
            OffsetCandidate((i + low) / self.PLACES, float(best[i]), start_s, end_s)
            for i in peaks
            if best[i] >= self.LEAST_Z
        ]


def gather(votes: list[Vote], *, bin_s: float, count: int) -> list[OffsetCandidate]:
    """Join votes for the same place: places by their summed evidence, best first.

    Each vote counts by how far it stands out beyond chance; votes within one bin and its neighbours join.
    """
    if not votes:
        return []
    offsets = np.array([v.song_s - v.at_s for v in votes])
    weights = np.array([max(0.0, v.z - 3.0) for v in votes])
    found = []
    order = np.argsort(offsets)
    sorted_offsets, sorted_weights = offsets[order], weights[order]
    cumulative = np.concatenate([[0.0], np.cumsum(sorted_weights)])
    low = np.searchsorted(sorted_offsets, sorted_offsets - bin_s)
    high = np.searchsorted(sorted_offsets, sorted_offsets + bin_s, side="right")
    sums = cumulative[high] - cumulative[low]
    taken = np.zeros(len(sums), bool)
    for _ in range(count):
        masked = np.where(taken, -1.0, sums)
        i = int(np.argmax(masked))
        if masked[i] <= 0:
            break
        members = slice(int(low[i]), int(high[i]))
        weight = sorted_weights[members]
        offset = (
            float(np.average(sorted_offsets[members], weights=weight))
            if weight.sum()
            else float(sorted_offsets[i])
        )
        times = [votes[k].at_s for k in order[members]]
        found.append(OffsetCandidate(offset, float(sums[i]), min(times), max(times)))
        taken |= np.abs(sorted_offsets - sorted_offsets[i]) <= bin_s
    return found


def match_over_song(song: SoundFeatures, stretch: SoundFeatures, *, bins: int = 600) -> Floats:
    """Correlation of a stretch of take at every place in the song, for drawing.

    Args:
        song: The song.
        stretch: The stretch of take, at the song's speed.
        bins: Number of values over the song.

    Returns:
        Whitened correlation when the stretch *starts* in each bin, shape (bins,), 0..1 of the best.
    """
    piece = stretch.white
    if len(piece) < RATE // 2 or not len(song.white):
        return np.zeros(bins)
    size = fft_size(len(song.white) + len(piece))
    row = np.abs(
        scipy.fft.irfft(scipy.fft.rfft(song.white, size) * np.conj(scipy.fft.rfft(piece, size)), size)[
            : len(song.white)
        ]
    )
    edges = np.linspace(0, len(row), bins + 1).astype(int)
    best = np.maximum.reduceat(row, edges[:-1])
    return np.asarray(best / max(float(best.max()), 1e-9), dtype=float)
