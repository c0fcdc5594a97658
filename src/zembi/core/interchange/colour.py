"""Colour for other programs: ASC CDL numbers where they say all of it, else a ``.cube`` for each different colour.

The ASC Color Decision List (version 1.2) multiplies, shifts and bends each coded colour alike, then changes saturation about
BT.709's luma. Of a grade's controls only exposure is one of these: light times two to the power of it is coded colour times its
root by the display's exponent.
"""

import re
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from zembi.core.colour.grade import LUT_SIZE, Lut, checked_grade, graded, grid, through
from zembi.core.colour.spaces import DISPLAY
from zembi.core.colour.tables import is_known, table_lut
from zembi.core.picture.chain import Chain
from zembi.core.picture.step import StepKind
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.model import Programme, Title


class ColourStep(NamedTuple):
    """A step of colour with the values in which it ends up; ``moves`` where it changes over its shot."""

    kind: StepKind
    values: tuple[tuple[str, float], ...]
    moves: bool


#: Colour of a shot: what changes its colours alone, in order.
ShotColour = tuple[ColourStep, ...]


def colour_of(chain: Chain) -> ShotColour:
    """Steps of a chain that change colours alone, each as it is at its end; those that do nothing are left out."""
    out = []
    for step in chain:
        if step.kind not in (GRADE, TABLE):
            continue
        values = {**step.kind.rest, **{name: curve.keys[-1].value for name, curve in step.curves}}
        if values != step.kind.rest:
            out.append(
                ColourStep(
                    step.kind, tuple(values.items()), any(len(curve.keys) > 1 for _, curve in step.curves)
                )
            )
    return tuple(out)


def cdl_slope(colour: ShotColour) -> float | None:
    """Slope of an ASC CDL that is the whole colour; None where it takes more than that, or changes over the shot."""
    slope = 1.0
    for kind, values, moves in colour:
        now = dict(values)
        plain = kind is GRADE and {**now, "exposure": 0.0} == kind.rest
        if moves or not plain:
            return None
        slope *= 2.0 ** (now["exposure"] / DISPLAY)
    return slope


def colour_lut(colour: ShotColour) -> Lut:
    """One table of all of a shot's colour, as fine as the finest table in it."""
    luts = [
        table_lut(int(dict(v)["number"]), dict(v)["share"])
        for kind, v, _ in colour
        if kind is TABLE and _known(v)
    ]
    at = grid(max([LUT_SIZE, *(lut.shape[0] for lut in luts)]))
    for kind, values, _ in colour:
        now = dict(values)
        if kind is GRADE:
            at = graded(at, checked_grade(now))
        elif _known(values):
            at = through(table_lut(int(now["number"]), now["share"]), at)
    return np.asarray(at, np.float32)


def _known(values: tuple[tuple[str, float], ...]) -> bool:
    return is_known(int(dict(values)["number"]))


def colour_files(programme: Programme, names: Mapping[str, str]) -> dict[ShotColour, str]:
    """Name of a ``.cube`` for each colour of a programme that is more than CDL numbers, in the order in which they come.

    Args:
        programme: What is handed over.
        names: What its files are called.
    """
    out: dict[ShotColour, str] = {}
    spans = [s for layer in programme.layers for s in layer.spans if not isinstance(s.content, Title)]
    for span in sorted(spans, key=lambda s: s.start):
        colour = colour_of(span.chain)
        if not colour or cdl_slope(colour) is not None or colour in out:
            continue
        called = re.sub(r"[^\w-]+", "_", names.get(span.media or "", "black")).strip("_")[:40]
        out[colour] = f"{len(out) + 1:02d}_{called}.cube"
    return out
