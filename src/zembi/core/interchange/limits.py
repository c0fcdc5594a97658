"""Limits for what other programs and strangers write, and reading in time that grows with the length only."""

import json
import re
from collections.abc import Callable
from typing import Any, TypeVar

from zembi.core.errors import BadInput

#: Most lines of lyrics, marks, or clips of one file.
MOST_ITEMS = 20_000
#: Farthest a time may lie, in seconds.
FARTHEST_S = 36_000.0
_DEEPEST, _MOST_NODES = 100, 1_000_000
_SURROGATE = re.compile(r"[\ud800-\udfff]")
_RUN = ("=", "+", "-", "@", "\t", "\r")

T = TypeVar("T")


def within(value: float, what: str, low: float = -FARTHEST_S, high: float = FARTHEST_S) -> float:
    """A number that was read, if it can be kept.

    Raises:
        BadInput: not finite, or out of range.
    """
    # Comparing first: a whole number can be too long for anything else. NaN compares false.
    if not low <= value <= high:
        said = f"{value:g}" if isinstance(value, float) else "a very large number"
        raise BadInput(f"{what} is {said}, outside {low:g} to {high:g}.")
    return value


def at_most(count: int, what: str, most: int = MOST_ITEMS) -> None:
    """Check a count.

    Raises:
        BadInput: too many.
    """
    if count > most:
        raise BadInput(f"{what} holds {count:,} lines, marks or clips; {most:,} are read at most. Split it.")


def plain_lines(text: str) -> list[str]:
    """Lines of a text, whatever ends them."""
    return text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").split("\n")


def without_tags(text: str) -> str:
    """A text without what stands in angle brackets."""
    head, *rest = text.split("<")
    parts = [head]
    for piece in rest:
        inside, closed, after = piece.partition(">")
        parts.append(after if closed and inside else f"<{piece}")
    return "".join(parts)


def cell(text: str) -> str:
    """A table's cell that no spreadsheet takes for a formula; :func:`from_cell` is the inverse."""
    return f"'{text}" if text.lstrip("' \n").startswith(_RUN) else text


def from_cell(text: str) -> str:
    """The text that :func:`cell` was given."""
    return text[1:] if text.startswith("'") and text.lstrip("' \n").startswith(_RUN) else text


def checked_json(text: str, name: str, kind: str) -> Any:
    """A JSON document whose depth, size, numbers and words are such as can be worked with.

    Args:
        text: The document.
        name: The file's, for messages.
        kind: What it should be, for messages.

    Raises:
        BadInput: not JSON, or beyond the limits, with what is wrong.
    """

    def refuse(constant: str) -> float:
        raise BadInput(f"{name} holds {constant} where a number belongs.")

    try:
        document = json.loads(text, parse_constant=refuse)
    except (ValueError, RecursionError) as fault:
        raise BadInput(f"{name} is not {kind} ({str(fault)[:120]}).") from None
    waiting: list[tuple[Any, int]] = [(document, 0)]
    seen = 0
    while waiting:
        value, depth = waiting.pop()
        seen += 1
        if depth > _DEEPEST or seen > _MOST_NODES:
            raise BadInput(f"{name} is nested too deep, or too large, to be read.")
        if isinstance(value, dict):
            waiting += [(v, depth + 1) for v in (*value, *value.values())]
        elif isinstance(value, list):
            waiting += [(v, depth + 1) for v in value]
        elif isinstance(value, str):
            if _SURROGATE.search(value):
                raise BadInput(f"{name} holds characters that are not text.")
        elif isinstance(value, int | float) and not isinstance(value, bool):
            within(value, f"A number in {name}", -1e15, 1e15)
    return document


def in_words(name: str) -> Callable[[Callable[[], T]], T]:
    """Call a reader of a foreign library at once; whatever it raises is said in words."""

    def call(reader: Callable[[], T]) -> T:
        try:
            return reader()
        except BadInput:
            raise
        except Exception as fault:
            first = (str(fault).splitlines() or [type(fault).__name__])[0][:120]
            raise BadInput(f"{name} cannot be read ({first}).") from None

    return call
