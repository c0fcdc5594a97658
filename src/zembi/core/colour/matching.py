"""Make one picture's colours like another's: values of a grade's controls that bring their statistics together.

Lightness by mean, spread and its tenths, colour by means and strength, all in OKLab, where equal distances look about equal
(Ottosson 2020). Points near the ends of the scale tell nothing of what was there before they were clipped, and skin tells more
of how near the camera stood than of its light: both count less. What only one of the pictures shows is left out after a first
round, by the intersection of their histograms of colour (Swain and Ballard 1991, "Color indexing").
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from zembi.core.colour.grade import CONTROLS, checked_grade, graded
from zembi.core.colour.spaces import Colours, luminance, to_light, to_oklab

#: Controls that are found, each with its value at rest as the search sees it.
FOUND = ("exposure", "contrast", "temperature", "tint", "saturation")
#: Points of a picture that are looked at.
_POINTS = 1200
#: Share of what a point of skin tells of the light's colour.
_SKIN = 0.3
#: Pull towards rest, so that what the pictures do not tell stays as it is; and how much more of it where they have no colour
#: in common: another place is not made this one.
_REST, _APART = 0.002, 0.3
#: As far as a match goes: beyond it a shot needs an eye.
_LIMITS = {
    "exposure": (-2.5, 2.5),
    "contrast": (0.6, 1.7),
    "temperature": (-0.8, 0.8),
    "tint": (-0.6, 0.6),
    "saturation": (0.5, 1.8),
}
_TENTHS = np.linspace(0.1, 0.9, 9)
_BINS = 9


@dataclass(frozen=True)
class Difference:
    """Distance of two pictures, in hundredths of the whole scale of OKLab.

    Attributes:
        lightness: Of their means of lightness.
        colour: Of their means of both axes of colour.
        contrast: Of their spreads of lightness.
    """

    lightness: float
    colour: float
    contrast: float

    @property
    def whole(self) -> float:
        """One number: colour counts double, since its axes are shorter, and spread as much as half."""
        return float(np.sqrt(self.lightness**2 + (2 * self.colour) ** 2 + (0.5 * self.contrast) ** 2))


@dataclass(frozen=True)
class Match:
    """Values that make a picture like another.

    Attributes:
        values: Of the controls that are not at rest.
        before, after: Their difference without it and with it.
    """

    values: Mapping[str, float]
    before: Difference
    after: Difference


def difference(one: Colours, other: Colours) -> Difference:
    """Distance of two pictures' colours.

    Args:
        one, other: Coded BT.709, 0 to 1, of shape (points, 3).
    """
    means, spreads = [], []
    for colours in (one, other):
        lab = to_oklab(to_light(colours))
        means.append(lab.mean(0))
        spreads.append(float(lab[:, 0].std()))
    apart = 100 * (means[1] - means[0])
    return Difference(
        float(abs(apart[0])), float(np.hypot(apart[1], apart[2])), float(100 * abs(spreads[1] - spreads[0]))
    )


def made_like(one: Colours, other: Colours) -> Match:
    """Values of a grade that bring a picture near another.

    Args:
        one: Coded colours of the picture that changes, without the grade that is to be found; of shape (points, 3).
        other: Those of the picture that it is to be like, as it is seen.

    Returns:
        The match, rounded as controls are typed; no values where both are alike already.
    """
    mine, theirs = _some(one), _some(other)
    # Where all points count it is found from afar; where clipped ones do not it is found exactly.
    at, rest = _first(mine, theirs), _REST
    weights: tuple[Colours, Colours] = np.ones(len(mine)), np.ones(len(theirs))
    for clipped in (1.0, 0.02, 0.02):
        wanted = _statistics(theirs, weights[1], clipped)

        def off(
            p: Colours,
            w: Colours = weights[0],
            wanted: Colours = wanted,
            c: float = clipped,
            rest: float = rest,
        ) -> Colours:
            return np.concatenate([_statistics(graded(mine, _values(p)), w, c) - wanted, rest * p])

        at = least_squares(off, at, bounds=_bounds(), diff_step=1e-3, max_nfev=20).x
        if clipped < 1:
            weights, common = _both_show(graded(mine, _values(at)), theirs)
            rest = _REST + _APART * (1 - common)
    values = {n: round(v, 2) for n, v in _values(at).items() if round(v, 2) != CONTROLS[n].rest}
    done = graded(np.asarray(one, np.float64), checked_grade(values)) if values else one
    before, after = difference(one, other), difference(done, other)
    return Match(values, before, after) if after.whole < before.whole else Match({}, before, before)


def _first(mine: Colours, theirs: Colours) -> Colours:
    """Start of the search: as many stops as the middles of both lie apart."""
    middles = [float(np.median(luminance(to_light(c)))) for c in (mine, theirs)]
    stops = np.log2(max(middles[1], 1e-4) / max(middles[0], 1e-4))
    return np.array([float(np.clip(stops, -2, 2)), 0.0, 0.0, 0.0, 0.0])


def _some(colours: Colours) -> Colours:
    step = max(1, len(colours) // _POINTS)
    return np.clip(np.asarray(colours, np.float64)[::step], 0.0, 1.0)


def _values(p: Colours) -> dict[str, float]:
    """Contrast and saturation are searched by their logarithms."""
    exposure, contrast, temperature, tint, saturation = p.tolist()
    return checked_grade(
        {
            "exposure": exposure,
            "contrast": float(np.exp(contrast)),
            "temperature": temperature,
            "tint": tint,
            "saturation": float(np.exp(saturation)),
        }
    )


def _bounds() -> tuple[Colours, Colours]:
    low, high = (np.array([_LIMITS[n][end] for n in FOUND]) for end in (0, 1))
    for ends in (low, high):
        ends[[1, 4]] = np.log(ends[[1, 4]])
    return low, high


def _statistics(coded: Colours, weights: Colours, clipped: float) -> Colours:
    lab = to_oklab(to_light(coded))
    weights = weights * (clipped + (1 - clipped) * _unclipped(coded))
    light = weights / weights.sum()
    tint = light * (1 - (1 - _SKIN) * _like_skin(lab))
    tint = tint / tint.sum()
    mean = light @ lab[:, 0]
    spread = np.sqrt(light @ (lab[:, 0] - mean) ** 2)
    order = np.argsort(lab[:, 0])
    along = np.cumsum(light[order])
    tenths = np.interp(_TENTHS, along, lab[order, 0])
    colour = tint @ lab[:, 1:]
    chroma = tint @ np.hypot(lab[:, 1], lab[:, 2])
    wide = np.sqrt(tint @ (lab[:, 1:] - colour) ** 2)
    # Colour of the dark half and of the bright half by themselves.
    dark = tint / (1 + np.exp((lab[:, 0] - mean) / 0.03))
    halves = [w @ lab[:, 1:] / max(float(w.sum()), 1e-6) for w in (dark, tint - dark)]
    return np.concatenate(
        [[2 * mean, 2 * spread], 0.3 * tenths, 4 * colour, [2 * chroma], 2 * wide, *(0.5 * h for h in halves)]
    )


def _unclipped(coded: Colours) -> Colours:
    """1 for points that can be told, falling to 0 at the ends of the scale of any of their colours' largest and of black."""
    top = np.clip((0.99 - coded.max(1)) / 0.06, 0.0, 1.0)
    bottom = np.clip((coded.max(1) - 0.02) / 0.06, 0.0, 1.0)
    return np.asarray(top * bottom)


def _like_skin(lab: Colours) -> Colours:
    """0 to 1: how near a colour is to the hue and the strength of colour that skin of any tone has."""
    chroma, hue = np.hypot(lab[:, 1], lab[:, 2]), np.degrees(np.arctan2(lab[:, 2], lab[:, 1]))
    near = np.exp(-(((hue - 50) / 22) ** 2) - ((chroma - 0.09) / 0.05) ** 2)
    return np.asarray(near / (1 + np.exp((0.25 - lab[:, 0]) / 0.04)))


def _both_show(one: Colours, other: Colours) -> tuple[tuple[Colours, Colours], float]:
    """Weights of the points of both pictures by how much of their colour the other has too; and how much they have in common."""
    edges = [np.linspace(0, 1, _BINS), np.linspace(-0.3, 0.3, 2 * _BINS), np.linspace(-0.3, 0.3, 2 * _BINS)]
    labs = [to_oklab(to_light(c)) for c in (one, other)]
    histograms = [_soft(np.histogramdd(lab, edges)[0] / len(lab)) for lab in labs]
    shared = np.minimum(*histograms)
    out = []
    for lab, own in zip(labs, histograms, strict=True):
        places = tuple(np.clip(np.searchsorted(e, lab[:, k]) - 1, 0, len(e) - 2) for k, e in enumerate(edges))
        share = shared[places] / np.maximum(own[places], 1e-12)
        out.append(0.1 + 0.9 * share)
    return (out[0], out[1]), float(shared.sum())


def _soft(histogram: Colours) -> Colours:
    """Each bin with a part of its neighbours, so that a colour on a border is in both."""
    for axis in range(3):
        padded = np.pad(histogram, [(1, 1) if k == axis else (0, 0) for k in range(3)], mode="edge")
        cut = [slice(None)] * 3
        parts = []
        for a in (0, 1, 2):
            cut[axis] = slice(a, a + histogram.shape[axis])
            parts.append(padded[tuple(cut)])
        histogram = 0.25 * parts[0] + 0.5 * parts[1] + 0.25 * parts[2]
    return histogram
