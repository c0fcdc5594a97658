"""The song as the listener hears it: mel spectrum, onset flux by band and chroma, frame by frame."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.errors import BadInput
from zembi.core.song.network import stroke_activations

#: Sample rate that all song analysis works at, in Hz.
RATE = 22_050
HOP = 220
WINDOW = 1024
#: Analysis frames a second.
FRAME_RATE = RATE / HOP
#: Band borders in Hz: roughly bass drum, snare and voice, cymbals.
BANDS: dict[str, tuple[float, float]] = {
    "low": (25.0, 160.0),
    "mid": (160.0, 3_500.0),
    "high": (5_000.0, 11_000.0),
}

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]


@dataclass(frozen=True)
class Spectrum:
    """Short-time description of a song; every array has one row a frame of ``HOP`` samples.

    Attributes:
        mel: Log-compressed mel energies, shape (frames, 40).
        flux: Onset strength of the whole range, shape (frames,), local mean taken off, >= 0.
        band_flux: Onset strength in each of ``BANDS``.
        chroma: Energy per pitch class, shape (frames, 12), unit length where there is sound.
        level: RMS level of each frame, linear.
    """

    mel: Singles
    flux: Floats
    band_flux: dict[str, Floats]
    chroma: Singles
    level: Floats

    @property
    def frames(self) -> int:
        """Number of frames."""
        return len(self.flux)

    @cached_property
    def mel_sums(self) -> Floats:
        """Sum of the mel energies of all frames before each, shape (frames + 1, 40)."""
        return running_sums(self.mel)

    @cached_property
    def chroma_sums(self) -> Floats:
        """Sum of the chroma of all frames before each, shape (frames + 1, 12)."""
        return running_sums(self.chroma)

    @cached_property
    def drums(self) -> Singles:
        """Activation of each instrument's strokes, see :func:`stroke_activations`; shape (frames, 5)."""
        return stroke_activations(self.mel)

    @cached_property
    def audible_range(self) -> tuple[float, float]:
        """Extent of sound: seconds from the first to the last frame within 50 dB of its loudest."""
        loud = np.nonzero(self.level > self.level.max() * 10 ** (-50 / 20))[0]
        if not len(loud):
            return 0.0, 0.0
        return float(loud[0] / FRAME_RATE), float((loud[-1] + 1) / FRAME_RATE)

    def part(self, first: int, end: int) -> "Spectrum":
        """Frames ``first`` to ``end`` (exclusive) of it."""
        cut = slice(first, end)
        bands = {band: flux[cut] for band, flux in self.band_flux.items()}
        return Spectrum(self.mel[cut], self.flux[cut], bands, self.chroma[cut], self.level[cut])


def running_sums(rows: Singles) -> Floats:
    """Sum of all rows before each, one row more than there are."""
    sums = np.zeros((len(rows) + 1, rows.shape[1]))
    np.cumsum(rows, axis=0, out=sums[1:])
    return sums


def frame_times(count: int) -> Floats:
    """Centre of each analysis frame in seconds."""
    return np.asarray(np.arange(count) * (HOP / RATE), dtype=np.float64)


def mel_weights(bands: int, low_hz: float, high_hz: float, *, rate: int, window: int) -> Singles:
    """Triangular mel filters, shape (window // 2 + 1, bands), HTK mel scale, unit area."""

    def to_mel(hz: float) -> float:
        return float(2595.0 * np.log10(1 + hz / 700.0))

    edges = 700.0 * (10 ** (np.linspace(to_mel(low_hz), to_mel(high_hz), bands + 2) / 2595.0) - 1)
    bins = np.fft.rfftfreq(window, 1 / rate)
    rise = (bins[:, None] - edges[None, :-2]) / (edges[1:-1] - edges[:-2])
    fall = (edges[None, 2:] - bins[:, None]) / (edges[2:] - edges[1:-1])
    weights = np.maximum(0, np.minimum(rise, fall))
    return np.asarray(weights / np.maximum(weights.sum(axis=0), 1e-9), dtype=np.float32)


def _chroma_weights(*, rate: int, window: int) -> Singles:
    bins = np.fft.rfftfreq(window, 1 / rate)
    weights = np.zeros((len(bins), 12), dtype=np.float32)
    usable = (bins > 100) & (bins < 2_000)
    pitch = 69 + 12 * np.log2(np.where(usable, bins, 440.0) / 440.0)
    for k in range(12):
        distance = np.abs((pitch - k + 6) % 12 - 6)
        weights[:, k] = np.where(
            usable, np.exp(-0.5 * (distance / 0.6) ** 2) / np.sqrt(np.maximum(bins, 50)), 0
        )
    return weights


def _band_weights(low_hz: float, high_hz: float) -> Singles:
    """Means of at most six parts of a band, shape (WINDOW // 2 + 1, parts)."""
    bins = np.fft.rfftfreq(WINDOW, 1 / RATE)
    inside = np.flatnonzero((bins >= low_hz) & (bins < high_hz))
    parts = np.array_split(inside, min(6, len(inside)))
    weights = np.zeros((len(bins), len(parts)), np.float32)
    for k, part in enumerate(parts):
        weights[part, k] = 1 / len(part)
    return weights


def _rectified_rise(log_bands: Singles, lag: int) -> Floats:
    rise = np.zeros(len(log_bands))
    if len(log_bands) > lag:
        rise[lag:] = np.maximum(0, log_bands[lag:] - log_bands[:-lag]).mean(axis=1)
    return rise


def _less_local_mean(envelope: Floats, seconds: float) -> Floats:
    width = max(3, int(seconds * FRAME_RATE) | 1)
    kernel = np.ones(width) / width
    mean = np.convolve(np.pad(envelope, width // 2, mode="edge"), kernel, mode="valid")[: len(envelope)]
    return np.maximum(0.0, envelope - mean)


def describe(audio: Singles) -> Spectrum:
    """Compute the short-time description that the rest of the listening builds on.

    Args:
        audio: Mono samples at ``RATE``, shape (samples,).

    Raises:
        BadInput: fewer than two seconds of sound.
    """
    if len(audio) < 2 * RATE:
        raise BadInput(f"The song is {len(audio) / RATE:.1f} s long; Zembi needs at least 2 s to listen to.")
    padded = np.pad(audio.astype(np.float32), (WINDOW // 2, WINDOW // 2))
    frames = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)[::HOP]
    hann = np.hanning(WINDOW).astype(np.float32)
    banks = [mel_weights(40, 30, 10_000, rate=RATE, window=WINDOW), _chroma_weights(rate=RATE, window=WINDOW)]
    banks += [_band_weights(low, high) for low, high in BANDS.values()]
    weights = np.concatenate(banks, axis=1)
    out = np.empty((len(frames), weights.shape[1]), np.float32)
    level = np.empty(len(frames))
    for start in range(0, len(frames), 512):
        block = slice(start, start + 512)
        out[block] = np.abs(scipy.fft.rfft(frames[block] * hann, axis=1)) @ weights
        level[block] = np.sqrt(np.einsum("ij,ij->i", frames[block], frames[block]) / WINDOW)
    mel, chroma, *rows = np.split(out, np.cumsum([bank.shape[1] for bank in banks])[:-1], axis=1)
    bands = dict(zip(BANDS, rows, strict=True))
    scale = max(1e-6, float(np.percentile(mel, 95)))
    mel = np.log1p(200.0 * mel / scale).astype(np.float32)
    flux = _less_local_mean(_rectified_rise(mel, 2), 0.5)
    band_flux = {}
    for name, values in bands.items():
        top = max(1e-6, float(np.percentile(values, 98)))
        band_flux[name] = _less_local_mean(_rectified_rise(np.log1p(50 * values / top), 2), 0.5)
    norm = np.linalg.norm(chroma, axis=1, keepdims=True)
    return Spectrum(mel, flux, band_flux, chroma / np.maximum(norm, 1e-6), level)
