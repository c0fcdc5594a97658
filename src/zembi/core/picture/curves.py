"""Curves over the frames of a span: keys joined by a shape."""

from dataclasses import dataclass, replace
from typing import Literal, TypeVar, get_args

import numpy as np
from numpy.typing import NDArray

Shape = Literal["hold", "straight", "smooth", "slow start", "slow end", "sharp"]

SHAPES: tuple[Shape, ...] = get_args(Shape)
Share = TypeVar("Share", float, NDArray[np.float64])
#: Those by which something changes over a time, as fades and moves are asked for.
CHANGING: tuple[Shape, ...] = tuple(s for s in SHAPES if s != "hold")


def shaped(shape: Shape, share: Share) -> Share:
    """Easing: the share of a change done after a share of its time, both 0 to 1; of a number or an array of them."""
    x = share
    if shape == "smooth":
        return x * x * (3 - 2 * x)
    if shape == "slow start":
        return x * x
    if shape == "slow end":
        return x * (2 - x)
    if shape == "sharp":
        return x * x * x * (x * (6 * x - 15) + 10)
    return 0.0 * x if shape == "hold" else x


@dataclass(frozen=True)
class Key:
    """A value at a frame of the span (frames from its start, not always whole), and the way on to the next key."""

    frame: float
    value: float
    shape: Shape


@dataclass(frozen=True)
class Curve:
    """Keys in ascending order; before the first and after the last their value holds. Keys may lie outside the span."""

    keys: tuple[Key, ...]

    def at(self, frame: int) -> float:
        """The value shown in a frame: the curve at the frame's middle."""
        here = frame + 0.5
        before = self.keys[0]
        for key in self.keys:
            if key.frame > here:
                if key is before or before.shape == "hold":
                    return before.value
                share = (here - before.frame) / (key.frame - before.frame)
                return before.value + shaped(before.shape, share) * (key.value - before.value)
            before = key
        return before.value

    def later(self, frames: int) -> "Curve":
        """The same curve for a span that begins so many frames later."""
        return Curve(tuple(replace(k, frame=k.frame - frames) for k in self.keys))
