"""Cards to begin with. To add one: its name and what of it is not plain."""

from dataclasses import replace

from zembi.core.titles.card import Card, CardLine

_WORDS = (CardLine("Words"),)

#: By name; their words are examples.
PRESETS: dict[str, Card] = {
    "main title": Card((CardLine("Title"), CardLine("by somebody", 0.4, False)), "slab", size=0.16, tracking=0.03, outline=0.04, shadow=0.04),
    "act and song": Card(
        (CardLine("The act"), CardLine("The song", 0.8, False)), "plain", size=0.06, align="left", anchor="bottom left"
    ),
    "end card": Card(
        (CardLine("The song"), CardLine("the act", 0.55, False), CardLine("filmed by", 0.4, False)), "serif", False, 0.11, outline=0.045, shadow=0.0
    ),
    "chapter word": Card(_WORDS, "condensed", size=0.3, colour="#f7e6b0", tracking=0.06),
    "caption": Card(_WORDS, "plain", False, 0.05, box="#1e2230", shadow=0.0, anchor="bottom"),
    "lyric low": Card(_WORDS, "plain", size=0.065, outline=0.05, shadow=0.0, anchor="bottom"),
    "lyric large": Card(_WORDS, "condensed", size=0.2, tracking=0.02),
}  # fmt: skip


#: Those that words of the song are laid in.
LYRIC_STYLES = ("lyric low", "lyric large", "caption")


def worded(style: Card, *lines: str) -> Card:
    """A card in the style of another with these lines; each is as large, heavy and coloured as the one it takes the place of."""
    kept = [*style.lines[: len(lines)], *[style.lines[-1]] * max(0, len(lines) - len(style.lines))]
    return replace(style, lines=tuple(_with_text(k, t) for k, t in zip(kept, lines, strict=True)))


def _with_text(line: CardLine, text: str) -> CardLine:
    """A line with another text; parts are of letters, and stay only with the very same."""
    return line if text == line.text else replace(line, text=text, parts=())
