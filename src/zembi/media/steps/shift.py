"""Shift in the film: whole points of each plane, nothing outside the frame."""

import numpy as np

from zembi.core.picture.step import Values
from zembi.core.picture.steps.shift import points
from zembi.media.sheet import Sheet, Sheetlike


def act(sheet: Sheet, values: Values) -> Sheet:
    """The frame moved to the right and down."""
    by = points(values["x"], sheet.size[0]), points(values["y"], sheet.size[1])
    if by == (0, 0):
        return sheet
    cover = sheet.cover or [np.ones(p.shape, np.float32) for p in sheet.planes]
    return Sheet(
        sheet.size, *([_moved(p, by, sheet.size) for p in planes] for planes in (sheet.planes, cover))
    )


def _moved(plane: Sheetlike, by: tuple[int, int], size: tuple[int, int]) -> Sheetlike:
    height, width = plane.shape
    x, y = by[0] * width // size[0], by[1] * height // size[1]
    out = np.zeros_like(plane)
    if abs(x) < width and abs(y) < height:
        out[max(0, y) : height + min(0, y), max(0, x) : width + min(0, x)] = plane[
            max(0, -y) : height - max(0, y), max(0, -x) : width - max(0, x)
        ]
    return out
