"""Blur in the film: a Gaussian of each plane; a wide one is that of a smaller picture."""

import cv2
import numpy as np

from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet, Sheetlike

#: A blur of more points than this is made of a picture reduced until it is of about as many.
_WIDE = 4


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture blurred by a standard deviation in its heights."""
    planes = [soft(p, values["amount"] * p.shape[0]) for p in sheet.planes]
    cover = sheet.cover and [soft(c, values["amount"] * c.shape[0]) for c in sheet.cover]
    return Sheet(sheet.size, planes, cover)


def soft(plane: Sheetlike, deviation: float) -> Sheetlike:
    """A plane blurred by a standard deviation in points; its edges go on outside."""
    height, width = plane.shape
    step = min(16, int(deviation // _WIDE))
    if step > 1:
        small = (max(1, round(width / step)), max(1, round(height / step)))
        reduced = np.asarray(cv2.resize(plane, small, interpolation=cv2.INTER_AREA), np.float32)
        blurred = _gaussian(reduced, deviation * small[1] / height)
        return np.asarray(cv2.resize(blurred, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)
    return _gaussian(plane, deviation)


def _gaussian(plane: Sheetlike, deviation: float) -> Sheetlike:
    if deviation <= 0:
        return plane
    reach = 2 * int(np.ceil(3 * deviation)) + 1
    edge = cv2.BORDER_REPLICATE
    return np.asarray(cv2.GaussianBlur(plane, (reach, reach), deviation, borderType=edge), np.float32)
