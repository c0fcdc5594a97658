"""Colours of high dynamic range and of wide gamut, as phones write them, brought to BT.709 as a film shows it.

Transfer functions and the system gamma of HLG: ITU-R BT.2100, tables 4 and 5. Reference white at 203 cd/m2: ITU-R BT.2408, 2.1.
Lights above it are rolled off by the EETF of ITU-R BT.2390, 5.4.1, on the largest of the three colours, so that no hue turns.
"""

from typing import Literal

import numpy as np

from zembi.core.colour.spaces import Colours, to_coded, to_light

#: Perceptual quantisation, hybrid log-gamma, or the usual curve with BT.2020's primaries.
Wide = Literal["pq", "hlg", "2020"]
#: Light of reference white and of the brightest that is expected, cd/m2.
WHITE, PEAK = 203.0, 1000.0
_M1, _M2, _C1, _C2, _C3 = 2610 / 16384, 2523 / 4096 * 128, 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
_A, _B, _C = 0.17883277, 0.28466892, 0.55991073
#: Linear BT.2020 to linear BT.709 (ITU-R BT.2087, annex 2), and the weights of BT.2020's luminance.
TO_709 = np.array([[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]])
_LUMINANCE = np.array([0.2627, 0.6780, 0.0593])
#: System gamma of HLG for a display of :data:`PEAK`.
_GAMMA = 1.2


def pq_light(coded: Colours) -> Colours:
    """Light in cd/m2 of values coded by perceptual quantisation."""
    root = np.clip(coded, 0, 1) ** (1 / _M2)
    return np.asarray(10_000 * (np.maximum(root - _C1, 0) / (_C2 - _C3 * root)) ** (1 / _M1))


def pq_coded(light: Colours) -> Colours:
    """The inverse of :func:`pq_light`."""
    y = (np.clip(light, 0, 10_000) / 10_000) ** _M1
    return np.asarray(((_C1 + _C2 * y) / (1 + _C3 * y)) ** _M2)


def hlg_scene(coded: Colours) -> Colours:
    """Light of the scene, 0 to 1, of values coded by hybrid log-gamma."""
    coded = np.clip(coded, 0, 1)
    return np.asarray(np.where(coded <= 0.5, coded**2 / 3, (np.exp((coded - _C) / _A) + _B) / 12))


def hlg_light(coded: Colours) -> Colours:
    """Light in cd/m2 of a display of :data:`PEAK` for values coded by hybrid log-gamma, of shape (..., 3)."""
    scene = hlg_scene(coded)
    bright = np.maximum(scene @ _LUMINANCE, 1e-9)[..., None]
    return np.asarray(PEAK * bright ** (_GAMMA - 1) * scene)


def rolled_off(light: Colours) -> Colours:
    """Light in cd/m2 with what is above reference white brought below it, smoothly and by the same factor for all colours."""
    most = np.maximum(light.max(-1, keepdims=True), 1e-6)
    scale = float(pq_coded(np.array(PEAK)))
    top = float(pq_coded(np.array(WHITE))) / scale
    knee = 1.5 * top - 0.5
    at = np.minimum(pq_coded(most) / scale, 1.0)
    t = np.clip((at - knee) / (1 - knee), 0, 1)
    spline = (
        (2 * t**3 - 3 * t**2 + 1) * knee + (t**3 - 2 * t**2 + t) * (1 - knee) + (-2 * t**3 + 3 * t**2) * top
    )
    return np.asarray(light * (pq_light(np.where(at < knee, at, spline) * scale) / most))


def film_of(coded: Colours, wide: Wide) -> Colours:
    """Coded BT.709 of coded wide colours.

    Args:
        coded: Red, green and blue with BT.2020's primaries, 0 to 1, of shape (..., 3).
        wide: How they are coded.
    """
    if wide == "2020":
        return np.clip(to_coded(to_light(np.asarray(coded)) @ TO_709.T), 0, 1)
    light = rolled_off(pq_light(coded) if wide == "pq" else hlg_light(coded)) / WHITE
    return np.clip(to_coded(np.maximum(light @ TO_709.T, 0)), 0, 1)
