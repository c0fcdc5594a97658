"""Treatments of the picture's place and look: each gives steps over the frames of a shot, or of a range of the programme."""

import math
import random
from collections.abc import Callable, Sequence
from functools import singledispatch

from zembi.core.colour.grade import CONTROLS, REST, checked_grade
from zembi.core.colour.tables import number_of_code
from zembi.core.errors import BadInput
from zembi.core.picture.chain import PLAIN, Chain
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import (
    BARS,
    BLUR,
    GLOW,
    GRADE,
    GRAIN,
    LIGHTNESS,
    OPACITY,
    PLACE,
    SHARPEN,
    TABLE,
    VIGNETTE,
)
from zembi.core.treatments.model import (
    Bars,
    Blur,
    ComeIn,
    Drift,
    FlickerOn,
    Glow,
    Grade,
    Grain,
    LookTreatment,
    Mirror,
    Pulse,
    PunchIn,
    Shake,
    Sharpen,
    StepUp,
    Table,
    Turn,
    Vignette,
)
from zembi.core.treatments.timing import Ground


def looks(treatments: Sequence[LookTreatment], ground: Ground, aspect: float) -> Chain:
    """The chain of treatments together, the first nearest to the picture.

    Args:
        treatments: In order.
        ground: What they lie on.
        aspect: Width of the film by its height.

    Raises:
        BadInput: a value that cannot be meant.
    """
    return tuple(step for t in treatments for step in look(t, ground, aspect))


@singledispatch
def look(treatment: LookTreatment, _ground: Ground, _aspect: float) -> Chain:
    """The steps of one treatment."""
    raise TypeError(f"{type(treatment).__name__} is no treatment of the picture")


def _covering(shift: float, degrees: float, aspect: float) -> float:
    """The scale at which no edge is seen of a picture that is shifted (widths and heights) and turned."""
    angle = math.radians(abs(degrees) % 180)
    cos, sin = abs(math.cos(angle)), abs(math.sin(angle))
    room = 1 + 2 * abs(shift) * max(1.0, cos + sin * max(aspect, 1 / aspect))
    return (cos + sin * max(aspect, 1 / aspect)) * room


def _named(what: str, curve: Curve, aspect: float) -> Chain:
    """A curve of what a pulse or step moves; a shift or turn brings the scale that hides the edges."""
    if what == "scale":
        return (PLACE(scale=curve),)
    if what == "lightness":
        return (LIGHTNESS(amount=curve),)
    most = max(abs(k.value) for k in curve.keys)
    if what == "shift":
        return (PLACE(x=curve, scale=_covering(most, 0, aspect)),)
    return (PLACE(turn=curve, scale=_covering(0, most, aspect)),)


#: The value of what a pulse or step moves where nothing happens.
_REST = {"scale": 1.0, "lightness": 1.0, "shift": 0.0, "turn": 0.0}


def swelling(
    ground: Ground,
    places: Sequence[tuple[int, float]],
    rest: float,
    top: Callable[[int, float], float],
    attack: Callable[[int], int],
    fall: Callable[[int], int],
) -> Curve | None:
    """A curve that rises to a top at each place and falls back to rest; None without places.

    A place that comes before the fall has ended is reached from where the curve then is.

    Args:
        ground: What it lies on.
        places: Frames of the programme with their strength, ascending.
        rest: The value between.
        top: The value at the n-th place, by its strength.
        attack, fall: Frames from rest to the top, and back, at a place.
    """
    keys = [Key(-1, rest, "hold")]
    peak = -1.0
    for n, (place, strength) in enumerate(places):
        at = place - ground.first
        up, down = attack(at), fall(at)
        # The top is seen in the place's own frame.
        begins = max(peak, at + 0.5 - up if up else at)
        peak = at + 0.5
        here = Curve(tuple(keys)).at(math.floor(begins - 0.5))
        keys = [k for k in keys if k.frame < begins]
        keys += [Key(begins, here, "smooth" if up else "hold"), Key(peak, top(n, strength), "slow end")]
        keys.append(Key(peak + max(1, down), rest, "hold"))
    return Curve(tuple(keys)) if places else None


@look.register
def _pulse(t: Pulse, ground: Ground, aspect: float) -> Chain:
    _within(
        t.amount, "The amount of a pulse", -45 if t.what == "turn" else -0.9, 45 if t.what == "turn" else 4
    )
    rest = _REST[t.what]
    curve = swelling(
        ground,
        ground.music.places(t.on, ground.first, ground.end),
        rest,
        # Shifts and turns go to one side and then the other.
        lambda n, strength: min(
            2.0 if t.what == "lightness" else 180.0,
            rest
            + t.amount * (strength if t.follow else 1) * (-1 if t.what in ("shift", "turn") and n % 2 else 1),
        ),
        lambda at: ground.length(t.attack, at, 0),
        lambda at: ground.length(t.fall, at),
    )
    return _named(t.what, curve, aspect) if curve else PLAIN


@look.register
def _step(t: StepUp, ground: Ground, aspect: float) -> Chain:
    _within(
        t.amount, "The amount of a step", -45 if t.what == "turn" else -0.9, 45 if t.what == "turn" else 4
    )
    value = _REST[t.what]
    keys = [Key(0, value, "hold")]
    for place, _ in ground.music.places(t.on, ground.first, ground.end):
        at = place - ground.first
        if at == 0:
            continue
        long = ground.length(t.glide, at, 0)
        if long:
            keys.append(Key(max(at, keys[-1].frame), value, "smooth"))
        value += t.amount
        if t.what != "turn":
            value = min(2.0 if t.what == "lightness" else 20.0, max(0.05, value))
        keys.append(Key(max(at + long, keys[-1].frame), value, "hold"))
    # Over a range it ends with the range.
    keys.append(Key(max(ground.frames, keys[-1].frame), _REST[t.what], "hold"))
    return _named(t.what, Curve(tuple(keys)), aspect) if len(keys) > 2 else PLAIN


@look.register
def _shake(t: Shake, ground: Ground, aspect: float) -> Chain:
    _within(t.amount, "The amount of a shake", 0, 0.25)
    _within(t.turn, "The turn of a shake", 0, 20)
    chance = random.Random(t.seed)
    frames, at = [0], 0
    while at < ground.frames:
        at += ground.length(t.every, at)
        frames.append(at)

    def wander(most: float) -> Curve:
        return Curve(tuple(Key(f, chance.uniform(-most, most), "smooth") for f in frames))

    x, y, turn = wander(t.amount), wander(t.amount * aspect), wander(t.turn)
    return (PLACE(scale=_covering(t.amount * max(1, aspect), t.turn, aspect), x=x, y=y, turn=turn),)


@look.register
def _punch_in(t: PunchIn, _ground: Ground, _aspect: float) -> Chain:
    scale, x, y = _framing(t.scale, t.x, t.y)
    return (PLACE(scale=scale, x=x, y=y),)


@look.register
def _drift(t: Drift, ground: Ground, _aspect: float) -> Chain:
    # The first and the last frame show the framings themselves.
    last = max(1.5, ground.frames - 0.5)
    ends = zip(_framing(t.scale, t.x, t.y), _framing(t.to_scale, t.to_x, t.to_y), strict=True)
    scale, x, y = (Curve((Key(0.5, a, t.shape), Key(last, b, "hold"))) for a, b in ends)
    return (PLACE(scale=scale, x=x, y=y),)


def _framing(scale: float, x: float, y: float) -> tuple[float, float, float]:
    """Scale and shift that bring a point of the picture into the frame's middle, as far as no edge comes in."""
    _within(scale, "An enlargement", 1, 10)
    _within(x, "The place in the picture", 0, 1)
    _within(y, "The place in the picture", 0, 1)
    room = (scale - 1) / 2
    return scale, min(room, max(-room, (0.5 - x) * scale)), min(room, max(-room, (0.5 - y) * scale))


@look.register
def _grade(t: Grade, _ground: Ground, _aspect: float) -> Chain:
    values = checked_grade({name: getattr(t, name) for name in CONTROLS})
    changed = {name: value for name, value in values.items() if value != REST[name]}
    # A strength or a pivot alone does nothing.
    return (GRADE(**changed),) if changed.keys() - {"strength", "pivot"} else PLAIN


@look.register
def _table(t: Table, _ground: Ground, _aspect: float) -> Chain:
    _within(t.strength, "The strength of a table", 0, 1)
    return (TABLE(number=float(number_of_code(t.code)), share=t.strength),) if t.strength else PLAIN


@look.register
def _come_in(t: ComeIn, ground: Ground, _aspect: float) -> Chain:
    _within(t.by, "The way that something comes", 0, 2)
    _within(t.scale, "The size from which something comes", 0.01, 10)
    count = ground.frames
    if t.side == "in":
        first, last = 0, min(count, ground.length(t.over, 0))
    else:
        first, last = count - min(count, max(1, ground.music.before(t.over, ground.end))), count

    def between(away: float, there: float) -> Curve:
        ends = (away, there) if t.side == "in" else (there, away)
        return Curve((Key(first, ends[0], t.shape), Key(last, ends[1], "hold")))

    # It moves the way that is said: what comes up begins below.
    sign = {"left": (1, 0), "right": (-1, 0), "up": (0, 1), "down": (0, -1)}[t.way]
    back = 1 if t.side == "in" else -1
    moves = {n: between(back * k * t.by, 0.0) for n, k in zip(("x", "y"), sign, strict=True) if k and t.by}
    grows = {"scale": between(t.scale, 1.0)} if t.scale != 1 else {}
    return (PLACE(**moves, **grows),) if moves or grows else PLAIN


@look.register
def _mirror(_t: Mirror, _ground: Ground, _aspect: float) -> Chain:
    return (PLACE(mirror=1),)


@look.register
def _turn(t: Turn, _ground: Ground, aspect: float) -> Chain:
    _within(t.degrees, "A turn", -180, 180)
    return (PLACE(turn=t.degrees, scale=_covering(0, t.degrees, aspect)),)


@look.register
def _bars(t: Bars, _ground: Ground, _aspect: float) -> Chain:
    _within(t.shape, "The shape of picture", 0.3, 5)
    return (BARS(shape=t.shape),)


@look.register
def _vignette(t: Vignette, _ground: Ground, _aspect: float) -> Chain:
    _within(t.amount, "A vignette", 0, 1)
    return (VIGNETTE(amount=t.amount),)


@look.register
def _blur(t: Blur, ground: Ground, _aspect: float) -> Chain:
    _within(t.amount, "A blur", 0, 0.25)
    count = ground.frames
    if t.side == "in":
        long = min(count, ground.length(t.over, 0))
        keys = (Key(0, t.amount, t.shape), Key(long, 0.0, "hold"))
    elif t.side == "out":
        long = min(count, max(1, ground.music.before(t.over, ground.end)))
        keys = (Key(count - long, 0.0, t.shape), Key(count, t.amount, "hold"))
    else:
        return (BLUR(amount=t.amount),)
    return (BLUR(amount=Curve(keys)),)


@look.register
def _sharpen(t: Sharpen, _ground: Ground, _aspect: float) -> Chain:
    _within(t.amount, "A sharpening", 0, 3)
    return (SHARPEN(amount=t.amount),)


@look.register
def _glow(t: Glow, _ground: Ground, _aspect: float) -> Chain:
    _within(t.amount, "A glow", 0, 1)
    return (GLOW(amount=t.amount),)


@look.register
def _flicker_on(t: FlickerOn, ground: Ground, _aspect: float) -> Chain:
    _within(t.grow, "The step in size of a flicker", -0.5, 0.5)
    if not t.pattern or set(t.pattern) - {"0", "1"}:
        raise BadInput(
            "The pattern of a flicker has a 1 for each frame in which the picture is there, and a 0 for the others."
        )
    # What would not fit is left out at the far end: its last frame is the one that stays.
    pattern = t.pattern[-ground.frames :] if t.side == "in" else t.pattern[: ground.frames]
    first = 0 if t.side == "in" else ground.frames - len(pattern)
    begins = [n for n, c in enumerate(pattern) if c == "1" and (n == 0 or pattern[n - 1] == "0")]
    shown = [Key(-1, 1.0, "hold"), *(Key(first + n, float(c), "hold") for n, c in enumerate(pattern))]
    sizes = [Key(-1, 1.0, "hold")]
    for n, at in enumerate(begins):
        steps = n - len(begins) if t.side == "in" else n + 1
        sizes.append(Key(first + at, (1 + t.grow) ** steps, "hold"))
    if t.side == "in":
        shown.append(Key(len(pattern), 1.0, "hold"))
        sizes.append(Key(len(pattern), 1.0, "hold"))
    size = (PLACE(scale=Curve(tuple(sizes))),) if t.grow and begins else PLAIN
    return (*size, OPACITY(amount=Curve(tuple(shown))))


@look.register
def _grain(t: Grain, ground: Ground, _aspect: float) -> Chain:
    _within(t.amount, "A grain", 0, 1)
    # One pattern further in each frame, from one that the seed names.
    first = float(random.Random(t.seed).randrange(1 << 16))
    numbers = Curve((Key(0.5, first, "straight"), Key(ground.frames + 0.5, first + ground.frames, "hold")))
    return (GRAIN(amount=t.amount, number=numbers),)


def _within(value: float, what: str, low: float, high: float) -> None:
    if not low <= value <= high:
        raise BadInput(f"{what} is {value:g}, outside {low:g} to {high:g}.")
