"""Tables of colours that a file or a project brings, known by their content: a step of a chain names one by a number."""

import hashlib
from functools import lru_cache

import numpy as np

from zembi.core.colour.cube import Cube, read_cube
from zembi.core.colour.grade import LUT_SIZE, Lut, grid, through
from zembi.core.colour.spaces import Colours
from zembi.core.errors import BadInput

#: Bits of a number: exact in a float, and enough that no two tables of a project share one.
_BITS = 48
#: Points along each colour that a table of one dimension is brought to: camera curves are steep.
_FINE = 65
_KNOWN: dict[int, Cube] = {}


def number_of(text: str) -> int:
    """Number of a ``.cube`` by its content."""
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[: _BITS // 8]) or 1


def code_of(number: int) -> str:
    """Code of a table, as it stands in files: the twelve hexadecimal digits of its number."""
    return f"{number:012x}"


def number_of_code(code: str) -> int:
    """Number of a table by its code.

    Raises:
        BadInput: no code of a table.
    """
    try:
        number = int(code, 16)
    except ValueError:
        number = 0
    if not number or code_of(number) != code:
        raise BadInput("Choose a table of colours: a .cube file.")
    return number


def know(number: int, text: str, name: str = "The file") -> None:
    """Have a table at hand under its number; the same content is the same table in whatever project.

    Raises:
        BadInput: damaged, as :func:`read_cube` says.
    """
    if number not in _KNOWN:
        _KNOWN[number] = read_cube(text, name)


def is_known(number: int) -> bool:
    """True if a table is at hand."""
    return number in _KNOWN


def table_lut(number: int, share: float) -> Lut:
    """A table over 0 to 1, mixed by a share with the colours as they are; identity where it is not at hand.

    Returns:
        Of shape (size, size, size, 3): blue, green, red; not to be changed.
    """
    return _lut(number, round(share, 4)) if is_known(number) else np.asarray(grid(2), np.float32)


@lru_cache(maxsize=32)
def _lut(number: int, share: float) -> Lut:
    cube = _KNOWN[number]
    size = _FINE if cube.lut.ndim == 2 else max(LUT_SIZE, cube.lut.shape[0])
    before = grid(size)
    out = np.asarray(before + (cube_colours(cube, before) - before) * share, np.float32)
    out.flags.writeable = False
    return out


def cube_colours(cube: Cube, coded: Colours) -> Colours:
    """Colours through a table of one or three dimensions; outside its domain those of its ends. 0 to 1."""
    low, high = np.array(cube.low), np.array(cube.high)
    at = np.clip((np.asarray(coded, np.float64) - low) / (high - low), 0, 1)
    if cube.lut.ndim == 4:
        return np.asarray(np.clip(through(cube.lut, at), 0, 1))
    points = np.linspace(0, 1, len(cube.lut))
    curves = [np.interp(at[..., k], points, cube.lut[:, k]) for k in range(3)]
    return np.asarray(np.clip(np.stack(curves, axis=-1), 0, 1))
