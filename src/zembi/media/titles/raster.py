"""The picture of a card: its glyphs drawn from their outlines, over shadow and box, premultiplied RGBA of the frame's size."""

import ctypes
import math
from dataclasses import dataclass
from functools import lru_cache
from threading import Lock
from typing import Any

import cv2
import freetype
import numpy as np
from numpy.typing import NDArray

from zembi.core.titles.card import Card
from zembi.core.titles.shown import ALL, Shown
from zembi.media.titles.layout import ASCENT, Glyph, SetCard, font_stamp, seen_of, set_card

Cover = NDArray[np.float32]
Picture = NDArray[np.float32]

#: FreeType counts in 64ths of a point, and matrices in 65536ths.
_POINT, _FIXED = 64, 0x10000
#: Room around letters in a box, in ems.
_PADDING = 0.22
#: Softness of a shadow by how far away it lies.
_SOFT = 0.6


@dataclass(frozen=True, eq=False)
class CardPicture:
    """The part of the frame that a card covers, premultiplied: red, green, blue and how much it hides, 0 to 1.

    Attributes:
        left, top: Its first column and row in the frame.
        rgba: Of shape (rows, columns, 4).
        size: Width and height of the frame.
    """

    left: int
    top: int
    rgba: Picture
    size: tuple[int, int]

    @property
    def part(self) -> tuple[slice, slice]:
        """Its rows and columns of the frame."""
        rows, columns = self.rgba.shape[:2]
        return slice(self.top, self.top + rows), slice(self.left, self.left + columns)

    def whole(self) -> Picture:
        """The picture of the whole frame."""
        out = np.zeros((*self.size[::-1], 4), np.float32)
        out[self.part] = self.rgba
        return out


#: FreeType's faces hold one glyph at a time.
_DRAWING = Lock()


def card_picture(card: Card, width: int, height: int, shown: Shown = ALL) -> CardPicture:
    """Draw what is seen of a card for a frame of a size; what of it lies outside is cut off."""
    return _card_picture(card, width, height, shown, font_stamp(card))


@lru_cache(maxsize=64)
def _card_picture(card: Card, width: int, height: int, shown: Shown, _stamp: int) -> CardPicture:
    with _DRAWING:
        laid = set_card(card, width / height)
        return _drawn(card, laid if shown == ALL else seen_of(laid, shown), shown, width, height)


def _drawn(card: Card, laid: SetCard, shown: Shown, width: int, height: int) -> CardPicture:
    em = card.size * height
    x, y = (0.5 + card.place[0]) * width, (0.5 + card.place[1]) * height
    left, top, right, bottom = _reach(card, laid, em, (x, y), (width, height))
    if right <= left or bottom <= top:
        return CardPicture(0, 0, np.zeros((2, 2, 4), np.float32), (width, height))
    x, y, size = x - left, y - top, (right - left, bottom - top)
    fill: dict[str, Cover] = {}
    edge = np.zeros(size[::-1], np.float32) if card.outline else None
    for glyph in laid.glyphs:
        cover = fill.setdefault(glyph.colour, np.zeros(size[::-1], np.float32))
        _draw(cover, glyph, em, x, y, card.turn, 0.0)
        if shown.heavier and shown.lights(glyph.letter):
            _draw(cover, glyph, em, x, y, card.turn, shown.heavier * glyph.em * em)
        if edge is not None:
            _draw(edge, glyph, em, x, y, card.turn, card.outline * em)
    if shown.cursor and laid.glyphs:
        cover = fill.setdefault(card.colour, np.zeros(size[::-1], np.float32))
        np.maximum(cover, _filled(_corners(_cursor(laid), em, x, y, card.turn), size), out=cover)
    out: list[Cover] = []
    if card.box:
        cover = _filled(_corners(_sides(laid, _PADDING), em, x, y, card.turn), size)
        _lay(out, cover * np.float32(card.box_opacity), card.box)
    letters = [*fill.values(), *([edge] if edge is not None else [])]
    if card.shadow and letters:
        _lay(out, _shadow(np.maximum.reduce(letters), card.shadow * em), card.shadow_colour)
    if edge is not None:
        _lay(out, edge, card.outline_colour)
    for colour, cover in fill.items():
        _lay(out, cover, colour)
    picture = cv2.merge(out) if out else np.zeros((*size[::-1], 4), np.float32)
    return _cropped(np.asarray(picture, np.float32), left, top, (width, height))


def _cursor(laid: SetCard) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of the cursor behind the last letter that is seen, in ems from the card's point."""
    last = max(laid.glyphs, key=lambda g: g.letter)
    left = last.x + (last.advance + 0.06) * last.em
    return left, last.y - ASCENT * last.em, left + 0.07 * last.em, last.y + 0.1 * last.em


def _sides(laid: SetCard, room: float) -> tuple[float, float, float, float]:
    return laid.left - room, laid.top - room, laid.right + room, laid.bottom + room


def _corners(
    sides: tuple[float, float, float, float], em: float, x: float, y: float, turn: float
) -> NDArray[np.float64]:
    """Corners of a rectangle, in ems from the card's point, turned about it: shape (4, 2), in points of the frame."""
    left, top, right, bottom = (s * em for s in sides)
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
    return np.array([(x + cos * a - sin * b, y + sin * a + cos * b) for a, b in corners])


def _reach(
    card: Card, laid: SetCard, em: float, at: tuple[float, float], size: tuple[int, int]
) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of all that can be drawn, inside the frame; even, since chroma is half as fine."""
    # Swashes and accents reach out of their line; a shadow, three times its softness further.
    room = 0.5 + card.outline + card.shadow * (1 + 3 * _SOFT)
    corners = _corners(_sides(laid, room), em, *at, card.turn)
    (left, top), (right, bottom) = np.floor(corners.min(0) - 1), np.ceil(corners.max(0) + 1)
    return (
        max(0, int(left) // 2 * 2),
        max(0, int(top) // 2 * 2),
        min(size[0], -int(-right // 2) * 2),
        min(size[1], -int(-bottom // 2) * 2),
    )


def _draw(cover: Cover, glyph: Glyph, em: float, x: float, y: float, turn: float, stroke: float) -> None:
    """Add the coverage of a glyph, or of a line around it, at its place; places between points are kept."""
    face = glyph.font.drawer
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    across, down = glyph.x * em, glyph.y * em
    at_x, at_y = x + cos * across - sin * down, y + sin * across + cos * down
    # No glyph reaches further than two of its ems: one that lies outside is not drawn.
    far = 2 * glyph.em * em + stroke
    if not (-far < at_x < cover.shape[1] + far and -far < at_y < cover.shape[0] + far):
        return
    left, top = math.floor(at_x), math.ceil(at_y)
    # FreeType's rows go up; what is left of the place is given with the outline.
    shift = freetype.Vector(round((at_x - left) * _POINT), round((top - at_y) * _POINT))
    face.set_char_size(max(1, round(glyph.em * em * _POINT)))
    face.set_transform(freetype.Matrix(*(round(v * _FIXED) for v in (cos, sin, -sin, cos))), shift)
    face.load_glyph(glyph.number, freetype.FT_LOAD_NO_HINTING | freetype.FT_LOAD_NO_BITMAP)
    if face.glyph.format != freetype.FT_GLYPH_FORMAT_OUTLINE or not face.glyph.outline.n_points:
        return
    drawn = face.glyph.get_glyph()
    if stroke:
        stroker = freetype.Stroker()
        stroker.set(
            round(stroke * _POINT), freetype.FT_STROKER_LINECAP_ROUND, freetype.FT_STROKER_LINEJOIN_ROUND, 0
        )
        drawn.stroke(stroker, True)
    bitmap = drawn.to_bitmap(freetype.FT_RENDER_MODE_NORMAL, freetype.Vector(0, 0), True)
    _add(cover, bitmap, left + bitmap.left, top - bitmap.top)


def _add(cover: Cover, bitmap: Any, left: int, top: int) -> None:
    """Add what a bitmap covers to what is covered already."""
    rows, columns = bitmap.bitmap.rows, bitmap.bitmap.width
    if not rows or not columns:
        return
    # The library's own accessor makes a list of its points, one by one, which took half the time of a large card.
    inside = bitmap.bitmap._FT_Bitmap
    seen = np.frombuffer(ctypes.string_at(inside.buffer, rows * inside.pitch), np.uint8)
    seen = seen.reshape(rows, inside.pitch)[:, :columns]
    first_row, first_column = max(0, top), max(0, left)
    last_row, last_column = min(cover.shape[0], top + rows), min(cover.shape[1], left + columns)
    if first_row >= last_row or first_column >= last_column:
        return
    part = (
        seen[first_row - top : last_row - top, first_column - left : last_column - left].astype(np.float32)
        / 255
    )
    there = cover[first_row:last_row, first_column:last_column]
    there += part * (1 - there)


def _filled(corners: NDArray[np.float64], size: tuple[int, int]) -> Cover:
    """Coverage of a polygon."""
    out = np.zeros((size[1], size[0]), np.uint8)
    # Points of OpenCV are centres of pixels; it takes places between them in 256ths.
    cv2.fillConvexPoly(out, np.rint((corners - 0.5) * 256).astype(np.int32), 255, cv2.LINE_AA, 8)
    return out.astype(np.float32) / np.float32(255)


def _shadow(cover: Cover, away: float) -> Cover:
    by = np.array([[1, 0, away], [0, 1, away]], np.float64)
    moved = cv2.warpAffine(cover, by, cover.shape[::-1])
    return np.asarray(cv2.GaussianBlur(moved, (0, 0), max(0.3, away * _SOFT)), np.float32)


def _lay(out: list[Cover], cover: Cover, colour: str) -> None:
    """Lay a colour over what is there: red, green, blue and cover, each a plane of its own, none before anything is laid."""
    values = [np.float32(int(colour[n : n + 2], 16) / 255) for n in (1, 3, 5)] + [np.float32(1)]
    if not out:
        out += [cover * value for value in values]
        return
    kept = 1 - cover
    for plane, value in zip(out, values, strict=True):
        plane *= kept
        if value:
            plane += cover * value


def _cropped(out: Picture, left: int, top: int, size: tuple[int, int]) -> CardPicture:
    """The part that is not empty, from an even column and row on and of an even size: chroma is half as fine."""
    seen = out[..., 3] > 0
    rows, columns = np.nonzero(seen.any(1))[0], np.nonzero(seen.any(0))[0]
    if not len(rows):
        return CardPicture(left, top, np.zeros((2, 2, 4), np.float32), size)
    a, b = int(rows[0]) // 2 * 2, int(rows[-1]) // 2 * 2 + 2
    c, d = int(columns[0]) // 2 * 2, int(columns[-1]) // 2 * 2 + 2
    return CardPicture(left + c, top + a, np.ascontiguousarray(out[a:b, c:d]), size)
