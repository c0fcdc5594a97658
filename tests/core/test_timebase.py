"""Frames, seconds and timecode: the one rounding rule, exact at every rate."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.errors import BadInput
from zembi.core.timebase import (
    RATES,
    frame_at,
    frame_middle,
    frame_on_display,
    frame_to_seconds,
    frame_to_timecode,
    frames_for_length,
    frames_on_display,
    nearest_standard_rate,
    parse_rate,
    rate_label,
    seconds_to_frame,
    settle_times,
    timecode_to_frame,
)

rates = st.sampled_from(sorted(RATES.values()))
SOURCE_RATES = [*RATES.values(), Fraction(120), Fraction(48)]


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("23.976", "24000/1001"),
        ("23.98", "24000/1001"),
        ("29.97", "30000/1001"),
        ("24000/1001", "24000/1001"),
        ("25", "25"),
        (" 60 ", "60"),
    ],
)
def test_rates_are_read_exactly(text: str, exact: str) -> None:
    assert parse_rate(text) == Fraction(exact)


@pytest.mark.parametrize("text", ["", "fast", "0", "-24", "24/0", "100000", "nan"])
def test_what_is_no_rate_is_refused_with_the_value(text: str) -> None:
    with pytest.raises(BadInput, match="frame"):
        parse_rate(text)


@given(rates, st.integers(0, 10_000_000))
def test_a_frame_survives_seconds_and_back(rate: Fraction, frame: int) -> None:
    assert seconds_to_frame(frame_to_seconds(frame, rate), rate) == frame
    assert frame_at(frame_to_seconds(frame, rate), rate) == frame
    assert frame_at(frame_middle(frame, rate), rate) == frame


@given(rates, st.integers(0, 20_000_000), st.booleans())
def test_timecode_names_every_frame_once(rate: Fraction, frame: int, drop: bool) -> None:
    drop = drop and rate in (Fraction(30000, 1001), Fraction(60000, 1001))
    frame %= 24 * 3600 * round(float(rate)) - 24 * 60 * 4 * drop * 2
    text = frame_to_timecode(frame, rate, drop=drop)
    assert timecode_to_frame(text, rate) == frame
    assert frame_to_timecode(frame + 1, rate, drop=drop) != text


def test_drop_frame_keeps_to_the_clock() -> None:
    rate = Fraction(30000, 1001)
    assert frame_to_timecode(1800, rate, drop=True) == "00:01:00;02"
    assert frame_to_timecode(17982, rate, drop=True) == "00:10:00;00"
    hour = round(3600 * float(rate))
    assert frame_to_timecode(hour, rate, drop=True) == "01:00:00;00"
    with pytest.raises(BadInput, match="skips"):
        timecode_to_frame("00:01:00;00", rate)
    with pytest.raises(BadInput, match="does not exist"):
        timecode_to_frame("00:00:00:24", Fraction(24))


@pytest.mark.parametrize("programme", RATES.values())
@pytest.mark.parametrize("source", SOURCE_RATES)
def test_the_frame_rule_is_exact_at_every_pair_of_rates(programme: Fraction, source: Fraction) -> None:
    times = np.array([float(Fraction(k) / source) for k in range(4000)])
    frames = np.arange(0, int(3000 * programme / source) // 2)
    shown = frames_on_display(times, np.array([frame_middle(int(n), programme) for n in frames]))
    exact = [int((Fraction(2 * int(n) + 1, 2) / programme) * source) for n in frames]
    assert shown.tolist() == exact


def test_before_the_first_and_after_the_last_frame_the_nearest_shows() -> None:
    assert frame_on_display([0.0, 0.04, 0.08], -1.0) == 0
    assert frame_on_display([0.0, 0.04, 0.08], 9.0) == 2


@pytest.mark.parametrize("rate", [Fraction(60000, 1001), Fraction(24000, 1001), Fraction(30)])
def test_a_containers_milliseconds_are_undone(rate: Fraction) -> None:
    even = np.array([float(Fraction(k) / rate) for k in range(500)])
    assert np.allclose(settle_times(np.round(even, 3), rate, 1e-3), even, atol=1e-12)


def test_real_unevenness_is_kept() -> None:
    times = np.arange(100) / 30.0
    times[40:] += 0.011
    assert np.array_equal(settle_times(times, Fraction(30), 1 / 90_000), times)


def test_labels_and_lengths() -> None:
    assert [rate_label(r) for r in RATES.values()] == list(RATES)
    assert nearest_standard_rate(Fraction("59.94")) == Fraction(60000, 1001)
    assert frames_for_length(10.0, Fraction(24)) == 240
    assert frames_for_length(10.001, Fraction(24)) == 241
