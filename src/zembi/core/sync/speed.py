"""At which other speed the song was played: rates from half to double, with the pitch moved or kept."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.sync.features import (
    FLUX_RATE,
    TONES,
    TONES_PER_OCTAVE,
    Singles,
    SoundFeatures,
)
from zembi.core.sync.refine import Line
from zembi.core.sync.search import Vote, gather
from zembi.core.sync.sliding import Sliding

Floats = NDArray[np.float64]
Pitch = Literal["moved", "kept"]

SLOWEST, FASTEST = 0.5, 2.0
#: Step from rate to rate; half of it blurs a window's ends by less than two frames.
_STEP = 1.009
#: Frames a second at which rates are compared, and song seconds in a window.
_COARSE, _WINDOW_S = 40, 10.0
_MOST_WINDOWS = 10
#: Song bands, in tones: from 200 Hz up, half an octave each.
_EDGES = np.arange(14, TONES + 1, 9)


@dataclass(frozen=True)
class Guess:
    """A speed and place to be verified.

    Attributes:
        line: Song time over take time; its rate is good to about half a percent.
        pitch: Whether the pitch was taken to have moved with the speed.
        score: Evidence, to be compared with that of other guesses of one search.
        start_s, end_s: Take range in which the evidence lies.
    """

    line: Line
    pitch: Pitch
    score: float
    start_s: float
    end_s: float


def rates() -> Floats:
    """Every rate that is tried, slowest first."""
    steps = int(np.ceil(np.log(FASTEST / SLOWEST) / np.log(_STEP)))
    return np.asarray(SLOWEST * (FASTEST / SLOWEST) ** (np.arange(steps + 1) / steps))


class Bands:
    """Log energy of a sound in the song's bands, at whatever speed and pitch the sound is read."""

    def __init__(self, tones: Singles) -> None:
        self._summed = np.zeros((tones.shape[1] + 1, len(tones)), np.float32)
        np.cumsum(tones.T, axis=0, out=self._summed[1:])

    def read(self, rate: float, octaves: float) -> Singles:
        """Log energy about its mean over a second, ``_COARSE`` frames a second of song time.

        Held notes tell as much as strokes do: a break without drums is found by them.

        Args:
            rate: Song seconds a second of the sound.
            octaves: How far the sound lies above the song.

        Returns:
            Shape (frames, bands), each band of unit variance; bands beyond what was recorded are left out, from the top.
        """
        at = np.round(np.arange(0, self._summed.shape[1] - 1, FLUX_RATE / rate / _COARSE)).astype(int)
        edges = _EDGES + octaves * TONES_PER_OCTAVE
        edges = edges[edges <= TONES]
        low = np.clip(np.floor(edges).astype(int), 0, TONES - 1)
        part = np.clip(edges - low, 0, 1).astype(np.float32)[:, None]
        below = np.take(self._summed[low] * (1 - part) + self._summed[low + 1] * part, at, axis=1)
        out = np.maximum(np.diff(below, axis=0), 0)
        some = out[:, ::4]
        tenth = int(0.9 * (some.shape[1] - 1))
        out *= 20 / (np.partition(some, tenth, axis=1)[:, tenth, None] + 1e-9)
        np.log1p(out, out=out)
        out -= scipy.ndimage.uniform_filter1d(out, _COARSE, axis=1, mode="nearest")
        out /= np.sqrt(np.einsum("ij,ij->i", out, out) / max(out.shape[1], 1))[:, None] + 1e-6
        return np.asarray(np.clip(out, -3, 4, out=out).T)


def _starts(seconds: float, length: float) -> Floats:
    count = max(1, min(_MOST_WINDOWS, int(np.ceil((seconds - length) / (length / 2))) + 1))
    return np.linspace(0, max(0.0, seconds - length), count)


def _votes(song: Sliding, take: Singles, rate: float) -> list[Vote]:
    """Windows of the take, read at a rate, against the whole song; times are the take's own."""
    frames = min(len(take), int(_WINDOW_S * _COARSE))
    reach = frames - 2 * _COARSE
    if reach <= 0:
        return []
    firsts = [int(t * _COARSE) for t in _starts(len(take) / _COARSE, frames / _COARSE)]
    rows = song.over(np.stack([take[f : f + frames] for f in firsts]), reach)
    rows -= rows.mean(axis=1, keepdims=True)
    rows /= rows.std(axis=1, keepdims=True) + 1e-9
    votes = []
    for first, row in zip(firsts, rows, strict=True):
        for _ in range(3):
            i = int(np.argmax(row))
            votes.append(Vote(first / _COARSE / rate, (i - reach) / _COARSE, float(row[i])))
            row[max(0, i - 8) : i + 9] = -np.inf
    return votes


def guess_speeds(
    song: SoundFeatures,
    take: SoundFeatures,
    *,
    most: int = 6,
    progress: Callable[[float], None] = lambda _s: None,
) -> list[Guess]:
    """The likeliest speeds and places, best first; at most one for each rate and pitch.

    Args:
        song, take: Prepared sound.
        most: How many to return.
        progress: Told the share done; may raise to stop.
    """
    reference = Sliding(Bands(song.tones).read(1.0, 0.0), int(_WINDOW_S * _COARSE))
    heard = Bands(take.tones)
    tried = rates()
    found: list[Guess] = []
    for number, rate in enumerate(tried):
        progress(number / len(tried))
        for pitch in ("moved", "kept"):
            if pitch == "kept" and abs(rate - 1) < 0.012:
                continue
            read = heard.read(float(rate), float(np.log2(rate)) if pitch == "moved" else 0.0)
            votes = _votes(reference, read, float(rate))
            scaled = [Vote(v.at_s * float(rate), v.song_s, v.z) for v in votes]
            for c in gather(scaled, bin_s=0.1, count=1):
                line = Line(c.offset_s, float(rate))
                found.append(Guess(line, pitch, c.score, c.start_s / rate, (c.end_s + _WINDOW_S) / rate))
    return _distinct(found, most)


def _distinct(found: list[Guess], most: int) -> list[Guess]:
    """The best of each neighbourhood of rates, pitch by pitch."""
    kept: list[Guess] = []
    for guess in sorted(found, key=lambda g: -g.score):
        near = (g for g in kept if g.pitch == guess.pitch)
        if all(abs(np.log(g.line.rate / guess.line.rate)) > 0.02 for g in near):
            kept.append(guess)
        if len(kept) == most:
            break
    return kept
