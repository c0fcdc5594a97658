"""At which other speed the song was played: rates from half to double, with the pitch moved or kept."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, get_args

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
PITCHES: tuple[Pitch, ...] = get_args(Pitch)
#: Nearer to normal speed than this, moved and kept are one.
PITCH_TELLS = 0.012

SLOWEST, FASTEST = 0.5, 2.0
#: Step from rate to rate; half of it moves a window's ends by less than a frame at which rates are sifted.
_STEP = 1.0125
#: Song seconds in a window.
_WINDOW_S = 10.0
_MOST_WINDOWS = 10
#: Frames a second at which all rates are sifted, and at which the likeliest are compared.
_COARSE, _FINE = 20, 40
#: A guess is clear with such a score, and so many times that of any other rate.
_CLEAR, _CLEARLY = 9.0, 2.0
#: Rates nearer to each other than this, as a natural logarithm, are one guess.
_APART = 0.02
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

    def read(self, rate: float, octaves: float, per_s: int) -> Singles:
        """Log energy about its mean over a second.

        Held notes tell as much as strokes do: a break without drums is found by them.

        Args:
            rate: Song seconds a second of the sound.
            octaves: How far the sound lies above the song.
            per_s: Frames a second of song time.

        Returns:
            Shape (frames, bands), each band of unit variance; bands beyond what was recorded are left out, from the top.
        """
        at = np.round(np.arange(0, self._summed.shape[1] - 1, FLUX_RATE / rate / per_s)).astype(int)
        edges = _EDGES + octaves * TONES_PER_OCTAVE
        edges = edges[edges <= TONES]
        low = np.clip(np.floor(edges).astype(int), 0, TONES - 1)[:, None]
        part = np.clip(edges[:, None] - low, 0, 1).astype(np.float32)
        below = self._summed[low, at] * (1 - part) + self._summed[low + 1, at] * part
        out = np.maximum(np.diff(below, axis=0), 0)
        some = out[:, ::4]
        tenth = int(0.9 * (some.shape[1] - 1))
        out *= 20 / (np.partition(some, tenth, axis=1)[:, tenth, None] + 1e-9)
        np.log1p(out, out=out)
        out -= scipy.ndimage.uniform_filter1d(out, per_s, axis=1, mode="nearest")
        out /= np.sqrt(np.einsum("ij,ij->i", out, out) / max(out.shape[1], 1))[:, None] + 1e-6
        return np.asarray(np.clip(out, -3, 4, out=out).T)


def _starts(seconds: float, length: float) -> Floats:
    count = max(1, min(_MOST_WINDOWS, int(np.ceil((seconds - length) / (length / 2))) + 1))
    return np.linspace(0, max(0.0, seconds - length), count)


def half_is_all(seconds: float) -> bool:
    """True if a sound is so short that all of its windows are compared at once, at every rate."""
    return len(_starts(seconds * FASTEST, _WINDOW_S)) <= _MOST_WINDOWS // 2


class _Comparison:
    """Windows of a take compared with a whole song at any rate, at so many frames a second.

    What every second window said of a rate is kept for when all are asked.
    """

    def __init__(self, sounding: Bands, heard: Bands, per_s: int) -> None:
        self._song = Sliding(sounding.read(1.0, 0.0, per_s), int(_WINDOW_S * per_s))
        self._heard, self._per_s = heard, per_s
        self._half: dict[tuple[float, Pitch], list[Vote]] = {}

    def at(self, rate: float, pitch: Pitch, *, thorough: bool) -> list[Guess]:
        """The likeliest place at a rate, if there is any, by all windows or by half of them."""
        half = self._half.get((rate, pitch))
        if half is None or thorough:
            read = self._heard.read(rate, float(np.log2(rate)) if pitch == "moved" else 0.0, self._per_s)
            starts = _starts(len(read) / self._per_s, min(_WINDOW_S, len(read) / self._per_s))
            halves = (
                (starts, starts[:0]) if len(starts) <= _MOST_WINDOWS // 2 else (starts[::2], starts[1::2])
            )
            half = self._half.setdefault((rate, pitch), half or self._votes(read, rate, halves[0]))
        votes = half + self._votes(read, rate, halves[1]) if thorough else half
        there = [Vote(v.at_s * rate, v.song_s, v.z) for v in votes]
        return [
            Guess(Line(c.offset_s, rate), pitch, c.score, c.start_s / rate, (c.end_s + _WINDOW_S) / rate)
            for c in gather(there, bin_s=0.1, count=1)
        ]

    def _votes(self, take: Singles, rate: float, starts: Floats) -> list[Vote]:
        """Windows of the take, read at a rate, against the whole song; times are the take's own."""
        frames = min(len(take), int(_WINDOW_S * self._per_s))
        reach = frames - 2 * self._per_s
        if reach <= 0 or not len(starts):
            return []
        firsts = [int(t * self._per_s) for t in starts]
        rows = self._song.over(np.stack([take[f : f + frames] for f in firsts]), reach)
        rows -= rows.mean(axis=1, keepdims=True)
        rows /= rows.std(axis=1, keepdims=True) + 1e-9
        votes = []
        for first, row in zip(firsts, rows, strict=True):
            for _ in range(3):
                i = int(np.argmax(row))
                votes.append(Vote(first / self._per_s / rate, (i - reach) / self._per_s, float(row[i])))
                row[max(0, i - self._per_s // 5) : i + self._per_s // 5 + 1] = -np.inf
        return votes


class SpeedSearch:
    """Search for the speed of one take in one song."""

    def __init__(self, song: SoundFeatures, take: SoundFeatures) -> None:
        self._sounding, self._heard = Bands(song.tones), Bands(take.tones)
        self._coarse = _Comparison(self._sounding, self._heard, _COARSE)

    def guesses(
        self,
        *,
        thorough: bool = True,
        most: int = 6,
        progress: Callable[[float], None] = lambda _s: None,
    ) -> list[Guess]:
        """The likeliest speeds and places, best first; at most one for each rate and pitch.

        Args:
            thorough: Whether rates are sifted by all windows; by half of them it takes half the time, and one that
                is clear is rarely missed. Those that are returned are compared by all.
            most: How many to return.
            progress: Told the share done; may raise to stop.
        """
        tried = [(float(r), p) for r in rates() for p in PITCHES if p == "moved" or abs(r - 1) >= PITCH_TELLS]
        found: list[Guess] = []
        for number, (rate, pitch) in enumerate(tried):
            progress(number / len(tried))
            found += self._coarse.at(rate, pitch, thorough=thorough)
        closely = _Comparison(self._sounding, self._heard, _FINE)
        return _distinct([g for guess in _distinct(found, most) for g in _about(guess, closely)], most)


def one_is_clear(found: list[Guess]) -> bool:
    """True if one rate stands out of all that were guessed, with the pitch moved or kept."""
    best = max(found, key=lambda g: g.score, default=None)
    if best is None or best.score < _CLEAR:
        return False
    return all(_near(g, best) or best.score > _CLEARLY * g.score for g in found)


def _near(a: Guess, b: Guess) -> bool:
    """True if two rates are neighbours, or one but for the step between."""
    return bool(abs(np.log(a.line.rate / b.line.rate)) < 2 * _APART)


def _about(guess: Guess, closely: _Comparison) -> list[Guess]:
    """A guess and the rates beside it, compared more closely."""
    beside = [guess.line.rate * _STEP**k for k in (-0.5, 0, 0.5)]
    tried = [rate for rate in beside if guess.pitch == "moved" or abs(rate - 1) >= PITCH_TELLS]
    return [g for rate in tried for g in closely.at(rate, guess.pitch, thorough=True)]


def _distinct(found: list[Guess], most: int) -> list[Guess]:
    """The best of each neighbourhood of rates, pitch by pitch."""
    kept: list[Guess] = []
    for guess in sorted(found, key=lambda g: -g.score):
        near = (g for g in kept if g.pitch == guess.pitch)
        if all(abs(np.log(g.line.rate / guess.line.rate)) > _APART for g in near):
            kept.append(guess)
        if len(kept) == most:
            break
    return kept
