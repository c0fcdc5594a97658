"""Bars: black bars that leave a shape of picture."""

from zembi.core.picture.step import StepKind

#: Width by height of what is left; 0 for none.
BARS = StepKind("bars", {"shape": 0.0}, {"shape": "bars"})
