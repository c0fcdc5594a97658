"""Lanes: several over the base, their order, switched off, locked; items named by ids that are never given again."""

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.spans import span
from zembi.core.edit.carry import fitted
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import KINDS, new_edit
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.model import AngleSource, Beneath, ClipSource, Edit, Item, Lane, LaneKind, checked
from zembi.core.edit.operations import (
    AddLane,
    ChangeLane,
    Context,
    Cut,
    Join,
    LayOver,
    Lift,
    MoveItem,
    OrderLane,
    RemoveLane,
    Split,
    TakeOff,
    Treat,
    apply,
)
from zembi.core.edit.operations.context import AngleCoverage, Footage
from zembi.core.errors import BadInput, Refused
from zembi.core.programme.flatten import on_screen
from zembi.core.treatments.model import Mirror

LENGTH, RATE = 400, Fraction(24)
MATERIAL = Material({4: [span(0, LENGTH, "wide")]}, {4: "angle 1"}, RATE)
CONTEXT = Context(
    RATE, angles={4: AngleCoverage(1)}, material=MATERIAL,
    clips={n: Footage(n, 0.0, 30.0, media=n) for n in ("rope", "gull")},
)  # fmt: skip


def two_lanes() -> Edit:
    """A cutaway from 100 to 200 on the first lane over the base, one from 150 to 250 on the second."""
    edit = new_edit(LENGTH, (Item(0, AngleSource(4)),), (Item(100, ClipSource("rope"), 200),))
    edit = apply(edit, AddLane("over"), CONTEXT)
    upper = edit.of_kind(OVER)[1]
    return edit.with_items(upper, [Item(150, ClipSource("gull"), 250)])


def seen(edit: Edit) -> list[tuple[int, int, str | None]]:
    return [(s.start, s.end, s.media) for s in on_screen(compiled(edit, MATERIAL), RATE)]


def test_what_lies_over_what_is_the_order_of_the_lanes() -> None:
    edit = two_lanes()
    assert [(lane.name, lane.kind.name) for lane in edit.lanes] == [
        ("Shots", "base"), ("Cutaways", "over"), ("Cutaways 2", "over"), ("Treated ranges", "ranges"),
    ]  # fmt: skip
    assert seen(edit) == [(0, 100, "wide"), (100, 150, "rope"), (150, 250, "gull"), (250, 400, "wide")]
    turned = apply(edit, OrderLane(edit.of_kind(OVER)[0].id, 1), CONTEXT)
    assert seen(turned) == [(0, 100, "wide"), (100, 200, "rope"), (200, 250, "gull"), (250, 400, "wide")]
    assert apply(turned, OrderLane(edit.of_kind(OVER)[0].id, -1), CONTEXT) == edit
    for lane, by in ((edit.lanes[0], 1), (edit.lanes[1], -1), (edit.lanes[-1], 1)):
        with pytest.raises(Refused, match="stays at the bottom"):
            apply(edit, OrderLane(lane.id, by), CONTEXT)


def test_a_lane_that_is_off_is_not_seen_and_the_base_always_is() -> None:
    edit = two_lanes()
    off = apply(edit, ChangeLane(edit.of_kind(OVER)[1].id, on_screen=False), CONTEXT)
    assert seen(off) == [(0, 100, "wide"), (100, 200, "rope"), (200, 400, "wide")]
    assert [i.start for i, _ in off.placed()] == [0, 100]
    with pytest.raises(Refused, match="always seen"):
        apply(edit, ChangeLane(edit.lanes[0].id, on_screen=False), CONTEXT)


def test_nothing_on_a_locked_lane_is_changed_and_it_can_be_unlocked() -> None:
    edit = two_lanes()
    lower, upper = edit.of_kind(OVER)
    locked = apply(edit, ChangeLane(lower.id, locked=True), CONTEXT)
    cutaway = lower.items[0].id
    for operation in (
        TakeOff(cutaway), MoveItem(cutaway, 5), Split(cutaway, 150), Treat((cutaway,), (Mirror(),)), RemoveLane(lower.id),
    ):  # fmt: skip
        with pytest.raises(Refused, match="“Cutaways” is locked"):
            apply(locked, operation, CONTEXT)
    assert apply(locked, TakeOff(upper.items[0].id), CONTEXT).lanes[1] == locked.lanes[1]
    # What is laid without saying where goes to the lowest lane that takes it.
    laid = apply(locked, LayOver(1.0, "gull", unit="free", end_s=2.0), CONTEXT)
    assert [i.start for i in laid.of_kind(OVER)[1].items] == [24, 150]
    assert apply(locked, ChangeLane(lower.id, locked=False), CONTEXT) == edit
    base = apply(edit, ChangeLane(edit.lanes[0].id, locked=True), CONTEXT)
    with pytest.raises(Refused, match="“Shots” is locked"):
        apply(base, Cut(3.0, unit="free"), CONTEXT)


def test_something_is_laid_on_the_lane_that_is_asked_for_and_a_lifted_shot_finds_a_free_one() -> None:
    edit = two_lanes()
    _, upper = edit.of_kind(OVER)
    laid = apply(edit, LayOver(12.5, "rope", unit="free", end_s=14.0, lane=upper.id), CONTEXT)
    assert [i.start for i in laid.of_kind(OVER)[1].items] == [150, 300]
    with pytest.raises(Refused, match="Nothing is laid on the lane “Shots”"):
        apply(edit, LayOver(12.5, "rope", unit="free", end_s=14.0, lane=edit.lanes[0].id), CONTEXT)
    cut = apply(apply(edit, Cut(110 / 24, unit="free"), CONTEXT), Cut(140 / 24, unit="free"), CONTEXT)
    lifted = apply(cut, Lift(cut.shots[1].id), CONTEXT)
    assert [(i.start, i.end) for i in lifted.of_kind(OVER)[1].items] == [(110, 140), (150, 250)]


def test_lanes_are_added_named_and_taken_away_one_of_each_kind_stays() -> None:
    edit = two_lanes()
    named = apply(edit, ChangeLane(edit.lanes[2].id, name="  Inserts "), CONTEXT)
    assert named.lanes[2].name == "Inserts"
    fewer = apply(named, RemoveLane(named.lanes[2].id), CONTEXT)
    assert [lane.name for lane in fewer.lanes] == ["Shots", "Cutaways", "Treated ranges"]
    for lane in fewer.lanes:
        with pytest.raises(Refused, match="only lane of its kind"):
            apply(fewer, RemoveLane(lane.id), CONTEXT)
    for kind in ("base", "ranges"):
        with pytest.raises(Refused, match="An edit has one lane"):
            apply(edit, AddLane(kind), CONTEXT)
    with pytest.raises(BadInput, match="There is no kind of lane “colour”; there are base, over, ranges"):
        apply(edit, AddLane("colour"), CONTEXT)
    with pytest.raises(BadInput, match="1 to 80 characters"):
        apply(edit, ChangeLane(edit.lanes[2].id, name=" "), CONTEXT)
    for _ in range(28):
        edit = apply(edit, AddLane("over"), CONTEXT)
    with pytest.raises(Refused, match="at most 32 lanes"):
        apply(edit, AddLane("over"), CONTEXT)


def test_an_id_is_never_given_again_and_the_first_part_of_a_split_keeps_it() -> None:
    edit = two_lanes()
    cut = apply(edit, Cut(3.0, unit="free"), CONTEXT)
    kept, new = cut.shots
    assert kept.id == edit.shots[0].id
    assert new.id == edit.fresh
    joined = apply(cut, Join(new.id), CONTEXT)
    assert joined == edit
    again = apply(joined, Cut(3.0, unit="free"), CONTEXT)
    assert again.shots[1].id == new.id + 1
    with pytest.raises(Refused, match="not there any more"):
        apply(again, Join(new.id), CONTEXT)


def test_a_treated_range_acts_on_the_lanes_beneath_it_only() -> None:
    edit = two_lanes()
    (ranges,) = (lane for lane in edit.lanes if lane.kind.name == "ranges")
    treated = edit.with_items(ranges, [Item(0, Beneath(), LENGTH, treatments=(Mirror(),))])
    under = apply(treated, OrderLane(ranges.id, -1), CONTEXT)
    mirrored = {
        name: [bool(s.chain) for s in layer.spans]
        for name, layer in ((layer.name, layer) for layer in compiled(under, MATERIAL).layers)
    }
    assert mirrored == {"Shots": [True], "Cutaways": [True], "Cutaways 2": [False]}


#: Kinds as a later module might bring them: what all lanes share has to hold for each.
LATER = [
    LaneKind("sounds", "Sounds", (ClipSource,), overlap=True, named="sound"),
    LaneKind("titles", "Titles", (ClipSource,), named="title"),
]


@given(
    st.sampled_from([*LATER, *(k for k in KINDS.values() if k.gaps)]),
    st.lists(st.tuples(st.integers(0, LENGTH - 1), st.integers(1, 90)), max_size=6),
    st.integers(1, 2 * LENGTH),
)
def test_what_all_lanes_share_holds_for_any_kind(
    kind: LaneKind, places: list[tuple[int, int]], length: int
) -> None:
    items = tuple(Item(a, ClipSource("rope"), min(LENGTH, a + n)) for a, n in sorted(places))
    edit = new_edit(LENGTH)
    try:
        edit = checked(replace(edit, lanes=(*edit.lanes, Lane(kind, items, "More"))))
    except Refused:
        assert not kind.overlap, "only what may not overlap is refused here"
        assert any(a.end is not None and b.start < a.end for a, b in pairwise(items))
        return
    after = fitted(edit, length)
    kept = after.lanes[-1]
    assert [i.start for i in kept.items] == [i.start for i in items if i.start < length]
    assert all(i.end is not None and i.start < i.end <= length for i in kept.items)
    assert [i.id for i in kept.items] == [i.id for i in edit.lanes[-1].items][: len(kept.items)]
