"""Stills of a file's sheet, as pictures."""

from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from zembi.media.derive import STILL_COLUMNS, STILL_EVERY_S, STILL_SIZE, STILLS_SHEET

Picture = NDArray[np.uint8]


def still_at(derived: Path, at_s: float, shape: tuple[int, int]) -> Picture | None:
    """The still nearest before a time of a file, RGB without the bars that fill its tile; None where there is none yet.

    Args:
        derived: The file's folder of derived files.
        at_s: Seconds from its first picture.
        shape: Width and height of its picture.
    """
    path = derived / STILLS_SHEET
    if not path.exists():
        return None
    sheet = _sheet(path, path.stat().st_mtime_ns)
    width, height = STILL_SIZE
    tiles = (sheet.shape[0] // height) * (sheet.shape[1] // width)
    n = min(tiles - 1, max(0, int(at_s / STILL_EVERY_S)))
    left, top = n % STILL_COLUMNS * width, n // STILL_COLUMNS * height
    scale = min(width / shape[0], height / shape[1])
    across, up = max(1, int(shape[0] * scale)), max(1, int(shape[1] * scale))
    left, top = left + (width - across) // 2, top + (height - up) // 2
    return sheet[top : top + up, left : left + across]


@lru_cache(maxsize=64)
def _sheet(path: Path, _stamp: int) -> Picture:
    with Image.open(path) as opened:
        return np.asarray(opened.convert("RGB"))
