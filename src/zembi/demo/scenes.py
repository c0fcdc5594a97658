"""The demo's pictures, all drawn here: four places with a singer, and B-roll of an offshore light."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import av
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

Picture = NDArray[np.uint8]

#: Scenes are drawn on this ground and filmed at ``FILMED``.
WIDTH, HEIGHT = 960, 540
FILMED = (768, 432)
_SKIN, _LIP, _MOUTH, _COAT, _HAIR = (222, 172, 132), (150, 62, 58), (84, 22, 30), (30, 46, 78), (38, 28, 26)
#: Frames in a scene's moving background, and times a second that it moves on.
LOOP, LOOP_HZ = 48, 12


def _canvas(top: tuple[int, int, int], bottom: tuple[int, int, int]) -> Image.Image:
    return _ground(top, bottom).copy()


@lru_cache(maxsize=32)
def _ground(top: tuple[int, int, int], bottom: tuple[int, int, int]) -> Image.Image:
    shade = np.linspace(0, 1, HEIGHT)[:, None, None]
    rows = (1 - shade) * np.array(top) + shade * np.array(bottom)
    return Image.fromarray(np.broadcast_to(rows, (HEIGHT, WIDTH, 3)).astype(np.uint8))


def _sea(draw: ImageDraw.ImageDraw, level: int, phase: float, tone: tuple[int, int, int]) -> None:
    draw.rectangle((0, level, WIDTH, HEIGHT), fill=tone)
    for row in range(9):
        y = level + 14 + row * row * 4.2 + row * 14
        light = tuple(min(255, c + 26 + 4 * row) for c in tone)
        points = [
            (x, y + (2 + row * 0.9) * math.sin(x / (26 + 7 * row) + 2 * math.pi * phase + row * 1.7))
            for x in range(-10, WIDTH + 20, 10)
        ]
        draw.line(points, fill=light, width=2 + row // 3, joint="curve")


def _gallery(phase: float) -> Image.Image:
    image = _canvas((142, 176, 205), (206, 214, 214))
    draw = ImageDraw.Draw(image)
    _sea(draw, 330, phase, (52, 92, 112))
    draw.polygon([(640, 470), (676, 150), (764, 150), (800, 470)], fill=(238, 234, 224))
    draw.polygon([(652, 360), (660, 290), (780, 290), (788, 360)], fill=(196, 68, 52))
    draw.rectangle((656, 128, 784, 152), fill=(62, 66, 74))
    draw.rectangle((682, 84, 758, 130), fill=(248, 226, 150))
    draw.polygon([(672, 86), (720, 44), (768, 86)], fill=(190, 60, 48))
    draw.rectangle((0, 462, WIDTH, HEIGHT), fill=(96, 92, 88))
    for x in range(0, WIDTH, 96):
        draw.line((x, 462, x, 400), fill=(70, 70, 74), width=5)
    draw.line((0, 402, WIDTH, 402), fill=(70, 70, 74), width=6)
    return image


def _lamp(phase: float) -> Image.Image:
    image = _canvas((46, 34, 30), (24, 19, 22))
    draw = ImageDraw.Draw(image)
    for k in range(9):
        draw.line((k * 120, 0, k * 120, HEIGHT), fill=(62, 48, 42), width=6)
    glow = 0.75 + 0.25 * math.cos(2 * math.pi * phase)
    for r, tone in ((230, 0.25), (180, 0.4), (130, 0.65), (86, 0.9), (52, 1.0)):
        shade = tuple(
            int(c * tone * glow + b * (1 - tone * glow))
            for c, b in zip((255, 214, 120), (46, 34, 30), strict=True)
        )
        draw.ellipse((720 - r, 250 - r, 720 + r, 250 + r), fill=shade)
    for k in range(-3, 4):
        draw.arc(
            (720 - 200, 250 - 200 + k * 10, 720 + 200, 250 + 200 + k * 10),
            60,
            120,
            fill=(92, 74, 56),
            width=3,
        )
    return image


def _ferry(phase: float) -> Image.Image:
    image = _canvas((150, 178, 186), (190, 204, 202))
    draw = ImageDraw.Draw(image)
    bob = 8 * math.sin(2 * math.pi * phase)
    _sea(draw, int(262 + bob), phase, (46, 82, 96))
    draw.polygon([(0, 470), (WIDTH, 450), (WIDTH, HEIGHT), (0, HEIGHT)], fill=(120, 78, 58))
    for k in range(12):
        draw.line((k * 90, HEIGHT, k * 84 + 20, 466), fill=(98, 62, 46), width=3)
    draw.line((0, 380, WIDTH, 366), fill=(226, 222, 210), width=9)
    for x in range(30, WIDTH, 150):
        draw.line((x, 380, x, 474), fill=(226, 222, 210), width=8)
    return image


def _loft(phase: float) -> Image.Image:
    image = _canvas((92, 84, 66), (62, 54, 42))
    draw = ImageDraw.Draw(image)
    sway = 5 * math.sin(2 * math.pi * phase)
    for k in range(-12, 34):
        draw.line((k * 40 + sway, 0, k * 40 + 300 - sway, HEIGHT), fill=(122, 112, 86), width=2)
        draw.line((k * 40 + 300 + sway, 0, k * 40 - sway, HEIGHT), fill=(122, 112, 86), width=2)
    draw.rectangle((0, 0, WIDTH, 46), fill=(52, 40, 32))
    draw.rectangle((0, 486, WIDTH, HEIGHT), fill=(78, 60, 44))
    for x in (110, 300, 840):
        draw.ellipse((x - 26, 60, x + 26, 112), fill=(206, 142, 62))
        draw.line((x, 40, x, 60), fill=(40, 30, 26), width=4)
    return image


@dataclass(frozen=True)
class FilmSet:
    """A place to film: its moving background, and where and how large the singer stands."""

    background: Callable[[float], Image.Image]
    x: int
    y: int
    size: float


PLACES: dict[str, FilmSet] = {
    "gallery": FilmSet(_gallery, 330, 330, 0.62),
    "lamp": FilmSet(_lamp, 330, 290, 1.45),
    "ferry": FilmSet(_ferry, 520, 300, 1.0),
    "loft": FilmSet(_loft, 560, 310, 1.1),
}


def _singer(mouth: float, size: float) -> Image.Image:
    """The singer with an open mouth (0..1), on a transparent ground."""
    unit = int(220 * size)
    image = Image.new("RGBA", (unit * 2, int(unit * 2.6)), (0, 0, 0, 0))
    draw = ImageDraw.Draw(image)
    cx, cy = unit, int(unit * 0.72)

    def oval(x: float, y: float, w: float, h: float, fill: tuple[int, int, int]) -> None:
        draw.ellipse(
            (cx + (x - w) * unit, cy + (y - h) * unit, cx + (x + w) * unit, cy + (y + h) * unit), fill=fill
        )

    oval(0, 1.32, 0.62, 0.86, _COAT)
    draw.rectangle((cx - 0.62 * unit, cy + 1.32 * unit, cx + 0.62 * unit, cy + 2 * unit), fill=_COAT)
    oval(0, 0.46, 0.16, 0.2, _SKIN)
    oval(0, -0.12, 0.40, 0.46, _HAIR)
    oval(0, 0, 0.36, 0.46, _SKIN)
    draw.pieslice(
        (cx - 0.40 * unit, cy - 0.58 * unit, cx + 0.40 * unit, cy + 0.2 * unit), 180, 360, fill=_HAIR
    )
    for side in (-1, 1):
        oval(side * 0.14, -0.04, 0.035, 0.03, (30, 26, 30))
    oval(0, 0.24, 0.10 + 0.05 * mouth, 0.02 + 0.13 * mouth, _LIP)
    if mouth > 0.08:
        oval(0, 0.24, 0.07 + 0.05 * mouth, 0.10 * mouth, _MOUTH)
    return image.filter(ImageFilter.SMOOTH)


class Stage:
    """A place made ready: background loop and singers drawn once, then put together frame by frame."""

    MOUTHS = 9

    def __init__(self, name: str) -> None:
        place = PLACES[name]
        self._loop = [filmed(place.background(k / LOOP)) for k in range(LOOP)]
        self._place = place
        self._scale = FILMED[0] / WIDTH
        self._singers = [
            self._cut_out(_singer(m / (self.MOUTHS - 1), place.size)) for m in range(self.MOUTHS)
        ]

    def _cut_out(self, image: Image.Image) -> list[tuple[Picture, NDArray[np.bool_]]]:
        """The singer as luma and two chroma planes, each with the mask of where they stand."""
        size = (int(image.width * self._scale) // 2 * 2, int(image.height * self._scale) // 2 * 2)
        small = image.resize(size, Image.Resampling.LANCZOS)
        colour, mask = np.asarray(small.convert("YCbCr")), np.asarray(small)[..., 3] > 127
        luma = (np.ascontiguousarray(16 + colour[..., 0].astype(float) * 219 / 255).astype(np.uint8), mask)
        halves = mask[::2, ::2]
        return [luma, *((np.ascontiguousarray(colour[::2, ::2, k]), halves) for k in (1, 2))]

    def frame(self, at_s: float, mouth: float, beat: float) -> list[Picture]:
        """The place at a moment, as luma and chroma planes (4:2:0).

        Args:
            at_s: Take time, for the moving background.
            mouth: How far it is open, 0..1.
            beat: Phase in the beat, for a nod.
        """
        planes = [p.copy() for p in self._loop[int(at_s * LOOP_HZ) % LOOP]]
        singer = self._singers[round(min(1.0, max(0.0, mouth)) * (self.MOUTHS - 1))]
        height, width = singer[0][0].shape
        nod = int(6 * self._place.size * math.cos(2 * math.pi * beat))
        left = (int(self._place.x * self._scale) - width // 2) // 2 * 2
        top = (int(self._place.y * self._scale) - int(height * 0.28) + nod) // 2 * 2
        for plane, (colour, mask), step in zip(planes, singer, (1, 2, 2), strict=True):
            _stand(plane, colour, mask, left // step, top // step)
        return planes


def _stand(plane: Picture, colour: Picture, mask: NDArray[np.bool_], left: int, top: int) -> None:
    height, width = colour.shape
    x0, y0, x1, y1 = (
        max(0, left),
        max(0, top),
        min(plane.shape[1], left + width),
        min(plane.shape[0], top + height),
    )
    part = (slice(y0 - top, y1 - top), slice(x0 - left, x1 - left))
    np.copyto(plane[y0:y1, x0:x1], colour[part], where=mask[part])


def filmed(image: Image.Image) -> list[Picture]:
    """A drawn scene as the camera films it: luma and chroma planes (4:2:0)."""
    drawn: av.VideoFrame = av.VideoFrame.from_image(image.convert("RGB"))  # type: ignore[no-untyped-call]
    return _planes(_CAMERA.reformat(drawn, *FILMED, "yuv420p", interpolation="FAST_BILINEAR"))


def framed(picture: list[Picture], close: tuple[float, float, float]) -> list[Picture]:
    """A part of a filmed picture in the picture's size: left, top and size of the part, of the whole."""
    if close[2] == 1.0:
        return picture
    high, wide = picture[0].shape
    left, top, width, height = (
        int(share * of) // 2 * 2 for share, of in zip((*close, close[2]), (wide, high) * 2, strict=True)
    )
    parts = [
        plane[top // step : (top + height) // step, left // step : (left + width) // step].reshape(-1, width)
        for plane, step in zip(picture, (1, 2, 2), strict=True)
    ]
    part = av.VideoFrame.from_ndarray(np.concatenate(parts), "yuv420p")
    return _planes(_LENS.reformat(part, wide, high, interpolation="BILINEAR"))


def _planes(frame: av.VideoFrame) -> list[Picture]:
    flat, width, height = frame.to_ndarray(), frame.width, frame.height
    chroma = flat[height:].reshape(2, height // 2, width // 2)
    return [flat[:height].copy(), chroma[0].copy(), chroma[1].copy()]


#: Kept, as a scaler is long to make.
_CAMERA, _LENS = VideoReformatter(), VideoReformatter()


def _swell(t: float) -> Image.Image:
    image = _canvas((104, 140, 150), (88, 128, 140))
    _sea(ImageDraw.Draw(image), 170, t / 3, (50, 88, 104))
    return image


def _beam(t: float) -> Image.Image:
    image = _canvas((18, 22, 40), (30, 36, 58))
    draw = ImageDraw.Draw(image, "RGBA")
    draw.polygon([(210, HEIGHT), (236, 230), (276, 230), (302, HEIGHT)], fill=(200, 198, 190))
    turn = t * 1.4
    far, spread = 1200 * math.cos(turn), 110 + 60 * abs(math.cos(turn))
    draw.polygon([(256, 208), (256 + far, 60 - spread), (256 + far, 60 + spread)], fill=(255, 236, 170, 150))
    draw.ellipse((232, 184, 280, 232), fill=(255, 244, 200))
    return image


def _gulls(t: float) -> Image.Image:
    image = _canvas((150, 178, 190), (196, 206, 206))
    draw = ImageDraw.Draw(image)
    _sea(draw, 430, t / 2, (58, 98, 114))
    for k in range(5):
        x, y = (
            (120 + k * 190 + t * 90 * (1 + k * 0.1)) % (WIDTH + 120) - 60,
            110 + 46 * k + 20 * math.sin(t * 2 + k),
        )
        flap = 26 * math.sin(t * 7 + k * 2)
        draw.line(
            [(x - 52, y - flap), (x - 20, y - 16), (x, y), (x + 20, y - 16), (x + 52, y - flap)],
            fill=(250, 250, 248),
            width=9,
            joint="curve",
        )
    return image


def _rope(t: float) -> Image.Image:
    image = _canvas((88, 68, 48), (60, 44, 32))
    draw = ImageDraw.Draw(image)
    for k in range(8):
        w, y = 300 - k * 14, 440 - k * 34 + 3 * math.sin(t * 2 + k)
        draw.ellipse((480 - w, y - 46, 480 + w, y + 46), outline=(214, 182, 128), width=24)
    return image


def _chart(t: float) -> Image.Image:
    image = _canvas((232, 224, 200), (214, 204, 176))
    draw = ImageDraw.Draw(image)
    for k in range(7):
        draw.arc(
            (100 + k * 40, 60 + k * 30, 860 - k * 26, 520 - k * 22),
            20 + k * 8,
            300 - k * 10,
            fill=(120, 150, 160),
            width=3,
        )
    for x in range(60, WIDTH, 100):
        draw.line((x, 0, x, HEIGHT), fill=(196, 186, 158), width=1)
    tip = (240 + 110 * t % 600, 260 + 60 * math.sin(t * 1.6))
    draw.line([(180, 300), tip], fill=(170, 52, 44), width=4)
    draw.line([tip, (tip[0] + 120, tip[1] - 150)], fill=(206, 150, 52), width=16)
    return image


def _buoy(t: float) -> Image.Image:
    image = _canvas((122, 150, 160), (168, 184, 186))
    draw = ImageDraw.Draw(image)
    _sea(draw, 330, t / 2.5, (44, 80, 96))
    lean = 46 * math.sin(t * 1.7)
    draw.polygon([(400, 400), (560, 400), (500 + lean, 160), (460 + lean, 160)], fill=(178, 52, 44))
    draw.ellipse((455 + lean, 190, 505 + lean, 250), fill=(222, 184, 84))
    draw.ellipse((360, 370, 600, 440), fill=(120, 40, 36))
    return image


def _stairs(t: float) -> Image.Image:
    image = _canvas((70, 66, 72), (34, 32, 38))
    draw = ImageDraw.Draw(image)
    for k in range(26):
        angle = k * 0.42 + t * 0.5
        r = 40 + k * 13
        x, y = 480 + r * math.cos(angle), 280 + r * 0.62 * math.sin(angle)
        shade = 90 + k * 5
        draw.polygon(
            [(480, 280), (x, y), (480 + r * math.cos(angle + 0.34), 280 + r * 0.62 * math.sin(angle + 0.34))],
            fill=(shade, shade - 8, shade - 18),
        )
    return image


def _wake(t: float) -> Image.Image:
    image = _canvas((60, 96, 110), (38, 70, 84))
    draw = ImageDraw.Draw(image)
    for k in range(40):
        y = (k * 31 + t * 120) % HEIGHT
        spread = 40 + y * 0.7
        for side in (-1, 1):
            x = 480 + side * spread * (0.6 + 0.4 * math.sin(k * 2.3))
            draw.ellipse((x - 16, y - 5, x + 16, y + 5), fill=(206, 220, 220))
    return image


BROLL: dict[str, Callable[[float], Image.Image]] = {
    "swell": _swell, "beam": _beam, "gulls": _gulls, "rope": _rope, "chart": _chart, "buoy": _buoy, "stairs": _stairs,
    "wake": _wake,
}  # fmt: skip
