"""Jumps of cuts: the difference of the pictures on both sides of it."""

from dataclasses import dataclass
from itertools import pairwise

from zembi.core.colour.matching import difference
from zembi.core.picture.chain import opacity_of
from zembi.core.programme.flatten import stretches
from zembi.core.programme.model import Programme, Span
from zembi.service.colour.samples import media_time, sample
from zembi.service.project.snapshot import Snapshot, edit_of, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project


@dataclass(frozen=True)
class BesideCut:
    """The picture on one side of a cut.

    Attributes:
        item: The id of the item that it comes from.
        media: Its file.
        at_s: Where in that, seconds.
    """

    item: int
    media: str
    at_s: float


@dataclass(frozen=True)
class CutJump:
    """Jump of a cut, in hundredths of the whole scale; see :class:`zembi.core.colour.matching.Difference`.

    ``meant`` is the word with which it was accepted that the picture after it jumps; None where it was not.
    """

    frame: int
    before: BesideCut
    after: BesideCut
    lightness: float
    colour: float
    contrast: float
    jump: float
    meant: str | None


@one_moment
def cut_jumps(project: Project, edit_id: int) -> list[CutJump]:
    """Every cut between two pictures and how much it jumps, in the order of the film.

    Cuts over which one picture comes in gradually are left out, and those of files of which there are no stills yet.

    Raises:
        NotFound: there is no such edit.
    """
    snapshot = snapshot_of(project)
    edit = edit_of(project, edit_id)
    shown = snapshot.programme(edit)
    meant = {i.id: dict(i.accepted).get("jump") for lane in edit.lanes for i in lane.items if i.accepted}
    out = []
    for (before, a), (b, after) in _cuts(shown):
        one, other = (sample(snapshot, s, frame, s.chain) for s, frame in ((before, a), (after, b)))
        if one is None or other is None:
            continue
        apart = difference(one, other)
        out.append(
            CutJump(
                b,
                _beside(snapshot, before, a),
                _beside(snapshot, after, b),
                round(apart.lightness, 2),
                round(apart.colour, 2),
                round(apart.contrast, 2),
                round(apart.whole, 2),
                meant.get(_item(after)[0]),
            )
        )
    return out


def _cuts(shown: Programme) -> list[tuple[tuple[Span, int], tuple[int, Span]]]:
    """Cuts as (the picture before and its last frame), (the first frame and the picture after)."""
    edges = [(begin, until, _top(stack)) for begin, until, stack in stretches(shown, shown.first, shown.end)]
    return [
        ((before, until - 1), (begin, after))
        for (_, until, before), (begin, _, after) in pairwise(edges)
        if before is not None and after is not None and _item(before) != _item(after)
    ]


def _top(stack: list[Span]) -> Span | None:
    """The picture that hides all others; None where there is none, or one is coming in or going."""
    pictures = [s for s in stack if s.media is not None]
    if not pictures or any(opacity_of(s.chain) for s in pictures):
        return None
    return pictures[-1]


def _item(span: Span) -> tuple[int, str | None]:
    return (span.why.item if span.why else 0), span.media


def _beside(snapshot: Snapshot, span: Span, frame: int) -> BesideCut:
    return BesideCut(_item(span)[0], span.media or "", round(media_time(snapshot, span, frame), 3))
