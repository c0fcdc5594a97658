"""Loudness over time, ITU-R BS.1770-4."""

from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.song.spectrum import Floats, Singles

HOP_S = 0.1
FLOOR_LUFS = -70.0
#: Samples on either side that a value between two is told by.
_SIDE = 10
#: Lagrange's weights of the samples one, two and three away for the value half-way between two.
_HALF_WAY = (np.float32(150 / 256), np.float32(-25 / 256), np.float32(3 / 256))
#: The guess by them of the loudest place is at least this share of its true peak up to a third of the sample rate.
_COMES_NEAR = 0.8
#: Stretches that are looked at together.
_HOPS = 16


def _k_weighting(rate: int) -> Floats:
    """The standard's two filters for any sample rate (bilinear transform of the analogue prototypes), as sections."""
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
    return np.array([[*shelf_b, *shelf_a], [1.0, -2.0, 1.0, *high_a]])


def integrated_loudness(momentary: Floats) -> float:
    """Loudness of a whole programme in LUFS, gated at -70 LUFS and 10 LU below what is left (BS.1770-4).

    Args:
        momentary: From :func:`loudness_curve` with a window of 0.4 s.
    """
    blocks = momentary[momentary > FLOOR_LUFS]
    if not len(blocks):
        return FLOOR_LUFS

    def mean(values: Floats) -> float:
        return float(10 * np.log10(np.mean(10 ** (values / 10))))

    kept = blocks[blocks > mean(blocks) - 10]
    return mean(kept) if len(kept) else FLOOR_LUFS


@cache
def _between_samples() -> Singles:
    """Weights of the samples around, half of them on either side, for the three values between two; shape (2 * _SIDE, 3)."""
    shape = scipy.signal.firwin(8 * _SIDE + 1, 0.25, window=("kaiser", 5.0)) * 4
    return np.stack([shape[quarter::4][::-1][: 2 * _SIDE] for quarter in (1, 2, 3)], axis=1).astype(
        np.float32
    )


def true_peaks(audio: NDArray[np.float32], rate: int) -> Floats:
    """Greatest true peak of each ``HOP_S`` seconds in dBTP, four times oversampled (BS.1770-4, annex 2).

    Only stretches whose samples come near their loudest are oversampled, and of those what comes near by a quick guess
    from six samples: below a third of the sample rate no peak is farther above it.
    """
    channels = audio[:, None] if audio.ndim == 1 else audio
    hop = round(rate * HOP_S)
    count = int(np.ceil(len(channels) / hop))
    peaks = np.array([float(np.abs(channels[k * hop : (k + 1) * hop]).max()) for k in range(count)])
    near = peaks > 0.85 * peaks.max()
    for first in range(0, count, _HOPS):
        hops = np.arange(first, min(first + _HOPS, count))[near[first : first + _HOPS]]
        if not len(hops):
            continue
        start, end = hops[0] * hop - _SIDE + 1, (hops[-1] + 1) * hop + _SIDE
        around = ((max(0, -start), max(0, end - len(channels))), (0, 0))
        for samples in np.pad(channels[max(0, start) : end], around).T:
            here = peaks[hops[0] : hops[-1] + 1]
            np.maximum(here, _loudest_between(np.ascontiguousarray(samples), hop), out=here)
    return np.asarray(20 * np.log10(np.maximum(peaks, 1e-6)))


def _loudest_between(samples: Singles, hop: int) -> Singles:
    """Inter-sample peak of each of some hops; 0 where nothing of it is loud.

    Args:
        samples: Of whole hops, with ``_SIDE - 1`` before them and ``_SIDE`` after.
        hop: Samples in a hop.
    """

    def ahead(by: int) -> Singles:
        return samples[_SIDE - 1 + by : len(samples) - _SIDE + by]

    guess = _HALF_WAY[0] * (ahead(0) + ahead(1))
    for k, weight in enumerate(_HALF_WAY[1:], 1):
        guess += weight * (ahead(-k) + ahead(1 + k))
    guess = np.maximum(np.abs(guess), np.maximum(np.abs(ahead(0)), np.abs(ahead(1))))
    by_hop = guess.reshape(-1, hop)
    loud = np.flatnonzero(by_hop > _COMES_NEAR * by_hop.max(axis=1, keepdims=True))
    around = np.lib.stride_tricks.sliding_window_view(samples, 2 * _SIDE)[loud]
    values = np.abs(around @ _between_samples()).max(axis=1, initial=0.0)
    out = np.zeros(len(by_hop), np.float32)
    hops, first = np.unique(loud // hop, return_index=True)
    if len(hops):
        out[hops] = np.maximum.reduceat(values, first)
    return out


def energy_curve(short_term: Floats, hits_a_second: Floats) -> Floats:
    """Energy of the song, 0..1 every ``HOP_S`` seconds: half its loudness over its own range, half its strokes."""
    audible = short_term[short_term > FLOOR_LUFS]
    if not len(audible):
        return np.zeros(len(short_term))
    low, high = (float(v) for v in np.percentile(audible, (5, 95)))
    loud = np.clip((short_term - low) / max(high - low, 3.0), 0, 1)
    dense = np.clip(hits_a_second / max(float(np.percentile(hits_a_second, 95)), 1e-9), 0, 1)
    return np.asarray(0.5 * loud + 0.5 * dense)


def loudness_curve(audio: NDArray[np.float32], rate: int, *, window_s: float) -> Floats:
    """Loudness in LUFS every ``HOP_S`` seconds; each value is the window that *ends* at that hop.

    Args:
        audio: Samples, shape (samples,) or (samples, channels), full scale 1.0.
        rate: Sample rate in Hz.
        window_s: 0.4 for momentary, 3.0 for short-term.

    Returns:
        Values not below ``FLOOR_LUFS``, shape (ceil(seconds / HOP_S),).
    """
    return loudness_of(weighted_power(audio, rate), window_s=window_s)


def weighted_power(audio: NDArray[np.float32], rate: int) -> Floats:
    """Mean K-weighted power, summed over channels, of each ``HOP_S`` seconds; from this come all loudness curves."""
    channels = audio[:, None] if audio.ndim == 1 else audio
    hop = round(rate * HOP_S)
    count = int(np.ceil(len(channels) / hop))
    power = np.zeros(count)
    # In pieces with the filters' state carried on: the whole in double precision would be four times the song.
    sections, piece = _k_weighting(rate), 10 * hop
    for samples in channels.T:
        state = np.zeros((len(sections), 2))
        for start in range(0, len(samples), piece):
            signal, state = scipy.signal.sosfilt(
                sections, samples[start : start + piece].astype(float), zi=state
            )
            rows = int(np.ceil(len(signal) / hop))
            padded = np.pad(signal, (0, rows * hop - len(signal))).reshape(rows, hop)
            power[start // hop : start // hop + rows] += np.einsum("ij,ij->i", padded, padded) / hop
    return power


def loudness_of(power: Floats, *, window_s: float) -> Floats:
    """Loudness of windows that end at each hop, from :func:`weighted_power`."""
    width = round(window_s / HOP_S)
    sums = np.cumsum(np.concatenate([np.zeros(width), power]))
    mean = (sums[width:] - sums[:-width]) / width
    return np.asarray(np.maximum(FLOOR_LUFS, -0.691 + 10 * np.log10(np.maximum(mean, 1e-12))))
