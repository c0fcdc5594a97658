"""A step of a picture's chain: its kind, and its parameters over time."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from zembi.core.picture.curves import Curve, Key

#: Parameters of a step in one frame, by name.
Values = Mapping[str, float]
T = TypeVar("T")


def _always(_values: Values) -> bool:
    return True


@dataclass(frozen=True, eq=False)
class StepKind:
    """A kind of step.

    Attributes:
        name: Stored, sent, and the name of its modules in ``media/steps`` and in the page's ``player/steps``.
        rest: Its parameters in order, each with the value at which the step does nothing.
        words: What lists of what other programs do not see call each parameter.
        joined: Composition of two steps of the kind that follow each other, in a frame of an aspect (width by height); None
            where each acts by itself.
        covers: Whether a picture that hides all beneath it still does after the step.
    """

    name: str
    rest: Values
    words: Mapping[str, str]
    joined: Callable[[Values, Values, float], Values] | None = None
    covers: Callable[[Values], bool] = _always

    def __reduce__(self) -> tuple[Callable[[str], "StepKind"], tuple[str]]:
        """Pickled by name: a kind is one object in each process."""
        return _by_name, (self.name,)

    def __call__(self, **curves: Curve | float | None) -> "Step":
        """A step of this kind; a number is held. What is left out stays at rest."""
        made = {n: _held(c) if isinstance(c, int | float) else c for n, c in curves.items() if c is not None}
        unknown = set(made) - set(self.rest)
        if unknown:
            raise TypeError(f"{self.name} has no {', '.join(sorted(unknown))}")
        return Step(self, tuple((n, made[n]) for n in self.rest if n in made))


def _by_name(name: str) -> StepKind:
    from zembi.core.picture.steps import STEPS

    return STEPS[name]


def _held(value: float) -> Curve:
    return Curve((Key(0, float(value), "hold"),))


@dataclass(frozen=True)
class Step:
    """A step and curves of those of its parameters that are not at rest, counted from its span's first frame."""

    kind: StepKind
    curves: tuple[tuple[str, Curve], ...]

    @property
    def moving(self) -> frozenset[str]:
        """Its parameters that change over the span from frame to frame; those that stand between steps do not."""
        return frozenset(n for n, curve in self.curves if any(k.shape != "hold" for k in curve.keys[:-1]))

    def at(self, frame: int) -> Values:
        """Its parameters in a frame of the span."""
        return {**self.kind.rest, **{name: curve.at(frame) for name, curve in self.curves}}

    def curve(self, name: str) -> Curve | None:
        """The curve of a parameter; None where it is at rest."""
        return next((c for n, c in self.curves if n == name), None)

    def changed(self, change: Callable[[Curve], Curve]) -> "Step":
        """The step with every curve changed."""
        return Step(self.kind, tuple((name, change(curve)) for name, curve in self.curves))
