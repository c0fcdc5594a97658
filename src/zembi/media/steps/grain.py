"""Grain in the film: a tile of noise laid over the frame, each point moved towards white or black, colours towards none."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zembi.core.picture.step import Values
from zembi.media.sheet import BLACK, WHITE, Sheet, Sheetlike

#: Lines of the picture that a point of grain is high: one in each so many, at least one.
_GRAIN = 540
_TILE = 256


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture under grain."""
    cell = max(1, round(sheet.size[1] / _GRAIN))
    x, y = (v * cell for v in begins_at(round(values["number"])))
    out = []
    for k, plane in enumerate(sheet.planes):
        height, width = plane.shape
        moves, goals = _shares(*sheet.size, round(values["amount"], 4), min(k, 1))
        left, top = (x // 2, y // 2) if k else (x, y)
        part = moves[top : top + height, left : left + width]
        if k:
            out.append(plane * (1 - part))
        else:
            goal = goals[top : top + height, left : left + width] * sheet.covers(0)
            out.append(plane + (goal - plane) * part)
    return sheet.with_planes(out)


@lru_cache(maxsize=1)
def pattern() -> NDArray[np.int16]:
    """The tile of grain: ``_TILE`` by ``_TILE`` values, -255 (dark) to 255, most near 0 (Marsaglia, xorshift, 2003)."""
    state, out = 0x9E3779B9, np.empty(_TILE * _TILE, np.int16)
    for k in range(len(out)):
        two = 0
        for _ in range(2):
            state ^= state << 13 & 0xFFFFFFFF
            state ^= state >> 17
            state ^= state << 5 & 0xFFFFFFFF
            two += state >> 24
        out[k] = two - 255
    return out.reshape(_TILE, _TILE)


def begins_at(number: int) -> tuple[int, int]:
    """Offset of a pattern of grain in the tile: across and down, even numbers, so that colours begin there too."""
    mixed = number * 2654435761 & 0xFFFFFFFF
    return mixed >> 24 & 0xFE, mixed >> 16 & 0xFE


@lru_cache(maxsize=4)
def _shares(width: int, height: int, amount: float, plane: int) -> tuple[Sheetlike, Sheetlike]:
    """Grain over a frame and one tile more: how far each point moves (0 to 1), and towards which value of luma less black's."""
    cell = max(1, round(height / _GRAIN))
    moves = np.rint(np.abs(pattern()) * amount / 2).astype(np.uint16)
    goals = np.where(pattern() > 0, WHITE[0] - BLACK[0], 0).astype(np.float32)
    times = (height // _TILE // cell + 3, width // _TILE // cell + 3)
    moves = np.tile(moves, times).repeat(cell, axis=0).repeat(cell, axis=1)
    goals = np.tile(goals, times).repeat(cell, axis=0).repeat(cell, axis=1)
    if plane:
        # Of two by two points the mean.
        moves = (moves[::2, ::2] + moves[1::2, ::2] + moves[::2, 1::2] + moves[1::2, 1::2] + 2) // 4
    return moves.astype(np.float32) / np.float32(255), goals
