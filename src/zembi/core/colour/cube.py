"""``.cube`` files: tables of colours, of one or three dimensions, read and written."""

import math
from dataclasses import dataclass

import numpy as np

from zembi.core.colour.grade import Lut
from zembi.core.errors import BadInput

#: Largest side of a table of three dimensions, and of one.
MOST_3D, MOST_1D = 65, 65_536
#: Longest file that is read, in letters: a table of the largest side with long numbers.
MOST_LETTERS = 24_000_000
#: Longest line that is looked at.
_LONGEST = 512


@dataclass(frozen=True, eq=False)
class Cube:
    """A table of colours.

    Attributes:
        title: As the file names it, "" where it does not.
        lut: Of shape (size, size, size, 3), blue, green, red; or (size, 3) of one dimension.
        low, high: Colours at the ends of the table.
    """

    title: str
    lut: Lut
    low: tuple[float, float, float] = (0.0, 0.0, 0.0)
    high: tuple[float, float, float] = (1.0, 1.0, 1.0)


def read_cube(text: str, name: str = "The file") -> Cube:
    """Read a ``.cube``: comments and empty lines anywhere, a domain or none, one size.

    Raises:
        BadInput: damaged, with the number of the line; a table of both kinds, too large, or of too few or many colours.
    """
    if len(text) > MOST_LETTERS:
        raise BadInput(f"{name} is too long for a table of colours.")
    title, size, threefold = "", 0, False
    low, high = (0.0, 0.0, 0.0), (1.0, 1.0, 1.0)
    rows: list[tuple[float, float, float]] = []
    wanted = math.inf
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        words = line[:_LONGEST].split("#", 1)[0].split()
        if not words:
            continue
        key = words[0].upper()
        where = f"{name}, line {number}:"
        if key == "TITLE":
            title = line.split(None, 1)[1].strip().strip('"')[:120] if len(words) > 1 else ""
        elif key in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
            if size:
                raise BadInput(f"{where} a second size; tables of both kinds in one file are not read.")
            threefold = key == "LUT_3D_SIZE"
            size = _size(words, MOST_3D if threefold else MOST_1D, where)
            wanted = size**3 if threefold else size
        elif key == "DOMAIN_MIN":
            low = _three(words[1:], where)
        elif key == "DOMAIN_MAX":
            high = _three(words[1:], where)
        elif key in ("LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"):
            ends = [_number(w, where) for w in words[1:3]]
            if len(ends) != 2:
                raise BadInput(f"{where} a range has two numbers.")
            low, high = (ends[0],) * 3, (ends[1],) * 3
        elif key[0] in "+-.0123456789" or key in ("NAN", "INF"):
            if len(rows) >= wanted:
                raise BadInput(f"{where} more colours than the size says.")
            rows.append(_three(words, where))
            if len(rows) > MOST_3D**3:
                raise BadInput(f"{where} more colours than a table can have.")
        # A word that is not known is a setting of another program's.
    if not size:
        raise BadInput(f"{name} is no table of colours: it does not say its size.")
    if len(rows) != wanted:
        raise BadInput(f"{name} has {len(rows)} colours, and its size wants {wanted}.")
    if any(a >= b for a, b in zip(low, high, strict=True)):
        raise BadInput(f"{name} has a domain that ends before it begins.")
    lut = np.array(rows, np.float32)
    return Cube(title, lut.reshape(size, size, size, 3) if threefold else lut, low, high)


def _size(words: list[str], most: int, where: str) -> int:
    if len(words) != 2 or not words[1].isdigit() or len(words[1]) > 6:
        raise BadInput(f"{where} the size is no whole number.")
    size = int(words[1])
    if not 2 <= size <= most:
        raise BadInput(f"{where} a size of {size} is outside 2 to {most}.")
    return size


def _three(words: list[str], where: str) -> tuple[float, float, float]:
    if len(words) != 3:
        raise BadInput(f"{where} a colour has three numbers.")
    red, green, blue = (_number(w, where) for w in words)
    return red, green, blue


def _number(word: str, where: str) -> float:
    try:
        value = float(word)
    except ValueError:
        raise BadInput(f"{where} “{word[:20]}” is no number.") from None
    if not math.isfinite(value) or abs(value) > 1e4:
        raise BadInput(f"{where} “{word[:20]}” is no colour.")
    return value


def write_cube(lut: Lut, title: str = "") -> str:
    """A table of three dimensions over 0 to 1 as a ``.cube``, to six digits."""
    size = lut.shape[0]
    named = [f'TITLE "{title.replace(chr(34), chr(39))}"'] if title else []
    lines = (f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in lut.reshape(-1, 3))
    return "\n".join([*named, f"LUT_3D_SIZE {size}", *lines]) + "\n"
