"""The lanes of titles: cards of words over everything else, none overlapping another of its lane."""

from zembi.core.edit.model import CardSource, LaneKind

TITLES = LaneKind(
    "titles", "Titles", (CardSource,), named="title", meets="Two titles of one lane cannot overlap."
)
