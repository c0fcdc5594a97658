"""A grade that makes an item, or the file that it shows, like another item or like its section."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from zembi.core.colour.grade import REST
from zembi.core.colour.matching import difference, made_like
from zembi.core.colour.spaces import Colours
from zembi.core.edit.compiling.treated import worked
from zembi.core.edit.model import Edit, Item
from zembi.core.errors import BadInput, NotFound
from zembi.core.picture.step import Step
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.model import Programme, Span
from zembi.core.treatments.model import Grade
from zembi.service.colour.samples import PLACES, pictures_of, sample
from zembi.service.project.snapshot import Snapshot, edit_of, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project

Of = Literal["shot", "file"]
#: Where a neighbour of a cut is looked at, from the cut on.
_NEAR = (0.0, 1 / 6, 1 / 3)
#: Most items of a section that are looked at.
_MOST = 24


@dataclass(frozen=True)
class ItemMatch:
    """A grade that makes an item like another.

    Attributes:
        values: Of the controls that are not at rest, for the grade of the item or of its file, in place of what it is now.
        before, after: How far they are apart as it is now, and with it; as :class:`CutJump` counts.
    """

    values: Mapping[str, float]
    before: float
    after: float


@one_moment
def match_item(
    project: Project, edit_id: int, item: int, *, like: int | None = None, of: Of = "shot"
) -> ItemMatch:
    """The grade of an item that brings it near another.

    Args:
        like: Another item; None for the others of the section in which it begins.
        of: Whether the grade is for the item, after that of its file, or for the file itself.

    Raises:
        NotFound: there is no such edit or item.
        BadInput: one of them shows no picture of which there are stills, or is the other.
    """
    snapshot = snapshot_of(project)
    edit = edit_of(project, edit_id)
    shown = snapshot.programme(edit)
    items = {i.id: i for lane in edit.lanes for i in lane.items}
    mine = _known(items, item)
    if like == item:
        raise BadInput("A shot is like itself already: choose another.")
    others = [_known(items, like)] if like is not None else _of_section(snapshot, edit, mine)
    at, there = _places(shown, mine, others)
    bare = _colours(snapshot, shown, [mine], 0 if of == "file" else 1, at)
    theirs = _colours(snapshot, shown, others, 2, there)
    if bare is None:
        raise BadInput("There is no picture here to be changed, or its stills are still being made.")
    if theirs is None:
        raise BadInput("There is no picture there to be like, or its stills are still being made.")
    found = made_like(bare, theirs)
    now = _colours(snapshot, shown, [mine], 1 if of == "file" else 2, at)
    before = found.before if now is None else difference(now, theirs)
    if found.after.whole >= before.whole:
        # As near as it gets: what is there stays.
        return ItemMatch(_as_it_is(snapshot, shown, mine, of), round(before.whole, 2), round(before.whole, 2))
    return ItemMatch(found.values, round(before.whole, 2), round(found.after.whole, 2))


def _as_it_is(snapshot: Snapshot, shown: Programme, item: Item, of: Of) -> Mapping[str, float]:
    """Values of the grade that an item, or the file that it shows, has now."""
    if of == "file":
        media = next((s.media for s in pictures_of(shown, item.id)), None)
        return dict(snapshot.by_id[media].said.grade) if media in snapshot.by_id else {}
    own = next((t for t in item.treatments if isinstance(t, Grade) and not t.off), Grade())
    return {name: getattr(own, name) for name, rest in REST.items() if getattr(own, name) != rest}


def _known(items: Mapping[int, Item], item: int) -> Item:
    if item not in items:
        raise NotFound(f"There is no shot {item}.")
    return items[item]


def _of_section(snapshot: Snapshot, edit: Edit, mine: Item) -> list[Item]:
    """Other shots that begin in the section of one."""
    sections = snapshot.falls.section_frames(snapshot.length)
    first, end = next((s for s in sections if s[0] <= mine.start < s[1]), (0, snapshot.length))
    shots = [i for i in edit.lanes[0].items if i.id != mine.id and first <= i.start < end]
    step = max(1, len(shots) // _MOST)
    return shots[::step]


def _places(shown: Programme, mine: Item, others: list[Item]) -> tuple[Sequence[float], Sequence[float]]:
    """Places at which an item and others are looked at: near their cut where they are neighbours, else all through."""
    if len(others) == 1:
        (first, end), (begins, ends) = (_extent(pictures_of(shown, i.id)) for i in (mine, others[0]))
        if first == ends:
            return _NEAR, [1 - place for place in _NEAR]
        if end == begins:
            return [1 - place for place in _NEAR], _NEAR
    return PLACES, PLACES


def _extent(spans: list[Span]) -> tuple[int, int]:
    return (spans[0].start, spans[-1].end) if spans else (0, 0)


def _colours(
    snapshot: Snapshot, shown: Programme, items: list[Item], stages: int, places: Sequence[float]
) -> Colours | None:
    """Colours of items at places of each: as filmed (0), with the grade of their files (1), with their own too (2)."""
    found = []
    for item in items:
        spans = pictures_of(shown, item.id)
        if not spans:
            continue
        first, end = _extent(spans)
        for frame in dict.fromkeys(min(end - 1, first + int(place * (end - first))) for place in places):
            span = next((s for s in spans if s.start <= frame < s.end), None)
            if span is not None:
                found.append(sample(snapshot, span, frame, _grades(snapshot, item, span, stages)))
    known = [c for c in found if c is not None]
    return np.concatenate(known) if known else None


def _grades(snapshot: Snapshot, item: Item, span: Span, stages: int) -> list[Step]:
    """Grades of a span's chain up to a stage: that of its file comes first, then those of the item, then of passages."""
    steps = [s for s in span.chain if s.kind in (GRADE, TABLE)]
    # A table says what the file's numbers mean, and evening takes out what changed as it was filmed: neither is a grade that
    # is to be found.
    of_file = [s.kind for s in dict(snapshot.grades).get(span.media or "", ())]
    even = (span.media or "") in dict(snapshot.evened)
    treated = worked(item, span.end, snapshot.material).chain if item.treatments else ()
    own = sum(s.kind in (GRADE, TABLE) for s in treated)
    first = of_file.count(TABLE) + even
    return steps[: (first, len(of_file) + even, len(of_file) + even + own)[stages]]
