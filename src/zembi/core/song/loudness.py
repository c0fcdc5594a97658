"""Loudness over time, ITU-R BS.1770-4."""

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from zembi.core.song.spectrum import Floats

HOP_S = 0.1
FLOOR_LUFS = -70.0


def _k_weighting(rate: int) -> list[tuple[Floats, Floats]]:
    """The standard's two filters for any sample rate (bilinear transform of the analogue prototypes)."""
    f0, gain, q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
    k = np.tan(np.pi * f0 / rate)
    vh = 10 ** (gain / 20)
    vb = vh**0.4996667741545416
    a0 = 1 + k / q + k * k
    shelf_b = np.array([vh + vb * k / q + k * k, 2 * (k * k - vh), vh - vb * k / q + k * k]) / a0
    shelf_a = np.array([1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0])
    f0, q = 38.13547087602444, 0.5003270373238773
    k = np.tan(np.pi * f0 / rate)
    a0 = 1 + k / q + k * k
    high_a = np.array([1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0])
    return [(shelf_b, shelf_a), (np.array([1.0, -2.0, 1.0]), high_a)]


def loudness_curve(audio: NDArray[np.float32], rate: int, *, window_s: float) -> Floats:
    """Loudness in LUFS every ``HOP_S`` seconds; each value is the window that *ends* at that hop.

    Args:
        audio: Samples, shape (samples,) or (samples, channels), full scale 1.0.
        rate: Sample rate in Hz.
        window_s: 0.4 for momentary, 3.0 for short-term.

    Returns:
        Values not below ``FLOOR_LUFS``, shape (ceil(seconds / HOP_S),).
    """
    channels = audio[:, None] if audio.ndim == 1 else audio
    hop = round(rate * HOP_S)
    count = int(np.ceil(len(channels) / hop))
    power = np.zeros(count)
    for c in range(channels.shape[1]):
        signal = channels[:, c].astype(float)
        for b, a in _k_weighting(rate):
            signal = lfilter(b, a, signal)
        padded = np.pad(signal, (0, count * hop - len(signal)))
        power += (padded.reshape(count, hop) ** 2).mean(axis=1)
    width = round(window_s / HOP_S)
    sums = np.cumsum(np.concatenate([np.zeros(width), power]))
    mean = (sums[width:] - sums[:-width]) / width
    return np.asarray(np.maximum(FLOOR_LUFS, -0.691 + 10 * np.log10(np.maximum(mean, 1e-12))))
