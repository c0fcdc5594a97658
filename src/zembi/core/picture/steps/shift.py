"""Shift: the finished frame moved as a whole; what it leaves free shows what lies beneath."""

import math

from zembi.core.picture.step import StepKind


def points(share: float, length: int) -> int:
    """A shift in shares of a side as points of it: whole pairs, since chroma has half as many, rounded upwards at halves
    so that two pictures a whole side apart stay side by side.
    """
    return 2 * math.floor(share * length / 2 + 0.5)


#: ``x``, ``y`` in widths and heights of the frame, to the right and down. Unlike a place it cuts the picture off at the
#: frame first: an enlarged one is pushed out by the edges that were seen.
SHIFT = StepKind(
    "shift",
    {"x": 0.0, "y": 0.0},
    {"x": "push", "y": "push"},
    covers=lambda v: v["x"] == 0 and v["y"] == 0,
)
