"""How sure the grid is, as a share of grids with such signs that are right, and what the doubt is about."""

from dataclasses import replace
from typing import Literal

import numpy as np

from zembi.core.song.beats import Signs

#: What a grid may be wrong about: half or twice as fast, half a beat aside, another tempo altogether.
Doubt = Literal["", "half", "double", "aside", "tempo"]

#: Each sign takes off at most this share, less as it grows: found on 169 played, recorded, made, swaying and short songs.
_FAMILY, _LEVEL, _ASIDE = (0.7, 2.2), (0.4, 3.0), (0.25, 3.0)
#: Where no click is kept there are no signs of level and place.
_FREE = 0.9
#: What a song loses for each e-th part that it is shorter than a minute.
_SHORT, _USUAL_S = 0.15, 60.0


def _left(sign: float, most: float, pace: float) -> float:
    return float(1 - most * np.exp(-pace * max(0.0, sign)))


def sureness(signs: Signs, seconds: float) -> float:
    """How sure the beats are, 0..1.

    Args:
        signs: Of the beats.
        seconds: Length of the song.
    """
    sure = _left(signs.family, *_FAMILY)
    if signs.alike > 0:
        sure *= _left(signs.level, *_LEVEL) * _left(signs.aside, *_ASIDE) * min(1.0, 0.6 + 0.45 * signs.alike)
    else:
        sure *= _FREE
    return sure * min(1.0, 1 - _SHORT * float(np.log(_USUAL_S / max(1.0, min(seconds, _USUAL_S)))))


def doubt_of(signs: Signs, seconds: float) -> Doubt:
    """What would make the grid surer most if it were clear; "" where it is sure enough."""
    now = sureness(signs, seconds)
    if now >= 0.9:
        return ""
    clear: dict[Doubt, float] = {"tempo": sureness(replace(signs, family=9.0), seconds)}
    if signs.alike > 0:
        clear["half" if signs.rival < 1 else "double"] = sureness(replace(signs, level=9.0), seconds)
        clear["aside"] = sureness(replace(signs, aside=9.0), seconds)
    return max(clear, key=lambda kind: clear[kind])
