"""Treatments in words: what each does where it lies, and what it costs."""

from fractions import Fraction

from zembi.core.colour.grade import BENDS, CONTROLS, CURVES, REST
from zembi.core.timebase import frames_shown
from zembi.core.treatments.model import (
    TIME,
    BackAndForth,
    Bars,
    Blend,
    Blur,
    ComeIn,
    Dip,
    Drift,
    Fade,
    Flash,
    Flicker,
    FlickerOn,
    Freeze,
    Glow,
    Grade,
    Grain,
    JumpCuts,
    Mirror,
    Pulse,
    PunchIn,
    Reverse,
    Rewind,
    Shake,
    Sharpen,
    Slide,
    SpellOn,
    StepUp,
    Strobe,
    Stutter,
    SungWord,
    Table,
    Transition,
    Treatment,
    Turn,
    Vignette,
    Whip,
    ZoomThrough,
)
from zembi.core.treatments.music import On
from zembi.core.treatments.timing import Ground, warp
from zembi.core.treatments.transitions import around_cut


def said(treatment: Treatment, ground: Ground, source_rate: Fraction | None = None) -> str:
    """Words for what a treatment does where it lies; of a speed also how frames of the source are shown.

    Args:
        treatment: One that can be done there.
        ground: What it lies on.
        source_rate: Frames a second of what is shown, where that is known and even.
    """
    t = treatment
    if isinstance(t, Reverse):
        return "backwards"
    if isinstance(t, Blend):
        if t.how == "moved":
            return "between two frames of the clip what moves is moved; the page shows both mixed"
        return "between two frames of the clip both are mixed"
    if isinstance(t, Freeze):
        return f"stands for {t.over}{_where(t.on, ground)}, then {t.after}"
    if isinstance(t, BackAndForth):
        return f"turns every {t.every}"
    if isinstance(t, Rewind):
        return f"runs back over {t.over} to bar {t.to.bar}, beat {t.to.beat:g}"
    if isinstance(t, Stutter):
        times = f"{t.times} times" if t.times else "again and again"
        return f"{t.piece} {times}{_where(t.on, ground)}, then {t.after}"
    if isinstance(t, JumpCuts):
        by = f"{t.by}" if t.by else "the next movement"
        return f"leaps by {by}{_where(t.on, ground)}"
    if isinstance(t, TIME):
        return _speeds(t, ground, source_rate)
    return _picture(t, ground)


def _where(on: On | None, ground: Ground) -> str:
    if on is None:
        return ""
    count = len(ground.music.places(on, ground.first, ground.end))
    return f" {on} ({count} here)"


def _speeds(t: Treatment, ground: Ground, source_rate: Fraction | None) -> str:
    pieces = warp(t, ground).pieces  # type: ignore[arg-type]
    own = ground.clip.speed if ground.clip else 1.0
    speeds = [v * own for p in pieces for v in (p.speed, p.end_speed)]
    slow, fast = min(speeds), max(speeds)
    if fast - slow < 1e-6:
        return f"{slow:.2f} times{_cost(slow, ground.rate, source_rate)}"
    return f"{speeds[0]:.2f} to {speeds[-1]:.2f} times{_cost(slow, ground.rate, source_rate)}"


def _cost(speed: float, rate: Fraction, source_rate: Fraction | None) -> str:
    """Words for how frames of the source are shown at a speed."""
    if source_rate is None or speed <= 0:
        return ""
    shown = frames_shown(speed * float(source_rate / rate))
    return f", {shown}" if shown else ""


def _bends(control: str) -> bool:
    return control.split("_")[0] in CURVES


def _picture(t: Treatment, ground: Ground) -> str:
    if isinstance(t, Transition | Dip):
        before, after = around_cut(t.over, t.place, ground)
        return f"{_how(t)}over {t.over}: {before} frames before the cut, {after} after it"
    if isinstance(t, Fade):
        what = "what lies beneath" if t.beneath else _colour(t.colour)
        return f"{'from' if t.side == 'in' else 'to'} {what} over {t.over}"
    if isinstance(t, FlickerOn):
        return f"{t.side} over {len(t.pattern)} frames, {t.pattern.count('1')} of them on"
    if isinstance(t, Grade):
        told = [
            f"{name.replace('_', ' ')} {getattr(t, name):g}"
            for name in CONTROLS
            if getattr(t, name) != REST[name] and name != "pivot" and not _bends(name)
        ]
        bent = [of for of in CURVES if any(getattr(t, f"{of}_{at}") for at in BENDS)]
        told += [f"a curve of {' and '.join(bent)}"] if bent else []
        return ", ".join(told) or "as it is"
    if isinstance(t, Table):
        return f"{100 * t.strength:g} %"
    if isinstance(t, ComeIn):
        away = [f"{t.way} by {100 * t.by:g} %"] if t.by else []
        size = [f"{'from' if t.side == 'in' else 'to'} {100 * t.scale:g} %"] if t.scale != 1 else []
        return ", ".join([t.side, *away, *size, f"over {t.over}"])
    if isinstance(t, SpellOn):
        pace = "as they are sung" if t.sung else f"one every {t.every}"
        return f"{t.side}, {t.by} by {t.by}, {pace}"
    if isinstance(t, SungWord):
        return f"{_colour(t.colour)}{f', {100 * t.grow:+g} %' if t.grow else ''}{', heavier' if t.heavier else ''}"
    if isinstance(t, Strobe):
        long = ground.length(t.every, 0, 2)
        shown = min(long - 1, max(1, round(long * t.share)))
        return f"{shown} frames on, {long - shown} off"
    if isinstance(t, Flash):
        return f"{_colour(t.colour)}{_where(t.on, ground)}, gone after {t.fall}"
    if isinstance(t, Pulse | StepUp):
        amount = f"{t.amount:+g}°" if t.what == "turn" else f"{100 * t.amount:+g} %"
        return f"{t.what} {amount}{_where(t.on, ground)}"
    if isinstance(t, Shake):
        return f"{100 * t.amount:g} % and {t.turn:g}° every {t.every}"
    if isinstance(t, PunchIn):
        return f"{100 * t.scale:g} %"
    if isinstance(t, Drift):
        return f"{100 * t.scale:g} to {100 * t.to_scale:g} %"
    if isinstance(t, Turn):
        return f"{t.degrees:g}°"
    if isinstance(t, Bars):
        return f"to {t.shape:g} : 1"
    if isinstance(t, Vignette):
        return f"corners {100 * t.amount:g} % darker"
    if isinstance(t, Blur):
        much = f"{100 * t.amount:g} % of the height"
        return much if t.side == "all" else f"{much}, {'less' if t.side == 'in' else 'more'} over {t.over}"
    if isinstance(t, Sharpen | Glow | Grain):
        return f"{100 * t.amount:g} %"
    return "left is right" if isinstance(t, Mirror) else ""


def _colour(colour: str) -> str:
    """A colour in words: the two that have a name that everybody knows by it, else as it is written."""
    return {"#000000": "black", "#ffffff": "white"}.get(colour.lower(), colour)


def _how(t: Treatment) -> str:
    """Words for the way in which the pictures of a cut follow each other."""
    if isinstance(t, Dip):
        return f"through {_colour(t.colour)} "
    if isinstance(t, Slide | Whip):
        return f"both to the {t.to} " if t.to in ("left", "right") else f"both {t.to} "
    if isinstance(t, ZoomThrough):
        return f"to {100 * t.scale:g} % "
    return f"in turn, {t.every} each, " if isinstance(t, Flicker) else ""
