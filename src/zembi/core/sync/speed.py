"""At which other speed the song was played: rates from half to double, with the pitch moved or kept."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, rfft
from scipy.ndimage import uniform_filter1d

from zembi.core.sync.features import (
    FLUX_RATE,
    TONES,
    TONES_PER_OCTAVE,
    Singles,
    Sound,
    fft_size,
)
from zembi.core.sync.refine import Line
from zembi.core.sync.search import Vote, gather

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
    """Log energy of a sound in the song's bands, at whatever pitch the sound is read."""

    def __init__(self, tones: Singles) -> None:
        self._summed = np.concatenate(
            [np.zeros((len(tones), 1), np.float32), np.cumsum(tones, axis=1, dtype=np.float32)], axis=1
        )

    def logs(self, octaves: float) -> Singles:
        """Shape (frames at ``FLUX_RATE``, bands) for a sound that lies ``octaves`` above the song.

        Bands that would lie beyond what was recorded are left out, from the top.
        """
        edges = _EDGES + octaves * TONES_PER_OCTAVE
        edges = edges[edges <= TONES]
        low = np.clip(np.floor(edges).astype(int), 0, TONES - 1)
        part = np.clip(edges - low, 0, 1).astype(np.float32)
        at = self._summed[:, low] * (1 - part) + self._summed[:, low + 1] * part
        energy = np.maximum(np.diff(at, axis=1), 0)
        top = np.partition(energy, int(0.9 * (len(energy) - 1)), axis=0)[int(0.9 * (len(energy) - 1))]
        return np.asarray(np.log1p(20 * energy / (top + 1e-9)), dtype=np.float32)


def deviation(logs: Singles, rate: float, every_s: float) -> Singles:
    """Log energy about its mean over a second, read every ``every_s`` of song time from a sound at ``rate``.

    Held notes tell as much as strokes do: a break without drums is found by them.

    Args:
        logs: From :meth:`Bands.logs`.
        rate: Song seconds a second of the sound.
        every_s: Song time between frames.

    Returns:
        Shape (frames, bands), each band of unit variance.
    """
    step = every_s / rate * FLUX_RATE
    at = (np.arange(int((len(logs) - 1) / step) + 1) * step).astype(np.float32)
    low = at.astype(int)
    part = (at - low)[:, None]
    out = logs[low] * (1 - part) + logs[np.minimum(low + 1, len(logs) - 1)] * part
    out -= uniform_filter1d(out, max(3, int(1.0 / every_s)), axis=0, mode="nearest")
    out /= np.sqrt(np.einsum("ij,ij->j", out, out) / max(len(out), 1)) + 1e-6
    return np.asarray(np.clip(out, -3, 4), dtype=np.float32)


def _starts(seconds: float, length: float) -> Floats:
    count = max(1, min(_MOST_WINDOWS, int(np.ceil((seconds - length) / (length / 2))) + 1))
    return np.linspace(0, max(0.0, seconds - length), count)


def _votes(
    reference: NDArray[np.complex64], size: int, song_frames: int, take: Singles, rate: float
) -> list[Vote]:
    """Windows of the take, read at a rate, against the whole song; times are the take's own."""
    frames = min(len(take), int(_WINDOW_S * _COARSE))
    reach = frames - 2 * _COARSE
    if reach <= 0:
        return []
    firsts = [int(t * _COARSE) for t in _starts(len(take) / _COARSE, frames / _COARSE)]
    pieces = np.stack([take[f : f + frames] for f in firsts])
    spectra = rfft(pieces, size, axis=1)
    rows = irfft((np.conj(spectra) * reference).sum(axis=2), size, axis=1)
    rows = np.concatenate([rows[:, -reach:], rows[:, : song_frames - 2 * _COARSE]], axis=1)
    rows -= rows.mean(axis=1, keepdims=True)
    rows /= rows.std(axis=1, keepdims=True) + 1e-9
    votes = []
    for first, row in zip(firsts, rows, strict=True):
        left = row.copy()
        for _ in range(3):
            i = int(np.argmax(left))
            votes.append(Vote(first / _COARSE / rate, (i - reach) / _COARSE, float(row[i])))
            left[max(0, i - 8) : i + 9] = -np.inf
    return votes


def guess_speeds(
    song: Sound, take: Sound, *, most: int = 6, progress: Callable[[float], None] = lambda _s: None
) -> list[Guess]:
    """The likeliest speeds and places, best first; at most one for each rate and pitch.

    Args:
        song, take: Prepared sound.
        most: How many to return.
        progress: Told the share done; may raise to stop.
    """
    coarse = deviation(Bands(song.tones).logs(0.0), 1.0, 1 / _COARSE)
    size = fft_size(len(coarse) + int(_WINDOW_S * _COARSE))
    reference = rfft(coarse, size, axis=0).astype(np.complex64)
    heard = Bands(take.tones)
    plain = heard.logs(0.0)
    tried = rates()
    found: list[Guess] = []
    for number, rate in enumerate(tried):
        progress(number / len(tried))
        for pitch in ("moved", "kept"):
            if pitch == "kept" and abs(rate - 1) < 0.012:
                continue
            logs = plain if pitch == "kept" else heard.logs(float(np.log2(rate)))
            read = deviation(logs, float(rate), 1 / _COARSE)
            votes = _votes(reference[:, : read.shape[1]], size, len(coarse), read, float(rate))
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
