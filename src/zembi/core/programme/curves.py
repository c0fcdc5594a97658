"""Curves of picture over the frames of a span: keys joined by a shape."""

from dataclasses import dataclass, replace
from typing import Literal

Shape = Literal["hold", "straight", "smooth"]


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
                if before.shape == "smooth":
                    share = share * share * (3 - 2 * share)
                return before.value + share * (key.value - before.value)
            before = key
        return before.value

    def later(self, frames: int) -> "Curve":
        """The same curve for a span that begins so many frames later."""
        return Curve(tuple(replace(k, frame=k.frame - frames) for k in self.keys))


@dataclass(frozen=True)
class Look:
    """How a picture lies in the frame and how much of it is seen.

    Attributes:
        scale: 1 fits the frame as it is; about the frame's centre.
        x, y: Shift in widths and heights of the frame, to the right and down.
        turn: Degrees clockwise about the picture's centre.
        opacity: 0 (what lies beneath shows) to 1.
        lightness: 0 black, 1 as it is, 2 white; straight in between.
    """

    scale: float = 1.0
    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    opacity: float = 1.0
    lightness: float = 1.0

    @property
    def lies_still(self) -> bool:
        """Whether the picture fills the frame as it does without any curve."""
        return self.scale == 1 and self.x == 0 and self.y == 0 and self.turn % 360 == 0

    @property
    def hides(self) -> bool:
        """Whether nothing beneath can be seen: opaque, upright, and no smaller than the frame by its place."""
        room = (self.scale - 1) / 2 + 1e-9
        return self.opacity >= 1 and self.turn % 360 == 0 and abs(self.x) <= room and abs(self.y) <= room


AS_IT_IS = Look()


@dataclass(frozen=True)
class Curves:
    """Curves of a span; None where the value of :class:`Look` stays."""

    scale: Curve | None = None
    x: Curve | None = None
    y: Curve | None = None
    turn: Curve | None = None
    opacity: Curve | None = None
    lightness: Curve | None = None

    def named(self) -> dict[str, Curve]:
        """The curves there are, by name."""
        return {name: curve for name, curve in vars(self).items() if curve is not None}

    def at(self, frame: int) -> Look:
        """The look in a frame of the span."""
        return Look(**{name: curve.at(frame) for name, curve in self.named().items()})

    def later(self, frames: int) -> "Curves":
        """The curves for the span from so many frames on."""
        return Curves(**{name: curve.later(frames) for name, curve in self.named().items()})


PLAIN = Curves()
