"""Grades and tables of an 8-bit picture by direct lookup: a table of every code, so that a point costs one access to memory.

Each point of luma is looked up by its own code and 7 bits of both colour differences there; each point of colour by 6 bits of
the mean luma beside it and its own codes. The table is interpolated, axis by axis, from 65 points along each, where the grade
itself is worked out: colours are not brought to red, green and blue picture by picture.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from zembi.core.colour.grade import graded, through
from zembi.core.colour.spaces import Colours
from zembi.core.colour.tables import is_known, table_lut
from zembi.core.colour.video import codes_of, rgb_of_codes
from zembi.core.picture.chain import Act
from zembi.core.picture.step import StepKind, Values
from zembi.core.picture.steps import GRADE, STEPS, TABLE
from zembi.media.sheet import Plane

_POINTS = 65
#: Tables that are kept, 24 MB each.
_KEPT = 10
_LUMA_CODES, _CHROMA_CODES = np.arange(256.0), np.arange(256.0)
#: Middles of the codes that share an entry.
_LUMA_COARSE, _CHROMA_COARSE = np.arange(64) * 4 + 1.5, np.arange(128) * 2 + 0.5


@dataclass(frozen=True, eq=False)
class DenseTable:
    """Codes after a grade.

    Attributes:
        luma: By red difference (7 bits in a byte of its own), blue difference (the same) and luma.
        chroma: Blue difference, and red above it, by luma (6 bits), red and blue difference.
    """

    luma: NDArray[np.uint8]
    chroma: NDArray[np.uint16]


def may_look_up(act: Act) -> bool:
    """True if a step changes colours alone, and all of it but a grade's strength is the same through its span."""
    return act.kind in _COLOURS and act.moving is not None and act.moving <= {"strength"}


def graded_planes(planes: list[Plane], acts: Sequence[Act]) -> list[Plane]:
    """Three planes of 4:2:0 after grades that can be looked up."""
    for moves, run in groupby(acts, lambda act: bool(act.moving)):
        if not moves:
            planes = looked_up(planes, list(run))
            continue
        for act in run:
            # A strength mixes coded values, which are mixed alike in these planes.
            share = act.values["strength"]
            whole = looked_up(planes, [Act(act.kind, {**act.values, "strength": 1.0})])
            planes = [
                np.asarray(cv2.addWeighted(b, 1 - share, a, share, 0), np.uint8)
                for a, b in zip(whole, planes, strict=True)
            ]
    return planes


def looked_up(planes: list[Plane], acts: Sequence[Act]) -> list[Plane]:
    """Three planes of 4:2:0 after steps of colour that follow each other, rounded once."""
    table = _table(tuple((act.kind.name, *act.values.items(), _at_hand(act)) for act in acts))
    luma, blue, red = planes
    height, width = luma.shape
    small = (blue.shape[1], blue.shape[0])
    empty = np.zeros((height, width), np.uint8)
    wide = [np.right_shift(_resized(c, (width, height), cv2.INTER_LINEAR), 1) for c in (blue, red)]
    at = cv2.merge([luma, *wide, empty]).view(np.uint32)[..., 0]
    mean = np.right_shift(_resized(luma, small, cv2.INTER_AREA), 2)
    beside = cv2.merge([blue, red, mean, empty[: small[1], : small[0]]]).view(np.uint32)[..., 0]
    both = np.take(table.chroma, beside).view(np.uint8).reshape(*beside.shape, 2)
    return [np.take(table.luma, at), np.ascontiguousarray(both[..., 0]), np.ascontiguousarray(both[..., 1])]


def _resized(plane: Plane, size: tuple[int, int], how: int) -> Plane:
    return np.asarray(cv2.resize(plane, size, interpolation=how), np.uint8)


def _at_hand(act: Act) -> bool:
    """True if a table that is named can be used now: one that comes later makes another."""
    return act.kind is not TABLE or is_known(int(act.values["number"]))


def _tabled(colours: Colours, values: Values) -> Colours:
    return through(table_lut(int(values["number"]), values["share"]), colours)


#: Steps that change colours, whatever lies beside a point: what they do to coded colours, 0 to 1.
_COLOURS: dict[StepKind, Callable[[Colours, Values], Colours]] = {GRADE: graded, TABLE: _tabled}


@lru_cache(maxsize=_KEPT)
def _table(steps: tuple[Any, ...]) -> DenseTable:
    # Greys, at 128, lie on points.
    luma, chroma = np.linspace(0, 256, _POINTS), np.linspace(0, 256, _POINTS)
    red, blue, bright = np.meshgrid(chroma, chroma, luma, indexing="ij")
    codes = np.stack((bright, blue, red), axis=-1)
    colours = np.clip(rgb_of_codes(codes), 0, 1)
    for name, *values, _at_hand in steps:
        colours = _COLOURS[STEPS[name]](colours, dict(values))
    done = codes_of(colours).astype(np.float32)
    fine, coarse = _weights(_LUMA_CODES), _weights(_LUMA_COARSE)
    whole, halved = _weights(_CHROMA_CODES), _weights(_CHROMA_COARSE)
    lumas = np.zeros((128, 256, 256), np.uint8)
    lumas[:, :128] = _between(done[..., 0], halved, halved, fine)
    blues, reds = (_between(done[..., k], whole, whole, coarse).transpose(2, 0, 1) for k in (1, 2))
    both = blues.astype(np.uint16) | reds.astype(np.uint16) << np.uint16(8)
    return DenseTable(lumas.ravel(), both.ravel())


def _weights(codes: NDArray[np.floating[Any]]) -> NDArray[np.float32]:
    """Weights of the points of an axis at codes between two: of shape (codes, points)."""
    at = codes / (256 / (_POINTS - 1))
    low = np.minimum(at.astype(int), _POINTS - 2)
    out = np.zeros((len(codes), _POINTS), np.float32)
    rows = np.arange(len(codes))
    out[rows, low], out[rows, low + 1] = low + 1 - at, at - low
    return out


def _between(values: NDArray[np.float32], *weights: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Values at points of three axes, at codes between them: one product for each axis, the last first."""
    out = values @ weights[2].T
    out = np.einsum("bk,akl->abl", weights[1], out, optimize=True)
    out = np.tensordot(weights[0], out, (1, 0))
    return np.clip(np.rint(out, out=out), 0, 255, out=out).astype(np.uint8)
