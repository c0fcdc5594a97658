"""Vignette: darkened evenly from half way between the frame's middle and its corners out to these."""

from zembi.core.picture.step import StepKind

#: How much darker the corners are, 0 to 1.
VIGNETTE = StepKind("vignette", {"amount": 0.0}, {"amount": "vignette"})
