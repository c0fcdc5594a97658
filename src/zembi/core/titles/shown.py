"""The seen part of a card: words that come one after another, and the one that is sung."""

import re
import unicodedata
from dataclasses import dataclass
from typing import Literal

from zembi.core.errors import BadInput
from zembi.core.titles.card import MOST_LETTERS, check_colour

#: What comes at a time.
By = Literal["letter", "word", "line"]
#: Zero width joiner: what follows it belongs to what is before it (UAX #29, GB9 and GB11).
_JOINER = "‍"


@dataclass(frozen=True)
class Shown:
    """The seen part of a card. Letters are counted through its words, line breaks too.

    Attributes:
        first: The first letter that is seen.
        end: The one after the last; None for all.
        lit_first, lit_end: Letters that are told from the others (half-open).
        colour: Their colour, "#rrggbb"; "" for their own.
        grow: By what share they are larger.
        heavier: Width of a line of their own colour around them, in ems.
        cursor: Whether a cursor stands behind the last letter that is seen.
    """

    first: int = 0
    end: int | None = None
    lit_first: int = 0
    lit_end: int = 0
    colour: str = ""
    grow: float = 0.0
    heavier: float = 0.0
    cursor: bool = False

    def sees(self, letter: int) -> bool:
        """True if a letter is seen."""
        return self.first <= letter and (self.end is None or letter < self.end)

    def lights(self, letter: int) -> bool:
        """True if a letter is told from the others."""
        return self.lit_first <= letter < self.lit_end


#: All of a card, none of it told from the rest.
ALL = Shown()
#: Most that letters grow by, and widest line that makes them heavier, in ems.
MOST_GROW, MOST_HEAVIER = 1.0, 0.3


def checked_shown(shown: Shown) -> Shown:
    """The seen part of a card, if it can be drawn.

    Raises:
        BadInput: which value is out of range.
    """
    for name, value, most in (("grow", shown.grow, MOST_GROW), ("heavier", shown.heavier, MOST_HEAVIER)):
        if not 0 <= value <= most:
            raise BadInput(f"“{name}” of what is shown of a card is 0 to {most:g}, not {value:g}.")
    for letter in (shown.first, shown.end or 0, shown.lit_first, shown.lit_end):
        if not 0 <= letter <= MOST_LETTERS:
            raise BadInput(f"A card has no letter {letter}.")
    if shown.colour:
        check_colour(shown.colour)
    return shown


def pieces(text: str, by: By) -> list[tuple[int, int]]:
    """Letters (half-open) of what comes at a time: lines, words, or letters with all that stands on them; no spaces.

    Args:
        text: The words of a card, line by line.
        by: What comes at a time.
    """
    if by != "letter":
        return [m.span() for m in re.finditer(r"[^\n]*\S" if by == "line" else r"\S+", text)]
    out: list[tuple[int, int]] = []
    for n, letter in enumerate(text):
        if letter.isspace():
            continue
        joined = unicodedata.category(letter) in ("Mn", "Mc", "Me", "Cf") or (n and text[n - 1] == _JOINER)
        if joined and out and out[-1][1] == n:
            out[-1] = out[-1][0], n + 1
        else:
            out.append((n, n + 1))
    return out
