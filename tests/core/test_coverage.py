"""Angles from passes: which frames they cover, which pass feeds them, and holes."""

import itertools
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.spans import span
from zembi.core.lineup.coverage import Feed, PassOnAngle, angle_spans, covers, pass_frames, uncovered
from zembi.core.programme.flatten import overlaid
from zembi.core.programme.model import trimmed
from zembi.core.timebase import RATES, frame_middle

LENGTH = 1000
rates = st.sampled_from(sorted(RATES.values()))


@st.composite
def passes(draw: st.DrawFn) -> PassOnAngle:
    start, length = draw(st.floats(-2, 15)), draw(st.floats(0.2, 12))
    return PassOnAngle(
        "p", "m", 1, 1.0, 1.0 + length, start, draw(st.sampled_from([1.0, 1.00012, 0.999, 2.0]))
    )


@settings(max_examples=200)
@given(passes(), rates)
def test_a_frame_is_covered_just_when_its_middle_is(p: PassOnAngle, rate: Fraction) -> None:
    first, last = pass_frames(p, rate, LENGTH)
    for n in range(LENGTH):
        inside = p.song_start_s <= frame_middle(n, rate) < p.song_end_s
        assert (first <= n < last) == inside, n


@settings(max_examples=100)
@given(passes(), rates)
def test_the_picture_follows_the_pass(p: PassOnAngle, rate: Fraction) -> None:
    for s in angle_spans(1, [p], [], rate, LENGTH):
        times = s.time.times(rate)
        for n in (s.start, (s.start + s.end) // 2, s.end - 1):
            assert abs(times[n - s.start] - p.take_time(frame_middle(n, rate))) < 1e-9


def two() -> list[PassOnAngle]:
    return [PassOnAngle("a", "A", 1, 0.0, 20.0, 0.0, 1.0), PassOnAngle("b", "B", 1, 5.0, 25.0, 10.0, 1.0)]


def test_a_feed_wins_where_its_pass_has_picture() -> None:
    spans = angle_spans(1, two(), [Feed(1, 8.0, 15.0, "b")], Fraction(24), 720)
    assert [(s.start, s.end, s.media) for s in spans] == [
        (0, 240, "A"),
        (240, 360, "B"),
        (360, 480, "A"),
        (480, 720, "B"),
    ]


def test_without_a_feed_the_first_pass_shows() -> None:
    spans = angle_spans(1, two(), [], Fraction(24), 720)
    assert [(s.start, s.end, s.media) for s in spans] == [(0, 480, "A"), (480, 720, "B")]


def test_holes_are_what_no_angle_covers() -> None:
    spans = [span(10, 50, "a"), span(40, 80, "b"), span(90, 100, "c")]
    assert uncovered(spans, 120) == [(0, 10), (80, 90), (100, 120)]
    assert covers(spans, 10, 80)
    assert not covers(spans, 10, 81)
    assert uncovered([], 5) == [(0, 5)]


@settings(max_examples=150)
@given(st.lists(st.tuples(st.integers(0, 199), st.integers(1, 60), st.booleans()), max_size=5), rates)
def test_laying_over_shows_the_upper_where_it_has_picture(
    tops: list[tuple[int, int, bool]], rate: Fraction
) -> None:
    base = [span(0, 100, "x", 1.0), span(100, 200, "y", 2.0)]
    over, at = [], 0
    for start, length, black in sorted(tops):
        begin = max(at, start)
        end = min(200, begin + length)
        if begin < end:
            over.append(span(begin, end, None if black else "top", 5.0))
            at = end
    result = overlaid(base, over, rate)
    assert uncovered(result, 200) == []
    assert all(a.end == b.start for a, b in itertools.pairwise(result))
    for s in result:
        upper = next((o for o in over if o.start <= s.start < o.end and o.media), None)
        lower = next(b for b in base if b.start <= s.start < b.end)
        assert s == trimmed(upper or lower, s.start, s.end, rate)
