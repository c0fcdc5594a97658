"""What is remembered by identity."""

from dataclasses import dataclass

from hypothesis import given
from hypothesis import strategies as st

from zembi.core.memory import by_identity, each_by_identity, same_ends


@dataclass(frozen=True)
class Thing:
    size: int


def test_a_part_is_worked_out_once_and_an_equal_one_anew() -> None:
    asked: list[tuple[Thing, int]] = []

    @by_identity(8)
    def times(thing: Thing, by: int) -> int:
        asked.append((thing, by))
        return thing.size * by

    one, other = Thing(3), Thing(3)
    assert [times(one, 2), times(one, 2), times(one, 5), times(other, 2)] == [6, 6, 15, 6]
    assert [id(t) for t, _ in asked] == [id(one), id(one), id(other)]


def test_what_is_forgotten_is_worked_out_again_and_never_mixed_up() -> None:
    @by_identity(4)
    def size(thing: Thing) -> int:
        return thing.size

    # Parts come and go: an identity that is used again must not answer for the one before.
    assert [size(Thing(n)) for n in range(500)] == list(range(500))


def test_of_many_parts_only_those_that_are_new_are_asked_for() -> None:
    asked: list[int] = []

    @each_by_identity(2)
    def plus(thing: Thing, more: int, by: int) -> int:
        asked.append(thing.size)
        return (thing.size + more) * by

    things = [Thing(n) for n in range(6)]
    assert plus(things, 2, beside=([1] * 6,)) == [2, 4, 6, 8, 10, 12]
    asked.clear()
    between = [*things[:2], Thing(40), *things[2:]]
    assert plus(between, 2, beside=([1] * 7,)) == [2, 4, 82, 6, 8, 10, 12]
    assert asked == [40]
    asked.clear()
    assert plus(between, 2, beside=([1, 1, 1, 5, 1, 1, 1],))[3] == 14
    assert asked == [2], "what stands beside it has changed"
    asked.clear()
    assert plus([*between[:6], Thing(5)], 2, beside=([1, 1, 1, 5, 1, 1, 1],))[6] == 12
    assert asked == [5], "an equal part is another one"
    asked.clear()
    assert plus([Thing(9), *between[1:6], Thing(8)], 2, beside=([1, 1, 1, 5, 1, 1, 1],))[2] == 82
    assert asked == [9, 8], "what lies between two that changed is known"


THINGS = [Thing(n % 4) for n in range(12)]
LISTS = st.lists(st.tuples(st.sampled_from(THINGS), st.integers(0, 2)), max_size=9)


@given(st.lists(st.tuples(LISTS, st.integers(0, 3)), max_size=8))
def test_many_parts_give_what_each_gives(calls: list[tuple[list[tuple[Thing, int]], int]]) -> None:
    @each_by_identity(3)
    def told(thing: Thing, beside: int, by: int) -> tuple[int, int, int]:
        return id(thing), beside, by

    for rows, by in calls:
        things, beside = [t for t, _ in rows], [b for _, b in rows]
        assert told(things, by, beside=(beside,)) == [(id(t), b, by) for t, b in rows]


@given(st.lists(st.integers(0, 2), max_size=8), st.lists(st.integers(0, 2), max_size=8))
def test_ends_that_are_the_same_share_no_part(one: list[int], other: list[int]) -> None:
    head, tail = same_ends(one, other, equal=True)
    assert head + tail <= min(len(one), len(other))
    assert one[:head] == other[:head]
    assert one[len(one) - tail :] == other[len(other) - tail :]
    if head + tail < min(len(one), len(other)):
        assert one[head] != other[head]
        assert one[-1 - tail] != other[-1 - tail]
