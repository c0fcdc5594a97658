"""Sharpening in the film: what a slight blur takes away of each plane is added."""

import numpy as np

from zembi.core.picture.step import Values
from zembi.media.sheet import BLACK, Sheet
from zembi.media.steps.blur import soft

#: Standard deviation of the blur, in heights of the picture.
FINE = 1 / 540


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture with more of what a slight blur takes away; values beyond what is coded are cut off, as the page's are."""
    amount = np.float32(values["amount"])
    planes = []
    for plane, black in zip(sheet.planes, BLACK, strict=True):
        more = plane + amount * (plane - soft(plane, FINE * plane.shape[0]))
        planes.append(np.clip(more, -np.float32(black), np.float32(255 - black)))
    return sheet.with_planes(planes)
