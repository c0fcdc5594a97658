"""Laying a clip at the playhead: each way, what is said before, and that nothing else changes."""

import contextlib
import re
from dataclasses import replace
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_operations import CONTEXT, LENGTH, RATE
from tests.edits import over_of
from zembi.core.edit import items
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty, Item
from zembi.core.edit.operations import Cut, Hold, LayAt, LayOver, SetAngle, apply
from zembi.core.edit.operations.context import Footage
from zembi.core.errors import Refused

#: Eight seconds of rope from its first second on, a moment two seconds in; half a second of spark; a still.
MATERIAL = replace(
    CONTEXT,
    lead=0,
    marks=(2.0, 3.5, 9.0),
    clips={
        "rope": Footage("Rope", 1.0, 9.0, media="rope", moment_s=3.0, seconds=9.0),
        "spark": Footage("Spark", 0.0, 0.5, media="spark", seconds=0.5),
        "chart": Footage("Chart", 0.0, 10_000.0, media="chart", seconds=10_000.0, still=True),
    },
)


def slots(*starts: int) -> Edit:
    return new_edit(LENGTH, tuple(Item(s, Empty()) for s in (0, *starts)))


def laid(edit: Edit, at: float, media: str, way: Any, unit: Any = "mark", **more: Any) -> Edit:
    return apply(edit, LayAt(at, media, way, unit, **more), MATERIAL)


def clips_of(edit: Edit) -> list[tuple[int, int, float]]:
    """First frame, end and in point of each clip on the base lane."""
    return [
        (s.start, edit.end_of(i), round(s.source.in_s, 6))
        for i, s in enumerate(edit.shots)
        if isinstance(s.source, ClipSource)
    ]


@pytest.mark.parametrize(("way", "at", "unit", "by", "place"), [
    ("next", 2.1, "mark", "head", (48, 84, 1.0)),  # from mark to mark
    ("next", 2.1, "mark", "tail", (48, 84, 7.5)),
    ("next", 2.1, "mark", "middle", (48, 84, 4.25)),
    ("next", 2.1, "mark", "moment", (48, 84, 3.0)),  # its moment on the mark
    ("next", 9.2, "mark", "head", (216, 264, 1.0)),  # after the last mark: a bar on
    ("next", 2.9, "bar", "head", (48, 96, 1.0)),
    ("next", 2.3, "free", "head", (55, 103, 1.0)),  # a bar from the frame under the playhead
    ("into", 5.0, "mark", "head", (96, 192, 1.0)),
    ("into", 5.0, "mark", "moment", (96, 192, 2.0)),  # its moment in the frame under the playhead
    ("own", 2.1, "mark", "head", (48, 240, 1.0)),
    ("own", 9.0, "mark", "tail", (24, 216, 1.0)),  # it ends on the mark
    ("own", 9.0, "mark", "middle", (120, 312, 1.0)),
    ("own", 3.5, "mark", "moment", (36, 228, 1.0)),
    ("end", 0.0, "bar", "head", (0, 48, 1.0)),
])  # fmt: skip
def test_each_way_of_laying_has_its_place(
    way: Any, at: float, unit: Any, by: Any, place: tuple[int, int, float]
) -> None:
    assert clips_of(laid(slots(96, 192), at, "rope", way, unit, by=by)) == [place]


def test_over_lies_on_a_lane_until_the_next_place_or_as_far_as_the_clip_reaches() -> None:
    (over,) = over_of(laid(slots(96), 2.1, "rope", "over"))
    assert (over.start, over.end) == (48, 84)
    (over,) = over_of(laid(slots(96), 2.0, "spark", "over"))
    assert (over.start, over.end) == (48, 60)
    (over,) = over_of(laid(slots(96), 2.0, "spark", "over", by="fitted"))
    assert (over.start, over.end) == (48, 84)


def test_what_is_laid_at_the_end_follows_what_is_cut_until_the_song_is_full() -> None:
    edit = slots(96, 192)
    for k in range(20):
        edit = laid(edit, 0.0, "rope", "end", "bar")
        assert clips_of(edit)[-1][:2] == (k * 48, (k + 1) * 48)
    with pytest.raises(Refused, match="cut to its end"):
        laid(edit, 0.0, "rope", "end", "bar")
    with_marks = laid(laid(slots(), 0.0, "rope", "end"), 0.0, "rope", "end")
    assert [c[:2] for c in clips_of(with_marks)] == [(0, 48), (48, 84)]


def test_a_clip_too_short_says_how_much_is_missing_and_reaches_at_the_speed_that_is_named() -> None:
    edit = slots()
    place = LayAt(2.0, "spark", "next", "mark").placement(edit, MATERIAL)
    assert (place.first, place.end, place.missing, place.reaches) == (48, 84, 24, 0.33)
    assert "24 frames missing" in place.why
    with pytest.raises(Refused, match="24 frames missing"):
        laid(edit, 2.0, "spark", "next")
    assert clips_of(laid(edit, 2.0, "spark", "next", speed=place.reaches)) == [(48, 84, 0.0)]
    slowed = laid(edit, 2.0, "spark", "next", by="fitted")
    (shot,) = (s for s in slowed.shots if isinstance(s.source, ClipSource))
    assert isinstance(shot.source, ClipSource)
    assert shot.source.speed == pytest.approx(1 / 3)
    long = LayAt(0.5, "spark", "into", "mark", by="fitted").placement(edit, MATERIAL)
    assert long.missing == LENGTH - 12
    assert "948 frames missing" in long.why


def test_after_a_slot_comes_the_next_empty_one_and_else_what_follows() -> None:
    edit = laid(slots(96, 192, 300), 5.0, "rope", "into")
    assert LayAt(1.0, "rope", "into").placement(edit, MATERIAL).then == 192
    assert LayAt(2.0, "rope", "next", "mark").placement(edit, MATERIAL).then == 84
    assert LayAt(39.5, "rope", "into").placement(edit, MATERIAL).then == LENGTH - 1


def test_in_front_everything_after_moves_on_with_its_picture() -> None:
    edit = laid(slots(96, 192), 5.0, "rope", "into")
    edit = apply(edit, LayOver(5.0, "chart", "bar", 0), MATERIAL)
    after = laid(edit, 4.0, "spark", "front", "bar")
    assert clips_of(after) == [(96, 108, 0.0), (108, 204, 1.0)]
    assert [(o.start, o.end) for o in over_of(after)] == [(108, 156)]
    # Within a shot: what is left of it goes on after.
    parted = laid(edit, 6.0, "spark", "front", "bar")
    assert clips_of(parted) == [(96, 144, 1.0), (144, 156, 0.0), (156, 204, 3.0)]


@pytest.mark.parametrize(("made", "said"), [
    ([Cut(10.0, "bar", 0), SetAngle(240, 4)], "lips"),
    ([Cut(10.0, "bar", 0), Hold(240)], "held shot comes after"),
    ([Cut(39.6, "beat", 0), LayAt(39.6, "chart", "into")], "fall out"),
    ([LayOver(36.0, "chart", "bar", 0, end_s=40.0)], "run out of the song"),
])  # fmt: skip
def test_nothing_in_front_where_lips_held_shots_or_pictures_would_be_lost(made: list[Any], said: str) -> None:
    edit = slots()
    for operation in made:
        if isinstance(operation, Hold | SetAngle):
            operation = replace(operation, item=edit.shots[1].id)
        edit = apply(edit, operation, MATERIAL)
    with pytest.raises(Refused, match=said):
        laid(edit, 2.0, "rope", "front", "bar")


def test_held_shots_moments_and_the_beginning_of_the_song_are_minded() -> None:
    edit = slots(60, 72)
    edit = apply(edit, Hold(edit.shots[1].id), MATERIAL)
    with pytest.raises(Refused, match="held shot lies there"):
        laid(edit, 2.0, "rope", "next")
    with pytest.raises(Refused, match="144 frames before the song"):
        laid(slots(), 2.0, "rope", "own", by="tail")
    with pytest.raises(Refused, match="No moment is marked"):
        laid(slots(), 2.0, "spark", "own", by="moment")


def shown(edit: Edit, frame: int) -> list[Any]:
    """What each lane shows in a frame."""
    out: list[Any] = []
    for lane in edit.lanes:
        for item, end in edit.placed([lane]):
            if item.start <= frame < end:
                since = frame - (item.whole or (item.start,))[0]
                source = items.continued(item.source, since, RATE)
                out.append(
                    (
                        lane.id,
                        replace(source, in_s=round(source.in_s, 5))
                        if isinstance(source, ClipSource)
                        else source,
                    )
                )
    return out


ways = st.builds(
    LayAt,
    working_s=st.integers(0, LENGTH - 1).map(lambda f: f / 24 + 1e-4),
    media=st.sampled_from(["rope", "spark", "chart"]),
    way=st.sampled_from(["into", "next", "own", "over", "end", "front"]),
    unit=st.sampled_from(["free", "half", "beat", "bar", "phrase", "mark"]),
    by=st.sampled_from(["head", "tail", "middle", "moment", "fitted"]),
    speed=st.sampled_from([None, 0.5, 2.0]),
)


@settings(deadline=None, max_examples=200)
@given(
    st.lists(ways, max_size=4),
    ways,
    st.lists(st.integers(1, LENGTH - 1), max_size=4, unique=True),
    st.booleans(),
)
def test_what_is_said_before_is_what_comes_and_nothing_else_changes(
    before: list[LayAt], last: LayAt, cuts: list[int], angle: bool
) -> None:
    edit = slots(*sorted(cuts))
    if angle:
        edit = apply(edit, SetAngle(edit.shots[-1].id, 9), MATERIAL)
    for operation in before:
        with contextlib.suppress(Refused):
            edit = apply(edit, operation, MATERIAL)
    try:
        place = last.placement(edit, MATERIAL)
    except Refused:
        with pytest.raises(Refused):
            apply(edit, last, MATERIAL)
        return
    if place.why:
        with pytest.raises(Refused, match=re.escape(place.why)):
            apply(edit, last, MATERIAL)
        return
    after = apply(edit, last, MATERIAL)
    lane = after.lane(place.lane)
    (item,) = [i for i, end in after.placed([lane]) if (i.start, end) == (place.first, place.end)]
    assert isinstance(item.source, ClipSource)
    assert (item.source.media, item.source.in_s, item.source.speed) == (last.media, place.in_s, place.speed)
    assert place.out_s - place.in_s == pytest.approx(
        float(Fraction(place.end - place.first) / RATE) * place.speed
    )
    moved = place.end - place.first if last.way == "front" else 0
    for frame in range(LENGTH):
        if frame < place.first:
            assert shown(after, frame) == shown(edit, frame)
        elif moved and frame + moved < LENGTH:
            there = [s for s in shown(after, frame + moved) if s[0] == after.lanes[0].id]
            assert there == [s for s in shown(edit, frame) if s[0] == edit.lanes[0].id]
        elif not moved and frame >= place.end:
            assert shown(after, frame) == shown(edit, frame)
    # The other lanes are left alone, but where everything moves.
    if not moved:
        for one in edit.lanes:
            if one.id != place.lane:
                assert after.lane(one.id).items == one.items


def test_an_angle_is_no_clip_that_could_be_laid() -> None:
    with pytest.raises(Exception, match="no picture to lay"):
        laid(slots(), 1.0, "angle", "next")
    assert not any(isinstance(s.source, AngleSource) for s in slots().shots)
