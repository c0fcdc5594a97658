"""Contrast of a card against the pictures that it lies over."""

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from zembi.core.titles.card import Card
from zembi.core.titles.shown import ALL
from zembi.media.titles.raster import card_picture

Floats = NDArray[np.float64]

#: Least contrast at which large letters are read with ease (WCAG 2.2, 1.4.3, large-scale text).
READABLE = 3.0
#: Share of what surrounds the letters that may have less.
_SPARED = 0.2
#: How far around letters their surroundings reach, in ems.
_AROUND = 0.06


def luminance(rgb: NDArray[np.floating]) -> Floats:
    """Relative luminance of sRGB colours, 0 to 1 (IEC 61966-2-1), of shape (..., 3)."""
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    return np.asarray(linear @ np.array([0.2126, 0.7152, 0.0722]), np.float64)


def contrast(card: Card, beneath: Sequence[NDArray[np.uint8]]) -> float | None:
    """The contrast that four fifths of what surrounds the letters have at least, in the worst of several pictures.

    Surroundings are what is seen there: the picture, or the card's own outline, shadow or box.

    Args:
        card: What is laid.
        beneath: Pictures under it, RGB of one size.

    Returns:
        A ratio from 1 to 21 (WCAG); None where no letter is large enough to be measured.
    """
    height, width = beneath[0].shape[:2]
    bare = replace(card, outline=0.0, shadow=0.0, box="")
    letters = card_picture(bare, width, height, ALL).whole()[..., 3]
    inside = letters > 0.6
    reach = max(2, round(_AROUND * card.size * height))
    spread = cv2.dilate(letters, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1,) * 2))
    around = (spread > 0.6) & (letters < 0.05)
    if inside.sum() < 4 or not around.any():
        return None
    rgba = card_picture(card, width, height, ALL).whole().astype(np.float64)
    worst = float("inf")
    for picture in beneath:
        light = luminance(picture / 255 * (1 - rgba[..., 3:]) + rgba[..., :3])
        # The letters that are nearest: their light spread over what is around them.
        sigma = float(reach)
        weight = cv2.GaussianBlur(inside.astype(np.float64), (0, 0), sigma)
        near = cv2.GaussianBlur(light * inside, (0, 0), sigma) / np.maximum(weight, 1e-9)
        high, low = np.maximum(near, light), np.minimum(near, light)
        ratio = ((high + 0.05) / (low + 0.05))[around]
        worst = min(worst, float(np.quantile(ratio, _SPARED)))
    return worst
