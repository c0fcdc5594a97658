"""Chains in tests by the names of what they change: "scale", "turn", "opacity", "blur" and so on, in the usual order."""

from dataclasses import asdict, dataclass
from typing import Any

from zembi.core.picture.chain import Act, Chain, acts_at
from zembi.core.picture.curves import Curve
from zembi.core.picture.step import Step
from zembi.core.picture.steps import STEPS

#: Step and parameter of each name, in the order in which they are put.
NAMES = {
    "cut_out": ("matte", "on"),
    "lightness": ("lightness", "amount"), "blur": ("blur", "amount"), "sharpen": ("sharpen", "amount"),
    "glow": ("glow", "amount"), "scale": ("place", "scale"), "x": ("place", "x"), "y": ("place", "y"),
    "turn": ("place", "turn"), "mirror": ("place", "mirror"), "vignette": ("vignette", "amount"),
    "grain": ("grain", "amount"), "grain_number": ("grain", "number"), "bars": ("bars", "shape"),
    "push_x": ("shift", "x"), "push_y": ("shift", "y"), "opacity": ("opacity", "amount"),
}  # fmt: skip


@dataclass(frozen=True)
class Look:
    """What a chain comes to in a frame, where it holds no step twice."""

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
    push_x: float = 0.0
    push_y: float = 0.0
    cut_out: float = 0.0


AS_IT_IS = Look()


def chain(**curves: Curve | float) -> Chain:
    """A chain of one step of each kind that is named."""
    steps: dict[str, dict[str, Any]] = {}
    for name in NAMES:
        if name in curves:
            step, parameter = NAMES[name]
            steps.setdefault(step, {})[parameter] = curves[name]
    return tuple(STEPS[step](**given) for step, given in steps.items())


def acts(look: Look) -> tuple[Act, ...]:
    """Acts of a look."""
    named = {name: value for name, value in asdict(look).items() if value != getattr(AS_IT_IS, name)}
    return acts_at(chain(**named), 0, 16 / 9)


def look_at(steps: Chain, frame: int, aspect: float = 16 / 9) -> Look:
    """What a chain comes to in a frame of its span."""
    found: dict[str, float] = {}
    named = {where: name for name, where in NAMES.items()}
    for act in acts_at(steps, frame, aspect):
        for parameter, value in act.values.items():
            name = named[act.kind.name, parameter]
            if name == "opacity":
                found[name] = found.get(name, 1.0) * value
            else:
                found[name] = value
    return Look(**found)


def curve_of(steps: Chain, name: str) -> Curve | None:
    """The curve of what is named; the last step's that has one."""
    step, parameter = NAMES[name]
    found = [s.curve(parameter) for s in steps if s.kind.name == step and s.curve(parameter)]
    return found[-1] if found else None


def names_of(steps: Chain) -> list[set[str]]:
    """What each step of a chain changes."""
    named = {where: name for name, where in NAMES.items()}
    return [{named[step.kind.name, p] for p, _ in step.curves} for step in steps]


__all__ = ["AS_IT_IS", "NAMES", "Look", "Step", "acts", "chain", "curve_of", "look_at", "names_of"]
