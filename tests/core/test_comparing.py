"""Two versions of a cut compared, and one that takes a passage over from the other."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_operations import CONTEXT as SEEN
from tests.core.test_operations import LENGTH, RATE
from tests.edits import apply
from zembi.core.edit.compiling import compiled
from zembi.core.edit.compiling.material import Material
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.model import AngleSource, Edit, Item, checked
from zembi.core.edit.operations import (
    Cut,
    GradeItems,
    Lay,
    LayCard,
    LayOver,
    Move,
    Operation,
    SetBlack,
    SetCard,
    Slip,
    Surround,
    Switch,
    Treat,
    TreatRange,
)
from zembi.core.edit.taking import taken_over
from zembi.core.errors import BadInput, ZembiError
from zembi.core.programme.comparing import Comparison, compare
from zembi.core.titles.card import Card, CardLine
from zembi.core.treatments.model import Drift, Grade, Mirror, Speed
from zembi.core.treatments.music import Length

MATERIAL = Material({n: a.spans for n, a in SEEN.angles.items()}, {4: "wide", 9: "close"}, RATE)
CONTEXT = replace(SEEN, material=MATERIAL)
CUT = (Switch(0.0, 4, lead=0), Switch(4.0, 9, lead=0), Switch(8.0, 4, lead=0), Cut(16.0, lead=0))


def made(*operations: Operation, of: Edit | None = None) -> Edit:
    """An edit after operations; those that are refused are left out."""
    edit = of or new_edit(LENGTH)
    for operation in operations:
        try:
            edit = apply(edit, operation, CONTEXT)
        except ZembiError:
            continue
    return edit


def between(here: Edit, there: Edit) -> Comparison:
    return compare(compiled(here, MATERIAL), compiled(there, MATERIAL), RATE)


def told(found: Comparison) -> list[tuple[str, int, int, str]]:
    return [(d.lane, d.first, d.end, d.what) for d in found.differ]


BASE = made(*CUT)


@pytest.mark.parametrize(
    ("operation", "wanted"),
    [
        (SetBlack(96), [("base", 96, 192, "source")]),
        (Switch(16.0, 9, lead=0), [("base", 384, LENGTH, "source")]),
        (Slip(96, 5, True), [("base", 96, 192, "time")]),
        (Treat((96,), (Mirror(),)), [("base", 96, 192, "treatment")]),
        (Treat((96,), (Speed(0.5),)), [("base", 96, 192, "time")]),
        (GradeItems((96,), {"exposure": 0.5}), [("base", 96, 192, "colour")]),
        (TreatRange(48, 120, (Grade(exposure=1.0),)), [("base", 48, 96, "colour"), ("base", 96, 120, "colour")]),
        (LayOver(2.0, "rope", "free", 0), [("over", 48, 72, "only there")]),
        (LayCard(Card((CardLine("Lamp"),)), 4.0, "free", end_s=6.0), [("titles", 96, 144, "only there")]),
        (Cut(4.5, "free", lead=0), []),
    ],
)  # fmt: skip
def test_each_kind_of_difference_is_told_where_it_is_seen(operation: Operation, wanted: list[Any]) -> None:
    after = apply(BASE, operation, CONTEXT)
    found = between(BASE, after)
    got = told(found)
    if wanted and wanted[0][0] in ("over", "titles"):
        assert [(lane, first, what) for lane, first, _, what in got] == [(w[0], w[1], w[3]) for w in wanted]
    else:
        assert got == wanted
    turned = {"only there": "only here"}
    assert [d[3] for d in told(between(after, BASE))] == [turned.get(d[3], d[3]) for d in got]
    covered = set[int]()
    for _, first, end, _ in got:
        covered |= set(range(first, end))
    assert found.same == LENGTH - len(covered)


def test_items_are_named_so_that_one_can_go_to_them() -> None:
    after = apply(BASE, SetBlack(96), CONTEXT)
    (found,) = between(BASE, after).differ
    assert (found.here, found.there) == (BASE.shots[1].id, after.shots[1].id)


def test_words_that_are_others_are_a_title_and_a_cut_that_moved_is_one() -> None:
    titled = apply(BASE, LayCard(Card((CardLine("Lamp"),)), 4.0, "free", end_s=6.0), CONTEXT)
    (title,) = titled.lanes[-1].items if titled.lanes[-1].items else titled.lanes[-2].items
    other = apply(titled, SetCard((title.id,), Card((CardLine("Loft"),))), CONTEXT)
    assert told(between(titled, other)) == [("titles", title.start, title.end, "title")]
    moved = apply(BASE, Move(192, 204), CONTEXT)
    found = between(BASE, moved)
    assert [(m.here, m.there) for m in found.moved] == [(192, 204)]
    assert found.cuts == (3, 3)
    assert told(found) == [("base", 192, 204, "source")]


_ops = st.lists(
    st.one_of(
        st.builds(Switch, st.integers(0, 79).map(lambda n: n / 2), st.sampled_from([4, 9]), lead=st.just(0)),
        st.builds(Cut, st.integers(0, 159).map(lambda n: n / 4), st.just("free"), st.just(0)),
        st.builds(SetBlack, st.integers(0, LENGTH - 1)),
        st.builds(Lay, st.integers(0, 79).map(lambda n: n * 12), st.just("rope")),
        st.builds(LayOver, st.integers(0, 79).map(lambda n: n / 2), st.just("rope"), st.just("free"), st.just(0)),
        st.builds(
            lambda at, t: Treat((at,), t),
            st.integers(0, 79).map(lambda n: n * 12),
            st.sampled_from([(Mirror(),), (Drift(),), (Speed(0.5),), (Grade(exposure=0.4), Mirror())]),
        ),
    ),
    max_size=12,
)  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(_ops, _ops)
def test_a_version_and_its_copy_differ_in_nothing_and_taking_all_gives_the_other(
    mine: Sequence[Operation], theirs: Sequence[Operation]
) -> None:
    here, there = made(*mine), made(*theirs)
    copy = checked(replace(here, lanes=tuple(replace(lane, id=0) for lane in here.lanes)))
    assert between(here, copy) == replace(between(here, here), cuts=(len(here.shots) - 1,) * 2)
    assert between(here, copy).differ == ()
    taken = taken_over(here, there, 0, LENGTH, RATE)
    assert taken == there
    assert between(taken, there).same == LENGTH
    ids = [i.id for lane in taken.lanes for i in lane.items]
    known = {i.id for lane in here.lanes for i in lane.items}
    assert len(set(ids)) == len(ids)
    assert not known & set(ids), "an id means one item for ever"


@settings(max_examples=80, deadline=None)
@given(_ops, _ops, st.integers(0, LENGTH - 1), st.integers(1, LENGTH))
def test_a_passage_is_as_the_other_has_it_and_all_else_as_it_was(
    mine: Sequence[Operation], theirs: Sequence[Operation], first: int, count: int
) -> None:
    here, there = made(*CUT, *mine), made(*CUT, *theirs)
    end = min(LENGTH, first + count)
    taken = taken_over(here, there, first, end, RATE)
    base = [d for d in between(taken, there).differ if d.lane == "base"]
    assert all(d.end <= first or d.first >= end for d in base)
    base = [d for d in between(taken, here).differ if d.lane == "base"]
    assert all(d.first >= first and d.end <= end for d in base)
    inside = [i for lane in there.of_kind(OVER) for i in lane.items if first <= i.start < end]
    assert all(any(i == n for lane in taken.of_kind(OVER) for n in lane.items) for i in inside)


def test_what_cannot_be_taken_is_refused_in_words() -> None:
    with pytest.raises(BadInput, match="empty"):
        taken_over(BASE, BASE, 40, 40, RATE)
    with pytest.raises(BadInput, match="another length"):
        taken_over(BASE, new_edit(LENGTH - 1), 0, 10, RATE)


def test_what_lies_before_the_song_is_taken_with_all_of_it() -> None:
    there = apply(BASE, Surround(Length(48, "frames"), Length(24, "frames")), CONTEXT)
    there = apply(there, LayCard(Card((CardLine("Lamp"),)), -2.0, "free", end_s=-1.0), CONTEXT)
    assert taken_over(BASE, there, -48, LENGTH + 24, RATE) == there
    assert Item(0, AngleSource(4)) in taken_over(there, BASE, 0, 96, RATE).shots
