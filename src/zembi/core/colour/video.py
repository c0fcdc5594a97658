"""Colours as a film codes them: 8 bit, ITU-R BT.709, limited range (3.3 and 4.6 of the recommendation)."""

import numpy as np

from zembi.core.colour.spaces import Colours

#: Weights of red, green and blue in luma.
RED, GREEN, BLUE = 0.2126, 0.7152, 0.0722


def codes_of(rgb: Colours) -> Colours:
    """Luma and both colour differences of red, green and blue, 0 to 1: of shape (..., 3), as codes with fractions."""
    red, green, blue = np.moveaxis(np.asarray(rgb), -1, 0)
    luma = RED * red + GREEN * green + BLUE * blue
    out = (16 + 219 * luma, 128 + 112 * (blue - luma) / (1 - BLUE), 128 + 112 * (red - luma) / (1 - RED))
    return np.stack(out, axis=-1)


def rgb_of_codes(codes: Colours) -> Colours:
    """The inverse of :func:`codes_of`; codes that are no colour lie outside 0 to 1."""
    y, cb, cr = np.moveaxis(np.asarray(codes), -1, 0)
    luma = (y - 16) / 219
    red, blue = luma + (cr - 128) * ((1 - RED) / 112), luma + (cb - 128) * ((1 - BLUE) / 112)
    return np.stack((red, (luma - RED * red - BLUE * blue) / GREEN, blue), axis=-1)
