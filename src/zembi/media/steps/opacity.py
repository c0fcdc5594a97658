"""Opacity in the film: values and cover multiplied alike."""

import numpy as np

from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture, less of it."""
    share = np.float32(min(1.0, max(0.0, values["amount"])))
    cover = sheet.cover or [np.ones(p.shape, np.float32) for p in sheet.planes]
    return Sheet(sheet.size, [p * share for p in sheet.planes], [c * share for c in cover])
