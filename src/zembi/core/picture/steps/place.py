"""Place and scale: where the picture lies in the frame, turned and mirrored about its centre."""

import math

from zembi.core.picture.step import StepKind, Values


def _joined(inner: Values, outer: Values, aspect: float) -> Values:
    """Composition of two similarities of the plane; a reflection turns shifts across and turns about."""
    flip = -1 if outer["mirror"] else 1
    cos, sin = math.cos(math.radians(outer["turn"])), math.sin(math.radians(outer["turn"]))
    across, down = flip * inner["x"] * aspect, inner["y"]
    return {
        "scale": inner["scale"] * outer["scale"],
        "x": outer["x"] + outer["scale"] * (cos * across - sin * down) / aspect,
        "y": outer["y"] + outer["scale"] * (sin * across + cos * down),
        "turn": outer["turn"] + flip * inner["turn"],
        "mirror": float(bool(inner["mirror"]) != bool(outer["mirror"])),
    }


def fills(values: Values) -> bool:
    """True if a picture of the frame's size, so placed, leaves no part of the frame free: upright and no smaller."""
    room = (values["scale"] - 1) / 2 + 1e-9
    return values["turn"] % 360 == 0 and abs(values["x"]) <= room and abs(values["y"]) <= room


#: ``scale`` about the frame's centre; ``x``, ``y`` in widths and heights of the frame, to the right and down; ``turn`` in
#: degrees clockwise; ``mirror`` 1 where left and right change places, before all else.
PLACE = StepKind(
    "place",
    {"scale": 1.0, "x": 0.0, "y": 0.0, "turn": 0.0, "mirror": 0.0},
    {"scale": "enlargement", "x": "shift", "y": "shift", "turn": "turn", "mirror": "mirror"},
    _joined,
    fills,
)
