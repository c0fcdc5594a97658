"""The controls of a grade, and what they do to colours: the one place for it. Page and film use the table they compile to."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from zembi.core.colour.spaces import (
    DISPLAY,
    Colours,
    balance,
    from_oklab,
    luminance,
    to_coded,
    to_light,
    to_oklab,
)
from zembi.core.errors import BadInput

#: Points of the table along each colour.
LUT_SIZE = 33
Lut = NDArray[np.float32]


@dataclass(frozen=True)
class Control:
    """A control: its value at rest, its least and its largest."""

    rest: float
    least: float
    most: float


#: Curves of coded values, of all three colours and of each, and the per cent of the scale at which they are bent.
CURVES, BENDS = ("all", "red", "green", "blue"), (0, 25, 50, 75, 100)
_BEND = Control(0.0, -0.5, 0.5)
#: In the order in which they act; "strength" mixes the whole with the picture as it was.
CONTROLS: Mapping[str, Control] = {
    "exposure": Control(0.0, -6.0, 6.0),
    "temperature": Control(0.0, -1.0, 1.0),
    "tint": Control(0.0, -1.0, 1.0),
    "contrast": Control(1.0, 0.2, 3.0),
    "pivot": Control(0.18, 0.02, 0.9),
    "blacks": Control(0.0, -1.0, 1.0),
    "shadows": Control(0.0, -1.0, 1.0),
    "highlights": Control(0.0, -1.0, 1.0),
    "whites": Control(0.0, -1.0, 1.0),
    "saturation": Control(1.0, 0.0, 3.0),
    "low_saturation": Control(1.0, 0.0, 3.0),
    "high_saturation": Control(1.0, 0.0, 3.0),
    **{f"{of}_{at}": _BEND for of in CURVES for at in BENDS},
    "strength": Control(1.0, 0.0, 1.0),
}
REST: Mapping[str, float] = {name: control.rest for name, control in CONTROLS.items()}
#: Middle grey as it is coded, where low and high saturation meet.
_MIDDLE = 0.18 ** (1 / 2.4)


def checked_grade(values: Mapping[str, float]) -> dict[str, float]:
    """Values of all controls, those that are left out at rest.

    Raises:
        BadInput: a control that there is not, or a value out of range.
    """
    for name, value in values.items():
        if name not in CONTROLS:
            raise BadInput(f"There is no control “{name[:40]}”; there are {', '.join(CONTROLS)}.")
        control = CONTROLS[name]
        if not control.least <= value <= control.most:
            said = name.replace("_", " ")
            raise BadInput(f"The {said} of a grade is {control.least:g} to {control.most:g}, not {value:g}.")
    return {**REST, **values}


def graded(coded: Colours, values: Mapping[str, float]) -> Colours:
    """Colours after a grade.

    Args:
        coded: BT.709, 0 to 1, of shape (..., 3).
        values: Of all controls; at rest the colours come back as they are.

    Returns:
        Coded colours, 0 to 1.
    """
    before = np.asarray(coded, np.float64)
    light = to_light(before) * 2.0 ** values["exposure"]
    if values["temperature"] or values["tint"]:
        light = np.maximum(light @ balance(values["temperature"], values["tint"]).T, 0.0)
    light = _toned(light, values)
    light = _saturated(light, values)
    after = _bent(np.clip(to_coded(light), 0.0, 1.0), values)
    return np.asarray(before + (after - before) * values["strength"])


def _toned(light: Colours, values: Mapping[str, float]) -> Colours:
    """Contrast about a pivot, then each part of the scale of lightness; all three colours by the same, so that no hue turns."""
    if values["contrast"] != 1:
        bright = np.maximum(luminance(light), 1e-6)[..., None]
        light = light * (bright / values["pivot"]) ** (values["contrast"] - 1)
    if not any(values[name] for name in ("blacks", "shadows", "highlights", "whites")):
        return light
    here, there = _tone_curve(tuple(values[name] for name in ("blacks", "shadows", "highlights", "whites")))
    at = np.clip(to_coded(luminance(light)), here[1], 1.0)
    return np.asarray(light * ((np.interp(at, here, there) / at) ** DISPLAY)[..., None])


@lru_cache(maxsize=16)
def _tone_curve(amounts: tuple[float, ...]) -> tuple[Colours, Colours]:
    """Coded luminance before and after: a stop at most for each part of the scale, and never one that falls."""
    blacks, shadows, highlights, whites = amounts
    at = np.linspace(0.0, 1.0, 1025)
    stops = (
        blacks * _fall(at / 0.45)
        + shadows * _bump((at - 0.3) / 0.3)
        + highlights * _bump((at - 0.7) / 0.3)
        + whites * _fall((1 - at) / 0.45)
    )
    return at, np.maximum.accumulate(at * 2.0 ** (stops / DISPLAY))


def _fall(x: Colours) -> Colours:
    """1 at 0, falling smoothly to 0 at 1."""
    x = np.clip(x, 0.0, 1.0)
    return np.asarray(1 - x * x * (3 - 2 * x))


def _bump(x: Colours) -> Colours:
    """1 at 0, falling smoothly to 0 at -1 and 1."""
    return _fall(np.abs(x))


def _saturated(light: Colours, values: Mapping[str, float]) -> Colours:
    """Chroma in OKLab, more or less of it, and so for what is dark and what is bright by itself."""
    low, high = values["low_saturation"], values["high_saturation"]
    if values["saturation"] == low == high == 1:
        return light
    lab = to_oklab(light)
    at = np.clip(to_coded(luminance(light)), 0.0, 1.0)
    dark, bright = _fall(at / _MIDDLE), 1 - _fall((at - _MIDDLE) / (1 - _MIDDLE))
    by = values["saturation"] * (1 + (low - 1) * dark) * (1 + (high - 1) * bright)
    lab[..., 1:] *= by[..., None]
    return np.maximum(from_oklab(lab), 0.0)


def _bent(coded: Colours, values: Mapping[str, float]) -> Colours:
    """Coded colours through the curve of all three, then each through its own."""
    whole, *own = (tuple(values[f"{of}_{at}"] for at in BENDS) for of in CURVES)
    if not any(whole) and not any(map(any, own)):
        return coded
    out = []
    for k, shifts in enumerate(own):
        channel = coded[..., k]
        for bend in (whole, shifts):
            channel = np.interp(channel, *_curve(bend)) if any(bend) else channel
        out.append(channel)
    return np.stack(out, axis=-1)


@lru_cache(maxsize=32)
def _curve(shifts: tuple[float, ...]) -> tuple[Colours, Colours]:
    """Coded values before and after a curve through its shifted points; smooth, and never one that falls (Fritsch and
    Carlson 1980, "Monotone piecewise cubic interpolation").
    """
    at = np.array(BENDS) / 100
    shifted = np.maximum.accumulate(np.clip(at + shifts, 0.0, 1.0))
    fine = np.linspace(0.0, 1.0, 1025)
    return fine, np.clip(PchipInterpolator(at, shifted)(fine), 0.0, 1.0)


def lut_of(values: Mapping[str, float]) -> Lut:
    """The table of a grade, of shape (size, size, size, 3): blue, green, red, and the colour there; not to be changed.

    Raises:
        BadInput: as :func:`checked_grade`.
    """
    return _lut(tuple(checked_grade(values).items()))


@lru_cache(maxsize=64)
def _lut(values: tuple[tuple[str, float], ...]) -> Lut:
    out = np.asarray(graded(grid(LUT_SIZE), dict(values)), np.float32)
    out.flags.writeable = False
    return out


def grid(size: int) -> Colours:
    """Colours of an even grid, of shape (size, size, size, 3), red changing first."""
    at = np.linspace(0.0, 1.0, size)
    blue, green, red = np.meshgrid(at, at, at, indexing="ij")
    return np.stack((red, green, blue), axis=-1)


def through(lut: Lut, coded: Colours) -> Colours:
    """Colours looked up in a table, tetrahedral in between (Kasson et al. 1993, "Tetrahedral interpolation algorithm").

    Args:
        lut: Of shape (size, size, size, 3): blue, green, red.
        coded: 0 to 1, of shape (..., 3).
    """
    size = lut.shape[0]
    at = np.clip(np.asarray(coded, np.float64), 0.0, 1.0).reshape(-1, 3) * (size - 1)
    low = np.minimum(at.astype(int), size - 2)
    share = at - low
    order = np.argsort(-share, axis=1, kind="stable")
    ordered = np.take_along_axis(share, order, axis=1)
    corner = low.copy()
    out = (1 - ordered[:, :1]) * lut[corner[:, 2], corner[:, 1], corner[:, 0]]
    rows = np.arange(len(at))
    for k in range(3):
        corner[rows, order[:, k]] += 1
        following = ordered[:, k + 1] if k < 2 else 0.0
        weight = (ordered[:, k] - following)[:, None]
        out = out + weight * lut[corner[:, 2], corner[:, 1], corner[:, 0]]
    return np.asarray(out.reshape(np.shape(coded)))
