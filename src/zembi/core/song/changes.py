"""Novelty of a song's timbre and harmony at places of a grid."""

import numpy as np
from numpy.typing import NDArray

from zembi.core.song.spectrum import FRAME_RATE, Floats


def differences(sums: Floats, beats: Floats, places: Floats, reach: float) -> Floats:
    """Euclidean distance of the mean of what sounds after each place from that of what sounds before it.

    Args:
        sums: Of what sounds, from :func:`zembi.core.song.spectrum.running_sums`.
        beats: Times of a grid in seconds, two and more.
        places: Where, in beats from the first; of any shape.
        reach: Over how many beats before and after.

    Returns:
        For each place, in units of what sounds; not a number where the grid does not reach so far.
    """

    def frame(index: Floats) -> NDArray[np.intp]:
        at = np.interp(index, np.arange(len(beats)), beats)
        return np.asarray(np.clip(np.round(at * FRAME_RATE), 0, len(sums) - 1), dtype=np.intp)

    before, here, after = frame(places - reach), frame(places), frame(places + reach)
    then = (sums[after] - sums[here]) / np.maximum(after - here, 1)[..., None]
    first = (sums[here] - sums[before]) / np.maximum(here - before, 1)[..., None]
    change = np.linalg.norm(then - first, axis=-1)
    change[(places < reach) | (places > len(beats) - 1 - reach)] = np.nan
    return np.asarray(change)


def changed(sums: Floats, beats: Floats, places: Floats, reach: float) -> Floats:
    """:func:`differences` in units of their spread about their mean."""
    change = differences(sums, beats, places, reach)
    if np.isnan(change).all():
        return change
    return np.asarray((change - np.nanmean(change)) / max(float(np.nanstd(change)), 1e-9))
