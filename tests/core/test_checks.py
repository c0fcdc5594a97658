"""Limits of the checks, and findings that the editor has accepted."""

import json
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.edits import id_at
from tests.spans import span
from zembi.core.edit.checks import Finding, check, of_treatments, with_accepted
from zembi.core.edit.compiling import compiled
from zembi.core.edit.compiling.material import Material
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.limits import RANGES, USUAL, CheckLimits, checked_limits, limits_from, limits_to_store
from zembi.core.edit.model import AngleSource, Edit, Item
from zembi.core.edit.operations import Accept, Context, Cut, Join, apply
from zembi.core.errors import BadInput, Refused
from zembi.core.song.corrections import Corrections, build_grid
from zembi.core.treatments.model import Strobe
from zembi.core.treatments.music import Length

RATE = Fraction(24)
LENGTH = 480
ANGLES = {1: [span(0, LENGTH, "take", 0.0)], 2: [span(0, LENGTH, "other", 0.0)]}
MATERIAL = Material(ANGLES, {}, RATE)
CONTEXT = Context(
    rate=RATE,
    grid=build_grid([i * 0.5 for i in range(41)], [i * 2.0 for i in range(11)], 4, 20.0, Corrections()),
)


def cut_at(*frames: int) -> Edit:
    return new_edit(LENGTH, tuple(Item(f, AngleSource(1 + n % 2)) for n, f in enumerate([0, *frames])))


def found(edit: Edit, limits: CheckLimits = USUAL) -> list[Finding]:
    programme = compiled(edit, MATERIAL)
    seen = check(programme, {"take": 60.0, "other": 60.0}, {}, {}, RATE, limits)
    return with_accepted([*seen, *of_treatments(edit, MATERIAL, {}, limits)], edit)


def test_a_shot_is_too_short_under_the_projects_own_limit() -> None:
    edit = cut_at(100, 106)
    assert found(edit) == []
    (short,) = found(edit, checked_limits({"shortest_shot_s": 0.3}))
    assert (short.kind, short.start, short.end) == ("too short", 100, 106)
    assert short.items == (id_at(edit, 100),)


def test_flashes_are_harmless_up_to_the_projects_own_limit() -> None:
    edit = cut_at()
    edit = edit.with_items(edit.lanes[0], [replace(edit.shots[0], treatments=(Strobe(Length(6, "frames")),))])
    assert [f.kind for f in found(edit)] == ["flashes"]
    assert found(edit, checked_limits({"flashes": 10.0})) == []


def test_what_is_accepted_keeps_its_word_until_it_counts_again() -> None:
    edit = cut_at(100, 102, 104)
    (run,) = found(edit)
    assert run.accepted is None
    assert len(run.items) == 2
    first, second = run.items
    one = apply(edit, Accept((first,), "too short", " meant "), CONTEXT)
    assert [f.accepted for f in found(one)] == [None], "the other one of the run is not accepted"
    both = apply(one, Accept((second,), "too short", "as in the song"), CONTEXT)
    assert [f.accepted for f in found(both)] == ["meant; as in the song"]
    again = apply(both, Accept((first, second), "too short"), CONTEXT)
    assert again == edit
    # Another check of the same items is another matter.
    other = apply(edit, Accept((first, second), "jump", ""), CONTEXT)
    assert [f.accepted for f in found(other)] == [None]


def test_what_is_accepted_is_of_its_shot_wherever_other_cuts_go() -> None:
    edit = apply(cut_at(100, 102), Accept((id_at(cut_at(100, 102), 100),), "too short", "yes"), CONTEXT)
    moved = apply(edit, Cut(12.0, "free", 0), CONTEXT)
    assert [f.accepted for f in found(moved)] == ["yes"]
    assert [f for f in found(apply(moved, Join(id_at(moved, 102)), CONTEXT)) if f.kind == "too short"] == []


def test_accepting_what_is_not_there_or_with_too_long_a_word_is_refused() -> None:
    edit = cut_at(100)
    with pytest.raises(Refused, match="not there any more"):
        apply(edit, Accept((edit.fresh + 5,), "jump", ""), CONTEXT)
    with pytest.raises(BadInput, match="at most 200"):
        apply(edit, Accept((1,), "jump", "x" * 201), CONTEXT)
    with pytest.raises(BadInput, match="Between 1"):
        apply(edit, Accept((), "jump", ""), CONTEXT)


@given(st.dictionaries(st.sampled_from(sorted(RANGES)), st.floats(0, 1)))
def test_limits_come_back_from_storage(shares: dict[str, float]) -> None:
    values = {n: RANGES[n][0] + s * (RANGES[n][1] - RANGES[n][0]) for n, s in shares.items()}
    limits = checked_limits(values)
    assert limits_from(json.loads(json.dumps(limits_to_store(limits)))) == limits
    assert limits_to_store(USUAL) == {}


@pytest.mark.parametrize("wrong", [{"jump": 0.0}, {"jump": float("nan")}, {"loudest": 3.0}])
def test_a_limit_that_cannot_be_is_refused(wrong: dict[str, float]) -> None:
    with pytest.raises(BadInput):
        checked_limits(wrong)
