"""Alignment of a stem to its song by whitened correlation: the mix holds the stem's very samples."""

from dataclasses import dataclass

import numpy as np
import scipy

from zembi.core.sync.features import RATE, Singles

#: A stem belongs to the song where at least this share of its sounding parts is found in the mix.
LEAST_SHARE = 0.8
#: Correlation at which a part of two seconds counts as found.
_FOUND = 0.12
_BLOCK_S = 2.0


@dataclass(frozen=True)
class StemPlace:
    """A stem's place.

    Attributes:
        song_start_s: Song time of its first sample; negative where it begins before the song.
        share: Of its sounding parts, how many the mix holds there, 0..1.
    """

    song_start_s: float
    share: float


def _whitened(sound: Singles, size: int) -> np.ndarray:
    spectrum = scipy.fft.rfft(sound.astype(np.float64), size)
    power = scipy.ndimage.uniform_filter1d(np.abs(spectrum) ** 2, max(3, size // 2000))
    return np.asarray(spectrum / np.sqrt(power + power.max() * 1e-7 + 1e-12))


def place_stem(song: Singles, stem: Singles) -> StemPlace:
    """Place a stem on its song by phase-whitened cross-correlation (after Knapp and Carter 1976).

    Args:
        song, stem: Mono samples at :data:`zembi.core.sync.features.RATE`.
    """
    size = scipy.fft.next_fast_len(len(song) + len(stem))
    a, b = _whitened(song, size), _whitened(stem, size)
    curve = scipy.fft.irfft(a * np.conj(b), size)
    best = int(np.argmax(curve))
    offset = best - size if best > size // 2 else best
    left, middle, right = (float(curve[(best + k) % size]) for k in (-1, 0, 1))
    bend = left - 2 * middle + right
    part = 0.5 * (left - right) / bend if bend else 0.0
    whole = scipy.fft.irfft(a, size)[: len(song)], scipy.fft.irfft(b, size)[: len(stem)]
    return StemPlace((offset + part) / RATE, _share(*whole, stem, offset))


def _share(song: np.ndarray, stem: np.ndarray, heard: Singles, offset: int) -> float:
    block = int(_BLOCK_S * RATE)
    loud = float(np.sqrt(np.mean(heard.astype(np.float64) ** 2))) if len(heard) else 0.0
    found = sounding = 0
    for start in range(0, len(stem) - block + 1, block):
        at = start + offset
        if at < 0 or at + block > len(song):
            continue
        if np.sqrt(np.mean(heard[start : start + block].astype(np.float64) ** 2)) < 0.1 * loud:
            continue
        x, y = stem[start : start + block], song[at : at + block]
        sounding += 1
        found += float(np.dot(x, y)) > _FOUND * float(np.linalg.norm(x) * np.linalg.norm(y))
    return found / sounding if sounding else 0.0
