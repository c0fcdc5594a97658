"""Choosing which pass feeds an angle: earlier choices give way inside the range and stay outside it."""

import itertools

from hypothesis import given
from hypothesis import strategies as st

from zembi.core.lineup.coverage import Feed
from zembi.core.lineup.feeds import chosen

choices = st.lists(
    st.tuples(st.integers(0, 40), st.integers(1, 20), st.sampled_from(["a", "b", "c"])), max_size=8
)


def test_a_choice_splits_a_longer_one_and_swallows_a_shorter() -> None:
    feeds = [Feed(1, 0.0, 10.0, "a"), Feed(1, 12.0, 14.0, "b"), Feed(1, 20.0, 30.0, "c")]
    assert chosen(feeds, Feed(1, 4.0, 22.0, "d")) == [
        Feed(1, 0.0, 4.0, "a"), Feed(1, 4.0, 22.0, "d"), Feed(1, 22.0, 30.0, "c"),
    ]  # fmt: skip
    assert chosen([Feed(1, 0.0, 10.0, "a")], Feed(1, 4.0, 6.0, "d")) == [
        Feed(1, 0.0, 4.0, "a"), Feed(1, 4.0, 6.0, "d"), Feed(1, 6.0, 10.0, "a"),
    ]  # fmt: skip


@given(choices)
def test_feeds_never_overlap_and_the_latest_choice_holds_everywhere(made: list[tuple[int, int, str]]) -> None:
    feeds: list[Feed] = []
    for start, length, name in made:
        feeds = chosen(feeds, Feed(1, float(start), float(start + length), name))
    assert all(a.end_s <= b.start_s for a, b in itertools.pairwise(feeds))
    for moment in range(62):
        last = next((n for s, length, n in reversed(made) if s <= moment < s + length), None)
        now = next((f.pass_id for f in feeds if f.start_s <= moment < f.end_s), None)
        assert now == last
