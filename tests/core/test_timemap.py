"""Time maps: the table that the page is held to as well, cutting, and what is on display at the edges."""

import json
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.timebase import RATES
from zembi.core.timemap import NO_TIME, Piece, TimeMap, playback

CASES = json.loads((Path(__file__).parents[1] / "cases" / "timemap.json").read_text())
rates = st.sampled_from(sorted(RATES.values()))
speeds = st.floats(-4, 4)


def pieces_of(case: dict[str, Any]) -> TimeMap:
    return TimeMap(tuple(Piece(**p) for p in case["pieces"]))


@st.composite
def maps(draw: st.DrawFn) -> TimeMap:
    return TimeMap(tuple(
        Piece(draw(st.integers(1, 40)), draw(st.floats(0, 100)), draw(speeds), draw(speeds))
        for _ in range(draw(st.integers(1, 4)))
    ))  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["name"])
def test_the_table_of_cases(case: dict[str, Any]) -> None:
    times = pieces_of(case).times(Fraction(case["rate"]))
    for frame, at in case["at"]:
        assert times[frame] == pytest.approx(at, abs=1e-9)


@settings(max_examples=200)
@given(maps(), rates, st.data())
def test_a_cut_shows_the_very_same_times(time: TimeMap, rate: Fraction, data: st.DataObject) -> None:
    first = data.draw(st.integers(0, time.frames - 1))
    end = data.draw(st.integers(first + 1, time.frames))
    part = time.cut(first, end, rate)
    assert part.frames == end - first
    assert np.allclose(part.times(rate), time.times(rate)[first:end], atol=1e-8, rtol=0)


@settings(max_examples=200)
@given(maps(), rates, st.data())
def test_cutting_twice_is_cutting_once(time: TimeMap, rate: Fraction, data: st.DataObject) -> None:
    middle = data.draw(st.integers(0, time.frames))
    both = (
        time.cut(0, middle, rate).times(rate).tolist()
        + time.cut(middle, time.frames, rate).times(rate).tolist()
    )
    assert np.allclose(both, time.times(rate), atol=1e-8, rtol=0)


@settings(max_examples=200)
@given(maps(), rates)
def test_the_extent_is_what_the_frames_reach(time: TimeMap, rate: Fraction) -> None:
    times = time.times(rate)
    assert time.extent(rate) == pytest.approx((times.min(), times.max()), abs=1e-8)


@settings(max_examples=200)
@given(maps(), rates, st.floats(0, 100), st.floats(0.1, 50))
def test_frames_without_picture_are_counted_one_by_one(
    time: TimeMap, rate: Fraction, low: float, length: float
) -> None:
    times = time.times(rate)
    beyond = sum(t < low - 1e-6 or t >= low + length + 1e-6 for t in times)
    assert time.outside(low, low + length, rate) == beyond


def test_a_freeze_shows_one_time_and_nothing_has_none() -> None:
    held = TimeMap((Piece(24, 3.2, 0.0, 0.0),))
    assert set(held.times(Fraction(24))) == {3.2}
    assert (NO_TIME.frames, NO_TIME.start_s, NO_TIME.extent(Fraction(24))) == (0, 0.0, (0.0, 0.0))
    assert len(NO_TIME.times(Fraction(24))) == 0
    assert playback(5, 1.0).cut(2, 2, Fraction(24)) == NO_TIME


def test_backwards_and_forwards_meet_in_the_same_frames() -> None:
    rate = Fraction(30000, 1001)
    forth = playback(60, 4.0).times(rate)
    back = TimeMap((Piece(60, 4.0 + 60 / float(rate), -1.0, -1.0),)).times(rate)
    assert np.allclose(forth[::-1], back, atol=1e-12)
