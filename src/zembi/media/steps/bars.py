"""Bars in the film: rows or columns of black that hide what lies beneath."""

from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet, Sheetlike


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture with black bars that leave a shape of it."""
    planes = [_barred(p, values["shape"], sheet.size, 0.0) for p in sheet.planes]
    cover = sheet.cover and [_barred(c, values["shape"], sheet.size, 1.0) for c in sheet.cover]
    return Sheet(sheet.size, planes, cover)


def _barred(plane: Sheetlike, shape: float, size: tuple[int, int], value: float) -> Sheetlike:
    height, width = plane.shape
    aspect = size[0] / size[1]
    high = round(size[1] * max(0.0, 1 - aspect / shape) / 2) * height // size[1]
    wide = round(size[0] * max(0.0, 1 - shape / aspect) / 2) * width // size[0]
    out = plane.copy()
    out[:high] = out[height - high :] = value
    out[:, :wide] = out[:, width - wide :] = value
    return out
