"""Lines of lyrics as words on a card: where a line that is too long is broken, and how quickly it has to be read."""

import re

#: Words before which a line of English is better broken than after: the break keeps with them what follows.
_SMALL = frozenset(
    [
        "a",
        "an",
        "and",
        "as",
        "at",
        "before",
        "but",
        "by",
        "for",
        "from",
        "if",
        "in",
        "into",
        "like",
        "of",
        "off",
        "on",
        "or",
        "over",
        "so",
        "than",
        "that",
        "the",
        "through",
        "till",
        "to",
        "under",
        "until",
        "when",
        "where",
        "while",
        "with",
        "without",
    ]
)
#: Most characters a second that adults read with ease, and from which they do not keep up: the 17 and 20 of the timed text
#: guides of broadcasters and streaming services for Latin script.
EASY_CPS, QUICK_CPS = 17.0, 20.0


def broken_line(text: str, most: int) -> list[str]:
    """A line in parts of at most so many letters where that can be, broken where the sense allows.

    After a comma, semicolon, colon, dash or full stop first; then before a small word; then between any two words; of those
    the place nearest to the middle. A word that is longer than a part stays whole.
    """
    text = " ".join(text.split())
    if len(text) <= most or " " not in text:
        return [text]
    places = [m.start() for m in re.finditer(" ", text)]

    def cost(at: int) -> tuple[bool, int, int]:
        before, after = text[:at], text[at + 1 :]
        rank = 0 if before[-1] in ",;:.!?–—" else 1 if after.split(" ", 1)[0].lower() in _SMALL else 2
        too_long = max(len(before), len(after)) > most
        # A sign or a small word far from the middle is worth less than a plain break near it.
        return too_long, rank * len(text) // 6 + abs(len(before) - len(after)) // 2, at

    at = min(places, key=cost)
    return [*broken_line(text[:at], most), *broken_line(text[at + 1 :], most)]


def letters_a_second(text: str, seconds: float) -> float:
    """Reading speed that a text asks for: its characters, spaces between lines included, by the time it is seen."""
    return len(" ".join(text.split())) / max(seconds, 1e-6)
