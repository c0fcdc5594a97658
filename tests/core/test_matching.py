"""Made pairs of pictures: what was done to one is found again; other places are brought nearer, and no farther than an eye would."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.colour.grade import CONTROLS, checked_grade, graded
from zembi.core.colour.matching import FOUND, Difference, difference, made_like


def scene(seed: int, *, low: float = 0.05, high: float = 0.75, points: int = 2400) -> np.ndarray:
    """A few things of their own colours in light and shadow, with grain."""
    rng = np.random.default_rng(seed)
    colours = rng.random((7, 3)) * 0.5 + 0.25
    shade = rng.beta(2, 2, (points, 1)) * (high - low) + low
    return np.clip(
        colours[rng.integers(0, 7, points)] * shade * 1.6 + rng.normal(0, 0.01, (points, 3)), 0.01, 0.98
    )


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize(
    "made",
    [
        {"exposure": 0.6},
        {"exposure": -0.8},
        {"temperature": 0.4},
        {"temperature": -0.3, "exposure": 0.3},
        {"contrast": 1.25},
        {"contrast": 0.8, "exposure": 0.2},
        {"saturation": 1.4, "tint": 0.2},
        {"exposure": 0.9, "contrast": 1.14, "temperature": 0.35, "saturation": 1.08},
    ],
)
def test_what_was_done_is_found_within_two_hundredths(seed: int, made: dict[str, float]) -> None:
    before = scene(seed)
    after = graded(before, checked_grade(made))
    found = made_like(before, after)
    whole = checked_grade(found.values)
    assert {n: whole[n] for n in FOUND} == pytest.approx({n: checked_grade(made)[n] for n in FOUND}, abs=0.02)
    assert found.after.whole < 0.1 * found.before.whole


def test_other_parts_of_one_scene_tell_what_was_done_to_one() -> None:
    """The left and the right of a picture: other points, the same things."""
    whole = scene(11, points=6000)
    made = checked_grade({"exposure": 0.7, "temperature": 0.3})
    found = made_like(whole[::2], graded(whole[1::2], made))
    assert found.values.get("exposure", 0) == pytest.approx(0.7, abs=0.1)
    assert found.values.get("temperature", 0) == pytest.approx(0.3, abs=0.1)


def test_pictures_that_are_alike_are_left_alone() -> None:
    picture = scene(3)
    found = made_like(picture, picture.copy())
    assert all(abs(v - CONTROLS[n].rest) < 0.01 for n, v in found.values.items())
    assert found.after.whole < 0.05


def test_what_only_one_picture_shows_does_not_colour_the_other() -> None:
    """A red wall comes into an otherwise equal picture: nothing is made red for it."""
    room = scene(5)
    wall = np.clip(np.array([0.7, 0.12, 0.1]) + np.random.default_rng(1).normal(0, 0.02, (800, 3)), 0, 1)
    found = made_like(room, np.concatenate([room, wall])[np.random.default_rng(2).permutation(3200)])
    assert abs(found.values.get("temperature", 0.0)) < 0.25
    assert abs(found.values.get("exposure", 0.0)) < 0.3


@given(st.integers(0, 10_000), st.integers(0, 10_000))
@settings(max_examples=15, deadline=None)
def test_a_match_is_in_range_and_never_makes_it_worse(one: int, other: int) -> None:
    found = made_like(scene(one, low=0.02, high=0.5), scene(other, low=0.3, high=0.95))
    checked_grade(found.values)
    assert found.after.whole <= found.before.whole
    assert set(found.values) <= set(FOUND)


def test_black_and_white_and_flat_pictures_are_borne() -> None:
    for one, other in ((0.0, 1.0), (1.0, 0.0), (0.0, 0.0), (0.5, 0.5)):
        found = made_like(np.full((500, 3), one), np.full((500, 3), other))
        checked_grade(found.values)


def test_differences_by_their_kind() -> None:
    grey = np.repeat(np.linspace(0.2, 0.6, 200)[:, None], 3, axis=1)
    assert difference(grey, grey) == Difference(0.0, 0.0, 0.0)
    brighter = difference(grey, np.minimum(grey * 1.3, 1))
    assert brighter.lightness > 5
    assert brighter.colour < 0.1
    warmer = difference(grey, grey * [1.1, 1.0, 0.8])
    assert warmer.colour > 1
    flat = difference(grey, 0.4 + (grey - 0.4) * 0.3)
    assert flat.contrast > 4 > flat.lightness
