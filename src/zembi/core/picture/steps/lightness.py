"""Lightness: the picture mixed with black or with white."""

from zembi.core.picture.step import StepKind

#: 0 black, 1 as it is, 2 white; straight in between, of the coded values.
LIGHTNESS = StepKind("lightness", {"amount": 1.0}, {"amount": "lightness"})
