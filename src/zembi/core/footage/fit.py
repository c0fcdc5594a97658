"""Fit of a file's picture in the film: whole with bars, filling the frame, or at a scale of its own; turned by hand.

A still may move slowly, from one framing at the first frame of its span to another at the last.
"""

from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.errors import BadInput
from zembi.core.picture.chain import PLAIN, Chain
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps.matte import MATTE
from zembi.core.picture.steps.place import PLACE

How = Literal["bars", "fill", "own"]
#: Smallest and largest scale of one's own.
SCALES = (0.1, 10.0)
TURNS = (0, 90, 180, 270)


@dataclass(frozen=True)
class Framing:
    """A framing: the point in the frame's middle, in shares of the picture as seen, and the scale against whole."""

    x: float = 0.5
    y: float = 0.5
    scale: float = 1.0


@dataclass(frozen=True)
class Fit:
    """Fit of a file.

    Attributes:
        how: Whole, with bars where its shape differs; filling the frame; or ``scale`` times as large as whole.
        x, y: The point of the picture, in shares of its width and height as seen, that lies in the frame's middle.
        scale: Of its own.
        turn: Degrees clockwise by which it is turned, where the file is wrong.
        to: Where a slow move ends that begins at the framing above, at a scale of its own.
    """

    how: How = "bars"
    x: float = 0.5
    y: float = 0.5
    scale: float = 1.0
    turn: int = 0
    to: Framing | None = None


WHOLE = Fit()


def checked_fit(fit: Fit) -> Fit:
    """The fit, if it can be meant.

    Raises:
        BadInput: a value out of range.
    """
    if fit.turn not in TURNS:
        raise BadInput(f"A picture is turned by 0, 90, 180 or 270 degrees, not by {fit.turn}.")
    if fit.to and fit.how != "own":
        raise BadInput("A slow move goes from one scale of its own to another.")
    framings: list[Fit | Framing] = [fit, *([fit.to] if fit.to else [])]
    for framing in framings:
        if not SCALES[0] <= framing.scale <= SCALES[1]:
            raise BadInput(f"A scale of {framing.scale:g} is outside {SCALES[0]:g} to {SCALES[1]:g}.")
        if not (0 <= framing.x <= 1 and 0 <= framing.y <= 1):
            raise BadInput("The middle of the frame has to lie in the picture.")
    return fit


@dataclass(frozen=True)
class Placed:
    """Placement of a picture in the frame; see :data:`~zembi.core.picture.steps.place.PLACE`."""

    scale: float = 1.0
    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0


@dataclass(frozen=True)
class Lie:
    """Placements of a picture when it is first seen, and at the end; with ``alpha`` its own transparency counts."""

    start: Placed
    end: Placed
    alpha: bool = False


AS_IT_LIES = Lie(Placed(), Placed())


def lie_of(fit: Fit, picture: tuple[int, int], film: tuple[int, int]) -> Lie:
    """Placements of a picture at the start and at the end of a span; arguments as of :func:`placed_by`."""
    start = placed_by(fit, picture, film)
    if fit.to is None:
        return Lie(start, start)
    there = replace(fit, x=fit.to.x, y=fit.to.y, scale=fit.to.scale, to=None)
    return Lie(start, placed_by(there, picture, film, moves=True))


def placed_by(
    fit: Fit, picture: tuple[int, int], film: tuple[int, int], *, moves: bool | None = None
) -> Placed:
    """Placement of a picture; what is drawn is the picture fitted whole into the frame, upright as the file has it.

    No edge is brought into the frame by moving what is larger than it. A picture at a scale of its own that is smaller is
    put from one edge of the frame (0) to the other (1), unless a slow move begins or ends there: that stays in the middle.

    Args:
        fit: How it is fitted.
        picture: Width and height of the file's picture as shown.
        film: Width and height of the film.
        moves: Whether a slow move begins or ends so; by itself where the fit has one.
    """
    if fit == WHOLE or min(*picture, *film) <= 0:
        return Placed()
    whole = min(film[0] / picture[0], film[1] / picture[1])
    # Width and height in the frame, in shares of it, as drawn and then turned.
    seen = picture[::-1] if fit.turn % 180 else picture
    shares = (seen[0] * whole / film[0], seen[1] * whole / film[1])
    scale = {
        "bars": 1 / max(shares),
        "fill": 1 / min(shares),
        "own": fit.scale / max(shares),
    }[fit.how]
    moved = []
    for share, middle in zip(shares, (fit.x, fit.y), strict=True):
        size = share * scale
        if size < 1 and fit.how == "own" and not (fit.to is not None if moves is None else moves):
            moved.append((middle - 0.5) * (1 - size))
            continue
        room = max(0.0, (size - 1) / 2)
        moved.append(min(room, max(-room, (0.5 - middle) * share * scale)))
    return Placed(scale=scale, x=moved[0], y=moved[1], turn=float(fit.turn))


def chain_of(lie: Lie, length: int) -> Chain:
    """The steps that cut a picture out and place it over the frames of a span.

    Args:
        lie: At the start and at the end.
        length: Frames of the span; a move takes all of it.
    """
    curves: dict[str, Curve | float] = {}
    for name, rest in vars(Placed()).items():
        start, end = getattr(lie.start, name), getattr(lie.end, name)
        if start != end:
            # The first and the last frame show the framings themselves.
            curves[name] = Curve((Key(0.5, start, "smooth"), Key(max(1.5, length - 0.5), end, "hold")))
        elif start != rest:
            curves[name] = start
    cut_out = (MATTE(on=1),) if lie.alpha else PLAIN
    return (*cut_out, PLACE(**curves)) if curves else cut_out
