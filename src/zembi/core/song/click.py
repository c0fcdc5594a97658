"""Click detection: whether a song keeps one, its exact tempo, and which of its places is the beat.

The envelopes are folded at the beat: Fourier components at one to eight times the beat for the whole song, and for
windows of it. For each window the shift within an eighth of a beat that best lays it on the whole tells how late it
is, and how alike. On a click windows are alike even where the pattern changes; strokes half a beat aside are another
pattern on the same click, not another grid, since shifts are limited.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembi.core.song.spectrum import FRAME_RATE, Floats

_PARTS = 8
WINDOW_S, _HOP_S = 8.0, 2.0
#: A hop in frames, and a window in hops.
_HOP, _WINDOW = int(_HOP_S * FRAME_RATE), round(WINDOW_S / _HOP_S)
#: Shifts that are tried, in beats.
_SHIFTS = np.linspace(-0.125, 0.125, 49)
#: Shares by which the tempo may be wrong to begin with.
_ERRORS = np.linspace(-0.004, 0.004, 161)
#: A window keeps the click when it is so alike, and so many seconds off at most. On a click windows are 0.5 alike
#: and more even where the pattern changes, and not late; off it they are less, or as late as shifts go.
ALIKE, OFF_S = 0.45, 0.03
_QUIET = 0.2
_ROUNDS = 6


@dataclass(frozen=True)
class Click:
    """One click laid over a song.

    Attributes:
        bpm: Its exact tempo.
        times: Middle of each window in seconds.
        late: How late each window is against the whole, in beats.
        alike: How alike each window is, -1..1.
        heard: Whether anything strikes in the window.
    """

    bpm: float
    times: Floats
    late: Floats
    alike: Floats
    heard: np.ndarray

    @property
    def keeps(self) -> np.ndarray:
        """Mask of windows that keep the click; those in which nothing strikes do."""
        on = (self.alike > ALIKE) & (np.abs(self.late) * 60 / self.bpm < OFF_S)
        return np.asarray(on | ~self.heard)

    @property
    def unlike(self) -> list[tuple[float, float]]:
        """From where to where, in seconds, the music does not keep it: of two windows on end and more."""
        marks = np.flatnonzero(np.diff(np.concatenate([[0], ~self.keeps, [0]]).astype(int)))
        half = _HOP_S / 2
        return [
            (float(self.times[a] - half), float(self.times[b - 1] + half))
            for a, b in zip(marks[0::2], marks[1::2], strict=True)
            if b - a > 1
        ]


def standardised(envelopes: Sequence[Floats]) -> list[Floats]:
    """Envelopes limited at their 98th percentile and of unit variance; those without strokes are left out."""
    out = []
    for envelope in envelopes:
        limited = np.minimum(envelope, np.percentile(envelope, 98))
        spread = float(limited.std())
        if spread > 1e-9:
            out.append((limited - limited.mean()) / spread)
    return out


def _components(envelopes: Sequence[Floats], hz: float) -> np.ndarray:
    """Sums of the components at 1 to 8 times the beat before each hop; shape (parts * envelopes, hops + 1)."""
    hops = -(-len(envelopes[0]) // _HOP)
    padded = np.array([np.pad(e, (0, hops * _HOP - len(e))) for e in envelopes])
    turn = 2 * np.pi * hz / FRAME_RATE * np.arange(1, _PARTS + 1)
    inside = np.arange(_HOP)[:, None] * turn
    # Real products, which are quick: what turns inside a hop is the same for all of them.
    sums = padded.reshape(-1, hops, _HOP) @ np.concatenate([np.cos(inside), -np.sin(inside)], axis=1)
    each = (sums[..., :_PARTS] + 1j * sums[..., _PARTS:]) * np.exp(
        -1j * np.arange(hops)[:, None] * _HOP * turn
    )
    rows = each.transpose(2, 0, 1).reshape(-1, hops)
    return np.asarray(np.concatenate([np.zeros((len(rows), 1)), np.cumsum(rows, axis=1)], axis=1))


def _windows(count: int) -> tuple[np.ndarray, np.ndarray]:
    """First hop of each window, and the one after its last."""
    starts = np.arange(max(1, count // _HOP - _WINDOW + 1))
    return starts, np.minimum(starts + _WINDOW, -(-count // _HOP))


def _first_error(envelopes: Sequence[Floats], bpm: float) -> float:
    """By what share the tempo is to be changed so that windows of the song add up best, within four thousandths."""
    starts, ends = (edge[::_WINDOW] for edge in _windows(len(envelopes[0])))
    sums = _components(envelopes, bpm / 60)
    pieces = sums[:, ends] - sums[:, starts]
    beats = (starts + ends) / 2 * _HOP / FRAME_RATE * bpm / 60
    turns = np.exp(-2j * np.pi * np.arange(1, _PARTS + 1)[:, None, None] * _ERRORS[:, None] * beats)
    by_part = pieces.reshape(_PARTS, len(envelopes), -1).transpose(0, 2, 1)
    power = (np.abs(turns @ by_part) ** 2).sum(axis=(0, 2))
    return float(_ERRORS[int(power.argmax())])


def _spreads(envelopes: Sequence[Floats], first: np.ndarray, end: np.ndarray) -> Floats:
    """Standard deviation of each envelope in each range of frames; shape (envelopes, ranges)."""
    rows = np.pad(np.array(envelopes), ((0, 0), (1, 0)))
    end = np.minimum(end, rows.shape[1] - 1)
    count = end - first
    mean, square = (
        (sums[:, end] - sums[:, first]) / count for sums in (rows.cumsum(axis=1), (rows**2).cumsum(axis=1))
    )
    return np.asarray(np.sqrt(np.maximum(square - mean**2, 0.0)))


def lay_click(envelopes: Sequence[Floats], bpm: float) -> Click:
    """Lay a click of about a tempo over a song: its exact tempo, and how each window keeps to it.

    Args:
        envelopes: From :func:`standardised`; at least one.
        bpm: The tempo to begin with, right within a few thousandths.
    """
    starts, ends = _windows(len(envelopes[0]))
    parts = np.repeat(np.arange(1, _PARTS + 1), len(envelopes))
    turns = np.exp(2j * np.pi * parts[:, None] * _SHIFTS[None])
    # Strokes make a window uneven; without them it is level, however high.
    power = _spreads(envelopes, starts * _HOP, ends * _HOP).mean(axis=0)
    heard = power > _QUIET * np.median(power)
    times = (starts + ends) / 2 * _HOP / FRAME_RATE
    late = alike = np.zeros(len(starts))
    bpm *= 1 + _first_error(envelopes, bpm)
    for round_ in range(_ROUNDS):
        sums = _components(envelopes, bpm / 60)
        pieces = sums[:, ends] - sums[:, starts]
        whole = sums[:, -1]
        sizes = np.linalg.norm(pieces, axis=0) * max(float(np.linalg.norm(whole)), 1e-12)
        match = np.real((pieces * whole.conj()[:, None]).T @ turns) / np.maximum(sizes, 1e-12)[:, None]
        best = match.argmax(axis=1)
        late, alike = _SHIFTS[best], match.max(axis=1)
        if round_ == _ROUNDS - 1:
            break
        slope = _slope(times, late, np.maximum(alike, 0) * heard)
        if abs(slope) * 60 / bpm * times[-1] < 1e-4:
            break
        bpm /= 1 + slope * 60 / bpm
    return Click(float(bpm), times, np.asarray(late), np.asarray(alike), heard)


def _slope(times: Floats, late: Floats, weights: Floats) -> float:
    """Beats of lateness gained in a second, by a weighted line that outliers do not turn."""
    if weights.sum() <= 0 or np.ptp(times) <= 0:
        return 0.0
    kept = weights.copy()
    slope = 0.0
    for _ in range(4):
        mean_t = float(np.average(times, weights=kept))
        mean_l = float(np.average(late, weights=kept))
        spread = float(np.average((times - mean_t) ** 2, weights=kept))
        slope = float(np.average((times - mean_t) * (late - mean_l), weights=kept)) / max(spread, 1e-12)
        off = np.abs(late - mean_l - slope * (times - mean_t))
        kept = weights / (1 + (off / 0.02) ** 2)
    return slope
