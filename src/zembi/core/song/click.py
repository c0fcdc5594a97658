"""Whether a song keeps one click, how exactly fast that is, and which of its places is the beat.

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
        """Which windows keep the click; those in which nothing strikes do."""
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
    """Running sums of the components at 1 to 8 times the beat; shape (envelopes * parts, frames + 1)."""
    beat = np.exp(-2j * np.pi * hz / FRAME_RATE * np.arange(len(envelopes[0])))
    rows = []
    turn = np.ones_like(beat)
    for _ in range(_PARTS):
        turn = turn * beat
        rows += [np.concatenate([[0], np.cumsum(e * turn)]) for e in envelopes]
    return np.array(rows)


def _windows(count: int) -> tuple[np.ndarray, np.ndarray]:
    size, hop = int(WINDOW_S * FRAME_RATE), int(_HOP_S * FRAME_RATE)
    starts = np.arange(0, max(1, count - size + 1), hop)
    return starts, np.minimum(starts + size, count)


def _first_error(envelopes: Sequence[Floats], bpm: float, parts: np.ndarray) -> float:
    """By what share the tempo is to be changed so that windows of the song add up best, within four thousandths."""
    starts, ends = (edge[:: round(WINDOW_S / _HOP_S)] for edge in _windows(len(envelopes[0])))
    sums = _components(envelopes, bpm / 60)
    pieces = sums[:, ends] - sums[:, starts]
    beats = (starts + ends) / 2 / FRAME_RATE * bpm / 60
    turns = np.exp(-2j * np.pi * parts[:, None, None] * _ERRORS[None, :, None] * beats[None, None])
    power = (np.abs((pieces[:, None] * turns).sum(axis=2)) ** 2).sum(axis=0)
    return float(_ERRORS[int(power.argmax())])


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
    power = np.array([np.mean([e[a:b].std() for e in envelopes]) for a, b in zip(starts, ends, strict=True)])
    heard = power > _QUIET * np.median(power)
    times = (starts + ends) / 2 / FRAME_RATE
    late = alike = np.zeros(len(starts))
    bpm *= 1 + _first_error(envelopes, bpm, parts)
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
