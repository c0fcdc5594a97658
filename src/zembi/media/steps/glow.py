"""Glow in the film: worked out in RGB, since multiplying and screening are of each colour."""

import cv2
import numpy as np

from zembi.core.colour.video import BLUE, RED
from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet, Sheetlike
from zembi.media.steps.blur import soft

#: Standard deviation of the blur, in heights of the picture.
WIDE = 1 / 40


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture over which its own lights are screened."""
    amount = np.float32(min(1.0, values["amount"]))
    height, width = sheet.planes[0].shape
    colours = [np.clip(c, 0, 1) for c in rgb_of(sheet)]
    lit = []
    for colour in colours:
        step = max(1, height // 270)
        small = cv2.resize(colour, (width // step, height // step), interpolation=cv2.INTER_AREA)
        light = soft(np.asarray(small * small, np.float32), WIDE * small.shape[0])
        large = cv2.resize(light, (width, height), interpolation=cv2.INTER_LINEAR)
        lit.append(amount * large * (1 - colour))
    return sheet.with_planes([a + b for a, b in zip(sheet.planes, planes_of_rgb(lit), strict=True)])


def rgb_of(sheet: Sheet) -> list[Sheetlike]:
    """Red, green and blue, 0 to 1, of every point of luma; the inverse of :func:`planes_of_rgb`."""
    luma = sheet.planes[0] * np.float32(1 / 219)
    size = (luma.shape[1], luma.shape[0])
    blue, red = (
        cv2.resize(p, size, interpolation=cv2.INTER_LINEAR) * np.float32(1 / 224) for p in sheet.planes[1:]
    )
    r, b = luma + np.float32(2 * (1 - RED)) * red, luma + np.float32(2 * (1 - BLUE)) * blue
    g = (luma - np.float32(RED) * r - np.float32(BLUE) * b) * np.float32(1 / (1 - RED - BLUE))
    return [r, g, b]


def planes_of_rgb(colours: list[Sheetlike]) -> list[Sheetlike]:
    """Planes of a picture from red, green and blue of every point of luma."""
    r, g, b = colours
    luma = np.float32(RED) * r + np.float32(1 - RED - BLUE) * g + np.float32(BLUE) * b
    half = (luma.shape[1] // 2, luma.shape[0] // 2)
    chroma = [(b - luma) / np.float32(2 * (1 - BLUE)), (r - luma) / np.float32(2 * (1 - RED))]
    return [
        luma * np.float32(219),
        *(cv2.resize(c, half, interpolation=cv2.INTER_AREA) * np.float32(224) for c in chroma),
    ]
