"""Laying pictures over each other: the one place where the film does it, as the page's compositor does on its canvas.

All mixing is of the coded values, plane by plane, with no change to linear light. A picture on whose chain steps act is
worked out in floating point and rounded once; one that is only enlarged, or only mixed with another, stays in 8 bit.
"""

from dataclasses import dataclass, field

import av
import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from zembi.core.picture.chain import Act, covers
from zembi.core.picture.steps import OPACITY, PLACE
from zembi.core.picture.steps.place import fills
from zembi.media.enlarge import enlarged
from zembi.media.sheet import (
    BLACK,
    WHITE,
    Plane,
    Sheet,
    coded_planes,
    even,
    over,
    plane_size,
    planes_of,
    sheet_of,
)
from zembi.media.steps import ACTS
from zembi.media.steps.place import box

#: Height of a title's letters in heights of the frame.
_LETTERS = 1 / 12


@dataclass(frozen=True)
class CompositeLayer:
    """One picture of a stack: a frame, words (white, centred), a colour ("#rrggbb"), or black where none is given.

    ``cover`` says how much each point of a frame over black hides, 0 to 1; without it, all.
    """

    acts: tuple[Act, ...] = ()
    frame: av.VideoFrame | None = None
    text: str | None = None
    colour: str | None = None
    cover: NDArray[np.float32] | None = field(default=None, compare=False)


def composed(parts: list[CompositeLayer], width: int, height: int) -> av.VideoFrame:
    """Parts laid over each other on black, the first undermost; 8-bit 4:2:0.

    A single frame on which nothing acts comes back as the very object.
    """
    if len(parts) == 1 and parts[0].frame is not None and not parts[0].acts:
        return parts[0].frame
    size = (width, height)
    out: list[Plane] | Sheet | None = None
    for part in parts:
        acts, opacity = _parted(part.acts)
        if opacity <= 0:
            continue
        drawn = _in_eight_bits(part, acts, size) or _acted(part, acts, size)
        whole = isinstance(drawn, list) or drawn.cover is None
        if whole and opacity >= 1:
            out = drawn
        elif isinstance(drawn, list) and (out is None or isinstance(out, list)):
            out = _mixed(out or _black(size), drawn, opacity)
        else:
            beneath = even(size, BLACK) if out is None else _sheet(out, size)
            out = over(beneath, _sheet(drawn, size), opacity)
    if isinstance(out, Sheet):
        out = coded_planes(out)
    return _frame(out or [], width, height)


def _parted(acts: tuple[Act, ...]) -> tuple[tuple[Act, ...], float]:
    """Acts without an opacity at their end, and that."""
    if acts and acts[-1].kind is OPACITY:
        return acts[:-1], min(1.0, acts[-1].values["amount"])
    return acts, 1.0


def _sheet(drawn: list[Plane] | Sheet, size: tuple[int, int]) -> Sheet:
    return drawn if isinstance(drawn, Sheet) else sheet_of(list(drawn), size)


def _black(size: tuple[int, int]) -> list[Plane]:
    return [np.full(plane_size(size, k)[::-1], v, np.uint8) for k, v in enumerate(BLACK)]


def _in_eight_bits(part: CompositeLayer, acts: tuple[Act, ...], size: tuple[int, int]) -> list[Plane] | None:
    """Planes of a picture that needs no more than 8 bit: as it is, or a part of it enlarged by the library's scaler."""
    if part.text is not None or (part.frame is not None and part.frame.format.name != "yuv420p"):
        return None
    if part.frame is None:
        value = coded(part.colour) if part.colour else BLACK
        plain = [np.full(plane_size(size, k)[::-1], v, np.uint8) for k, v in enumerate(value)]
        return plain if covers(acts) and not acts else None
    planes: list[Plane] = [np.asarray(p, np.uint8) for p in planes_of(part.frame)]
    if not acts:
        return planes
    if len(acts) == 1 and acts[0].kind is PLACE and fills(acts[0].values) and acts[0].values["scale"] > 1:
        turned = [p[:, ::-1] for p in planes] if acts[0].values["mirror"] else planes
        return enlarged(turned, box(acts[0].values, *size))
    return None


def _acted(part: CompositeLayer, acts: tuple[Act, ...], size: tuple[int, int]) -> Sheet:
    """A picture after its chain."""
    if part.text is not None:
        sheet = _letters(part.text, size)
    elif part.frame is not None:
        sheet = sheet_of(planes_of(part.frame), size)
        if part.cover is not None:
            half = cv2.resize(part.cover, plane_size(size, 1), interpolation=cv2.INTER_AREA)
            covers_ = [part.cover, *(np.asarray(half, np.float32),) * 2]
            sheet = Sheet(size, sheet.planes, covers_)
    else:
        sheet = even(size, coded(part.colour) if part.colour else BLACK)
    for act in acts:
        sheet = ACTS[act.kind.name](sheet, act.values)
    return sheet


def _frame(planes: list[Plane], width: int, height: int) -> av.VideoFrame:
    """A frame of three planes; black where there are none."""
    frame = av.VideoFrame(width, height, "yuv420p")
    for k, plane in enumerate(frame.planes):
        across, up = plane_size((width, height), k)
        rows = np.frombuffer(memoryview(plane), np.uint8)
        rows = rows.reshape(-1, plane.line_size)[:up, :across]
        rows[:] = planes[k] if planes else BLACK[k]
    return frame


def coded(colour: str) -> tuple[int, int, int]:
    """The three values of a colour, "#rrggbb": ITU-R BT.709, limited range."""
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue
    return (
        round(16 + 219 * luma),
        round(128 + 224 * (blue - luma) / 1.8556),
        round(128 + 224 * (red - luma) / 1.5748),
    )


def _mixed(under: list[Plane], above: list[Plane], opacity: float) -> list[Plane]:
    """Two opaque pictures mixed in whole numbers, rounded: as good as 8 bit can tell, in a third of the time."""
    part = np.uint16(round(opacity * 256))
    return [
        ((u.astype(np.uint16) * (np.uint16(256) - part) + a.astype(np.uint16) * part + np.uint16(128)) >> np.uint16(8))
        .astype(np.uint8)
        for u, a in zip(under, above, strict=True)
    ]  # fmt: skip


def _letters(text: str, size: tuple[int, int]) -> Sheet:
    """A title's letters: white where they are."""
    image = Image.new("L", size, 0)
    font = ImageFont.load_default(size=max(8, round(size[1] * _LETTERS)))
    ImageDraw.Draw(image).multiline_text(
        (size[0] / 2, size[1] / 2), text, fill=255, font=font, anchor="mm", align="center"
    )
    luma = np.asarray(image, np.float32) / np.float32(255)
    half = np.asarray(cv2.resize(luma, plane_size(size, 1), interpolation=cv2.INTER_AREA), np.float32)
    cover = [luma, half, half]
    white = [c * np.float32(w - b) for c, w, b in zip(cover, WHITE, BLACK, strict=True)]
    return Sheet(size, white, cover)
