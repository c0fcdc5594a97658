"""Names of sections: verse and chorus where the music says so, plain letters where it does not."""

import numpy as np
import pytest

from zembi.core.song.sections import group_repeats, name_sections


def named(groups: list[int], energy: list[float]) -> list[str]:
    return name_sections([(8 * k, 8 * k + 8) for k in range(len(groups))], groups, energy)


def test_a_loud_repeat_among_quieter_ones_is_the_chorus() -> None:
    names = named([0, 1, 2, 1, 2, 3, 2, 4], [0.2, 0.5, 0.9, 0.5, 0.9, 0.4, 0.9, 0.2])
    assert [n for n in names if n.startswith("Chorus")] == ["Chorus 1", "Chorus 2", "Chorus 3"]
    assert names[1].startswith("Verse")
    assert names[0] == "Intro"


def test_a_chorus_may_be_sung_twice_and_a_verse_follow_a_verse() -> None:
    names = named([0, 1, 1, 2, 2, 1, 2, 2, 3], [0.2, 0.5, 0.5, 0.9, 0.9, 0.5, 0.9, 0.9, 0.2])
    assert names == [
        "Intro",
        "Verse 1",
        "Verse 2",
        "Chorus 1",
        "Chorus 2",
        "Verse 3",
        "Chorus 3",
        "Chorus 4",
        "Outro",
    ]


@pytest.mark.parametrize(("groups", "energy"), [
    # Hardly anything comes again.
    ([0, 1, 2, 3, 1, 4, 5, 6, 7, 8], [0.5, 0.9, 0.5, 0.6, 0.9, 0.5, 0.7, 0.6, 0.5, 0.4]),
    # Nothing is louder than the rest.
    ([0, 1, 0, 1, 0, 1], [0.50, 0.51, 0.51, 0.50, 0.50, 0.51]),
    ([0, 1, 2, 3, 4, 5], [0.1, 0.5, 0.9, 0.2, 0.5, 0.3]),
    # The loud one is only longer: it never comes back after something else.
    ([0, 1, 2, 2, 2, 3], [0.2, 0.5, 0.9, 0.9, 0.9, 0.3]),
    # A riff: the same music three times running, though it comes back later.
    ([0, 1, 2, 2, 2, 1, 2], [0.2, 0.5, 0.9, 0.9, 0.9, 0.5, 0.9]),
    ([0, 1, 1, 1, 2, 1, 2], [0.2, 0.5, 0.5, 0.5, 0.9, 0.5, 0.9]),
    # One stretch stands between two pairs: that is a middle part, no verse.
    ([0, 0, 1, 0, 0], [0.9, 0.9, 0.3, 0.9, 0.9]),
])  # fmt: skip
def test_without_evidence_sections_have_letters_and_repeats_the_same_one(
    groups: list[int], energy: list[float]
) -> None:
    names = named(groups, energy)
    letters = [n.split()[0] for n in names]
    assert letters == [chr(ord("A") + list(dict.fromkeys(groups)).index(g)) for g in groups]
    assert len(set(names)) == len(names)
    for group in set(groups):
        numbers = [n for n, g in zip(names, groups, strict=True) if g == group]
        assert len(numbers) == 1 or [n.split()[1] for n in numbers] == [
            str(k + 1) for k in range(len(numbers))
        ]


@pytest.mark.parametrize(
    ("first", "count", "same"), [(0, 8, True), (2, 6, True), (0, 4, True), (5, 3, False)]
)
def test_a_repeat_is_known_though_it_is_cut_short(first: int, count: int, same: bool) -> None:
    """Bars are alike only where they are of the same place in the same music."""
    music = [*range(8), *range(20, 28), *range(first, first + count)]
    likeness = np.equal.outer(music, music).astype(float)
    groups = group_repeats(likeness, [(0, 8), (8, 16), (16, 16 + count)])
    assert groups == [0, 1, 0 if same else 2]


def test_the_likelier_of_two_is_the_one_repeated() -> None:
    music = np.array([*range(4), *range(4), *range(4)])
    likeness = np.equal.outer(music, music).astype(float)
    likeness[:4, 8:] *= 0.7
    likeness[4:8, :4] = 0.0
    likeness = np.minimum(likeness, likeness.T)
    assert group_repeats(likeness, [(0, 4), (4, 8), (8, 12)]) == [0, 1, 1]
