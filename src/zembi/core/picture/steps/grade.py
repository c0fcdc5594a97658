"""Grade: colours changed by controls, through the one table that they compile to (``core/colour``)."""

from zembi.core.colour.grade import REST
from zembi.core.picture.step import StepKind

GRADE = StepKind("grade", REST, dict.fromkeys(REST, "colour"))
