"""Lead voice detection: by spectral means from the mix, or from the voice alone."""

import numpy as np
import scipy

from zembi.core.song.medians import running_median
from zembi.core.song.spectrum import RATE, Floats, Singles

#: Seconds between values.
HOP_S = 0.1
_HOP, _WINDOW = 1323, 2048  # 60 ms, 93 ms
_LOW_HZ, _HIGH_HZ = 180.0, 2_600.0
#: A voice stem counts as singing within this many dB of its loud passages.
_STEM_DB = 24.0


def _per_hop(values: Floats, seconds: float) -> Floats:
    """Values at analysis frames brought to one every ``HOP_S``."""
    count = int(np.ceil(seconds / HOP_S))
    at = (np.arange(count) + 0.5) * HOP_S
    return np.asarray(np.interp(at, np.arange(len(values)) * _HOP / RATE, values))


def _frames(audio: Singles) -> Singles:
    padded = np.pad(audio.astype(np.float32), (_WINDOW // 2, _WINDOW // 2))
    return np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::_HOP]


def _parting(values: Floats) -> float:
    """The value that parts two kinds best: greatest variance between them (Otsu 1979)."""
    ordered = np.sort(values)
    n = np.arange(1, len(ordered))
    sums = np.cumsum(ordered)
    below, above = sums[:-1] / n, (sums[-1] - sums[:-1]) / (len(ordered) - n)
    return float(ordered[int(np.argmax(n * (len(ordered) - n) * (above - below) ** 2))])


def voice_in_mix(audio: Singles) -> Floats:
    """Probability of lead voice, 0..1 every ``HOP_S`` seconds, from the whole mix.

    Held instruments stay the same over half a second, drums are the same over many bands; a voice, whose
    pitch glides and trembles, is neither (median filtering after FitzGerald and Gainza 2010). What is left
    in the range of singing is set against its own quiet and loud passages.

    Args:
        audio: Mono samples at :data:`zembi.core.song.spectrum.RATE`.
    """
    frames = _frames(audio)
    hann = np.hanning(_WINDOW).astype(np.float32)
    bins = np.fft.rfftfreq(_WINDOW, 1 / RATE)
    band = (bins >= _LOW_HZ) & (bins <= _HIGH_HZ)
    parts = [
        np.abs(scipy.fft.rfft(frames[i : i + 1024] * hann, axis=1))[:, band]
        for i in range(0, len(frames), 1024)
    ]
    magnitude = np.concatenate(parts).astype(np.float32)
    held = running_median(magnitude, 9)
    struck = running_median(magnitude.T, 15).T
    rest = np.maximum(0, magnitude - np.maximum(held, struck))
    energy = scipy.ndimage.uniform_filter1d((rest**2).sum(axis=1).astype(float), 7)
    whole = scipy.ndimage.uniform_filter1d((magnitude**2).sum(axis=1).astype(float), 7)
    floor = max(float(np.percentile(whole, 95)) * 1e-5, 1e-12)
    share = 0.5 * np.log(np.maximum(energy, 1e-12) / (whole + floor))
    share[whole <= floor] = -20.0
    low, high = (float(v) for v in np.percentile(share, (10, 90)))
    if high - low < 0.1:
        return np.zeros(int(np.ceil(len(audio) / RATE / HOP_S)))
    likely = 1 / (1 + np.exp(-8 * (share - _parting(np.clip(share, low, high))) / (high - low)))
    return _per_hop(likely, len(audio) / RATE)


def voice_alone(audio: Singles) -> Floats:
    """Activity of a voice stem, 0..1 every ``HOP_S`` seconds.

    Args:
        audio: Mono samples of the voice alone at :data:`zembi.core.song.spectrum.RATE`.
    """
    level = np.sqrt((_frames(audio) ** 2).mean(axis=1))
    loud = float(np.percentile(level, 97))
    if loud < 1e-5:
        return np.zeros(int(np.ceil(len(audio) / RATE / HOP_S)))
    db = 20 * np.log10(np.maximum(scipy.ndimage.uniform_filter1d(level.astype(float), 3), 1e-9) / loud)
    return _per_hop(np.clip((db + _STEM_DB + 3) / 6, 0, 1), len(audio) / RATE)
