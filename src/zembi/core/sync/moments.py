"""Moments in the picture that were also heard: a clap, a flash. For takes without sound."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Kind = Literal["flash", "clap"]

#: Deviations from the usual at which a change counts as sudden.
_SUDDEN = 8.0
_APART_S = 0.4
#: Less than this is how a codec breathes: change of mean brightness, and mean motion, of full scale 1.
_LEAST_LIGHT, _LEAST_MOTION = 0.02, 0.006


@dataclass(frozen=True)
class Moment:
    """A moment worth trying.

    Attributes:
        at_s: Take time of the first frame that shows it.
        kind: "flash" for a sudden change of light, "clap" for a quick motion that stops at once.
        strength: Deviations from what is usual in the take.
    """

    at_s: float
    kind: Kind
    strength: float


def _deviations(values: Floats) -> Floats:
    centre = float(np.median(values))
    spread = 1.4826 * float(np.median(np.abs(values - centre)))
    return np.asarray((values - centre) / max(spread, 0.02 * float(np.abs(values).max()), 1e-6))


def find_moments(times: Floats, light: Floats, motion: Floats, *, most: int = 8) -> list[Moment]:
    """Sudden changes of light and sharp ends of motion, in take order.

    Args:
        times: Presentation time of each frame in seconds, shape (frames,).
        light: Mean brightness of each frame, 0..1.
        motion: Mean absolute difference of each frame from the one before, light's change taken out; 0 for the first.
        most: How many to return, the strongest.
    """
    if len(times) < 4:
        return []
    change = _deviations(np.abs(np.diff(light, prepend=light[0])))
    # A clapper falls for a few frames and stops dead: the drop in motion marks the frame at which it is shut.
    stop = np.zeros(len(motion))
    stop[:-1] = motion[:-1] - motion[1:]
    shut = _deviations(np.maximum(stop, 0))
    step = np.abs(np.diff(light, prepend=light[0]))
    lit = np.flatnonzero((change > _SUDDEN) & (step > _LEAST_LIGHT))
    found = [Moment(float(times[i]), "flash", float(change[i])) for i in lit]
    found += [
        Moment(float(times[i]), "clap", float(shut[i]))
        for i in np.flatnonzero(shut > _SUDDEN)
        if motion[i] > max(3 * float(np.median(motion)), _LEAST_MOTION)
    ]
    return sorted(sorted(_first_of_each(found), key=lambda m: -m.strength)[:most], key=lambda m: m.at_s)


def _first_of_each(found: list[Moment]) -> list[Moment]:
    """Of moments close together, a light that goes on and off, the first that is about as strong as any."""
    kept: list[Moment] = []
    group: list[Moment] = []
    for moment in [*sorted(found, key=lambda m: m.at_s), None]:
        if group and (moment is None or moment.at_s - group[0].at_s > _APART_S):
            strongest = max(m.strength for m in group)
            kept.append(next(m for m in group if m.strength > 0.5 * strongest))
            group = []
        if moment is not None:
            group.append(moment)
    return kept
