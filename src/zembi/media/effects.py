"""What is done to a picture's points: blur, sharpening, glow and grain; the film's side of the page's ``effects.ts``.

Pictures are three planes of coded values, 8-bit 4:2:0, ITU-R BT.709, limited range.
"""

from functools import lru_cache

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from numpy.typing import NDArray
from PIL import Image, ImageChops, ImageFilter

Plane = NDArray[np.uint8]
#: Standard deviations, in heights of the picture: of the blur that sharpening undoes, and of a glow.
FINE, WIDE = 1 / 540, 1 / 40
#: Lines of the picture that a point of grain is high: one in each so many, at least one.
_GRAIN = 540
_TILE = 256


def _soft(plane: Plane, deviation: float) -> Plane:
    """A plane blurred by a standard deviation in points; its edges go on outside."""
    image = Image.fromarray(np.ascontiguousarray(plane))
    # A wide blur of a smaller picture is the same blur.
    step = min(8, int(deviation // 4))
    if step > 1:
        small = image.reduce(step).filter(ImageFilter.GaussianBlur(deviation / step))
        box = (0, 0, image.width / step, image.height / step)
        return np.asarray(small.resize(image.size, Image.Resampling.BILINEAR, box=box))
    return np.asarray(image.filter(ImageFilter.GaussianBlur(deviation)))


def blurred(planes: list[Plane], amount: float) -> list[Plane]:
    """A picture blurred by a standard deviation in its heights."""
    return [_soft(plane, amount * plane.shape[0]) for plane in planes]


def sharpened(planes: list[Plane], amount: float) -> list[Plane]:
    """A picture with more of what a slight blur takes away."""
    soft = blurred(planes, FINE)
    both = zip(planes, soft, strict=True)
    return [
        np.clip(np.rint(p + np.float32(amount) * (p.astype(np.float32) - s)), 0, 255).astype(np.uint8)
        for p, s in both
    ]


def glowing(planes: list[Plane], amount: float) -> list[Plane]:
    """A picture over which its own lights (its values multiplied by themselves), blurred, are screened."""
    height, width = planes[0].shape
    flat = np.concatenate([p.ravel() for p in planes]).reshape(-1, width)
    frame = av.VideoFrame.from_ndarray(flat, "yuv420p")
    shades = {"src_colorspace": Colorspace.ITU709, "dst_colorspace": Colorspace.ITU709}
    seen = frame.reformat(
        format="rgb24", src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG, **shades
    )
    picture = Image.fromarray(seen.to_ndarray())
    small = picture.reduce(max(1, height // 270))
    light = ImageChops.multiply(small, small).filter(ImageFilter.GaussianBlur(WIDE * small.height))
    light = light.resize((width, height), Image.Resampling.BILINEAR)
    lit = Image.blend(picture, ImageChops.screen(picture, light), min(1.0, amount))
    back = av.VideoFrame.from_ndarray(np.asarray(lit), "rgb24").reformat(
        format="yuv420p", src_color_range=ColorRange.JPEG, dst_color_range=ColorRange.MPEG, **shades
    )
    values = np.asarray(back.to_ndarray(), np.uint8).ravel()
    ends = np.cumsum([p.size for p in planes])
    return [part.reshape(p.shape) for part, p in zip(np.split(values, ends[:-1]), planes, strict=True)]


@lru_cache(maxsize=1)
def pattern() -> NDArray[np.int16]:
    """The tile of grain: ``_TILE`` by ``_TILE`` values, -255 (dark) to 255, most near 0 (Marsaglia, xorshift, 2003)."""
    state, out = 0x9E3779B9, np.empty(_TILE * _TILE, np.int16)
    for k in range(len(out)):
        two = 0
        for _ in range(2):
            state ^= state << 13 & 0xFFFFFFFF
            state ^= state >> 17
            state ^= state << 5 & 0xFFFFFFFF
            two += state >> 24
        out[k] = two - 255
    return out.reshape(_TILE, _TILE)


def begins_at(number: int) -> tuple[int, int]:
    """Where in the tile a pattern of grain begins: across and down, even numbers, so that colours begin there too."""
    mixed = number * 2654435761 & 0xFFFFFFFF
    return mixed >> 24 & 0xFE, mixed >> 16 & 0xFE


@lru_cache(maxsize=4)
def _shares(width: int, height: int, amount: float, plane: int) -> tuple[NDArray[np.uint16], Plane]:
    """Grain over a frame and one tile more: how far each point moves (0 to 255), and towards which value."""
    cell = max(1, round(height / _GRAIN))
    moves = np.rint(np.abs(pattern()) * amount / 2).astype(np.uint16)
    goals = np.where(pattern() > 0, 235, 16).astype(np.uint8)
    times = (height // _TILE // cell + 3, width // _TILE // cell + 3)
    moves = np.tile(moves, times).repeat(cell, axis=0).repeat(cell, axis=1)
    goals = np.tile(goals, times).repeat(cell, axis=0).repeat(cell, axis=1)
    if plane:
        # Of two by two points the mean.
        moves = (moves[::2, ::2] + moves[1::2, ::2] + moves[::2, 1::2] + moves[1::2, 1::2] + 2) // 4
    return moves.astype(np.uint16), goals


def grained(plane: Plane, number: int, size: tuple[int, int], amount: float, which: int) -> Plane:
    """A plane under grain: each point of it moved towards white or black, colours towards none.

    Args:
        plane: One of the three.
        number: Which, 0 for the light.
        size: Of the frame, width and height.
        amount: 0 to 1.
        which: Which pattern.
    """
    cell = max(1, round(size[1] / _GRAIN))
    x, y = (v * cell for v in begins_at(which))
    height, width = plane.shape
    moves, goals = _shares(*size, round(amount, 4), min(number, 1))
    if number:
        part = moves[y // 2 : y // 2 + height, x // 2 : x // 2 + width]
        goal: NDArray[np.int32] | int = 128
    else:
        part = moves[y : y + height, x : x + width]
        goal = goals[y : y + height, x : x + width].astype(np.int32)
    here = plane.astype(np.int32)
    return np.asarray((here + ((goal - here) * part.astype(np.int32) + 127) // 255).astype(np.uint8))
