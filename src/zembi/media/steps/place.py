"""Place and scale in the film: an affine map of the planes, bilinear, nothing outside the picture."""

import math

import cv2
import numpy as np

from zembi.core.picture.step import Values
from zembi.core.picture.steps.place import fills
from zembi.media.sheet import Sheet, Sheetlike


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


def _placed(plane: Sheetlike, values: Values) -> Sheetlike:
    height, width = plane.shape
    scale = max(values["scale"], 1e-4)
    angle = math.radians(values["turn"])
    cos, sin = math.cos(angle) / scale, math.sin(angle) / scale
    flip = -1.0 if values["mirror"] else 1.0
    to_x, to_y = width / 2 + values["x"] * width, height / 2 + values["y"] * height
    # From a point of the frame back to the picture; points are counted at their middles.
    back = np.array(
        [
            [flip * cos, flip * sin, width / 2 - flip * (cos * (to_x - 0.5) + sin * (to_y - 0.5)) - 0.5],
            [-sin, cos, height / 2 + sin * (to_x - 0.5) - cos * (to_y - 0.5) - 0.5],
        ]
    )
    # Where it fills the frame the edge goes on: rounding must not let in what lies outside.
    edge = cv2.BORDER_REPLICATE if fills(values) else cv2.BORDER_CONSTANT
    how = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpAffine(plane, back, (width, height), flags=how, borderMode=edge), np.float32)
