"""Fonts: the shipped families, each a chain of files by weight, and those that stand in for scripts they have not."""

import io
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import freetype
import uharfbuzz as hb
from fontTools.ttLib import TTFont, TTLibError

from zembi.core.errors import UnreadableMedia
from zembi.core.titles.card import Family

FOLDER = Path(__file__).parents[2] / "fonts"
#: The files of each family begin with this; in each, a part of Unicode.
FILES: dict[Family, str] = {
    "plain": "atkinson-hyperlegible-next", "condensed": "barlow-condensed", "slab": "zilla-slab", "serif": "source-serif-4",
    "hand": "caveat", "display": "limelight", "mono": "atkinson-hyperlegible-mono",
}  # fmt: skip
#: Families asked in this order for a letter that a card's own has not.
STAND_INS = (
    "atkinson-hyperlegible-next",
    "source-serif-4",
    "noto-sans-arabic",
    "noto-sans-hebrew",
    "noto-sans-devanagari",
)
#: Largest font file that is read.
MOST_FONT_BYTES = 64 << 20
_WEIGHTS = {False: 400, True: 700}


@dataclass(frozen=True, eq=False)
class Font:
    """A file of a font, for shaping and for drawing.

    Attributes:
        name: Of its file.
        shaper: HarfBuzz's font, in units of the em.
        drawer: FreeType's face.
        upem: Units of an em.
        letters: Code points that it has.
    """

    name: str
    shaper: hb.Font
    drawer: freetype.Face
    upem: int
    letters: frozenset[int]


@lru_cache(maxsize=128)
def font_of(path: Path) -> Font:
    """A font file: TrueType, OpenType or WOFF.

    Raises:
        UnreadableMedia: it is none, or damaged.
    """
    try:
        opened = TTFont(path, lazy=False)
        opened.flavor = None
        plain = io.BytesIO()
        opened.save(plain, reorderTables=False)
        data = plain.getvalue()
        face = hb.Face(data)
        return Font(
            path.stem,
            hb.Font(face),
            freetype.Face(io.BytesIO(data)),
            face.upem,
            frozenset(opened.getBestCmap()),
        )
    except OSError as fault:
        raise UnreadableMedia(f"{path.name} cannot be read as a font ({fault.strerror or fault}).") from None
    except (TTLibError, freetype.FT_Exception, Exception) as fault:
        raise UnreadableMedia(f"{path.name} is no font, or a damaged one ({fault}).") from None


@lru_cache(maxsize=32)
def chain_of(family: Family, bold: bool) -> tuple[Font, ...]:
    """Fonts to be asked for a letter, in order: the family's own files, and those that stand in.

    A family of one weight has that for both.
    """
    out: list[Font] = []
    for prefix in dict.fromkeys((FILES[family], *STAND_INS)):
        wanted = sorted(FOLDER.glob(f"{prefix}-*-{_WEIGHTS[bold]}-normal.woff"))
        files = wanted or sorted(FOLDER.glob(f"{prefix}-*-400-normal.woff"))
        # The part with the plain Latin letters is asked first.
        out += [
            font_of(f)
            for f in sorted(files, key=lambda f: f.stem[len(prefix) :][:7] != "-latin-" or "-ext" in f.stem)
        ]
    if not out:
        raise UnreadableMedia("The fonts of titles are not there: run make build.")
    return tuple(out)


def chain_with(file: str, family: Family, bold: bool) -> tuple[tuple[Font, ...], str]:
    """The chain of a card that names a font file, and why that cannot be used, in words; "" where it can."""
    if not file:
        return chain_of(family, bold), ""
    path = Path(file)
    try:
        return (_font_file(path, path.stat().st_mtime_ns), *chain_of(family, bold)), ""
    except (OSError, ValueError):
        return chain_of(family, bold), f"The font file {path.name} is not there: “{family}” stands in."
    except UnreadableMedia as fault:
        return chain_of(family, bold), f"{fault.message} “{family}” stands in."


@lru_cache(maxsize=32)
def _font_file(path: Path, _stamp: int) -> Font:
    if path.stat().st_size > MOST_FONT_BYTES:
        raise UnreadableMedia(f"{path.name} is larger than {MOST_FONT_BYTES >> 20} MB, too large for a font.")
    return font_of.__wrapped__(path)


def font_for(chain: tuple[Font, ...], letter: str) -> Font | None:
    """The first font of a chain that has a letter; None where no one has it."""
    return next((font for font in chain if ord(letter) in font.letters), None)
