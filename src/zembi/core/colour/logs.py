"""Logarithmic curves of open standards, brought to BT.709 as a film shows it: tables that are made, not read."""

from collections.abc import Callable, Mapping
from typing import Literal

import numpy as np

from zembi.core.colour.grade import Lut, grid
from zembi.core.colour.spaces import Colours, to_coded

Curve = Literal["acescct", "film scan", "plain log"]
#: Light of the scene above this is rolled off, and never reaches 1.
_SHOULDER = 0.6
#: Linear ACES primaries AP1 to linear BT.709, white adapted by Bradford from D60 to D65 (Academy TB-2014-004).
_AP1_TO_709 = np.array(
    [[1.70505, -0.62179, -0.08326], [-0.13026, 1.14080, -0.01055], [-0.02400, -0.12897, 1.15297]]
)
_POINTS = 65
#: The two constants of a plain log, coded = slope * log2(light) + offset, as they begin: twelve stops, grey at 0.4.
PLAIN = {"slope": 0.0833, "offset": 0.6061}
SLOPES, OFFSETS = (0.01, 1.0), (-1.0, 2.0)


def acescct_light(coded: Colours) -> Colours:
    """Light of the scene of ACEScct (Academy S-2016-001, 4.4)."""
    coded = np.asarray(coded, np.float64)
    return np.where(
        coded <= 0.155251141552511,
        (coded - 0.0729055341958355) / 10.5402377416545,
        2 ** (np.minimum(coded, 1.468) * 17.52 - 9.72),
    )


def film_scan_light(coded: Colours) -> Colours:
    """Light of the scene of a film scan of ten bits: 0.002 of density a code, gamma 0.6, black at 95 and white at 685 (SMPTE ST 268)."""
    black = 10 ** ((95 - 685) * 0.002 / 0.6)
    return np.asarray((10 ** ((np.asarray(coded) * 1023 - 685) * 0.002 / 0.6) - black) / (1 - black))


def plain_light(coded: Colours, slope: float, offset: float) -> Colours:
    """Light of the scene where coded = slope * log2(light) + offset."""
    return np.asarray(2 ** ((np.asarray(coded) - offset) / slope))


def shown(light: Colours) -> Colours:
    """Coded BT.709 of a scene's light, of shape (..., 3): middle grey stays where it is, the brightest is rolled off.

    All three colours by the factor of the largest, so that no hue turns.
    """
    light = np.maximum(light, 0)
    most = np.maximum(light.max(-1, keepdims=True), 1e-9)
    room = 1 - _SHOULDER
    rolled = np.where(most <= _SHOULDER, most, 1 - room * np.exp(-(most - _SHOULDER) / room))
    return np.clip(to_coded(light * (rolled / most)), 0, 1)


def curve_lut(curve: Curve, *, slope: float = PLAIN["slope"], offset: float = PLAIN["offset"]) -> Lut:
    """The table of a curve, of shape (size, size, size, 3): blue, green, red.

    Args:
        slope, offset: Of a plain log.
    """
    ways: Mapping[Curve, Callable[[Colours], Colours]] = {
        "acescct": lambda c: acescct_light(c) @ _AP1_TO_709.T,
        "film scan": film_scan_light,
        "plain log": lambda c: plain_light(c, slope, offset),
    }
    return np.asarray(shown(ways[curve](grid(_POINTS))), np.float32)
