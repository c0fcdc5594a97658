"""Grain: each point moved towards white or black by a pattern of noise that repeats, ``number`` says which part of it."""

from zembi.core.picture.step import StepKind

#: ``amount`` 0 to 1.
GRAIN = StepKind("grain", {"amount": 0.0, "number": 0.0}, {"amount": "grain", "number": "grain"})
