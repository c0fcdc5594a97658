"""Bring a file to its own middle along its length: light and its colour that drifted as it was filmed, as the sun goes.

Slow change alone is taken out: measured over windows of some seconds, in which who moves where evens out, and smoothed over
several. Corrections are values of a grade's controls at times of the file; what shows a moment of it, whatever is cut, slipped or
slowed down, gets that moment's.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from zembi.core.colour.grade import CONTROLS, REST, graded
from zembi.core.colour.spaces import Colours, luminance, to_light, to_oklab

#: Controls that are found.
EVENED = ("exposure", "temperature", "tint")
#: Seconds of a window, and the standard deviation in windows by which corrections are smoothed.
WINDOW_S = 5.0
_SMOOTH = 1.0
#: Rounds in which corrections are bettered.
_ROUNDS = 4
#: Tenths of the scale of lightness that are measured.
_TENTHS = np.linspace(0.2, 0.8, 7)

#: Corrections along a file: seconds of it, and a value of each of :data:`EVENED`.
Evening = tuple[tuple[float, ...], ...]


def evening_of(times_s: Sequence[float], colours: Sequence[Colours]) -> Evening:
    """Corrections that bring pictures of a file to their middle.

    Args:
        times_s: Seconds of the file of each picture, in order.
        colours: Coded colours of each, of shape (points, 3).

    Returns:
        In order of time; none where the file is too short to drift.
    """
    numbers = (np.asarray(times_s) // WINDOW_S).astype(int)
    windows = [np.flatnonzero(numbers == n).tolist() for n in np.unique(numbers)]
    if len(windows) < 3:
        return ()
    at = np.array([np.mean([times_s[k] for k in w]) for w in windows])
    points = [np.concatenate([colours[k] for k in w]) for w in windows]
    found = np.zeros((len(windows), len(EVENED)))
    middle = np.median([_measured(p) for p in points], axis=0)
    response = _response(np.concatenate(points)[:: max(1, len(points) // 4)])
    for _ in range(_ROUNDS):
        away = np.array(
            [middle - _measured(graded(p, _values(v))) for p, v in zip(points, found, strict=True)]
        )
        found = found + away @ response
        found = np.clip(found, *np.array([_limits(name) for name in EVENED]).T)
    smooth = gaussian_filter1d(found, _SMOOTH, axis=0, mode="nearest") if len(windows) > 4 else found
    return tuple(
        (round(float(t), 3), *(round(float(v), 4) for v in row)) for t, row in zip(at, smooth, strict=True)
    )


def _limits(name: str) -> tuple[float, float]:
    return CONTROLS[name].least / 2, CONTROLS[name].most / 2


def _values(found: NDArray[np.float64]) -> dict[str, float]:
    return {**REST, **dict(zip(EVENED, found.tolist(), strict=True))}


def _measured(colours: Colours) -> NDArray[np.float64]:
    """Light in stops, and the mean of both axes of colour, of what is not clipped."""
    light = to_light(colours)
    inside = (colours.max(axis=-1) < 0.98) & (colours.max(axis=-1) > 0.04)
    light = light[inside] if inside.sum() > len(light) // 10 else light
    stops = np.log2(np.quantile(luminance(light), _TENTHS) + 1e-4).mean()
    return np.array([stops, *to_oklab(light)[:, 1:].mean(axis=0)])


def _response(colours: Colours) -> NDArray[np.float64]:
    """Matrix from differences of what is measured to values of the controls, about rest."""
    rest, small = _measured(colours), 0.1
    rows = [
        (_measured(graded(colours, _values(small * np.eye(len(EVENED))[k]))) - rest) / small
        for k in range(len(EVENED))
    ]
    return np.linalg.pinv(np.array(rows), rcond=1e-3)
