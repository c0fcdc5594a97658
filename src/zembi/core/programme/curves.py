"""Curves of picture over the frames of a span: keys joined by a shape."""

import math
from dataclasses import dataclass, replace
from typing import Literal, get_args

Shape = Literal["hold", "straight", "smooth", "slow start", "slow end", "sharp"]

SHAPES: tuple[Shape, ...] = get_args(Shape)
#: Those by which something changes over a time, as fades and moves are asked for.
CHANGING: tuple[Shape, ...] = tuple(s for s in SHAPES if s != "hold")


def shaped(shape: Shape, share: float) -> float:
    """How far a change is that has gone on for a share of its time, both 0 to 1."""
    x = share
    if shape == "smooth":
        return x * x * (3 - 2 * x)
    if shape == "slow start":
        return x * x
    if shape == "slow end":
        return x * (2 - x)
    if shape == "sharp":
        return x * x * x * (x * (6 * x - 15) + 10)
    return 0.0 if shape == "hold" else x


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


@dataclass(frozen=True)
class Look:
    """How a picture lies in the frame and how much of it is seen.

    Attributes:
        scale: 1 fits the frame as it is; about the frame's centre.
        x, y: Shift in widths and heights of the frame, to the right and down.
        turn: Degrees clockwise about the picture's centre.
        opacity: 0 (what lies beneath shows) to 1.
        lightness: 0 black, 1 as it is, 2 white; straight in between.
        mirror: 1 where left and right have changed places, before all else.
        vignette: How much darker the frame's corners are, 0 to 1.
        bars: Shape (width by height) that is left between black bars; 0 for none.
        blur: Standard deviation of what the picture is blurred by, before it is placed, in its own heights.
        sharpen: How much of what a slight blur takes away is added, before it is placed.
        glow: How much of its own blurred lights lies over the picture, before it is placed, 0 to 1.
        grain: How strong a film's grain is, over the picture in the frame, 0 to 1.
        grain_number: Which of the patterns of grain.
    """

    scale: float = 1.0
    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    opacity: float = 1.0
    lightness: float = 1.0
    mirror: float = 0.0
    vignette: float = 0.0
    bars: float = 0.0
    blur: float = 0.0
    sharpen: float = 0.0
    glow: float = 0.0
    grain: float = 0.0
    grain_number: float = 0.0

    @property
    def lies_still(self) -> bool:
        """Whether the picture fills the frame as it does without any curve."""
        upright = self.turn % 360 == 0 and not self.mirror
        return self.scale == 1 and self.x == 0 and self.y == 0 and upright

    @property
    def fills(self) -> bool:
        """Whether the picture is upright and no smaller than the frame, by its place."""
        room = (self.scale - 1) / 2 + 1e-9
        return self.turn % 360 == 0 and abs(self.x) <= room and abs(self.y) <= room

    @property
    def hides(self) -> bool:
        """Whether nothing beneath can be seen."""
        return self.opacity >= 1 and self.fills

    def within(self, outer: "Look", aspect: float) -> "Look":
        """The look of a picture that lies like this, seen through another.

        Args:
            outer: What is done to the frame that it lies in.
            aspect: Width of the frame by its height.
        """
        if outer == AS_IT_IS:
            return self
        flip = -1 if outer.mirror else 1
        cos, sin = math.cos(math.radians(outer.turn)), math.sin(math.radians(outer.turn))
        across, down = flip * self.x * aspect, self.y
        return Look(
            scale=self.scale * outer.scale,
            x=outer.x + outer.scale * (cos * across - sin * down) / aspect,
            y=outer.y + outer.scale * (sin * across + cos * down),
            turn=outer.turn + flip * self.turn,
            opacity=self.opacity * outer.opacity,
            lightness=min(2.0, max(0.0, self.lightness + outer.lightness - 1)),
            mirror=float(bool(self.mirror) != bool(outer.mirror)),
            vignette=1 - (1 - self.vignette) * (1 - outer.vignette),
            bars=outer.bars or self.bars,
            blur=math.hypot(self.blur, outer.blur / max(self.scale, 1e-4)),
            sharpen=self.sharpen + outer.sharpen,
            glow=1 - (1 - self.glow) * (1 - outer.glow),
            grain=outer.grain or self.grain,
            grain_number=outer.grain_number if outer.grain else self.grain_number,
        )


AS_IT_IS = Look()


@dataclass(frozen=True)
class Curves:
    """Curves of a span; None where the value of :class:`Look` stays. What they make is seen through ``over``."""

    scale: Curve | None = None
    x: Curve | None = None
    y: Curve | None = None
    turn: Curve | None = None
    opacity: Curve | None = None
    lightness: Curve | None = None
    mirror: Curve | None = None
    vignette: Curve | None = None
    bars: Curve | None = None
    blur: Curve | None = None
    sharpen: Curve | None = None
    glow: Curve | None = None
    grain: Curve | None = None
    grain_number: Curve | None = None
    over: "Curves | None" = None

    def named(self) -> dict[str, Curve]:
        """The curves there are of this one, by name."""
        return {
            name: curve
            for name, curve in vars(self).items()
            if curve is not None and isinstance(curve, Curve)
        }

    @staticmethod
    def names() -> tuple[str, ...]:
        """Everything that a curve can change."""
        return tuple(vars(Look()))

    def chain(self) -> list["Curves"]:
        """These and what they are seen through, from the picture outwards."""
        return [self, *(self.over.chain() if self.over else [])]

    def at(self, frame: int, aspect: float) -> Look:
        """The look in a frame of the span; ``aspect`` is the width of the film by its height."""
        look = Look(**{name: curve.at(frame) for name, curve in self.named().items()})
        return look.within(self.over.at(frame, aspect), aspect) if self.over else look

    def later(self, frames: int) -> "Curves":
        """The curves for the span from so many frames on."""
        moved = {name: curve.later(frames) for name, curve in self.named().items()}
        return Curves(**moved, over=self.over.later(frames) if self.over else None)

    def through(self, outer: "Curves") -> "Curves":
        """These, seen through others."""
        if self == PLAIN:
            return outer
        return (
            self if outer == PLAIN else replace(self, over=self.over.through(outer) if self.over else outer)
        )


PLAIN = Curves()
