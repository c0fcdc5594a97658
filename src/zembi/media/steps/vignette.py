"""Vignette in the film: a share of darkness by the distance from the frame's middle."""

from functools import lru_cache

import numpy as np

from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet, Sheetlike


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture with darker corners."""
    amount = np.float32(min(1.0, values["amount"]))
    return sheet.with_planes([p * (1 - _share(p.shape) * amount) for p in sheet.planes])


@lru_cache(maxsize=8)
def _share(shape: tuple[int, int]) -> Sheetlike:
    """Distance of each point from half way to the corners, 0 to 1; counted in shares of the frame's diagonal."""
    height, width = shape
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    away = np.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / (np.hypot(width, height) / 2)
    return np.asarray(np.clip((away - 0.5) * 2, 0, 1), np.float32)
