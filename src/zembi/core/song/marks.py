"""Marks: points the editor taps, and tidying them to the music."""

import numpy as np

#: Of every how many marks one is kept when they are thinned: fewest and most.
THINNED = (2, 64)
#: Farthest that a mark is tidied to a beat or hit, and that all are shifted together, in seconds.
FARTHEST_TIDY_S, FARTHEST_SHIFT_S = 5.0, 60.0


def tidy(marks: list[float], targets: list[float], reach_s: float) -> list[float]:
    """Move each mark to the nearest target within reach; marks out of reach stay, doubles fall together.

    Args:
        marks: Song times in seconds.
        targets: Song times of hits, beats or half-beats.
        reach_s: Farthest a mark may move.

    Returns:
        One time for each mark, in the order given.
    """
    if not targets:
        return list(marks)
    points = np.sort(np.asarray(targets, dtype=float))
    out = []
    for mark in marks:
        i = int(np.argmin(np.abs(points - mark)))
        out.append(float(points[i]) if abs(points[i] - mark) <= reach_s else mark)
    return out


def apart(times: list[float], least_s: float) -> list[float]:
    """Ascending times less those that follow another within ``least_s``."""
    out: list[float] = []
    for at in sorted(times):
        if not out or at - out[-1] >= least_s:
            out.append(at)
    return out
