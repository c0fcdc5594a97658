"""Which angle the keys reach in each section, what could fill a hole, and feeds that stand beside others."""

from hypothesis import given
from hypothesis import strategies as st

from zembi.core.lineup.coverage import Feed, PassOnAngle, angle_runs, angle_spans, uncovered, within
from zembi.core.lineup.feeds import beside
from zembi.core.lineup.fillers import FillerCandidate, other_angles, share_covered, stretches_for
from zembi.core.lineup.keys import KEYS, keys_by_section

presences = st.integers(1, 8).flatmap(
    lambda sections: st.lists(
        st.lists(st.booleans(), min_size=sections, max_size=sections), min_size=1, max_size=16
    )
)


@given(presences)
def test_keys_reach_every_angle_that_has_picture_while_there_are_keys(present: list[list[bool]]) -> None:
    keys = keys_by_section(present)
    for section, row in enumerate(keys):
        here = [a for a, there in enumerate(present) if there[section]]
        reached = [a for a in row if a is not None]
        assert len(row) == KEYS
        assert len(set(reached)) == len(reached)
        assert set(reached) <= set(here)
        assert len(reached) == min(KEYS, len(here))


@given(presences)
def test_the_first_nine_angles_keep_their_number_wherever_they_have_picture(
    present: list[list[bool]],
) -> None:
    for section, row in enumerate(keys_by_section(present)):
        for angle, there in enumerate(present[:KEYS]):
            assert (row[angle] == angle) == there[section]


def test_a_tenth_angle_has_one_key_wherever_it_can() -> None:
    # The ninth is not there in the first two sections: its key is free, and the tenth keeps it.
    present = [[True, True, True]] * 8 + [[False, False, True], [True, True, False]]
    assert [row[8] for row in keys_by_section(present)] == [9, 9, 8]
    # With all nine there it has none.
    assert 9 not in keys_by_section([[True]] * 10)[0]


def test_no_angle_means_no_section_has_keys() -> None:
    assert keys_by_section([]) == []


passes = st.lists(
    st.builds(
        lambda n, angle, start, length: PassOnAngle(f"p{n}", f"m{n}", angle, 0.0, length, start, 1.0),
        st.integers(0, 5),
        st.integers(1, 3),
        st.floats(-5, 25),
        st.floats(0.2, 20),
    ),
    max_size=6,
    unique_by=lambda p: p.id,
)


@given(passes)
def test_a_hole_is_exactly_what_no_span_covers_and_runs_name_the_pass_of_each_span(
    placed: list[PassOnAngle],
) -> None:
    for angle in (1, 2, 3):
        spans = angle_spans(angle, placed, [], 24, 480)  # type: ignore[arg-type]
        runs = angle_runs(angle, placed, [], 24, 480)  # type: ignore[arg-type]
        assert [(s.start, s.end, s.media) for s in spans] == [(a, b, p.media) for a, b, p in runs]
        covered = {f for s in spans for f in range(s.start, s.end)}
        missing = {f for a, b in uncovered(spans, 480) for f in range(a, b)}
        assert covered | missing == set(range(480))
        assert not covered & missing
        inside = within(runs, 100, 200)
        assert {f for a, b, _ in inside for f in range(a, b)} == covered & set(range(100, 200))
        assert share_covered(spans, 100, 200) == len(covered & set(range(100, 200))) / 100


@given(
    st.lists(st.tuples(st.integers(0, 30), st.integers(1, 6)), max_size=6),
    st.integers(0, 30),
    st.integers(1, 20),
)
def test_what_stands_beside_other_feeds_touches_none_and_leaves_nothing_out(
    others: list[tuple[int, int]], start: int, length: int
) -> None:
    feeds: list[Feed] = []
    for at, long in others:
        if all(at >= f.end_s or at + long <= f.start_s for f in feeds):
            feeds.append(Feed(1, float(at), float(at + long), "there"))
    parts = beside(Feed(1, float(start), float(start + length), "new"), feeds)
    for moment in range(60):
        taken = any(f.start_s <= moment < f.end_s for f in feeds)
        held = any(p.start_s <= moment < p.end_s for p in parts)
        assert held == (start <= moment < start + length and not taken)
    assert all(p.pass_id == "new" for p in parts)


def test_a_hole_is_filled_by_what_is_tagged_then_by_what_is_long_enough() -> None:
    spans = {
        n: angle_spans(n, [PassOnAngle("p", "m", n, 0.0, float(n), 0.0, 1.0)], [], 24, 240) for n in (1, 3)
    }  # type: ignore[arg-type]
    assert [(a, round(share, 2)) for a, share in other_angles(spans, 0, 48)] == [(3, 1.0), (1, 0.5)]
    assert other_angles(spans, 100, 200) == []
    stretches = [
        FillerCandidate("short", 10),
        FillerCandidate("long", 90),
        FillerCandidate("longest", 200),
        FillerCandidate("tagged", 20, True),
    ]
    assert [s.id for s in stretches_for(stretches, 48)] == ["tagged", "longest", "long", "short"]
    assert len(stretches_for([FillerCandidate(str(n), n) for n in range(40)], 5)) == 12
