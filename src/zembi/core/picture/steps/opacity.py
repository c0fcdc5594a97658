"""Opacity: how much of the picture is seen over what lies beneath."""

from zembi.core.picture.step import StepKind, Values


def _joined(inner: Values, outer: Values, _aspect: float) -> Values:
    return {"amount": inner["amount"] * outer["amount"]}


#: 0 (what lies beneath shows) to 1.
OPACITY = StepKind("opacity", {"amount": 1.0}, {"amount": "opacity"}, _joined, lambda v: v["amount"] >= 1)
