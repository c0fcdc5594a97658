"""Treatments of the cut with which a shot begins that show both its pictures: how the one goes and the other comes."""

from dataclasses import dataclass
from functools import singledispatch

from zembi.core.errors import BadInput
from zembi.core.picture.chain import PLAIN, Chain
from zembi.core.picture.curves import Curve, Key, Shape
from zembi.core.picture.steps import BLUR, OPACITY, PLACE, SHIFT
from zembi.core.treatments.model import Dissolve, Flicker, Slide, Transition, Whip, ZoomThrough
from zembi.core.treatments.music import Length
from zembi.core.treatments.timing import Ground


@dataclass(frozen=True)
class Crossing:
    """Chains of the two pictures of a cut, counted from the first frame that they share.

    Attributes:
        going: What is done to the picture before; at rest until then.
        coming: What is done to the shot's own. Its last step is an opacity, by which lists of cuts know it.
    """

    going: Chain
    coming: Chain


def around_cut(over: Length, place: str, ground: Ground) -> tuple[int, int]:
    """Frames before and after the cut with which the ground begins that a length takes; one frame at least."""
    music, cut = ground.music, ground.first
    if place == "after":
        return 0, max(1, music.frames(over, cut))
    if place == "before":
        return max(1, music.before(over, cut)), 0
    half = Length(over.value / 2, over.unit)
    if over.unit == "frames":
        whole = max(1, round(over.value))
        return whole // 2, whole - whole // 2
    before, after = music.before(half, cut), music.frames(half, cut)
    return (before, after) if before + after else (0, 1)


@singledispatch
def crossing(transition: Transition, _ground: Ground) -> Crossing:
    """Chains by which the two pictures of a cut are shown over the frames of a ground, one at least, that they share.

    Raises:
        BadInput: a number that cannot be meant.
    """
    raise TypeError(f"{type(transition).__name__} is no transition")


@crossing.register
def _dissolve(t: Dissolve, ground: Ground) -> Crossing:
    return Crossing(PLAIN, (OPACITY(amount=_between(0.0, 1.0, ground, t.shape)),))


@crossing.register
def _slide(t: Slide, ground: Ground) -> Crossing:
    return _pushed(t.to, t.shape, ground, PLAIN)


@crossing.register
def _whip(t: Whip, ground: Ground) -> Crossing:
    return _pushed(t.to, "sharp", ground, _out_of_focus(t.amount, ground))


@crossing.register
def _zoom_through(t: ZoomThrough, ground: Ground) -> Crossing:
    if not 1 <= t.scale <= 10:
        raise BadInput(f"An enlargement is {t.scale:g}, outside 1 to 10.")
    soft = _out_of_focus(t.amount, ground)
    going = (PLACE(scale=_between(1.0, t.scale, ground, "slow start")), *soft)
    coming = (PLACE(scale=_between(t.scale, 1.0, ground, "slow end")), *soft)
    return Crossing(going, (*coming, OPACITY(amount=_between(0.0, 1.0, ground, "sharp"))))


@crossing.register
def _flicker(t: Flicker, ground: Ground) -> Crossing:
    each = ground.length(t.every, 0)
    # The shot is seen first, so that the cut is where the flicker begins, and what was before it last.
    keys = [Key(at, float(at // each % 2 == 0), "hold") for at in range(0, ground.frames, each)]
    return Crossing(PLAIN, (OPACITY(amount=Curve((*keys, Key(ground.frames, 1.0, "hold")))),))


def _between(first: float, last: float, ground: Ground, shape: Shape) -> Curve:
    return Curve((Key(0, first, shape), Key(ground.frames, last, "hold")))


#: Where the frame before goes, in widths and heights of the frame.
_WAYS = {"left": ("x", -1.0), "right": ("x", 1.0), "up": ("y", -1.0), "down": ("y", 1.0)}


def _pushed(to: str, shape: Shape, ground: Ground, before: Chain) -> Crossing:
    side, way = _WAYS[to]
    going = SHIFT(**{side: _between(0.0, way, ground, shape)})
    coming = SHIFT(**{side: _between(-way, 0.0, ground, shape)})
    return Crossing((*before, going), (*before, coming, OPACITY(amount=_between(1.0, 1.0, ground, "hold"))))


def _out_of_focus(amount: float, ground: Ground) -> Chain:
    """A blur that grows to the middle and falls again."""
    if not 0 <= amount <= 0.25:
        raise BadInput(f"A blur is {amount:g}, outside 0 to 0.25.")
    if not amount:
        return PLAIN
    top = Key(ground.frames / 2, amount, "smooth")
    return (BLUR(amount=Curve((Key(0, 0.0, "smooth"), top, Key(ground.frames, 0.0, "hold")))),)
