"""Correcting the grid by hand: pins, metres, odd bars, tempo typed and tapped, and cuts that may follow."""

import json
from dataclasses import asdict
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.edit.carry import bring_cuts, cuts_on_grid
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, ClipSource, Empty, Item
from zembi.core.errors import BadInput, Refused
from zembi.core.song.corrections import (
    Corrections,
    build_grid,
    corrections_from_dict,
    double,
    halve,
    hold,
    mend_passage,
    pin,
    set_tempo,
    tempo_from_taps,
)
from zembi.core.song.grid import Grid
from zembi.core.timebase import seconds_to_frame

RATE = Fraction(24)
BEATS = [0.5 + 0.5 * i for i in range(120)]
#: Bars of four, the sixth of two, as a listener would find them.
DOWNS = [BEATS[i] for i in (*range(0, 21, 4), *range(22, 120, 4))]


def grid(corrections: Corrections | None = None) -> Grid:
    return build_grid(BEATS, DOWNS, 4, 60.5, corrections or Corrections())


def lengths(g: Grid) -> list[int]:
    return [b - a for a, b in pairwise(g.bars)]


def test_an_odd_bar_shifts_none_that_follow() -> None:
    g = grid()
    assert g.bar_time(1) == 0.5
    assert lengths(g)[1 - g.first_bar + 5] == 2
    assert g.bar_time(7) == BEATS[22]
    assert g.position(BEATS[26]).bar == 8


def test_the_one_moves_all_bars_and_keeps_the_odd_bar_odd() -> None:
    g = grid(Corrections(one_s=BEATS[9]))
    starts = {g.beats[i] for i in g.bars}
    assert BEATS[9] in starts
    assert BEATS[8] not in starts
    assert lengths(g).count(2) == 1


def test_counting_twice_as_fast_keeps_every_bar_line() -> None:
    g = grid(Corrections(factor=2.0))
    assert {d for d in DOWNS if d < 59} <= {round(g.beats[i], 9) for i in g.bars}
    assert g.bpm == pytest.approx(240)


@pytest.mark.parametrize("factor", [1 / 6, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 2, 2, 3, 4])
def test_counting_by_a_factor_changes_the_tempo_by_it_and_keeps_the_first_of_a_bar(factor: float) -> None:
    g = grid(Corrections(factor=factor))
    assert g.bpm == pytest.approx(120 * factor)
    assert any(abs(g.beats[i] - DOWNS[0]) < 1e-9 for i in g.bars)
    found = {round(b, 9) for b in BEATS}
    inside = [t for t in g.beats if BEATS[0] <= t <= BEATS[-1]]
    kept = [t for t in inside if round(t, 9) in found]
    numerator = Fraction(factor).limit_denominator(24).numerator
    assert len(kept) == pytest.approx(len(inside) / numerator, abs=1)


@given(st.lists(st.sampled_from([halve, double]), max_size=12), st.sampled_from([1.0, 3.0, 1 / 3]))
def test_half_and_double_take_each_other_back(steps: list[Any], factor: float) -> None:
    now = Corrections(factor=factor)
    for step in steps:
        try:
            changed = step(now)
        except Refused:
            continue
        assert (double if step is halve else halve)(changed).factor == pytest.approx(now.factor)
        assert grid(changed).bpm == pytest.approx(120 * changed.factor)
        now = changed


@given(st.integers(8, 100), st.floats(-0.2, 0.2))
def test_a_pin_bends_the_grid_between_its_neighbours_only(beat: int, by: float) -> None:
    held = pin(
        pin(Corrections(), BEATS[beat - 5], BEATS[beat - 5], 60.5), BEATS[beat + 5], BEATS[beat + 5], 60.5
    )
    g = grid(pin(held, BEATS[beat], BEATS[beat] + by, 60.5))
    plain = np.array(grid().beats)
    bent = np.array(g.beats)
    away = np.abs(plain - BEATS[beat]) >= 2.5 - 1e-6
    assert np.allclose(bent[away], plain[away], atol=1e-9)
    assert np.abs(bent - (BEATS[beat] + by)).min() < 1e-9
    assert (np.diff(bent) > 0).all()


@given(st.lists(st.tuples(st.integers(1, 118), st.floats(-0.1, 0.1)), min_size=1, max_size=6))
def test_a_pinned_beat_lies_where_it_was_pinned_whatever_was_pinned_before(
    pins: list[tuple[int, float]],
) -> None:
    c = Corrections()
    for beat, by in pins:
        g = grid(c)
        now = g.nearest(BEATS[beat], "beat")
        try:
            c = pin(c, now, now + by, 60.5)
        except Refused:
            continue
        assert min(abs(b - now - by) for b in grid(c).beats) < 1e-6


def test_pins_may_not_cross_and_a_pin_moved_again_is_one_pin() -> None:
    one = pin(Corrections(), BEATS[10], BEATS[10] + 0.1, 60.5)
    again = pin(one, BEATS[10] + 0.1, BEATS[10] + 0.2, 60.5)
    assert again.pins == ((pytest.approx(BEATS[10]), pytest.approx(BEATS[10] + 0.2)),)
    with pytest.raises(Refused, match="cannot pass"):
        pin(again, BEATS[20], BEATS[10], 60.5)


def test_a_metre_for_a_range_ends_with_the_range() -> None:
    g = grid(Corrections(metres=((BEATS[40], BEATS[52], 3),)))
    starts = [round(g.beats[i], 6) for i in g.bars if BEATS[40] <= g.beats[i] <= BEATS[60]]
    assert starts == [BEATS[i] for i in (40, 43, 46, 49, 52, 56, 60)]


def test_a_beat_more_or_less_stays_inside_its_bar() -> None:
    more = grid(Corrections(beats=((BEATS[4] + 0.1, 1),)))
    assert [b for b in more.beats if BEATS[4] <= b < BEATS[8]] == pytest.approx(
        [BEATS[4] + 0.4 * k for k in range(5)]
    )
    less = grid(Corrections(beats=((BEATS[4] + 0.1, -1),)))
    for g in (more, less):
        assert [g.beats[i] for i in g.bars] == [grid().beats[i] for i in grid().bars]


def test_a_typed_tempo_is_straight_through_the_bar_it_was_set_at() -> None:
    g = grid(set_tempo(Corrections(nudge_s=0.2, factor=2.0), 90.0, BEATS[8]))
    assert g.bpm == pytest.approx(90)
    assert np.allclose(np.diff(g.beats), 60 / 90)
    assert min(abs(g.beats[i] - BEATS[8]) for i in g.bars) < 1e-9
    assert halve(set_tempo(Corrections(), 90.0, 1.0)).bpm == 45
    with pytest.raises(BadInput, match="outside 20 to 400"):
        set_tempo(Corrections(), 900.0, 0.0)


@given(st.floats(60, 180), st.floats(0, 5), st.integers(0, 2**31))
def test_taps_give_their_tempo_though_one_is_missed_and_one_is_late(
    bpm: float, first: float, seed: int
) -> None:
    rng = np.random.default_rng(seed)
    taps = first + np.arange(16) * 60 / bpm + rng.normal(0, 0.008, 16)
    taps[5] += 0.1
    found, beat = tempo_from_taps([float(t) for i, t in enumerate(taps) if i != 9])
    assert found == pytest.approx(bpm, rel=0.01)
    assert abs((beat - first + 30 / bpm) % (60 / bpm) - 30 / bpm) < 0.03


@pytest.mark.parametrize("taps", [[1.0, 2.0, 3.0], [1.0, 1.01, 1.02, 1.03], [0.0, 1.0, 1.2, 3.9, 4.0, 7.7]])
def test_taps_that_give_no_tempo_are_refused_in_words(taps: list[float]) -> None:
    with pytest.raises(BadInput, match=r"taps|tap"):
        tempo_from_taps(taps)


def test_corrections_survive_being_kept_as_json() -> None:
    import json
    from dataclasses import asdict

    c = Corrections(
        0.5, True, 3.0, 3, 0.01, None, 0.0, ((1.0, 1.1),), ((2.0, 9.0, 3),), ((4.0, -1),), (0.0, 0.5), (0,)
    )
    assert corrections_from_dict(json.loads(json.dumps(asdict(c)))) == c
    assert corrections_from_dict({"factor": 2.0}) == Corrections(factor=2.0)


def test_cuts_on_the_grid_are_told_and_brought_along_others_stay() -> None:
    before, after = grid(), grid(Corrections(nudge_s=0.1))
    on, off = seconds_to_frame(BEATS[8], RATE), seconds_to_frame(BEATS[20], RATE) + 2
    clip = ClipSource("b", 4.0, 1.0)
    edit = new_edit(1452, (Item(0, AngleSource(1)), Item(on, clip), Item(off, AngleSource(2))))
    moves = cuts_on_grid(edit, before, after, RATE)
    assert moves == [(on, seconds_to_frame(BEATS[8] + 0.1, RATE))]
    brought = bring_cuts(edit, moves, RATE)
    assert [s.start for s in brought.shots] == [0, moves[0][1], off]
    # The clip's picture stays in its place: what showed at a frame shows there still.
    assert brought.shots[1].source == ClipSource("b", pytest.approx(4.0 + (moves[0][1] - on) / 24), 1.0)
    with pytest.raises(Refused):
        bring_cuts(edit, [(on, off)], RATE)


@given(st.floats(8, 40), st.floats(6, 15), st.floats(60, 190), st.floats(0, 1))
def test_a_tapped_passage_is_laid_by_its_taps_and_nothing_outside_it_moves(
    start: float, length: float, bpm: float, phase: float
) -> None:
    plain = grid()
    start, end = plain.nearest(start, "beat"), plain.nearest(start + length, "beat")
    first = start + 0.2 + phase * 60 / bpm
    taps = [first + k * 60 / bpm for k in range(4)]
    mended = grid(mend_passage(Corrections(), start, end, taps, 60.5))
    for g in (plain, mended):
        assert all(b > a for a, b in pairwise(g.beats))
    outside = [b for b in plain.beats if b < start + 1e-6 or b >= end - 1e-6]
    assert [b for b in mended.beats if b < start + 1e-6 or b >= end - 1e-6] == pytest.approx(outside)
    inside = [b for b in mended.beats if start + 1e-6 < b < end - 1e-6]
    for tap in taps:
        if start + 30.01 / bpm < tap < end - 30.01 / bpm:
            assert min(abs(b - tap) for b in inside) < 1e-6
    assert np.diff(inside) == pytest.approx(60 / bpm)
    # Bars go on through it, and those after it begin where they did.
    assert all(length >= 1 for length in lengths(mended))
    after = {round(b, 6) for b in plain.bar_times if b > end + 1e-6}
    assert {round(b, 6) for b in mended.bar_times if b > end + 1e-6} == after


def test_a_passage_tapped_again_takes_the_place_of_the_one_before() -> None:
    once = mend_passage(Corrections(), 10.5, 20.5, [11.0, 11.6, 12.2, 12.8], 60.5)
    again = mend_passage(once, 12.5, 22.5, [13.0, 13.4, 13.8, 14.2], 60.5)
    assert [(p[0], p[1], round(p[2])) for p in again.passages] == [(12.5, 22.5, 150)]
    beside = mend_passage(once, 30.5, 40.5, [31.0, 31.4, 31.8, 32.2], 60.5)
    assert len(beside.passages) == 2
    assert corrections_from_dict(json.loads(json.dumps(asdict(beside)))) == beside


@pytest.mark.parametrize(
    ("taps", "said"), [([11.0, 11.5, 12.0], "too few"), ([11.0, 12.5, 14.0, 15.5], "shorter than four beats")]
)
def test_a_passage_that_cannot_be_tapped_says_why(taps: list[float], said: str) -> None:
    with pytest.raises(BadInput, match=said):
        mend_passage(Corrections(), 10.5, 14.5, taps, 60.5)


@given(st.floats(10.8, 19.2), st.floats(-0.2, 0.2))
def test_a_beat_dragged_between_held_ends_moves_nothing_outside(at: float, by: float) -> None:
    plain = grid()
    beat = plain.nearest(at, "beat")
    bent = grid(pin(hold(Corrections(), 10.5, 19.5, 60.5), beat, beat + by, 60.5))
    assert bent.nearest(beat + by, "beat") == pytest.approx(beat + by)
    for before, after in zip(plain.beats, bent.beats, strict=True):
        if before <= 10.5 or before >= 19.5:
            assert after == pytest.approx(before)


def test_a_cut_whose_clip_has_no_picture_that_early_does_not_follow_the_grid() -> None:
    before, after = grid(), grid(Corrections(nudge_s=-0.1))
    first, second = (seconds_to_frame(BEATS[k], RATE) for k in (8, 20))
    early, late = ClipSource("rope", 0.05), ClipSource("rope", 3.0)
    edit = new_edit(1452, (Item(0, Empty()), Item(first, early), Item(second, late)))
    to = seconds_to_frame(BEATS[20] - 0.1, RATE)
    assert cuts_on_grid(edit, before, after, RATE) == [(second, to)], (
        "the clip of the first begins with its file"
    )
    brought = bring_cuts(edit, [(second, to)], RATE)
    assert brought.shots[2].source == ClipSource("rope", pytest.approx(3.0 + (to - second) / 24))
    with pytest.raises(Refused, match="no picture before its start"):
        bring_cuts(edit, [(first, first - 2)], RATE)
