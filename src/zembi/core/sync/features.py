"""Features by which takes and songs are compared: a whitened waveform, and energy in bands at 100 frames a second."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Protocol

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.song.spectrum import mel_weights
from zembi.core.sync.sliding import Sliding

#: Sample rate of everything in alignment, in Hz.
RATE = 8_000
FLUX_RATE = 100
MEL_BANDS = 12
#: Envelope frames a second of song time, for sound of which only envelopes are left, and their bands.
ENVELOPE_RATE, ENVELOPE_BANDS = 400, 8
#: Blocks in which agreement is looked at.
BLOCK_S = 0.05
#: Steps of a sample to which a line is followed through the song.
FINE = 8
LOW_HZ, HIGH_HZ = 150.0, 3_600.0
#: Seconds in a piece of flux and of whitened waveform that is slid over the song.
WINDOW_S, PIECE_S = 8.0, 18.0
#: Bands in which sound is compared at other speeds: from 110 Hz up by sixteenths of an octave.
TONE_HZ, TONES_PER_OCTAVE, TONES = 110.0, 16, 82
#: Below this RMS a block of sound counts as nothing (full scale 1.0).
SILENCE = 10 ** (-75 / 20)

Singles = NDArray[np.float32]


class SoundSource(Protocol):
    """Mono samples that may lie on disk: an array, or something that is read as one, slice by slice."""

    def __len__(self) -> int: ...

    def __getitem__(self, part: slice, /) -> Singles: ...


@dataclass(frozen=True)
class SoundFeatures:
    """A song or take prepared for comparison.

    Attributes:
        white: Whitened, level-evened waveform at ``RATE``, about unit variance where there is sound.
        mel: Magnitude in ``MEL_BANDS`` bands, shape (frames, bands) at ``FLUX_RATE``.
        seconds: Length.
        raw: The sound itself.
    """

    white: Singles
    mel: Singles
    seconds: float
    raw: Singles

    def upside_down(self) -> "SoundFeatures":
        """The same sound with its polarity turned round."""
        return replace(self, white=-self.white)

    @cached_property
    def flux(self) -> Singles:
        """Rise of log-mel energy, shape (frames, bands) at ``FLUX_RATE``."""
        return rise_of(self.mel)

    @cached_property
    def envelopes(self) -> Singles:
        """Rise of energy at ``ENVELOPE_RATE``, shape (frames, ``ENVELOPE_BANDS``)."""
        return envelopes_of(self.raw)

    @cached_property
    def flux_slide(self) -> Sliding:
        """The flux, ready for pieces of ``WINDOW_S``."""
        return Sliding(self.flux, int(WINDOW_S * FLUX_RATE))

    @cached_property
    def white_slide(self) -> Sliding:
        """The whitened waveform, ready for pieces of ``PIECE_S``."""
        return Sliding(self.white, int(PIECE_S * RATE))

    @cached_property
    def tones(self) -> Singles:
        """Magnitude in bands of a sixteenth of an octave, shape (frames at ``FLUX_RATE``, ``TONES``)."""
        return tones(self.raw)

    @cached_property
    def level(self) -> Singles:
        """RMS over the second around each block of ``BLOCK_S``, shape (blocks,)."""
        size = int(BLOCK_S * RATE)
        whole = self.raw[: len(self.raw) // size * size].reshape(-1, size)
        return np.asarray(
            np.sqrt(
                np.maximum(scipy.ndimage.uniform_filter1d((whole**2).mean(axis=1), 20, mode="nearest"), 0)
            ),
            np.float32,
        )

    @cached_property
    def fine(self) -> Singles:
        """``white`` between its samples, shape (FINE, samples): row p holds what lies p / FINE of a sample later."""
        dense = np.asarray(scipy.signal.resample_poly(self.white, FINE, 1), dtype=np.float32)
        return np.ascontiguousarray(dense.reshape(-1, FINE).T)


#: Samples that are looked at together.
_PIECE = 1 << 20


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
    return np.asarray(channels @ channel_weights(channel_products(channels), len(channels)), np.float32)


def channel_products(channels: Singles) -> NDArray[np.float64]:
    """Products of the channels' differences, shape (channels, channels); those of parts of a sound add up."""
    # A hum sits below the band in which sound is compared; differences leave it out of the decision.
    products = np.zeros((channels.shape[1], channels.shape[1]))
    for start in range(0, len(channels) - 1, _PIECE):
        bright = np.diff(channels[start : start + _PIECE + 1].astype(np.float64), axis=0)
        products += bright.T @ bright
    return products


def channel_weights(products: NDArray[np.float64], samples: int) -> Singles:
    """Weights for adding channels up: none of a dead or humming one, an inverted one turned round.

    Args:
        products: From :func:`channel_products`.
        samples: How many samples they come from.

    Returns:
        Shape (channels,); zeros where no channel holds sound.
    """
    power = np.sqrt(np.diag(products) / max(samples - 1, 1))
    weights = np.zeros(len(power), np.float32)
    alive = np.flatnonzero(power > max(SILENCE / 4, float(power.max()) * 10 ** (-26 / 20)))
    if not len(alive):
        return weights
    lead = int(alive[np.argmax(power[alive])])
    for c in alive:
        alike = products[lead, c] / max(float(np.sqrt(products[lead, lead] * products[c, c])), 1e-12)
        weights[c] = -1 if c != lead and alike < -0.3 else 1
    return weights / np.float32(len(alive))


def is_silent(sound: Singles) -> bool:
    """True if there is no usable sound: near-digital silence through (almost) the whole length."""
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
        spectrum = scipy.fft.rfft(padded[start : start + size] * window)
        level = np.sqrt(
            np.maximum(scipy.ndimage.uniform_filter1d(np.abs(spectrum) ** 2, width, mode="nearest"), 0)
        )
        floor = 1e-3 * float(level.max()) + 1e-9
        out[start : start + size] += scipy.fft.irfft(spectrum / (level + floor) * mask, size).astype(
            np.float32
        )
    white = out[half : half + len(sound)]
    power = np.maximum(scipy.ndimage.uniform_filter1d(white**2, RATE // 2, mode="nearest"), 0)
    floor = 0.02 * float(np.percentile(power, 90)) + 1e-12
    return np.asarray(white / np.sqrt(power + floor), dtype=np.float32)


def mel(
    sound: Singles, *, bands: int = MEL_BANDS, hop_s: float = 1 / FLUX_RATE, window: int = 512
) -> Singles:
    """Magnitude in mel bands from 150 to 3700 Hz; shape (frames, bands).

    Args:
        sound: Mono samples at ``RATE``.
        bands: Number of bands.
        hop_s: Time between frames; another than the song's reads at another speed without changing the pitch.
        window: Samples in a frame.
    """
    hop = hop_s * RATE
    count = max(1, int(len(sound) / hop))
    padded = np.pad(sound.astype(np.float32), (window // 2, window))
    bank = mel_weights(bands, 150, 3_700, rate=RATE, window=window)
    hann = np.hanning(window).astype(np.float32)
    energies = np.empty((count, bands), np.float32)
    view = np.lib.stride_tricks.sliding_window_view(padded, window)
    for start in range(0, count, 4096):
        index = np.round(np.arange(start, min(count, start + 4096)) * hop).astype(int)
        energies[start : start + 4096] = np.abs(scipy.fft.rfft(view[index] * hann, axis=1)) @ bank
    return energies


def rise_of(energies: Singles, *, mean_s: float = 1.0) -> Singles:
    """Rise of log energy per band, local mean removed; same shape.

    Args:
        energies: From :func:`mel`.
        mean_s: Length of the local mean, if frames were ``FLUX_RATE`` a second.
    """
    scale = np.percentile(energies, 90, axis=0) + 1e-9
    logs = np.log1p(20 * energies / scale)
    rise = np.zeros_like(logs)
    rise[2:] = np.maximum(0, logs[2:] - logs[:-2])
    rise -= scipy.ndimage.uniform_filter1d(rise, int(mean_s * FLUX_RATE), axis=0, mode="nearest")
    deviation = rise.std(axis=0) + 1e-6
    return np.asarray(np.clip(rise / deviation, -1, 6), dtype=np.float32)


def envelopes_of(sound: Singles, rate: float = 1.0) -> Singles:
    """Rise of log energy at ``ENVELOPE_RATE`` of song time from mono sound at ``rate`` song seconds a second."""
    energies = mel(sound, bands=ENVELOPE_BANDS, hop_s=1 / ENVELOPE_RATE / rate, window=192)
    return rise_of(energies, mean_s=ENVELOPE_RATE / FLUX_RATE)


def tones(sound: Singles) -> Singles:
    """Magnitude in ``TONES`` bands, ``TONES_PER_OCTAVE`` to the octave from ``TONE_HZ`` up, at ``FLUX_RATE``."""
    window, hop = 1024, RATE // FLUX_RATE
    count = max(1, len(sound) // hop)
    padded = np.pad(sound.astype(np.float32), (window // 2, window))
    centres = TONE_HZ * 2 ** (np.arange(TONES) / TONES_PER_OCTAVE)
    bins = np.fft.rfftfreq(window, 1 / RATE)
    width = np.maximum(centres * (2 ** (1 / TONES_PER_OCTAVE) - 1), RATE / window)
    bank = np.maximum(0, 1 - np.abs(bins[:, None] - centres) / width).astype(np.float32)
    bank /= bank.sum(axis=0)
    # The long window hears the pitch; its middle is weighted so that strokes stay sharp in time.
    taper = np.hanning(window).astype(np.float32) ** 2
    view = np.lib.stride_tricks.sliding_window_view(padded, window)[::hop][:count]
    out = np.empty((count, TONES), np.float32)
    for start in range(0, count, 2048):
        out[start : start + 2048] = np.abs(scipy.fft.rfft(view[start : start + 2048] * taper, axis=1)) @ bank
    return out


def prepare(sound: Singles) -> SoundFeatures:
    """Prepare mono sound at ``RATE`` for comparison."""
    return SoundFeatures(whiten(sound), mel(sound), len(sound) / RATE, sound)


def at_speed(sound: Singles, numerator: int, denominator: int) -> Singles:
    """The sound stretched to ``numerator / denominator`` times its length (pitch moves along)."""
    return np.asarray(scipy.signal.resample_poly(sound, numerator, denominator), dtype=np.float32)
