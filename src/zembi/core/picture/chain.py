"""The chain of a picture: typed steps in the order in which they act, each with its parameters over time."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from zembi.core.picture.step import Step, StepKind, Values
from zembi.core.picture.steps import STEPS

#: Steps from the picture outwards.
Chain = tuple[Step, ...]
#: A picture as it is.
PLAIN: Chain = ()


@dataclass(frozen=True)
class Act:
    """A step in one frame.

    Attributes:
        moving: Parameters that change over its span; what is prepared for the others is worth keeping. None where not known.
    """

    kind: StepKind
    values: Values
    moving: frozenset[str] | None = field(default=None, compare=False)

    @property
    def rests(self) -> bool:
        """True if it does nothing."""
        return self.values == self.kind.rest


def later(chain: Chain, frames: int) -> Chain:
    """The chain for a span that begins so many frames later."""
    return tuple(step.changed(lambda c: c.later(frames)) for step in chain) if frames else chain


def acts_at(chain: Chain, frame: int, aspect: float) -> tuple[Act, ...]:
    """Steps of a chain that do something in a frame of the span, neighbours of one kind composed where that is exact.

    Args:
        chain: The chain.
        frame: Frame of its span.
        aspect: Width of the film by its height.
    """
    out: list[Act] = []
    for step in chain:
        act = Act(step.kind, step.at(frame), step.moving)
        if act.rests:
            continue
        if out and out[-1].kind is act.kind and act.kind.joined is not None:
            act = Act(act.kind, act.kind.joined(out.pop().values, act.values, aspect))
            if act.rests:
                continue
        out.append(act)
    return tuple(out)


def covers(acts: Iterable[Act]) -> bool:
    """True if a picture that fills the frame still hides all that lies beneath it."""
    return all(act.kind.covers(act.values) for act in acts)


def opacity_of(chain: Chain) -> Step | None:
    """The last step of a chain where that is an opacity: how its span comes in over another."""
    return chain[-1] if chain and chain[-1].kind is STEPS["opacity"] else None
