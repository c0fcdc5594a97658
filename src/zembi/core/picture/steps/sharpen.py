"""Sharpening: an unsharp mask of 1/540 of the frame's height, ``amount`` times what it takes away added."""

from zembi.core.picture.step import StepKind

SHARPEN = StepKind("sharpen", {"amount": 0.0}, {"amount": "sharpening"})
