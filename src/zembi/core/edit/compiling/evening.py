"""Evening in the programme: each span of a file gets the corrections of the moments that it shows."""

from dataclasses import replace
from fractions import Fraction

import numpy as np

from zembi.core.colour.evening import EVENED, Evening
from zembi.core.edit.compiling.material import Material
from zembi.core.memory import by_identity
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.step import Step
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.model import Span
from zembi.core.timemap import TimeMap

#: The step in which each control changes: less than one value of 8 bit, so that none is seen.
_STEPS = {"exposure": 0.02, "temperature": 0.01, "tint": 0.01}


@by_identity(1 << 13)
def evened(span: Span, material: Material) -> Span:
    """A span with its file's light evened: after the file's table, before its grade."""
    evening = material.evened.get(span.media or "")
    if not evening or not span.time.frames:
        return span
    of_file = sum(step.kind is TABLE for step in material.grades.get(span.media or "", ()))
    tables, others = span.chain[:of_file], span.chain[of_file:]
    return replace(span, chain=(*tables, evened_step(evening, span.time, material.rate), *others))


def evened_step(evening: Evening, time: TimeMap, rate: Fraction) -> Step:
    """The grade of a span that shows a file at media times: values that stand, and change in steps that are not seen."""
    times = time.times(rate)
    at = np.array([row[0] for row in evening])
    curves = {}
    for k, name in enumerate(EVENED, 1):
        values = np.interp(times, at, [row[k] for row in evening])
        values = np.round(np.round(values / _STEPS[name]) * _STEPS[name], 4)
        changes = [0, *(np.flatnonzero(np.diff(values)) + 1).tolist()]
        curves[name] = Curve(tuple(Key(float(n), float(values[n]), "hold") for n in changes))
    return GRADE(**curves)
