"""Strokes in a clip's own sound: where something is hit, slammed or said, as places to jump to."""

import numpy as np
import scipy
from numpy.typing import NDArray

#: Seconds between two values of the loudness envelope, and of the mean that a stroke stands out from.
_HOP_S, _AROUND_S = 0.004, 0.35
#: Decibels by which a stroke is above what was heard right before, and of the loudest moment, below which nothing counts.
_RISE_DB, _FLOOR_DB = 9.0, 40.0
#: Seconds between two strokes.
_APART_S = 0.09


def strokes(sound: NDArray[np.float32], rate: int, *, most: int = 400) -> tuple[float, ...]:
    """Seconds at which strokes begin, ascending; the strongest where there are more than ``most``.

    A stroke is a rise of short-time energy by 9 dB within 12 ms above the mean of the third of a second before it; its
    time is where the rise begins (after Bello et al., "A Tutorial on Onset Detection in Music Signals", 2005, by energy).

    Args:
        sound: Mono samples, shape (n,).
        rate: Of the samples.
        most: How many are told.
    """
    hop = max(1, round(_HOP_S * rate))
    count = len(sound) // hop
    if count < 8:
        return ()
    energy = np.mean(sound[: count * hop].reshape(count, hop).astype(np.float64) ** 2, axis=1)
    loudest = float(energy.max())
    if loudest <= 1e-9:
        return ()
    level = 10 * np.log10(np.maximum(energy, loudest * 10 ** (-_FLOOR_DB / 10)))
    around = max(1, round(_AROUND_S / _HOP_S))
    before = scipy.ndimage.uniform_filter1d(np.concatenate([np.full(around, level[0]), level]), around)
    # The mean of what lies before each moment, this one left out.
    before = before[around - around // 2 - 1 :][:count]
    rise = scipy.ndimage.maximum_filter1d(level, 3, origin=-1) - np.maximum(before, level.min())
    peaks, _ = scipy.signal.find_peaks(
        np.concatenate([[0.0], rise, [0.0]]), height=_RISE_DB, distance=round(_APART_S / _HOP_S)
    )
    strongest = sorted(peaks - 1, key=lambda k: -rise[k])[:most]
    return tuple(sorted(round(float(_begins(level, int(k))) * hop / rate, 4) for k in strongest))


def _begins(level: NDArray[np.float64], at: int) -> int:
    """The moment at which a rise begins: back from its steepest as long as it still falls."""
    end = min(len(level) - 1, at + 3)
    k = at + int(np.argmax(np.diff(level[at : end + 1]))) + 1 if end > at else at
    while k > 0 and level[k - 1] < level[k] - 1.0:
        k -= 1
    return k + 1 if k < len(level) - 1 and level[k + 1] > level[k] + 1.0 else k
