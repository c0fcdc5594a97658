"""Place and scale in the film: an affine map of the planes, bilinear, nothing outside the picture."""

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from zembi.core.picture.step import Values
from zembi.core.picture.steps.place import fills
from zembi.media.sheet import Sheet, Sheetlike

_HOW = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture scaled, turned and mirrored about the frame's centre, then shifted."""
    planes = [_placed(p, values) for p in sheet.planes]
    if sheet.cover is None and fills(values):
        return Sheet(sheet.size, planes)
    whole = sheet.cover or [np.ones(p.shape, np.float32) for p in sheet.planes]
    return Sheet(sheet.size, planes, [_placed(c, values) for c in whole])


def box(values: Values, width: int, height: int) -> tuple[float, float, float, float]:
    """The part of a picture that fills the frame, where it is upright and enlarged: left, top, width and height."""
    wide, high = width / values["scale"], height / values["scale"]
    left = (width - wide) / 2 - values["x"] * wide
    top = (height - high) / 2 - values["y"] * high
    return min(max(0.0, left), width - wide), min(max(0.0, top), height - high), wide, high


def back_map(values: Values, width: int, height: int) -> NDArray[np.float64]:
    """The affine map, shape (2, 3), from a point of the frame back to the picture; points are counted at their middles."""
    scale = max(values["scale"], 1e-4)
    angle = math.radians(values["turn"])
    cos, sin = math.cos(angle) / scale, math.sin(angle) / scale
    flip = -1.0 if values["mirror"] else 1.0
    to_x, to_y = width / 2 + values["x"] * width, height / 2 + values["y"] * height
    return np.array(
        [
            [flip * cos, flip * sin, width / 2 - flip * (cos * (to_x - 0.5) + sin * (to_y - 0.5)) - 0.5],
            [-sin, cos, height / 2 + sin * (to_x - 0.5) - cos * (to_y - 0.5) - 0.5],
        ]
    )


def _placed(plane: Sheetlike, values: Values) -> Sheetlike:
    height, width = plane.shape
    back = back_map(values, width, height)
    # Where it fills the frame the edge goes on: rounding must not let in what lies outside.
    edge = cv2.BORDER_REPLICATE if fills(values) else cv2.BORDER_CONSTANT
    return np.asarray(cv2.warpAffine(plane, back, (width, height), flags=_HOW, borderMode=edge), np.float32)


#: A picture, or a part of one, of whatever kind of number.
Part = NDArray[Any]


def placed_part(
    part: Part, left: int, top: int, values: Values, size: tuple[int, int]
) -> tuple[Part, int, int]:
    """A part of a picture with nothing around it, placed as :func:`act` places the whole.

    Args:
        part: Of shape (rows, columns) or (rows, columns, channels).
        left, top: Its first column and row in the picture.
        values: Of the step.
        size: Width and height of the plane.

    Returns:
        The part of the frame that is not empty, and its first column and row; of no rows where it lies outside.
    """
    width, height = size
    back = back_map(values, width, height)
    rows, columns = part.shape[:2]
    forth = cv2.invertAffineTransform(back)
    # A point more on each side: what is mixed of two reaches into the next.
    corners = (
        np.array([(x, y, 1.0) for x in (left - 1, left + columns) for y in (top - 1, top + rows)]) @ forth.T
    )
    first = np.maximum(np.floor(corners.min(0)), 0).astype(int)
    last = np.minimum(np.ceil(corners.max(0)).astype(int) + 1, (width, height))
    wide, high = (last - first).tolist()
    if wide <= 0 or high <= 0:
        return part[:0], 0, 0
    own = back.copy()
    own[:, 2] += back[:, :2] @ first - (left, top)
    out = cv2.warpAffine(part, own, (wide, high), flags=_HOW, borderMode=cv2.BORDER_CONSTANT)
    return np.asarray(out), int(first[0]), int(first[1])
