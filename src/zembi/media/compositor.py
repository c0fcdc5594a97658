"""Laying pictures over each other: the one place where the film does it, as the page's compositor does on its canvas.

All mixing is of the coded values, plane by plane, with no change to linear light.
"""

import math
from dataclasses import dataclass

import av
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from zembi.core.programme.curves import AS_IT_IS, Look
from zembi.media.effects import Plane, blurred, glowing, grained, sharpened
from zembi.media.enlarge import enlarged

#: Coded black and white of the three planes.
_BLACK, _WHITE = (16, 128, 128), (235, 128, 128)
#: Height of a title's letters in heights of the frame.
_LETTERS = 1 / 12


@dataclass(frozen=True)
class Part:
    """One picture of a stack: a frame, words (white, centred), a colour ("#rrggbb"), or black where none is given."""

    look: Look = AS_IT_IS
    frame: av.VideoFrame | None = None
    text: str | None = None
    colour: str | None = None


def composed(parts: list[Part], width: int, height: int) -> av.VideoFrame:
    """Parts laid over each other on black, the first undermost; 8-bit 4:2:0.

    A single frame that lies as it is comes back as the very object.
    """
    if len(parts) == 1 and parts[0].frame is not None and parts[0].look == AS_IT_IS:
        return parts[0].frame
    size = (width, height)
    out: list[Plane] = []
    for part in parts:
        if part.look.opacity <= 0:
            continue
        planes = _planes(part, size)
        if part.look.opacity >= 1 and all(cover is None for _, cover in planes):
            out = [plane for plane, _ in planes]
            continue
        out = out or [np.full(_plane_size(size, k)[::-1], v, np.uint8) for k, v in enumerate(_BLACK)]
        for k, (plane, cover) in enumerate(planes):
            out[k] = _mixed(out[k], plane, cover, min(1.0, part.look.opacity))
    return _frame(out, width, height)


def _frame(planes: list[Plane], width: int, height: int) -> av.VideoFrame:
    """A frame of three planes; black where there are none."""
    frame = av.VideoFrame(width, height, "yuv420p")
    for k, plane in enumerate(frame.planes):
        across, up = _plane_size((width, height), k)
        rows = np.frombuffer(memoryview(plane), np.uint8)
        rows = rows.reshape(-1, plane.line_size)[:up, :across]
        rows[:] = planes[k] if planes else _BLACK[k]
    return frame


def _plane_size(size: tuple[int, int], plane: int) -> tuple[int, int]:
    return size if plane == 0 else (size[0] // 2, size[1] // 2)


def _planes(part: Part, size: tuple[int, int]) -> list[tuple[Plane, Plane | None]]:
    """Each plane of a part as it lies in the frame, and where it covers (None: everywhere)."""
    look = part.look
    letters = _letters(part.text, size) if part.text is not None else None
    planes = _planes_of(part.frame) if part.frame is not None else None
    if planes is None:
        plain = _WHITE if letters is not None else coded(part.colour) if part.colour else _BLACK
        planes = [np.full(_plane_size(size, k)[::-1], plain[k], np.uint8) for k in range(3)]
    planes = [_lit(plane, k, look.lightness) for k, plane in enumerate(planes)]
    if look.blur > 0:
        planes = blurred(planes, look.blur)
    if look.sharpen > 0:
        planes = sharpened(planes, look.sharpen)
    if look.glow > 0:
        planes = glowing(planes, look.glow)
    large = None
    if letters is None and look.fills and look.scale > 1:
        turned = [plane[:, ::-1] for plane in planes] if look.mirror else planes
        large = enlarged(turned, _box(look, *size))
    out: list[tuple[Plane, Plane | None]] = []
    for k, plane in enumerate(large or planes):
        across, up = _plane_size(size, k)
        cover = None
        if letters is not None:
            cover = np.asarray(letters.resize((across, up), Image.Resampling.BOX) if k else letters)
            cover = blurred([cover], look.blur)[0] if look.blur > 0 else cover
        if large is None and not look.lies_still:
            under = cover if cover is not None else np.full((up, across), 255, np.uint8)
            if look.mirror:
                plane, under = plane[:, ::-1], under[:, ::-1]
            whole = cover is None and look.fills
            plane, cover = _placed(plane, look, _BLACK[k]), None if whole else _placed(under, look, 0)
        if look.vignette > 0:
            plane = _darkened(plane, _BLACK[k], look.vignette)
        if look.grain > 0:
            plane = grained(plane, k, size, look.grain, round(look.grain_number))
        if look.bars > 0:
            plane, cover = _barred(plane, cover, _BLACK[k], look.bars, size)
        out.append((plane, cover))
    return out


def coded(colour: str) -> tuple[int, int, int]:
    """The three values of a colour, "#rrggbb": ITU-R BT.709, limited range."""
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue
    return (
        round(16 + 219 * luma),
        round(128 + 224 * (blue - luma) / 1.8556),
        round(128 + 224 * (red - luma) / 1.5748),
    )


def _darkened(plane: Plane, black: int, amount: float) -> Plane:
    """A plane darkened evenly from half way between the middle and the corners of the frame out to these."""
    height, width = plane.shape
    # Planes of colour are half as large: everything is counted in shares of the frame's diagonal.
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    far = np.hypot(width, height) / 2
    away = np.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / far
    share = np.clip((away - 0.5) * 2, 0, 1) * np.float32(min(1.0, amount))
    return np.asarray(np.rint(plane + (black - plane.astype(np.float32)) * share).astype(np.uint8))


def _barred(
    plane: Plane, cover: Plane | None, black: int, shape: float, size: tuple[int, int]
) -> tuple[Plane, Plane | None]:
    """A plane with black bars that leave a shape of picture."""
    height, width = plane.shape
    aspect = size[0] / size[1]
    high = round(size[1] * max(0.0, 1 - aspect / shape) / 2) * height // size[1]
    wide = round(size[0] * max(0.0, 1 - shape / aspect) / 2) * width // size[0]
    plane, cover = plane.copy(), None if cover is None else cover.copy()
    for sheet, value in ((plane, black), (cover, 255)):
        if sheet is not None:
            sheet[:high] = sheet[height - high :] = value
            sheet[:, :wide] = sheet[:, width - wide :] = value
    return plane, cover


def _planes_of(frame: av.VideoFrame) -> list[Plane]:
    flat = np.asarray(frame.to_ndarray(), np.uint8)
    width, height = frame.width, frame.height
    luma = width * height
    small = (height // 2, width // 2)
    values = flat.reshape(-1)
    return [
        values[:luma].reshape(height, width),
        values[luma : luma + luma // 4].reshape(small),
        values[luma + luma // 4 :].reshape(small),
    ]


def _lit(plane: Plane, number: int, lightness: float) -> Plane:
    """A plane moved towards black (lightness below 1) or white (above 1)."""
    if lightness == 1:
        return plane
    goal = (_BLACK if lightness < 1 else _WHITE)[number]
    share = min(1.0, abs(1 - lightness))
    table = np.arange(256) + (goal - np.arange(256)) * share
    return np.asarray(np.rint(table).astype(np.uint8)[plane])


def _placed(plane: Plane, look: Look, outside: int) -> Plane:
    """A plane scaled and turned about its centre, then shifted."""
    height, width = plane.shape
    scale = max(look.scale, 1e-4)
    if look.fills:
        # A part of the picture made as large as the frame: along each side by itself, which is several times faster.
        left, top, wide, high = _box(look, width, height)
        box = (left, top, left + wide, top + high)
        image = Image.fromarray(np.ascontiguousarray(plane))
        return np.asarray(image.resize((width, height), Image.Resampling.BILINEAR, box=box))
    cos, sin = math.cos(math.radians(look.turn)) / scale, math.sin(math.radians(look.turn)) / scale
    from_x, from_y = width / 2 + look.x * width, height / 2 + look.y * height
    back = (
        cos, sin, width / 2 - cos * from_x - sin * from_y,
        -sin, cos, height / 2 + sin * from_x - cos * from_y,
    )  # fmt: skip
    moved = Image.fromarray(plane).transform(
        (width, height), Image.Transform.AFFINE, back, Image.Resampling.BILINEAR, fillcolor=outside
    )
    return np.asarray(moved)


def _box(look: Look, width: int, height: int) -> tuple[float, float, float, float]:
    """The part of a picture that fills the frame: left, top, width and height."""
    wide, high = width / look.scale, height / look.scale
    left, top = (width - wide) / 2 - look.x * wide, (height - high) / 2 - look.y * high
    return min(max(0.0, left), width - wide), min(max(0.0, top), height - high), wide, high


def _mixed(under: Plane, over: Plane, cover: Plane | None, opacity: float) -> Plane:
    if cover is None:
        # In whole numbers, rounded: as good as a value can be told, in a third of the time.
        part = np.uint16(round(opacity * 256))
        both = under.astype(np.uint16) * (np.uint16(256) - part) + over.astype(np.uint16) * part
        return np.asarray(((both + np.uint16(128)) >> np.uint16(8)).astype(np.uint8))
    share = cover.astype(np.float32) * np.float32(opacity / 255)
    mixed = under + (over.astype(np.float32) - under) * share
    return np.asarray(np.rint(mixed).astype(np.uint8))


def _letters(text: str, size: tuple[int, int]) -> Image.Image:
    """Where a title's letters are, 0 to 255."""
    sheet = Image.new("L", size, 0)
    font = ImageFont.load_default(size=max(8, round(size[1] * _LETTERS)))
    ImageDraw.Draw(sheet).multiline_text(
        (size[0] / 2, size[1] / 2), text, fill=255, font=font, anchor="mm", align="center"
    )
    return sheet
