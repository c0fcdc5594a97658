"""Blur: a Gaussian of a standard deviation in heights of the frame; the picture's edges go on outside."""

import math

from zembi.core.picture.step import StepKind, Values


def _joined(inner: Values, outer: Values, _aspect: float) -> Values:
    """Variances of Gaussians add up."""
    return {"amount": math.hypot(inner["amount"], outer["amount"])}


BLUR = StepKind("blur", {"amount": 0.0}, {"amount": "blur"}, _joined)
