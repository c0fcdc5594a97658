"""What takes and songs are compared by: a whitened waveform, and spectral flux at 100 frames a second."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft
from scipy.ndimage import uniform_filter1d
from scipy.signal import resample_poly

from zembi.core.song.spectrum import mel_weights

#: Sample rate of everything in alignment, in Hz.
RATE = 8_000
FLUX_RATE = 100
LOW_HZ, HIGH_HZ = 150.0, 3_600.0
#: Below this RMS a block of sound counts as nothing (full scale 1.0).
SILENCE = 10 ** (-75 / 20)

Singles = NDArray[np.float32]


@dataclass(frozen=True)
class Sound:
    """A song or take prepared for comparison.

    Attributes:
        white: Whitened, level-evened waveform at ``RATE``, about unit variance where there is sound.
        flux: Rise of log-mel energy, shape (frames, bands) at ``FLUX_RATE``.
        seconds: Length.
    """

    white: Singles
    flux: Singles
    seconds: float


def choose_sound(channels: Singles) -> Singles:
    """Make one channel of several without letting a dead, humming or inverted one spoil it.

    Args:
        channels: Shape (samples,) or (samples, channels), full scale 1.0.

    Returns:
        Shape (samples,); all zeros where no channel holds sound.
    """
    if channels.ndim == 1:
        return channels
    if channels.shape[1] == 1:
        return channels[:, 0]
    # A hum sits below the band in which sound is compared; differences leave it out of the decision.
    bright = np.diff(channels.astype(np.float32), axis=0)
    power = np.sqrt((bright**2).mean(axis=0)) if len(bright) else np.zeros(channels.shape[1])
    alive = [
        c for c in range(channels.shape[1]) if power[c] > max(SILENCE / 4, power.max() * 10 ** (-26 / 20))
    ]
    if not alive:
        return np.zeros(len(channels), np.float32)
    lead = max(alive, key=lambda c: power[c])
    total = channels[:, lead].astype(np.float32).copy()
    for c in alive:
        if c != lead:
            alike = float(np.mean(bright[:, lead] * bright[:, c])) / float(power[lead] * power[c])
            total += channels[:, c] * (-1 if alike < -0.3 else 1)
    return np.asarray(total / len(alive), dtype=np.float32)


def is_silent(sound: Singles) -> bool:
    """Whether there is no usable sound: near-digital silence through (almost) the whole length."""
    block = min(len(sound), RATE // 10)
    if not block:
        return True
    blocks = sound[: len(sound) // block * block].reshape(-1, block)
    steady = blocks - blocks.mean(axis=1, keepdims=True)
    return bool(np.mean(np.sqrt((steady**2).mean(axis=1)) > SILENCE) < 0.01)


def whiten(sound: Singles, *, block_s: float = 16.0) -> Singles:
    """Flatten the spectrum between ``LOW_HZ`` and ``HIGH_HZ`` and even out the level.

    Each half-overlapping block is divided by its own smoothed magnitude spectrum (a regularised phase
    transform), then the level is evened over half a second, so that gain pumping and talk weigh little.
    """
    size = int(block_s * RATE)
    half = size // 2
    padded = np.pad(sound.astype(np.float32), (half, half + (-len(sound)) % half))
    window = (np.sin(np.pi * (np.arange(size) + 0.5) / size) ** 2).astype(np.float32)
    bins = np.fft.rfftfreq(size, 1 / RATE)
    width = max(3, int(60 / (RATE / size)))
    mask = ((bins >= LOW_HZ) & (bins <= HIGH_HZ)).astype(np.float32)
    out = np.zeros(len(padded), np.float32)
    for start in range(0, len(padded) - size + 1, half):
        spectrum = rfft(padded[start : start + size] * window)
        level = np.sqrt(np.maximum(uniform_filter1d(np.abs(spectrum) ** 2, width, mode="nearest"), 0))
        floor = 1e-3 * float(level.max()) + 1e-9
        out[start : start + size] += irfft(spectrum / (level + floor) * mask, size).astype(np.float32)
    white = out[half : half + len(sound)]
    power = np.maximum(uniform_filter1d(white**2, RATE // 2, mode="nearest"), 0)
    floor = 0.02 * float(np.percentile(power, 90)) + 1e-12
    return np.asarray(white / np.sqrt(power + floor), dtype=np.float32)


def flux(sound: Singles, *, bands: int = 12, hop_s: float = 1 / FLUX_RATE) -> Singles:
    """Rise of log-mel energy per band, local mean removed; shape (frames, bands).

    ``hop_s`` other than 0.01 reads the sound at another speed without changing its pitch.
    """
    window = 512
    hop = hop_s * RATE
    count = max(1, int(len(sound) / hop))
    padded = np.pad(sound.astype(np.float32), (window // 2, window))
    bank = mel_weights(bands, 150, 3_700, rate=RATE, window=window)
    hann = np.hanning(window).astype(np.float32)
    energies = np.empty((count, bands), np.float32)
    view = np.lib.stride_tricks.sliding_window_view(padded, window)
    for start in range(0, count, 4096):
        index = np.round(np.arange(start, min(count, start + 4096)) * hop).astype(int)
        energies[start : start + 4096] = np.abs(rfft(view[index] * hann, axis=1)) @ bank
    scale = np.percentile(energies, 90, axis=0) + 1e-9
    logs = np.log1p(20 * energies / scale)
    rise = np.zeros_like(logs)
    rise[2:] = np.maximum(0, logs[2:] - logs[:-2])
    rise -= uniform_filter1d(rise, FLUX_RATE, axis=0, mode="nearest")
    deviation = rise.std(axis=0) + 1e-6
    return np.asarray(np.clip(rise / deviation, -1, 6), dtype=np.float32)


def prepare(sound: Singles) -> Sound:
    """Prepare mono sound at ``RATE`` for comparison."""
    return Sound(whiten(sound), flux(sound), len(sound) / RATE)


def at_speed(sound: Singles, numerator: int, denominator: int) -> Singles:
    """The sound stretched to ``numerator / denominator`` times its length (pitch moves along)."""
    return np.asarray(resample_poly(sound, numerator, denominator), dtype=np.float32)


def fft_size(length: int) -> int:
    """A transform length at which the FFT is fast."""
    return int(next_fast_len(length, real=True))
