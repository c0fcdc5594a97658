"""Treatments that lay a colour over the picture, or let what lies beneath it through: fades, dips, flashes, strobe."""

from dataclasses import dataclass
from functools import singledispatch

from zembi.core.errors import BadInput
from zembi.core.picture.chain import Chain
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps.opacity import OPACITY
from zembi.core.titles.card import check_colour
from zembi.core.treatments.looks import swelling
from zembi.core.treatments.model import (
    ColourTreatment,
    Dip,
    Fade,
    Flash,
    Flicker,
    FlickerOn,
    Strobe,
    Treatment,
)
from zembi.core.treatments.music import Length
from zembi.core.treatments.timing import Ground
from zembi.core.treatments.transitions import around_cut

#: Flashes a second above which viewers who are sensitive to light may be harmed (ITU-R BT.1702).
HARMLESS_FLASHES = 3.0


@dataclass(frozen=True)
class Colouring:
    """A colour over frames ``first`` to ``end`` of the programme with its opacity, or without a colour the picture's own.

    ``opacity`` counts frames from ``first``.
    """

    first: int
    end: int
    opacity: Curve
    colour: str | None = None

    @property
    def chain(self) -> Chain:
        """The opacity, as a span's curves."""
        return (OPACITY(amount=self.opacity),)


@singledispatch
def colouring(treatment: ColourTreatment, _ground: Ground) -> Colouring | None:
    """Colours that one treatment lays over its ground; None where it has no place.

    Raises:
        BadInput: a colour or share that cannot be meant.
    """
    raise TypeError(f"{type(treatment).__name__} is no treatment of colour")


def checked_colour(colour: str) -> str:
    """A colour's code.

    Raises:
        BadInput: not of the form #rrggbb.
    """
    check_colour(colour)
    return colour


@colouring.register
def _fade(t: Fade, ground: Ground) -> Colouring | None:
    count = ground.frames
    if t.side == "in":
        long = min(count, ground.length(t.over, 0))
        keys = (Key(0, 0.0, t.shape), Key(long, 1.0, "hold"))
    else:
        long = min(count, max(1, ground.music.before(t.over, ground.end)))
        keys = (Key(count - long, 1.0, t.shape), Key(count, 0.0, "hold"))
    if t.beneath:
        return Colouring(ground.first, ground.end, Curve(keys))
    turned = Curve(tuple(Key(k.frame, 1 - k.value, k.shape) for k in keys))
    return Colouring(ground.first, ground.end, turned, checked_colour(t.colour))


@colouring.register
def _dip(t: Dip, ground: Ground) -> Colouring | None:
    before, after = around_cut(t.over, t.place, ground)
    long = before + after
    middle = long / 2
    keys = (Key(0, 0.0, t.shape), Key(middle, 1.0, t.shape), Key(long, 0.0, "hold"))
    first = ground.first - before
    return Colouring(first, ground.first + after, Curve(keys), checked_colour(t.colour))


@colouring.register
def _flash(t: Flash, ground: Ground) -> Colouring | None:
    if not 0 <= t.amount <= 1:
        raise BadInput(f"A flash of {t.amount:g} is outside 0 to 1.")
    curve = swelling(
        ground,
        ground.music.places(t.on, ground.first, ground.end),
        0.0,
        lambda _n, _strength: t.amount,
        lambda _at: 0,
        lambda at: ground.length(t.fall, at),
    )
    return Colouring(ground.first, ground.end, curve, checked_colour(t.colour)) if curve else None


@colouring.register
def _strobe(t: Strobe, ground: Ground) -> Colouring | None:
    if not 0 < t.share < 1:
        raise BadInput(f"A strobe shows the picture for a share between 0 and 1, not {t.share:g}.")
    on, off = (1.0, 0.0) if t.beneath else (0.0, 1.0)
    keys: list[Key] = []
    at, turns = 0, 0
    while at < ground.frames:
        # Counted from the start each time: parts of a beat do not add up to whole frames.
        turns += 1
        following = max(at + 2, ground.length(_times(t.every, turns), 0, 2))
        shown = min(following - at - 1, max(1, round((following - at) * t.share)))
        keys += [Key(at, on, "hold"), Key(at + shown, off, "hold")]
        at = following
    return Colouring(
        ground.first,
        ground.end,
        Curve(tuple(keys)),
        None if t.beneath else checked_colour(t.colour),
    )


def _times(length: Length, count: int) -> Length:
    return Length(length.value * count, length.unit)


def flashes_a_second(treatment: Treatment, ground: Ground) -> float:
    """Flicker rate of the whole picture, changes and back a second; 0 where it does not."""
    if isinstance(treatment, Flicker):
        # One that is over sooner than a second has no more changes than it has.
        frames = sum(around_cut(treatment.over, treatment.place, ground))
        return min(frames, float(ground.rate)) / (2 * ground.length(treatment.every, 0))
    if isinstance(treatment, FlickerOn):
        return treatment.pattern.count("01") / max(1.0, ground.seconds(len(treatment.pattern)))
    if isinstance(treatment, Strobe):
        return float(ground.rate) / ground.length(treatment.every, 0, 2)
    if isinstance(treatment, Flash) and treatment.amount >= 0.2:
        count = len(ground.music.places(treatment.on, ground.first, ground.end))
        return count / max(1.0, ground.seconds(ground.frames))
    return 0.0
