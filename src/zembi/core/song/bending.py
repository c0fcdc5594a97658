"""A song whose tempo sways: its own time, in which it keeps a click.

A band without a click drifts by a per cent or two over seconds. Between windows of the song the lines in the spectrum
of its strokes then stand in the same ratios, moved as a whole: on a logarithmic axis of frequency, shifted. The shifts
of all windows against their common picture, joined by the smoothest strong path, are the tempo's course, whatever
the beat is. Running through the song at that pace straightens it; what is left shows as windows that are late against
the whole, and is taken out in turn.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.fft import rfft
from scipy.ndimage import gaussian_filter1d, median_filter

from zembi.core.song.click import Click, lay_click, standardised
from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum

_HOP_S = 2.0
#: Windows in seconds and steps of the logarithmic axis of frequency: first quick, then fine for what is left.
_PASSES = ((12.0, 0.0025), (24.0, 0.001))
#: Frequencies of strokes that are compared.
_LOW_HZ, _HIGH_HZ = 0.8, 14.0
#: Farthest that the tempo goes from its usual, in steps, and what it costs to change by one step between windows.
_REACH, _CHANGE = 32, 0.012
_ROUNDS = 6


@dataclass(frozen=True)
class Bend:
    """How the song's own time runs: ``own[i]`` is the own time at frame i of the song, in frames; ascending."""

    own: Floats

    def to_own(self, seconds: Floats) -> Floats:
        """Own time of song times."""
        frames = np.arange(len(self.own))
        return np.asarray(np.interp(np.asarray(seconds) * FRAME_RATE, frames, self.own)) / FRAME_RATE

    def to_song(self, own_s: Floats) -> Floats:
        """Song time of own times; goes on at the usual pace beyond the end."""
        frames = np.arange(len(self.own), dtype=float)
        at = np.asarray(own_s) * FRAME_RATE
        inside = np.interp(at, self.own, frames)
        return np.asarray(inside + np.maximum(0.0, at - self.own[-1])) / FRAME_RATE

    def straighten(self, values: NDArray[Any]) -> NDArray[Any]:
        """Frame-wise values of the song, a row a frame of its own time."""
        frames = np.arange(len(self.own), dtype=float)
        places = np.interp(np.arange(int(self.own[-1]) + 1), self.own, frames)
        low = np.minimum(places.astype(int), len(values) - 1)
        high = np.minimum(low + 1, len(values) - 1)
        share = (places - low).astype(values.dtype)
        if values.ndim > 1:
            share = share[:, None]
        return np.asarray(values[low] + (values[high] - values[low]) * share)

    def straighten_at(self, values: Floats, rate: float) -> Floats:
        """Values of the song at another rate a second, at that rate in its own time."""
        own = self.to_own(np.arange(len(values)) / rate)
        wanted = np.arange(0, own[-1], 1 / rate)
        return np.asarray(np.interp(wanted, own, values))

    def spectrum(self, spectrum: Spectrum) -> Spectrum:
        """A song's description in its own time."""
        return replace(
            spectrum,
            mel=self.straighten(spectrum.mel),
            flux=self.straighten(spectrum.flux),
            band_flux={band: self.straighten(flux) for band, flux in spectrum.band_flux.items()},
            chroma=self.straighten(spectrum.chroma),
            level=self.straighten(spectrum.level),
        )


def _log_lines(envelopes: Sequence[Floats], window_s: float, step: float) -> tuple[Floats, Floats]:
    """Lines in the strokes of each window on a logarithmic axis of frequency: (middles in frames, rows)."""
    size, hop = int(window_s * FRAME_RATE), int(_HOP_S * FRAME_RATE)
    count = len(envelopes[0])
    starts = np.arange(0, max(1, count - size + 1), hop)
    hz = _LOW_HZ * np.exp(np.arange(0, np.log(_HIGH_HZ / _LOW_HZ), step))
    padded = 4 * size
    places = hz / FRAME_RATE * padded
    taper = np.hanning(size)
    rows = []
    for start in starts:
        power = np.zeros(padded // 2 + 1)
        for envelope in envelopes:
            piece = envelope[start : start + size]
            piece = np.pad(piece, (0, size - len(piece)))
            power += np.abs(rfft((piece - piece.mean()) * taper, padded)) ** 2
        background = median_filter(power, 4 * round(0.6 * size / FRAME_RATE) | 1)
        line = np.log1p(power / np.maximum(background, 1e-9))
        row = np.interp(places, np.arange(len(line)), line)
        row = gaussian_filter1d(row, 1.5) - row.mean()
        rows.append(row / max(float(np.linalg.norm(row)), 1e-9))
    return np.asarray(starts + size / 2), np.array(rows)


def _path(scores: Floats) -> np.ndarray:
    """The smoothest strong path through scores (windows, shifts): an index each."""
    shifts = np.arange(scores.shape[1])
    cost = _CHANGE * np.abs(shifts[:, None] - shifts[None])
    total, back = scores[0].copy(), []
    for row in scores[1:]:
        options = total[:, None] - cost
        back.append(options.argmax(axis=0))
        total = options.max(axis=0) + row
    path = [int(total.argmax())]
    for pointers in reversed(back):
        path.append(int(pointers[path[-1]]))
    return np.array(path[::-1])


def _tempo_course(envelopes: Sequence[Floats], window_s: float, step: float) -> tuple[Floats, Floats]:
    """The tempo's course against its usual: (middles of windows in frames, natural logarithms)."""
    middles, rows = _log_lines(envelopes, window_s, step)
    shifts = np.arange(-_REACH, _REACH + 1)
    # The clearest window is the first picture of the song; then the mean of all, each moved onto it.
    picture = rows[int(np.argmax(np.sum(np.maximum(rows, 0) ** 3, axis=1)))]
    course = np.zeros(len(rows))
    for _ in range(_ROUNDS):
        moved = np.stack([np.roll(picture, s) for s in shifts])
        scores = rows @ moved.T
        path = _path(scores)
        course = shifts[path].astype(float)
        course -= np.round(np.median(course))
        picture = np.mean([np.roll(row, -int(s)) for row, s in zip(rows, course, strict=True)], axis=0)
        picture /= max(float(np.linalg.norm(picture)), 1e-9)
    return middles, (course + _between_steps(scores, path)) * step


def _between_steps(scores: Floats, path: np.ndarray) -> Floats:
    """Where between the steps each window's score is highest, by a parabola through three: -0.5..0.5."""
    rows, inside = np.arange(len(path)), np.clip(path, 1, scores.shape[1] - 2)
    before, here, after = (scores[rows, inside + k] for k in (-1, 0, 1))
    bend = before - 2 * here + after
    off = np.where(bend < -1e-12, 0.5 * (before - after) / np.minimum(bend, -1e-12), 0.0)
    return np.where(inside == path, np.clip(off, -0.5, 0.5), 0.0)


def _bend_by(count: int, at: Floats, log_pace: Floats) -> Bend:
    """The bend that runs at a pace: own frames a song frame, given by its logarithm at some frames."""
    pace = np.exp(np.interp(np.arange(count), at, gaussian_filter1d(log_pace, 1.0, mode="nearest")))
    own = np.concatenate([[0.0], np.cumsum(pace[:-1])])
    return Bend(own * ((count - 1) / max(float(own[-1]), 1e-9)))


def find_bend(envelopes: Sequence[Floats]) -> Bend:
    """The own time of a song, from the lines of its strokes.

    Args:
        envelopes: From :func:`zembi.core.song.click.standardised`; at least one.
    """
    count = len(envelopes[0])
    bend = Bend(np.arange(count, dtype=float))
    for window_s, step in _PASSES:
        if count < window_s * FRAME_RATE:
            break
        straight = [bend.straighten(e) for e in envelopes]
        left = _bend_by(len(straight[0]), *_tempo_course(straight, window_s, step))
        bend = Bend(np.interp(bend.own, np.arange(len(left.own)), left.own))
    return bend


def lay_bent_click(bands: Sequence[Floats], bend: Bend, bpm: float) -> tuple[Bend, Click]:
    """Lay a click over a song in its own time, and take out of that time what the windows are late.

    Args:
        bands: Onset strengths of the song, in song time.
        bend: To begin with.
        bpm: The tempo in own time, right within a few thousandths.
    """
    click = lay_click(standardised([bend.straighten(b) for b in bands]), bpm)
    for _ in range(_ROUNDS):
        trust = np.maximum(click.alike, 0.0) ** 2 * click.heard
        if not trust.any():
            break
        # Where windows do not tell, what their neighbours tell.
        smooth = gaussian_filter1d(click.late * trust, 1.0) / np.maximum(gaussian_filter1d(trust, 1.0), 1e-3)
        late = smooth * 60 / click.bpm * FRAME_RATE
        if float(np.abs(late).max()) < 0.3:
            break
        own = bend.own - 0.8 * np.interp(bend.own, click.times * FRAME_RATE, late)
        own = np.maximum.accumulate(own - own[0] + 1e-6 * np.arange(len(own)))
        bend = Bend(own)
        click = lay_click(standardised([bend.straighten(b) for b in bands]), click.bpm)
    return bend, click
