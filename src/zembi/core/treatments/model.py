"""Every treatment as what the editor meant. To add one: its class here, its work in ``timing``, ``looks`` or ``colours``."""

import dataclasses
import types
from dataclasses import dataclass
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from zembi.core.errors import BadInput
from zembi.core.picture.curves import Shape
from zembi.core.titles.shown import By
from zembi.core.treatments.music import Length, On, Place

#: What goes on after a picture stood or was shown again: it goes on from there, or is where it would have been.
After = Literal["goes on", "catches up"]
Where = Literal["before", "centred", "after"]
Way = Literal["left", "right", "up", "down"]


#: What most treatments begin with.
_BEAT, _HALF, _QUARTER, _BAR = Length(1.0), Length(0.5), Length(0.25), Length(1.0, "bars")
_AT_ONCE, _TWO = Length(0.0, "frames"), Length(2.0, "frames")
_LOW, _BARS = On("low"), On("bar")


@dataclass(frozen=True)
class Speed:
    """The picture at another speed; its head or its tail stays where it is."""

    factor: float = 0.5
    keep: Literal["head", "tail"] = "head"
    off: bool = False
    kind: Literal["speed"] = "speed"


@dataclass(frozen=True)
class FitSlot:
    """From one second of the clip to another, filling the shot exactly."""

    from_s: float
    to_s: float
    off: bool = False
    kind: Literal["fit"] = "fit"


@dataclass(frozen=True)
class MomentOnBeat:
    """A moment of the clip lies on a place in the music.

    From the head the clip begins as it does and reaches the moment in time; from the tail it ends at ``end_s`` with the
    shot. The rest runs at that speed or as it is. With a second moment and place the speed changes evenly between them.
    """

    moment_s: float
    at: Place
    hold: Literal["head", "tail"] = "head"
    end_s: float | None = None
    rest: Literal["same", "normal"] = "normal"
    then_s: float | None = None
    then_at: Place | None = None
    off: bool = False
    kind: Literal["moment"] = "moment"


@dataclass(frozen=True)
class Ramp:
    """Two or three speeds, changing at places over a length that lies around each.

    One of the speeds can be ``solved`` for (its number from 0): so that ``moment_s`` of the clip is seen at ``moment_at``,
    or without a place at the end of the shot.
    """

    speeds: tuple[float, ...] = (2.0, 0.5)
    at: tuple[Place, ...] = ()
    over: Length = _BEAT
    ease: Literal["straight", "smooth", "sharp"] = "smooth"
    solved: int | None = None
    moment_s: float | None = None
    moment_at: Place | None = None
    off: bool = False
    kind: Literal["ramp"] = "ramp"


@dataclass(frozen=True)
class Reverse:
    """Backwards, the last frame first."""

    off: bool = False
    kind: Literal["reverse"] = "reverse"


@dataclass(frozen=True)
class Freeze:
    """The picture stands for a length from a place, or from each place that ``on`` names."""

    at: Place | None = None
    on: On | None = None
    over: Length = _BEAT
    after: After = "catches up"
    off: bool = False
    kind: Literal["freeze"] = "freeze"


@dataclass(frozen=True)
class BackAndForth:
    """Forwards for a length, backwards for as long, and again."""

    every: Length = _BEAT
    off: bool = False
    kind: Literal["back and forth"] = "back and forth"


@dataclass(frozen=True)
class Rewind:
    """From a place on the picture runs back, over a length, to what was seen at another; then it goes on from there.

    Its speed stays the same, or grows and falls.
    """

    at: Place
    to: Place
    over: Length = _BEAT
    grows: bool = False
    off: bool = False
    kind: Literal["rewind"] = "rewind"


@dataclass(frozen=True)
class Stutter:
    """From a place, or from each that ``on`` names, a piece is shown ``times`` times; without, until the next place."""

    at: Place | None = None
    on: On | None = None
    piece: Length = _QUARTER
    times: int | None = 4
    after: After = "catches up"
    off: bool = False
    kind: Literal["stutter"] = "stutter"


@dataclass(frozen=True)
class JumpCuts:
    """At each place the picture leaps ahead: by a length, or without one to the clip's next moment of movement."""

    on: On = _LOW
    by: Length | None = _BEAT
    off: bool = False
    kind: Literal["jump cuts"] = "jump cuts"


@dataclass(frozen=True)
class Strobe:
    """On and off: in each ``every`` the picture is there for a share of it, else a colour, or what lies beneath."""

    every: Length = _QUARTER
    share: float = 0.5
    colour: str = "#000000"
    beneath: bool = False
    off: bool = False
    kind: Literal["strobe"] = "strobe"


@dataclass(frozen=True)
class Fade:
    """From or to a colour, or what lies beneath, at the shot's start or end."""

    side: Literal["in", "out"] = "in"
    over: Length = _BAR
    colour: str = "#000000"
    beneath: bool = False
    shape: Shape = "smooth"
    off: bool = False
    kind: Literal["fade"] = "fade"


@dataclass(frozen=True)
class Dissolve:
    """The shot comes in over the one before it, whose picture runs on as long."""

    over: Length = _BAR
    place: Where = "centred"
    shape: Shape = "straight"
    off: bool = False
    kind: Literal["dissolve"] = "dissolve"


@dataclass(frozen=True)
class Slide:
    """The shot pushes the one before it out of the frame: both move."""

    to: Way = "left"
    over: Length = _BEAT
    place: Where = "centred"
    shape: Shape = "smooth"
    off: bool = False
    kind: Literal["slide"] = "slide"


@dataclass(frozen=True)
class Whip:
    """A fast push of both pictures, out of focus in between by a share of the picture's height."""

    to: Way = "left"
    over: Length = _HALF
    place: Where = "centred"
    amount: float = 0.03
    off: bool = False
    kind: Literal["whip"] = "whip"


@dataclass(frozen=True)
class ZoomThrough:
    """Into the picture before and out of the shot's own, each enlarged most at the cut, where they mix."""

    scale: float = 2.0
    over: Length = _BEAT
    place: Where = "centred"
    amount: float = 0.01
    off: bool = False
    kind: Literal["zoom through"] = "zoom through"


@dataclass(frozen=True)
class Flicker:
    """Both pictures in turn, each for a length, until the shot stays."""

    over: Length = _HALF
    place: Where = "centred"
    every: Length = _TWO
    off: bool = False
    kind: Literal["flicker"] = "flicker"


@dataclass(frozen=True)
class Dip:
    """Through a colour at the cut with which the shot begins."""

    over: Length = _BEAT
    place: Where = "centred"
    colour: str = "#000000"
    shape: Shape = "smooth"
    off: bool = False
    kind: Literal["dip"] = "dip"


@dataclass(frozen=True)
class Pulse:
    """On each place something grows and falls back: scale and lightness by a share, a shift in widths, a turn in degrees."""

    what: Literal["scale", "lightness", "shift", "turn"] = "scale"
    amount: float = 0.06
    on: On = _LOW
    attack: Length = _AT_ONCE
    fall: Length = _HALF
    follow: bool = False
    off: bool = False
    kind: Literal["pulse"] = "pulse"


@dataclass(frozen=True)
class StepUp:
    """On each place something grows by an amount more, and stays so to the end."""

    what: Literal["scale", "lightness", "turn"] = "scale"
    amount: float = 0.15
    on: On = _BARS
    glide: Length = _AT_ONCE
    off: bool = False
    kind: Literal["step"] = "step"


@dataclass(frozen=True)
class Shake:
    """An unsteady hand: shift in widths and turn in degrees, another one every so often; the same seed, the same shake."""

    amount: float = 0.01
    turn: float = 0.3
    every: Length = _QUARTER
    seed: int = 1
    off: bool = False
    kind: Literal["shake"] = "shake"


@dataclass(frozen=True)
class Flash:
    """A colour on each place, gone after a length."""

    on: On = _BARS
    colour: str = "#ffffff"
    amount: float = 0.8
    fall: Length = _HALF
    off: bool = False
    kind: Literal["flash"] = "flash"


@dataclass(frozen=True)
class FlickerOn:
    """On and off frame by frame before it stays, or before it goes: ``pattern`` has a 1 for each frame in which it is there.

    Each time it comes on it is larger by a share ``grow``, up to its own size as it comes, from it as it goes.
    """

    side: Literal["in", "out"] = "in"
    pattern: str = "100110111"
    grow: float = 0.04
    off: bool = False
    kind: Literal["flicker on"] = "flicker on"


@dataclass(frozen=True)
class ComeIn:
    """Something comes from a side, or grows, until it stays; or goes so at its end.

    ``by`` is how far away it begins, in shares of the frame; ``scale`` its size there.
    """

    side: Literal["in", "out"] = "in"
    way: Way = "up"
    by: float = 0.25
    scale: float = 1.0
    over: Length = _BEAT
    shape: Shape = "slow end"
    off: bool = False
    kind: Literal["come in"] = "come in"


@dataclass(frozen=True)
class Grade:
    """Colours changed by controls; see :data:`zembi.core.colour.grade.CONTROLS` for what each does and its limits."""

    exposure: float = 0.0
    temperature: float = 0.0
    tint: float = 0.0
    contrast: float = 1.0
    pivot: float = 0.18
    blacks: float = 0.0
    shadows: float = 0.0
    highlights: float = 0.0
    whites: float = 0.0
    saturation: float = 1.0
    low_saturation: float = 1.0
    high_saturation: float = 1.0
    all_0: float = 0.0
    all_25: float = 0.0
    all_50: float = 0.0
    all_75: float = 0.0
    all_100: float = 0.0
    red_0: float = 0.0
    red_25: float = 0.0
    red_50: float = 0.0
    red_75: float = 0.0
    red_100: float = 0.0
    green_0: float = 0.0
    green_25: float = 0.0
    green_50: float = 0.0
    green_75: float = 0.0
    green_100: float = 0.0
    blue_0: float = 0.0
    blue_25: float = 0.0
    blue_50: float = 0.0
    blue_75: float = 0.0
    blue_100: float = 0.0
    strength: float = 1.0
    off: bool = False
    kind: Literal["grade"] = "grade"


@dataclass(frozen=True)
class Table:
    """Colours looked up in a ``.cube`` that the project keeps, by its code, as much of it as ``strength`` says."""

    code: str = ""
    strength: float = 1.0
    off: bool = False
    kind: Literal["table"] = "table"


@dataclass(frozen=True)
class SpellOn:
    """A title comes, or goes, letter by letter, word by word or line by line: each so long after the one before it.

    With ``sung`` they come as they are sung instead. A ``cursor`` stands behind what is there while more is to come.
    """

    side: Literal["in", "out"] = "in"
    by: By = "word"
    every: Length = _HALF
    sung: bool = False
    cursor: bool = False
    off: bool = False
    kind: Literal["one by one"] = "one by one"


@dataclass(frozen=True)
class SungWord:
    """The word that is sung is told from the others; with ``keep`` all that were sung so far are."""

    colour: str = "#ffd25a"
    grow: float = 0.0
    heavier: bool = False
    keep: bool = False
    off: bool = False
    kind: Literal["sung word"] = "sung word"


@dataclass(frozen=True)
class PunchIn:
    """Enlarged about a point of the picture, in shares of its width and height."""

    scale: float = 1.25
    x: float = 0.5
    y: float = 0.5
    off: bool = False
    kind: Literal["punch in"] = "punch in"


@dataclass(frozen=True)
class Drift:
    """A slow move over the shot, from one framing to another."""

    scale: float = 1.0
    x: float = 0.5
    y: float = 0.5
    to_scale: float = 1.12
    to_x: float = 0.5
    to_y: float = 0.5
    shape: Shape = "straight"
    off: bool = False
    kind: Literal["drift"] = "drift"


@dataclass(frozen=True)
class Mirror:
    """Left and right changed places."""

    off: bool = False
    kind: Literal["mirror"] = "mirror"


@dataclass(frozen=True)
class Turn:
    """Turned by degrees, enlarged just enough that no edge shows."""

    degrees: float = 3.0
    off: bool = False
    kind: Literal["turn"] = "turn"


@dataclass(frozen=True)
class Bars:
    """Cropped to a shape of picture (width by height) by black bars."""

    shape: float = 2.39
    off: bool = False
    kind: Literal["bars"] = "bars"


@dataclass(frozen=True)
class Vignette:
    """Darker towards the corners, which are ``amount`` black."""

    amount: float = 0.4
    off: bool = False
    kind: Literal["vignette"] = "vignette"


@dataclass(frozen=True)
class Blur:
    """Out of focus by a share of the picture's height: from the start on less, to the end more, or all of the time."""

    amount: float = 0.02
    side: Literal["in", "out", "all"] = "in"
    over: Length = _BEAT
    shape: Shape = "smooth"
    off: bool = False
    kind: Literal["blur"] = "blur"


@dataclass(frozen=True)
class Sharpen:
    """Fine lines clearer, by a share of their contrast."""

    amount: float = 0.5
    off: bool = False
    kind: Literal["sharpen"] = "sharpen"


@dataclass(frozen=True)
class Glow:
    """Lights spread softly over what is around them."""

    amount: float = 0.4
    off: bool = False
    kind: Literal["glow"] = "glow"


@dataclass(frozen=True)
class Grain:
    """A film's grain, another pattern in each frame; the same seed, the same grain."""

    amount: float = 0.3
    seed: int = 1
    off: bool = False
    kind: Literal["grain"] = "grain"


@dataclass(frozen=True)
class Blend:
    """Frame interpolation where time is stretched: a mix of both neighbours, or by optical flow.

    Without it the frame on display is shown.
    """

    how: Literal["mixed", "moved"] = "mixed"
    off: bool = False
    kind: Literal["blend"] = "blend"


TimeTreatment = (
    Speed | FitSlot | MomentOnBeat | Ramp | Reverse | Freeze | BackAndForth | Rewind | Stutter | JumpCuts
)
ColourTreatment = Strobe | Fade | Dip | Flash
LookTreatment = (
    Pulse
    | StepUp
    | Shake
    | FlickerOn
    | ComeIn
    | Grade
    | Table
    | PunchIn
    | Drift
    | Mirror
    | Turn
    | Bars
    | Vignette
    | Blur
    | Sharpen
    | Glow
    | Grain
)
#: Ways in which a shot and the one before it share frames around the cut.
Transition = Dissolve | Slide | Whip | ZoomThrough | Flicker
#: What is done to the words of a title.
WordTreatment = SpellOn | SungWord
Treatment = TimeTreatment | ColourTreatment | LookTreatment | Transition | Blend | WordTreatment

TIME: tuple[type, ...] = get_args(TimeTreatment)
COLOUR: tuple[type, ...] = get_args(ColourTreatment)
LOOK: tuple[type, ...] = get_args(LookTreatment)
TRANSITIONS: tuple[type, ...] = get_args(Transition)
WORDS: tuple[type, ...] = get_args(WordTreatment)
KINDS: dict[str, type[Any]] = {t.kind: t for t in (*TIME, *COLOUR, *LOOK, *TRANSITIONS, Blend, *WORDS)}  # type: ignore[attr-defined]


#: Kinds that are of one shot and no passage, of a cut and no cutaway, of clips and no angle, and of pictures and no title.
OF_A_CUT: tuple[type, ...] = (*TRANSITIONS, Dip)
OF_ONE_SHOT: tuple[type, ...] = (FitSlot, MomentOnBeat, *OF_A_CUT, *WORDS)
OF_CLIPS: tuple[type, ...] = (FitSlot, MomentOnBeat)
OF_PICTURES: tuple[type, ...] = (*TIME, Blend, *OF_A_CUT)


#: No number of a treatment is larger, no length longer.
_LARGEST, _LONGEST, _LONGEST_WORD = 100_000.0, 10_000.0, 40


def checked_treatment(treatment: Treatment) -> Treatment:
    """The treatment, if its numbers can be worked with.

    Raises:
        BadInput: which cannot.
    """
    _check(treatment, treatment.kind)
    return treatment


def _check(value: Any, where: str) -> None:
    if isinstance(value, bool) or value is None:
        return
    if isinstance(value, Length) and not 0 <= value.value <= _LONGEST:
        raise BadInput(f"A length of {value.value:g} is outside 0 to {_LONGEST:g} ({where}).")
    if isinstance(value, On) and (value.every < 1 or value.skip < 0):
        raise BadInput(
            f"Every how many is a whole number from 1; left out before the first, from 0 ({where})."
        )
    if isinstance(value, int | float) and not -_LARGEST <= value <= _LARGEST:
        raise BadInput(f"A number in “{where}” is outside what can be meant.")
    if isinstance(value, str) and len(value) > _LONGEST_WORD:
        raise BadInput(f"A word in “{where}” is too long.")
    if isinstance(value, tuple):
        if len(value) > 8:
            raise BadInput(f"A list in “{where}” is too long.")
        for inner in value:
            _check(inner, where)
    if dataclasses.is_dataclass(value):
        for f in dataclasses.fields(value):
            _check(getattr(value, f.name), where)


def treatment_to_dict(treatment: Treatment) -> dict[str, Any]:
    """A treatment as plain data for storage and recipes."""
    return dataclasses.asdict(treatment)


def treatment_from_dict(data: Any) -> Treatment:
    """The inverse of :func:`treatment_to_dict`.

    Raises:
        BadInput: an unknown kind, an unknown or missing value, or one of another type.
    """
    kind = data.get("kind") if isinstance(data, dict) else None
    if kind not in KINDS:
        raise BadInput(f"A treatment of kind {kind!r} is not known.")
    made: Treatment = _built(KINDS[kind], data, kind)
    return checked_treatment(made)


def _built(made: type, data: Any, where: str) -> Any:
    """A dataclass from plain data."""
    hints = get_type_hints(made)
    if not isinstance(data, dict) or not set(data) <= set(hints):
        raise BadInput(f"A treatment is damaged: {where} holds {data!r}.")
    try:
        return made(**{name: _value(hints[name], value, f"{where}, {name},") for name, value in data.items()})
    except TypeError as fault:
        raise BadInput(f"A treatment is damaged: {where} ({fault}).") from None


def _value(hint: Any, value: Any, where: str) -> Any:
    origin, inside = get_origin(hint), get_args(hint)
    if origin in (Union, types.UnionType):
        if value is None and type(None) in inside:
            return None
        return _value(next(h for h in inside if h is not type(None)), value, where)
    if origin is Literal:
        fits = value in inside
    elif origin is tuple:
        if not isinstance(value, list | tuple):
            raise BadInput(f"A treatment is damaged: {where} is {value!r}.")
        return tuple(_value(inside[0], v, where) for v in value)
    elif dataclasses.is_dataclass(hint):
        return _built(hint, value, where)  # type: ignore[arg-type]
    elif hint is float:
        fits = isinstance(value, int | float) and not isinstance(value, bool)
        value = float(value) if fits else value
    else:
        fits = isinstance(value, hint) and not (hint is int and isinstance(value, bool))
    if not fits:
        raise BadInput(f"A treatment is damaged: {where} is {value!r}.")
    return value
