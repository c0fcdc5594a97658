"""The frame count that every drawn frame carries: a row of small black and white cells a test can read back."""

import itertools

import numpy as np
from numpy.typing import NDArray

#: Cells in the row: a white and a black guard, 14 bits of the count (highest first), and a parity cell.
BITS = 14
CELLS = BITS + 3
#: Geometry as shares of the picture: cell side by width, margins from the left and bottom edges.
CELL = 1 / 80
LEFT, BOTTOM = 1 / 60, 1 / 60


def _cells(width: int, height: int) -> tuple[list[tuple[int, int]], int, int]:
    side = width * CELL
    top = height - width * BOTTOM - side
    edges = [round(width * LEFT + i * side) for i in range(CELLS + 1)]
    return list(itertools.pairwise(edges)), round(top), round(top + side)


def _pattern(count: int) -> list[bool]:
    bits = [bool(count >> (BITS - 1 - i) & 1) for i in range(BITS)]
    return [True, False, *bits, sum(bits) % 2 == 1]


def draw_count(picture: NDArray[np.uint8], count: int) -> None:
    """Draw a count (0 to 16383) into a grey picture (the luma plane), in place; shape (height, width)."""
    height, width = picture.shape[:2]
    spans, top, bottom = _cells(width, height)
    border = max(2, round(width / 400))
    picture[top - border : bottom + border, spans[0][0] - border : spans[-1][1] + border] = 96
    for (left, right), white in zip(spans, _pattern(count % (1 << BITS)), strict=True):
        picture[top:bottom, left:right] = 250 if white else 8


def read_count(picture: NDArray[np.uint8]) -> int | None:
    """Read the count back from a picture of any size; None where there is no readable one."""
    grey = picture if picture.ndim == 2 else picture.mean(axis=2)
    height, width = grey.shape
    spans, top, bottom = _cells(width, height)
    inner = (bottom - top) // 4
    values = []
    for left, right in spans:
        side = (right - left) // 4
        values.append(float(grey[top + inner : bottom - inner, left + side : right - side].mean()))
    if not values[0] > 170 or not values[1] < 80:
        return None
    bits = [v > 128 for v in values[2:]]
    if (sum(bits[:-1]) % 2 == 1) != bits[-1]:
        return None
    return sum(int(b) << (BITS - 1 - i) for i, b in enumerate(bits[:-1]))
