"""What is remembered by identity."""

from dataclasses import dataclass

from zembi.core.memory import by_identity


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
