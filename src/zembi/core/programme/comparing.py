"""Differences of two programmes: runs of frames of a lane in which not the same is seen, and cuts that moved."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Literal, get_args

import numpy as np

from zembi.core.picture.chain import Chain, later
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.flatten import one_by_one
from zembi.core.programme.model import Layer, Picture, Programme, Span, Title

What = Literal["source", "time", "treatment", "colour", "title", "only here", "only there"]
WHATS: tuple[What, ...] = get_args(What)

#: Two pictures of a file are the same where they are this near, in frames of the programme.
_NEAR = 0.25
#: A cut that is only here and one that is only there are one that moved where they are this near, in seconds.
_MOVED_S = 2.0


@dataclass(frozen=True)
class Difference:
    """A run of frames ``first`` to ``end`` (exclusive) in which a lane shows not the same.

    Attributes:
        what: In what way; what goes first in :data:`WHATS` where there are several.
        lane: Kind of the lane.
        here, there: Ids of the items that are seen in the first of its frames; 0 where there is none.
    """

    first: int
    end: int
    what: What
    lane: str
    here: int
    there: int


@dataclass(frozen=True)
class MovedCut:
    """A cut of the base lane that lies elsewhere, between the very same shots."""

    here: int
    there: int


@dataclass(frozen=True)
class Comparison:
    """Differences of two programmes.

    Attributes:
        same: Frames in which every lane shows the same.
        differ: Runs in which one does not, in order.
        moved: Cuts that moved.
        cuts: How many cuts the base lane of each has.
    """

    same: int
    differ: tuple[Difference, ...]
    moved: tuple[MovedCut, ...]
    cuts: tuple[int, int]


def compare(here: Programme, there: Programme, rate: Fraction) -> Comparison:
    """Compare two programmes lane by lane.

    Args:
        here, there: Programmes of one rate.
        rate: Their rate.
    """
    mine, theirs = _by_lane(here), _by_lane(there)
    differ: list[Difference] = []
    for key in dict.fromkeys([*mine, *theirs]):
        a, b = (one_by_one(lanes[key].spans if key in lanes else (), rate) for lanes in (mine, theirs))
        differ += _of_lane(key[0], a, b, rate)
    differ.sort(key=lambda d: (d.first, d.lane))
    first, end = min(here.first, there.first), max(here.end, there.end)
    same = end - first - _covered(differ)
    shots, others = _shots(here, rate), _shots(there, rate)
    moved = tuple(_moved(shots, others, rate))
    return Comparison(same, tuple(differ), moved, (len(shots) - 1, len(others) - 1))


def _by_lane(programme: Programme) -> dict[tuple[str, int], Layer]:
    """Layers by the kind of their lane, and their number among those of that kind."""
    out: dict[tuple[str, int], Layer] = {}
    for number, layer in enumerate(programme.layers):
        kind = _kind(layer, number)
        out[kind, sum(k == kind for k, _ in out)] = layer
    return out


def _kind(layer: Layer, number: int) -> str:
    # Layers of another program's timeline come from no lane.
    named = next((s.why.kind for s in layer.spans if s.why is not None and s.why.kind != "angle"), None)
    if named is not None and number:
        return named
    words = any(isinstance(s.content, Title) for s in layer.spans)
    return "base" if not number else "titles" if words else "over"


def _of_lane(lane: str, here: Sequence[Span], there: Sequence[Span], rate: Fraction) -> list[Difference]:
    out: list[Difference] = []
    edges = sorted({e for s in (*here, *there) for e in (s.start, s.end)})
    starts = [[s.start for s in spans] for spans in (here, there)]
    for first, end in pairwise(edges):
        mine, theirs = _at(here, starts[0], first), _at(there, starts[1], first)
        what = _differs(mine, theirs, first, end, rate)
        if what is None:
            continue
        ids = [s.why.item if s is not None and s.why is not None else 0 for s in (mine, theirs)]
        found = Difference(first, end, what, lane, ids[0], ids[1])
        last = out[-1] if out else None
        if last and last.end == first and (last.what, last.here, last.there) == (what, *ids):
            out[-1] = replace(last, end=end)
        else:
            out.append(found)
    return out


def _at(spans: Sequence[Span], starts: Sequence[int], frame: int) -> Span | None:
    index = bisect_right(starts, frame) - 1
    return spans[index] if index >= 0 and frame < spans[index].end else None


def _differs(here: Span | None, there: Span | None, first: int, end: int, rate: Fraction) -> What | None:
    """In what way two spans differ in a range of frames; None where they show the same there."""
    if here is None or there is None:
        return "only there" if there is not None else "only here" if here is not None else None
    if here is there or _same(here, there):
        return None
    if here.content != there.content:
        both = isinstance(here.content, Title) and isinstance(there.content, Title)
        return "title" if both else "source"
    if isinstance(here.content, Picture) and not _same_times(here, there, first, end, rate):
        return "time"
    chains = [later(s.chain, first - s.start) for s in (here, there)]
    if _acting(chains[0], False, end - first) != _acting(chains[1], False, end - first):
        return "treatment"
    if here.blend != there.blend:
        return "treatment"
    if _acting(chains[0], True, end - first) != _acting(chains[1], True, end - first):
        return "colour"
    return None


def _same(here: Span, there: Span) -> bool:
    """Equal, wherever they come from."""
    return here == there or replace(here, why=None) == replace(there, why=None)


def _same_times(here: Span, there: Span, first: int, end: int, rate: Fraction) -> bool:
    mine, theirs = (s.time.times(rate)[first - s.start : end - s.start] for s in (here, there))
    return bool(np.abs(mine - theirs).max(initial=0.0) * float(rate) < _NEAR)


def _acting(chain: Chain, colour: bool, frames: int) -> list[object]:
    """Values of the steps of a chain that change colours alone, or of the others, in the first and last frame and between."""
    at = (0, frames // 2, max(0, frames - 1))
    return [
        (step.kind.name, *(tuple(round(v, 5) for v in step.at(f).values()) for f in at))
        for step in chain
        if (step.kind in (GRADE, TABLE)) == colour
    ]


def _covered(differ: Sequence[Difference]) -> int:
    """Frames that lie in any of the runs."""
    count = reached = 0
    if differ:
        reached = differ[0].first
    for d in differ:
        count += max(0, d.end - max(reached, d.first))
        reached = max(reached, d.end)
    return count


def _shots(programme: Programme, rate: Fraction) -> list[Span]:
    """Spans of the base lane, one an item: what follows in the same item is no cut."""
    out: list[Span] = []
    for span in one_by_one(programme.layers[0].spans, rate) if programme.layers else ():
        if not out or span.why is None or out[-1].why != span.why:
            out.append(span)
    return out


def _moved(here: Sequence[Span], there: Sequence[Span], rate: Fraction) -> list[MovedCut]:
    starts = [s.start for s in there]
    taken = {s.start for s in here}
    out = []
    for before, shot in pairwise(here):
        if shot.start in starts:
            continue
        reach = _MOVED_S * float(rate)
        near = range(bisect_left(starts, shot.start - reach), bisect_right(starts, shot.start + reach))
        fits = [
            there[k].start
            for k in near
            if k
            and there[k].start not in taken
            and there[k].content == shot.content
            and there[k - 1].content == before.content
        ]
        if fits:
            to = min(fits, key=lambda f: abs(f - shot.start))
            taken.add(to)
            out.append(MovedCut(shot.start, to))
    return out
