"""Moments in the picture that were also heard: a clap, a flash, a countdown. For takes without sound."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Kind = Literal["flash", "clap", "count"]

#: Deviations from the usual at which a change counts as sudden.
_SUDDEN = 8.0
_APART_S = 0.4
#: A countdown: at least so many changes, so far apart, equally to within a share of that.
_COUNTS, _COUNT_S, _COUNT_EVEN = 3, (0.4, 1.6), 0.06
#: Less than this is how a codec breathes: change of mean brightness, and mean motion, of full scale 1.
_LEAST_LIGHT, _LEAST_MOTION = 0.02, 0.006


@dataclass(frozen=True)
class Moment:
    """A moment worth trying.

    Attributes:
        at_s: Take time of the first frame that shows it.
        kind: "flash" for a sudden change of light, "clap" for a quick motion that stops at once, "count" for one of
            several at equal distances.
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
    strongest = sorted(_first_of_each(found), key=lambda m: -m.strength)[:most]
    return _counted(sorted(strongest, key=lambda m: m.at_s))


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


def _counted(moments: list[Moment]) -> list[Moment]:
    """Name as counts the moments that follow each other at equal distances."""
    out = list(moments)
    for i, first in enumerate(moments):
        for second in moments[i + 1 :]:
            step = second.at_s - first.at_s
            if not _COUNT_S[0] <= step <= _COUNT_S[1]:
                continue
            run, due = [first, second], second.at_s + step
            while near := [m for m in moments if abs(m.at_s - due) < _COUNT_EVEN * step]:
                run.append(near[0])
                due = near[0].at_s + step
            if len(run) >= _COUNTS:
                out = [replace(m, kind="count") if m.at_s in {r.at_s for r in run} else m for m in out]
    return out
