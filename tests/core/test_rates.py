"""An edit at another frame rate: what lies on the music stays on it, and nothing else moves by more than half a frame."""

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_treatments import GRID
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, Beneath, ClipSource, Edit, Item, checked
from zembi.core.edit.rates import at_rate
from zembi.core.timebase import frame_to_seconds, seconds_to_frame
from zembi.core.treatments import model as m
from zembi.core.treatments.music import Length

RATES = [
    Fraction(24),
    Fraction(25),
    Fraction(30_000, 1001),
    Fraction(50),
    Fraction(60),
    Fraction(24_000, 1001),
]
LONG = 40


def lengths(rate: Fraction) -> int:
    return round(LONG * rate)


def test_cuts_on_beats_stay_on_beats_with_their_lead_and_others_at_their_time() -> None:
    old, new = Fraction(24), Fraction(50)
    beat = GRID.beats[9]
    on, led, free = seconds_to_frame(beat, old), seconds_to_frame(GRID.beats[17], old) - 2, 500
    edit = new_edit(
        lengths(old),
        (Item(0, AngleSource(1)), Item(on, AngleSource(2, slip=3)), Item(led, ClipSource("a", 1.25)),
         Item(free, ClipSource("b"), treatments=(m.Dissolve(Length(12, "frames")), m.Strobe(Length(0.5))))),
        (Item(on + 1, ClipSource("c"), on + 13),), (Item(0, Beneath(), 96, treatments=(m.Vignette(),)),),
    )  # fmt: skip
    done = at_rate(edit, lengths(new), old, new, GRID)
    after = done.edit
    starts = [s.start for s in after.shots]
    assert starts[1] == seconds_to_frame(beat, new)
    assert starts[2] == seconds_to_frame(GRID.beats[17], new) - 2, "two frames early, as asked"
    assert abs(starts[3] / 50 - free / 24) <= 0.5 / 50
    assert (done.gone, done.on_music >= 2, done.moved_s <= 0.5 / 50 + 1e-9) == (0, True, True)
    assert after.shots[1].source == AngleSource(2, slip=6)
    assert after.shots[2].source == ClipSource("a", 1.25), "seconds of a file are no frames"
    assert after.shots[3].treatments == (m.Dissolve(Length(25, "frames")), m.Strobe(Length(0.5)))
    assert [i.id for i in after.shots] == [i.id for i in edit.shots]
    assert after.length == lengths(new)


@settings(max_examples=120, deadline=None)
@given(
    st.lists(st.integers(1, 900), max_size=30, unique=True),
    st.lists(st.tuples(st.integers(0, 900), st.integers(1, 40)), max_size=6),
    st.sampled_from(RATES), st.sampled_from(RATES),
)  # fmt: skip
def test_every_rule_is_kept_and_each_edge_lies_within_half_a_frame_or_on_the_music(
    cuts: list[int], laid: list[tuple[int, int]], old: Fraction, new: Fraction
) -> None:
    edit = _made(cuts, laid, old)
    done = at_rate(edit, lengths(new), old, new, None)
    after = done.edit
    assert checked(after) == after
    ids = {i.id: i for lane in edit.lanes for i in lane.items}
    kept = {i.id: i for lane in after.lanes for i in lane.items}
    assert len(kept) == len(ids) - done.gone
    for number, item in kept.items():
        at = frame_to_seconds(ids[number].start, old)
        if item.start:
            assert abs(frame_to_seconds(item.start, new) - at) <= 0.5 / new + 1e-9
    if new >= old:
        assert not done.gone


def _made(cuts: list[int], laid: list[tuple[int, int]], rate: Fraction) -> Edit:
    length = lengths(rate)
    shots = tuple(
        Item(c, AngleSource(k % 3)) for k, c in enumerate([0, *sorted(c for c in cuts if c < length)])
    )
    over, at = [], 0
    for start, frames in sorted(laid):
        if at <= start and start + frames <= length:
            over.append(Item(start, ClipSource("x"), start + frames))
            at = start + frames
    return new_edit(length, shots, tuple(over))


@pytest.mark.parametrize("new", [Fraction(50), Fraction(60)])
def test_there_and_back_is_the_same_edit(new: Fraction) -> None:
    edit = _made([10, 11, 12, 300, 777], [(20, 5)], Fraction(24))
    there = at_rate(edit, lengths(new), Fraction(24), new, GRID).edit
    assert at_rate(there, edit.length, new, Fraction(24), GRID).edit == edit


def test_a_shot_of_one_frame_may_go_and_is_counted() -> None:
    edit = _made([100, 101, 102, 103], [], Fraction(60))
    done = at_rate(edit, lengths(Fraction(24)), Fraction(60), Fraction(24), None)
    assert done.gone == 2
    assert len(done.edit.shots) == 3
