"""Colour spaces in which the controls of a grade work, and the ways between them."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Colours = NDArray[np.floating[Any]]
Matrix = NDArray[np.float64]

#: Exponent of a reference display (ITU-R BT.1886): from coded values to light.
DISPLAY = 2.4
#: Linear BT.709 to CIE XYZ, white D65 (ITU-R BT.709; SMPTE RP 177).
_TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)
#: Weights of red, green and blue in luminance.
LUMINANCE: Matrix = _TO_XYZ[1]
#: CIE XYZ to the cone responses of CAT16 (Li et al. 2017, "Comprehensive color solutions: CAM16, CAT16, and CAM16-UCS").
_CAT16 = np.array(
    [[0.401288, 0.650173, -0.051461], [-0.250268, 1.204414, 0.045854], [-0.002079, 0.048952, 0.953127]]
)
#: Linear BT.709 to the cone responses of OKLab, and those to its axes (Ottosson 2020, "A perceptual color space").
_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB, _FROM_LMS = np.linalg.inv(_TO_LAB), np.linalg.inv(_TO_LMS)
#: Reciprocal megakelvins of D65 on the daylight locus, and how far a full turn of the temperature goes.
_D65_MIRED, MOST_MIRED = 1e6 / 6504, 110.0
#: Distance in CIE 1960 uv of a full turn of the tint.
MOST_TINT = 0.03


def to_light(coded: Colours) -> Colours:
    """Linear light of coded values, 0 to 1; below 0 there is none."""
    return np.asarray(np.maximum(coded, 0.0) ** DISPLAY)


def to_coded(light: Colours) -> Colours:
    """The inverse of :func:`to_light`."""
    return np.asarray(np.maximum(light, 0.0) ** (1 / DISPLAY))


def luminance(light: Colours) -> Colours:
    """Luminance of linear colours, of shape (...)."""
    return np.asarray(light @ LUMINANCE)


def to_oklab(light: Colours) -> Colours:
    """OKLab of linear colours: lightness, green to red, blue to yellow."""
    return np.asarray(np.cbrt(light @ _TO_LMS.T) @ _TO_LAB.T)


def from_oklab(lab: Colours) -> Colours:
    """The inverse of :func:`to_oklab`."""
    return np.asarray((lab @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T)


def balance(temperature: float, tint: float) -> Matrix:
    """Matrix for linear colours that makes a picture warmer and redder where both are above 0, white staying as bright.

    White is taken from D65 along the daylight locus (CIE 015:2018, 4.1.2), counted in reciprocal megakelvins so that a step is
    as large anywhere, and across it in CIE 1960 uv; everything is adapted to it by CAT16.

    Args:
        temperature, tint: -1 to 1.
    """
    white = _xyz(*_white(_D65_MIRED, 0.0))
    there = _xyz(*_white(_D65_MIRED + MOST_MIRED * temperature, -MOST_TINT * tint))
    gains = (_CAT16 @ there) / (_CAT16 @ white)
    adapt = np.linalg.inv(_CAT16) @ np.diag(gains) @ _CAT16
    return np.asarray(np.linalg.inv(_TO_XYZ) @ adapt @ _TO_XYZ)


def _white(mired: float, across: float) -> tuple[float, float]:
    """Chromaticity xy of daylight, moved in v of CIE 1960."""
    kelvin = min(25_000.0, max(3_500.0, 1e6 / mired))
    if kelvin <= 7000:
        x = 0.244063 + 0.09911e3 / kelvin + 2.9678e6 / kelvin**2 - 4.6070e9 / kelvin**3
    else:
        x = 0.237040 + 0.24748e3 / kelvin + 1.9018e6 / kelvin**2 - 2.0064e9 / kelvin**3
    y = -3.0 * x * x + 2.870 * x - 0.275
    u, v = 4 * x / (-2 * x + 12 * y + 3), 6 * y / (-2 * x + 12 * y + 3) + across
    return 3 * u / (2 * u - 8 * v + 4), 2 * v / (2 * u - 8 * v + 4)


def _xyz(x: float, y: float) -> Matrix:
    return np.array([x / y, 1.0, (1 - x - y) / y])
