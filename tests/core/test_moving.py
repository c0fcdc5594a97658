"""Treatments go where their picture goes, as many beats on; what is of a cut stays with the cut."""

from fractions import Fraction
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests import treating
from tests.core.test_treatments import CONTEXT, EDIT, GRID, MATERIAL, pictures
from tests.edits import apply
from zembi.core.edit.compiling import compiled
from zembi.core.edit.lanes.base import cut
from zembi.core.edit.model import ClipSource, Edit
from zembi.core.edit.operations import Bring, CutAs, Swap, TakeOut, Treat
from zembi.core.song.grid import Grid
from zembi.core.treatments import model as m
from zembi.core.treatments.moving import moved_on
from zembi.core.treatments.music import Length, On, Place

#: The clip from 384 to 480 runs on the pulse, and stands on a beat of its third bar; it comes in over what is before it.
FREEZE = m.Freeze(Place(9, 3), over=Length(1))
OVER = m.Dissolve(Length(12, "frames"))
PULSE = m.Pulse(on=On("beat"))
TREATED = apply(
    apply(EDIT, Treat((384,), (FREEZE, PULSE, OVER)), CONTEXT), Treat((192,), (m.Mirror(),)), CONTEXT
)


def of(edit: Edit, start: int) -> tuple[Any, ...]:
    return edit.shots[edit.index_at(start)].treatments


def test_swapped_they_go_with_the_picture_and_the_dissolve_stays_with_the_cut() -> None:
    swapped = apply(TREATED, Swap(384, 192), CONTEXT)
    # Bar 9 is at 384, bar 5 at 192.
    assert of(swapped, 192) == (m.Freeze(Place(5, 3), over=Length(1)), PULSE)
    assert of(swapped, 384) == (OVER, m.Mirror())
    assert [s.start for s in swapped.shots] == [s.start for s in EDIT.shots]
    back = apply(swapped, Swap(192, 384), CONTEXT)
    assert set(of(back, 384)) == set(of(TREATED, 384))
    assert of(back, 192) == of(TREATED, 192)
    assert pictures(compiled(back, MATERIAL)) == pictures(compiled(TREATED, MATERIAL))


def test_brought_elsewhere_and_moved_up_a_slot_they_come_along() -> None:
    brought = apply(TREATED, Bring(384, 96), CONTEXT)
    assert of(brought, 96) == (m.Freeze(Place(3, 3), over=Length(1)), PULSE)
    assert [s.start for s in brought.shots] == [0, 96, 192, 480]
    up = apply(TREATED, TakeOut(96, "up"), CONTEXT)
    assert [of(up, s) for s in (96, 192, 384, 480)] == [
        (m.Mirror(),), (m.Freeze(Place(5, 3), over=Length(1)), PULSE), (OVER,), (),
    ]  # fmt: skip
    assert up.shots[-1].source != EDIT.shots[-1].source, "the last slot is empty"


def test_a_passage_cut_as_another_is_treated_as_it_on_its_own_beats() -> None:
    alike = apply(TREATED, CutAs(16.0, 20.0, 28.0, 32.0), CONTEXT)
    frozen = [s for s in alike.shots if s.treatments and s.start >= 672]
    assert [(s.start, s.treatments) for s in frozen] == [
        (672, (m.Freeze(Place(15, 3), over=Length(1)), PULSE, OVER))
    ]


def test_a_part_of_a_treated_shot_is_brought_with_what_it_showed() -> None:
    plain = apply(EDIT, Treat((384,), (m.Mirror(),)), CONTEXT)
    parted = cut(plain, 432, Fraction(24))
    brought = apply(parted, Swap(432, 192), CONTEXT)
    assert brought.shots[brought.index_at(192)].source == ClipSource("gulls", 7.0)


@given(treating.treatments, st.integers(0, 80), st.integers(0, 80))
def test_there_and_back_is_the_same(treatment: Any, one: int, two: int) -> None:
    grid = Grid(GRID.beats, GRID.bars, GRID.first_bar)
    a, b = grid.beats[one], grid.beats[two]
    (there,) = moved_on((treatment,), a, b, grid)
    inside = [p for p in _places(treatment) if 0 <= grid.bars[0] + 4 * p.bar + p.beat - 1 + two - one < 99]
    if len(inside) == len(_places(treatment)):
        assert moved_on((there,), b, a, grid) == (treatment,)
    for before, after in zip(_places(treatment), _places(there), strict=True):
        if before != after:
            moved = grid.time_of(after.bar, after.beat) - grid.time_of(before.bar, before.beat)
            assert abs(moved - (two - one) * 0.5) < 1e-6


def _places(treatment: Any) -> list[Place]:
    values = [getattr(treatment, n) for n in vars(treatment)]
    flat = [x for v in values for x in (v if isinstance(v, tuple) else (v,))]
    return [v for v in flat if isinstance(v, Place)]
