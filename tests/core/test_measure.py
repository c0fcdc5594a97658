"""What is measured of a picture: known answers, and what must not change them."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from zembi.core.footage.measure import BINS, EVERY_S, measure, over, sharpness, shift, unlike_colours

Picture = NDArray[np.uint8]


def drawing(seed: int = 1, size: tuple[int, int] = (270, 480)) -> NDArray[np.float32]:
    """Boxes on grey: sharp edges everywhere."""
    rng = np.random.default_rng(seed)
    out = np.full(size, 120.0, np.float32)
    for _ in range(40):
        y, x = int(rng.integers(0, size[0] - 40)), int(rng.integers(0, size[1] - 60))
        out[y : y + int(rng.integers(10, 40)), x : x + int(rng.integers(10, 60))] = rng.uniform(0, 240)
    return out


def colour(grey: NDArray[np.float32]) -> Picture:
    return np.clip(np.repeat(grey[..., None], 3, axis=2), 0, 255).astype(np.uint8)


def test_what_is_out_of_focus_is_less_sharp_and_contrast_makes_no_difference() -> None:
    sharp = sharpness(drawing())
    values = [sharpness(gaussian_filter(drawing(), blur)) for blur in (1.0, 2.0, 4.0)]
    assert sharp > 0.9
    assert sharp > values[0] > values[1] > values[2]
    assert sharpness(60 + 0.5 * drawing()) == pytest.approx(sharp, abs=0.02)
    noisy = drawing() + np.random.default_rng(3).normal(size=(270, 480)).astype(np.float32) * 4
    assert sharpness(noisy) == pytest.approx(sharp, abs=0.1)
    assert sharpness(np.full((90, 160), 80, np.float32)) == 0.0


@settings(max_examples=25, deadline=None)
@given(st.integers(-9, 9), st.integers(-12, 12), st.integers(0, 50))
def test_the_movement_of_the_camera_is_known_to_the_pixel(down: int, right: int, seed: int) -> None:
    whole = gaussian_filter(drawing(seed, (180, 260)), 1.5)
    one = whole[30:120, 40:200]
    other = whole[30 - down : 120 - down, 40 - right : 200 - right]
    assert shift(one, other) == pytest.approx((down, right), abs=0.6)


def seen(x: float, light: float = 1.0) -> Picture:
    """A place looked at from ``x`` pixels to the right."""
    whole = gaussian_filter(drawing(7, (270, 700)), 1.0)
    left = round(x)
    return colour(light * whole[:, left : left + 480])


def test_a_pan_is_steady_and_a_hand_is_not() -> None:
    still = measure([(seen(50), seen(50), seen(50))])
    pan = measure([(seen(50), seen(58), seen(66))])
    hand = measure([(seen(50), seen(58), seen(50))])
    cut = measure([(seen(50), seen(50), colour(drawing(99)))])
    assert still.shake == [0.0]
    assert still.motion == [0.0]
    assert pan.shake[0] < 0.2
    assert hand.shake[0] > 2
    assert pan.motion[0] > 0.01
    assert cut.shake[0] < 30, "another picture is no shake of the camera"


def test_light_and_what_is_burnt_out() -> None:
    dark, light = measure([(seen(0, 0.2),) * 3]), measure([(seen(0),) * 3])
    assert dark.light[0] == pytest.approx(0.2 * light.light[0], abs=0.01)
    white = np.full((90, 160, 3), 255, np.uint8)
    white[:, :80] = 100
    assert measure([(white,) * 3]).burnt == [0.5]
    assert dark.burnt == [0.0]


def test_colours_are_shares_and_near_ones_are_near() -> None:
    def plain(*rgb: int) -> Picture:
        return np.full((90, 160, 3), rgb, np.uint8)

    red, brick, blue = (
        measure([(plain(*c),) * 3]).colours for c in ((200, 30, 30), (180, 50, 40), (20, 40, 200))
    )
    assert len(red) == BINS**3
    assert sum(red) == pytest.approx(1.0)
    assert unlike_colours(red, red) == 0.0
    assert unlike_colours(red, brick) < unlike_colours(red, blue)
    assert unlike_colours(red, blue) == unlike_colours(blue, red) <= 1.0


def test_means_over_a_range_of_a_file() -> None:
    values = [0.0, 1.0, 2.0, 3.0]
    assert over(values, 0.0, 4 * EVERY_S) == 1.5
    assert over(values, EVERY_S, 2 * EVERY_S) == 1.0
    assert over(values, 2.2 * EVERY_S, 2.3 * EVERY_S) == 2.0
    assert np.isnan(over(values, 40.0, 50.0))
    assert measure([]).sharp == []
