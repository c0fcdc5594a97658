"""A card: lines of words with their style, and where they stand in the frame."""

import math
import unicodedata
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any, Literal, get_args

from zembi.core.errors import BadInput

#: Font families that are shipped, by what they are for; their files are known to whoever sets the words.
Family = Literal["plain", "condensed", "slab", "serif", "hand", "display", "mono"]
Align = Literal["left", "centre", "right"]
#: Places in the safe area.
Anchor = Literal[
    "top left", "top", "top right", "left", "middle", "right", "bottom left", "bottom", "bottom right"
]

#: Share of the frame's width and height that is kept free on each side: the title safe area of SMPTE ST 2046-1, 90 %.
SAFE = 0.05
#: Least and largest of each number of a card, as it is said.
LIMITS: Mapping[str, tuple[float, float]] = {
    "size": (0.01, 1.0), "outline": (0.0, 0.3), "shadow": (0.0, 1.0), "box_opacity": (0.0, 1.0), "spacing": (0.6, 4.0),
    "tracking": (-0.2, 2.0), "x": (-1.0, 1.0), "y": (-1.0, 1.0), "turn": (-180.0, 180.0),
}  # fmt: skip
#: Least and largest size of a line in sizes of its card.
LINE_SIZES = (0.1, 5.0)
MOST_LINES, MOST_LETTERS = 24, 2000
#: Most parts of a line.
MOST_PARTS = 40
LONGEST_PATH = 4096
#: Position of an anchor in the frame: 0 left or top, 0.5 in the middle, 1 right or bottom.
_ACROSS = {"left": 0.0, "right": 1.0}
_DOWN = {"top": 0.0, "bottom": 1.0}


@dataclass(frozen=True)
class CardPart:
    """Letters ``first`` to ``end`` (exclusive) of a line that look otherwise. What is None is as the line has it.

    ``size`` is in sizes of the line.
    """

    first: int
    end: int
    size: float = 1.0
    bold: bool | None = None
    colour: str | None = None


@dataclass(frozen=True)
class CardLine:
    """A line of a card. What is None is as the card has it.

    Attributes:
        text: Its words, without line breaks.
        size: In sizes of the card.
        bold: Whether it is set in the heavier weight.
        colour: "#rrggbb".
        parts: Letters of it that look otherwise, in order and without overlap.
    """

    text: str
    size: float = 1.0
    bold: bool | None = None
    colour: str | None = None
    parts: tuple[CardPart, ...] = ()


@dataclass(frozen=True)
class Card:
    """Words in the frame.

    Attributes:
        lines: From the top down; one that is too long for the safe area is broken between words where it is set.
        font: Its family; also what stands in where ``file`` cannot be read.
        file: Path of a font file that it is set in instead; "" for the family.
        bold: Whether it is set in the heavier weight.
        size: The em in heights of the frame.
        colour: "#rrggbb", as those that follow.
        outline: Width of a line around the letters, in ems.
        outline_colour: Its colour.
        shadow: How far down to the right a soft shadow lies, in ems.
        shadow_colour: Its colour.
        box: Colour of a box behind the words; "" for none.
        box_opacity: How much the box hides, 0 to 1.
        align: Of lines of unequal length.
        spacing: From one baseline to the next, in ems; of lines of two sizes, by what of each lies between.
        tracking: What is added between letters, in ems.
        anchor: The place in the safe area that it stands at, and with which point of its own.
        x, y: How far from there, in widths and heights of the frame, to the right and down.
        turn: Degrees clockwise about the anchor.
    """

    lines: tuple[CardLine, ...]
    font: Family = "plain"
    bold: bool = True
    size: float = 0.09
    colour: str = "#ffffff"
    outline: float = 0.0
    outline_colour: str = "#000000"
    shadow: float = 0.05
    shadow_colour: str = "#000000"
    box: str = ""
    box_opacity: float = 0.7
    align: Align = "centre"
    spacing: float = 1.15
    tracking: float = 0.0
    anchor: Anchor = "middle"
    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    file: str = ""

    @property
    def text(self) -> str:
        """Its words, line by line."""
        return "\n".join(line.text for line in self.lines)

    @property
    def pivot(self) -> tuple[float, float]:
        """The point of the card in the frame: 0 left or top to 1 right or bottom."""
        return tuple(
            next((share for name, share in shares.items() if name in self.anchor), 0.5)
            for shares in (_ACROSS, _DOWN)
        )  # type: ignore[return-value]

    @property
    def place(self) -> tuple[float, float]:
        """Place of its point, in widths and heights of the frame from the frame's centre, to the right and down."""
        across, down = self.pivot
        room = 1 - 2 * SAFE
        return (across - 0.5) * room + self.x, (down - 0.5) * room + self.y


def checked_card(card: Card) -> Card:
    """The card, if it can be set.

    Raises:
        BadInput: no words, too many, a character that is no letter, or a value out of range: which, and its limits.
    """
    if not card.lines or not card.text.strip():
        raise BadInput("A card has at least one word.")
    if len(card.lines) > MOST_LINES or len(card.text) > MOST_LETTERS:
        raise BadInput(
            f"A card holds {MOST_LINES} lines and {MOST_LETTERS:,} letters at most; this one has "
            f"{len(card.lines)} and {len(card.text):,}."
        )
    for letter in card.text.replace("\n", ""):
        if unicodedata.category(letter) in ("Cc", "Cs"):
            raise BadInput(f"A card cannot hold the control character U+{ord(letter):04X}.")
    if any("\n" in line.text for line in card.lines):
        raise BadInput("A line of a card holds no line break: make it two lines.")
    for name, (least, most) in LIMITS.items():
        _check(name.replace("_", " "), getattr(card, name), least, most)
    for line in card.lines:
        _check("size of a line", line.size, *LINE_SIZES)
        check_colour(line.colour or "#000000")
        _check_parts(line)
    for colour in (card.colour, card.outline_colour, card.shadow_colour, card.box or "#000000"):
        check_colour(colour)
    if len(card.file) > LONGEST_PATH:
        raise BadInput("The path of the font file is too long.")
    for name, kind in (("font", Family), ("align", Align), ("anchor", Anchor)):
        if getattr(card, name) not in get_args(kind):
            raise BadInput(
                f"“{getattr(card, name)}” is no {name} of a card; there are {', '.join(get_args(kind))}."
            )
    return card


def _check_parts(line: CardLine) -> None:
    at = 0
    if len(line.parts) > MOST_PARTS:
        raise BadInput(f"A line of a card has {MOST_PARTS} parts at most.")
    for part in line.parts:
        if not at <= part.first < part.end <= len(line.text):
            raise BadInput("The parts of a line follow each other inside it.")
        at = part.end
        _check("size of a part", part.size, *LINE_SIZES)
        check_colour(part.colour or "#000000")


def _check(what: str, value: float, least: float, most: float) -> None:
    if not (math.isfinite(value) and least <= value <= most):
        raise BadInput(f"The {what} of a card is {least:g} to {most:g}, not {value:g}.")


def check_colour(colour: str) -> None:
    """Check that a colour is written as "#rrggbb".

    Raises:
        BadInput: it is not.
    """
    digits = colour[1:]
    if len(colour) != 7 or colour[0] != "#" or any(d not in "0123456789abcdefABCDEF" for d in digits):
        raise BadInput(f"“{colour[:20]}” is no colour: write it as #rrggbb.")


def card_to_dict(card: Card) -> dict[str, Any]:
    """A card as plain data: only what differs from a plain one."""
    plain = Card(())
    out: dict[str, Any] = {
        f.name: getattr(card, f.name)
        for f in fields(Card)
        if f.name != "lines" and getattr(card, f.name) != getattr(plain, f.name)
    }
    bare, plain_part = CardLine(""), CardPart(0, 0)
    out["lines"] = [
        {k: v for k, v in asdict(line).items() if k == "text" or (k != "parts" and v != getattr(bare, k))}
        | _parts_to_dict(line, plain_part)
        for line in card.lines
    ]
    return out


def _parts_to_dict(line: CardLine, plain: CardPart) -> dict[str, Any]:
    told = [
        {k: v for k, v in asdict(part).items() if k in ("first", "end") or v != getattr(plain, k)}
        for part in line.parts
    ]
    return {"parts": told} if told else {}


def card_from_dict(data: Mapping[str, Any]) -> Card:
    """The inverse of :func:`card_to_dict`.

    Raises:
        BadInput: something in it is not of a card.
    """
    try:
        lines = tuple(
            CardLine(**{**line, "parts": tuple(CardPart(**part) for part in line.get("parts", ()))})
            for line in data["lines"]
        )
        return checked_card(Card(**{**data, "lines": lines}))
    except (KeyError, TypeError, AttributeError) as fault:
        raise BadInput(f"A card is damaged ({fault}).") from None
