"""Glow: the picture's own lights (its values multiplied by themselves), blurred by 1/40 of the height, screened over it."""

from zembi.core.picture.step import StepKind

GLOW = StepKind("glow", {"amount": 0.0}, {"amount": "glow"})
