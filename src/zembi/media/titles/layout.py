"""The lines of a card shaped and broken: glyphs with their places, in ems of the card from its point."""

import unicodedata
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import groupby
from pathlib import Path

import uharfbuzz as hb
from bidi import algorithm as bidi

from zembi.core.titles.card import SAFE, Card, CardLine
from zembi.core.titles.shown import Shown
from zembi.media.titles.fonts import Font, chain_with, font_for

#: Letters that show nothing and need no glyph: joiners, marks of direction, variation selectors.
_UNSEEN = frozenset(range(0x200B, 0x2010)) | frozenset(range(0x202A, 0x202F)) | frozenset(range(0x2060, 0x2070)) | frozenset(range(0xFE00, 0xFE10)) | {0xFEFF, 0x00AD}  # fmt: skip
#: Letters above and below the baseline, in ems of a line: what a box is drawn around.
ASCENT, DESCENT = 0.78, 0.24


@dataclass(frozen=True)
class Glyph:
    """A glyph with the left end of its baseline, in ems of the card from its point, to the right and down.

    Attributes:
        font: The font it is of.
        number: Its number there.
        x, y: Its place.
        em: Its size in ems of the card.
        colour: Of its line, "#rrggbb".
        letter: Index of its first letter in the words of the card.
        advance: Room that it takes, in its own size.
    """

    font: Font
    number: int
    x: float
    y: float
    em: float
    colour: str
    letter: int
    advance: float = 0.0


@dataclass(frozen=True)
class SetCard:
    """A card as it is set.

    Attributes:
        glyphs: All of it that is drawn.
        left, top, right, bottom: Its extent in ems from its point, letters above and below the line included.
        lines: The words line by line as they were broken.
        missing: Letters that no font has.
        stand_in: Why its font file is not used, in words; "" where it is, or none is named.
    """

    glyphs: tuple[Glyph, ...]
    left: float
    top: float
    right: float
    bottom: float
    lines: tuple[str, ...]
    missing: tuple[str, ...]
    stand_in: str = ""


#: Glyph in ems of its line: (font, number, x offset, y offset, advance, letter, size in sizes of the line).
_Placed = tuple[Font, int, float, float, float, int, float]


@dataclass(frozen=True)
class _Run:
    """Glyphs of a line in the order in which they are seen."""

    glyphs: tuple[_Placed, ...]

    @property
    def width(self) -> float:
        return sum(g[4] for g in self.glyphs)


@dataclass(frozen=True)
class _Part:
    """Letters of a line up to ``end`` (exclusive) that are set alike: in these fonts and in this size."""

    end: int
    chain: tuple[Font, ...]
    size: float = 1.0


def _parts_of(line: CardLine, card: Card) -> tuple[tuple[_Part, ...], str]:
    """A line in parts that are set alike, and why its font file cannot be used, in words."""
    bold = card.bold if line.bold is None else line.bold
    chain, stand_in = chain_with(card.file, card.font, bold)
    out: list[_Part] = []
    at = 0
    for part in line.parts:
        if part.first > at:
            out.append(_Part(part.first, chain))
        own = bold if part.bold is None else part.bold
        out.append(_Part(part.end, chain_with(card.file, card.font, own)[0], part.size))
        at = part.end
    if at < len(line.text) or not out:
        out.append(_Part(len(line.text), chain))
    return tuple(out), stand_in


def _between(parts: tuple[_Part, ...], first: int, end: int) -> tuple[_Part, ...]:
    """The parts of letters ``first`` to ``end`` (exclusive), counted from there."""
    out: list[_Part] = []
    at = 0
    for part in parts:
        if part.end > first and (at < end or not out):
            out.append(replace(part, end=min(part.end, end) - first))
        at = part.end
    return tuple(out) or (replace(parts[-1], end=end - first),)


def set_card(card: Card, aspect: float) -> SetCard:
    """Set a card in a frame of an aspect (width by height); lines too long for the safe area are broken between words."""
    return _set_card(card, aspect, font_stamp(card))


def font_stamp(card: Card) -> int:
    """A number that changes when the font file of a card does, comes or goes; 0 where it names none."""
    try:
        return Path(card.file).stat().st_mtime_ns if card.file else 0
    except (OSError, ValueError):
        return -1


# Each operation on an edit checks all of its titles: as many are remembered as long films have.
@lru_cache(maxsize=1 << 12)
def _set_card(card: Card, aspect: float, _stamp: int) -> SetCard:
    room = (1 - 2 * SAFE) * aspect / card.size
    rows: list[tuple[CardLine, str, int, int, _Run]] = []
    missing: dict[str, None] = {}
    stand_in = ""
    first = 0
    for line in card.lines:
        parts, stand_in = _parts_of(line, card)
        missing.update(
            dict.fromkeys(c for n, c in enumerate(line.text) if not _is_set(_at(parts, n).chain, c))
        )
        for begin, text in _broken(line.text, parts, card.tracking, room / line.size):
            own = _between(parts, begin, begin + len(text))
            rows.append((line, text, first, begin, _shaped(text, own, card.tracking)))
        first += len(line.text) + 1
    widths = [run.width * line.size for line, *_, run in rows]
    widest = max(widths, default=0.0)
    tall = [line.size * max((g[6] for g in run.glyphs), default=1.0) for line, *_, run in rows]
    baselines: list[float] = []
    above = 0.0
    for n, size in enumerate(tall):
        step = (DESCENT * above + ASCENT * size) * card.spacing / (ASCENT + DESCENT)
        baselines.append(baselines[-1] + step if n else ASCENT * size)
        above = size
    height = baselines[-1] + DESCENT * tall[-1]
    across, down = card.pivot
    left, top = -across * widest, -down * height
    aside = {"left": 0.0, "centre": 0.5, "right": 1.0}[card.align]
    glyphs: list[Glyph] = []
    for (line, _, of_line, begin, run), width, baseline in zip(rows, widths, baselines, strict=True):
        x = left + aside * (widest - width)
        for font, number, dx, dy, advance, letter, size in run.glyphs:
            glyphs.append(
                Glyph(
                    font,
                    number,
                    x + dx * line.size,
                    top + baseline - dy * line.size,
                    line.size * size,
                    _colour_at(line, begin + letter) or card.colour,
                    of_line + begin + letter,
                    advance / size,
                )
            )
            x += advance * line.size
    return SetCard(
        tuple(glyphs),
        left,
        top,
        left + widest,
        top + height,
        tuple(r[1] for r in rows),
        tuple(missing),
        stand_in,
    )


def seen_of(laid: SetCard, shown: Shown) -> SetCard:
    """A card as it is set, with what is seen of it; each letter stays where it stands."""
    glyphs = [g for g in laid.glyphs if shown.sees(g.letter)]
    lit = [g for g in glyphs if shown.lights(g.letter)]
    if lit and (shown.grow or shown.colour):
        grown = {id(g): _grown(g, word, shown) for word in _by_line(lit) for g in word}
        glyphs = [grown.get(id(g), g) for g in glyphs]
    return replace(laid, glyphs=tuple(glyphs))


def _by_line(glyphs: Sequence[Glyph]) -> Iterator[list[Glyph]]:
    for _, line in groupby(glyphs, key=lambda g: round(g.y / max(g.em, 1e-6), 1)):
        yield [*line]


def _grown(glyph: Glyph, word: Sequence[Glyph], shown: Shown) -> Glyph:
    """A letter of a word that is told from the others: larger about the middle of the word, at half the height of its x."""
    middle = (min(g.x for g in word) + max(g.x + g.advance * g.em for g in word)) / 2
    by = 1 + shown.grow
    down = 0.25 * glyph.em * shown.grow
    return replace(
        glyph,
        x=middle + (glyph.x - middle) * by,
        y=glyph.y + down,
        em=glyph.em * by,
        colour=shown.colour or glyph.colour,
    )


def extent(card: Card, aspect: float) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of a card in widths and heights of the frame from its left and top, not turned."""
    laid = set_card(card, aspect)
    x, y = card.place[0] + 0.5, card.place[1] + 0.5
    across, up = card.size / aspect, card.size
    return x + laid.left * across, y + laid.top * up, x + laid.right * across, y + laid.bottom * up


def _at(parts: tuple[_Part, ...], letter: int) -> _Part:
    return next((p for p in parts if letter < p.end), parts[-1])


def _colour_at(line: CardLine, letter: int) -> str | None:
    own = next((p.colour for p in line.parts if p.first <= letter < p.end), None)
    return own or line.colour


def _is_set(chain: tuple[Font, ...], letter: str) -> bool:
    return letter.isspace() or ord(letter) in _UNSEEN or font_for(chain, letter) is not None


def _broken(text: str, parts: tuple[_Part, ...], tracking: float, room: float) -> Iterator[tuple[int, str]]:
    """Pieces of a line that fit, each with the index of its first letter: as many words as there is room for; one that is
    too long by itself stays whole."""
    words = text.split(" ")
    at = begin = 0
    taken: list[str] = []
    for word in words:
        tried = " ".join([*taken, word])
        if taken and _shaped(tried, _between(parts, begin, begin + len(tried)), tracking).width > room:
            yield begin, " ".join(taken)
            begin, taken = at, []
        taken.append(word)
        at += len(word) + 1
    yield begin, " ".join(taken)


@lru_cache(maxsize=2048)
def _shaped(text: str, parts: tuple[_Part, ...], tracking: float) -> _Run:
    """A line shaped: runs of one direction and one font, in the order in which they are seen (UAX #9, rule L2)."""
    pieces: list[list[_Placed]] = []
    levels = _levels(text)
    runs = [(level, [i for i, _ in group]) for level, group in groupby(enumerate(levels), key=lambda p: p[1])]
    for level, indexes in _seen_order(runs):
        backwards = bool(level % 2)
        of_fonts = _of_fonts(text, indexes, parts)
        for font, part, letters in reversed(of_fonts) if backwards else of_fonts:
            pieces.append(_glyphs(text, letters, font, backwards, tracking, part.size))
    return _Run(tuple(g for piece in pieces for g in piece))


def _levels(text: str) -> list[int]:
    """The embedding level of each letter (UAX #9), by the library's own steps; those that it leaves out have their neighbour's."""
    if all(unicodedata.bidirectional(c) not in ("R", "AL", "AN", "RLE", "RLO", "RLI") for c in text):
        return [0] * len(text)
    base = bidi.get_base_level(text)
    storage = bidi.get_empty_storage()
    storage["base_level"], storage["base_dir"] = base, ("L", "R")[base]
    bidi.get_embedding_levels(text, storage, False, False)
    bidi.explicit_embed_and_overrides(storage, False)
    bidi.resolve_weak_types(storage, False)
    bidi.resolve_neutral_types(storage, False)
    bidi.resolve_implicit_levels(storage, False)
    found = [char["level"] for char in storage["chars"]]
    if len(found) != len(text):
        found = (found + [base] * len(text))[: len(text)]
    return found


def _seen_order(runs: list[tuple[int, list[int]]]) -> list[tuple[int, list[int]]]:
    """Runs reversed from the highest level down to the lowest that is odd."""
    out = list(runs)
    highest = max((level for level, _ in runs), default=0)
    for level in range(highest, 0, -1):
        at = 0
        while at < len(out):
            end = at
            while end < len(out) and out[end][0] >= level:
                end += 1
            if end > at:
                out[at:end] = out[at:end][::-1]
            at = max(end, at + 1)
    return out


def _of_fonts(
    text: str, indexes: Sequence[int], parts: tuple[_Part, ...]
) -> list[tuple[Font, _Part, list[int]]]:
    """Letters in order with the font that has them. Marks and joiners go with the letter before them; what no font has, is a
    box of the first."""
    out: list[tuple[Font, _Part, list[int]]] = []
    for index in indexes:
        letter = text[index]
        part = _at(parts, index)
        before = out[-1][0] if out and out[-1][1] is part else None
        joined = (
            unicodedata.combining(letter)
            or ord(letter) in _UNSEEN
            or unicodedata.category(letter).startswith("M")
        )
        keeps = before is not None and (ord(letter) in before.letters or joined)
        font = before if keeps and before else font_for(part.chain, letter) or before or part.chain[0]
        if out and out[-1][0] is font and out[-1][1] is part:
            out[-1][2].append(index)
        else:
            out.append((font, part, [index]))
    return out


def _glyphs(
    text: str, indexes: Sequence[int], font: Font, backwards: bool, tracking: float, size: float
) -> list[_Placed]:
    """Glyphs of letters of one font, one direction and one size, in ems of their line."""
    buffer = hb.Buffer()
    buffer.add_str("".join(text[i] for i in indexes))
    buffer.guess_segment_properties()
    buffer.direction = "rtl" if backwards else "ltr"
    # Letters that are set apart are not joined into ligatures.
    hb.shape(font.shaper, buffer, {"liga": not tracking, "kern": True})
    clusters = [info.cluster for info in buffer.glyph_infos]
    out = []
    for n, (info, place) in enumerate(zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)):
        last_of_letter = n + 1 == len(clusters) or clusters[n + 1] != info.cluster
        advance = place.x_advance / font.upem + (tracking if last_of_letter else 0.0)
        out.append(
            (
                font,
                info.codepoint,
                place.x_offset / font.upem * size,
                place.y_offset / font.upem * size,
                advance * size,
                indexes[info.cluster],
                size,
            )
        )
    return out
