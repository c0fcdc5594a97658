"""Steps of the chain in the film: known answers, what stays, and that a chain of many does not band."""

from math import erf

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from zembi.core.picture.steps import STEPS
from zembi.media.sheet import Plane, Sheet, coded_planes, sheet_of
from zembi.media.steps import ACTS
from zembi.media.steps.grain import begins_at, pattern

HIGH, WIDE = 108, 192


def planes(luma: NDArray[np.generic], blue: int = 128, red: int = 128) -> list[Plane]:
    small = (luma.shape[0] // 2, luma.shape[1] // 2)
    return [luma.astype(np.uint8), np.full(small, blue, np.uint8), np.full(small, red, np.uint8)]


def done(step: str, picture: list[Plane], **values: float) -> list[Plane]:
    """A picture after a step, in 8 bit."""
    height, width = picture[0].shape
    sheet = sheet_of(list(picture), (width, height))
    return coded_planes(ACTS[step](sheet, {**STEPS[step].rest, **values}))


def blurred(picture: list[Plane], amount: float) -> list[Plane]:
    return done("blur", picture, amount=amount)


def sharpened(picture: list[Plane], amount: float) -> list[Plane]:
    return done("sharpen", picture, amount=amount)


def glowing(picture: list[Plane], amount: float) -> list[Plane]:
    return done("glow", picture, amount=amount)


def edge() -> NDArray[np.int64]:
    """Dark on the left, light on the right."""
    return np.tile(np.where(np.arange(WIDE) < WIDE // 2, 50, 200), (HIGH, 1))


@given(st.integers(16, 235), st.integers(16, 240), st.floats(0.001, 0.2))
def test_what_is_even_stays_even_up_to_the_edges(luma: int, blue: int, amount: float) -> None:
    flat = planes(np.full((HIGH, WIDE), luma), blue)
    for made in (blurred(flat, amount), sharpened(flat, 2.0)):
        assert [set(p.ravel().tolist()) for p in made] == [{luma}, {blue}, {128}]


@pytest.mark.parametrize("amount", [0.01, 0.03, 0.06, 0.1], ids=str)
def test_a_blurred_edge_is_the_integral_of_a_normal_distribution(amount: float) -> None:
    row = blurred(planes(edge()), amount)[0][HIGH // 2].astype(float)
    deviation = amount * HIGH
    exact = [125 + 75 * erf((x + 0.5 - WIDE / 2) / deviation / 2**0.5) for x in range(WIDE)]
    near = slice(WIDE // 2 - 40, WIDE // 2 + 40)
    assert row[near] == pytest.approx(exact[near], abs=4)
    assert abs(row.mean() - 125) < 1


def test_sharpening_steepens_an_edge_and_none_is_none() -> None:
    assert [p.tolist() for p in sharpened(planes(edge()), 0.0)] == [p.tolist() for p in planes(edge())]
    large = np.kron(edge(), np.ones((10, 10), int))
    row = sharpened(planes(large), 1.0)[0][540].astype(int)
    assert row[: WIDE * 5 - 12].tolist() == [50] * (WIDE * 5 - 12)
    assert row[WIDE * 5 - 1] < 30
    assert row[WIDE * 5] > 220
    more = sharpened(planes(large), 0.5)[0][540].astype(int)
    assert row[WIDE * 5] > more[WIDE * 5] > 200


def test_a_glow_lights_what_is_beside_a_light_and_leaves_black_black() -> None:
    dark = np.full((HIGH, WIDE), 16)
    assert [p.tolist() for p in glowing(planes(dark), 1.0)] == [p.tolist() for p in planes(dark)]
    lamp = dark.copy()
    lamp[44:64, 86:106] = 235
    lit = glowing(planes(lamp), 0.8)[0].astype(int)
    assert (lit >= lamp - 1).all(), "nothing darker"
    assert lit[54, 106] > lit[54, 108] > lit[54, 111] > lit[54, 130] == 16
    assert lit[54, 96] <= 236
    assert lit[5, 5] == 16
    half = glowing(planes(lamp), 0.4)[0].astype(int)
    assert half[54, 107] - 16 == pytest.approx((lit[54, 107] - 16) / 2, abs=1.5)


def test_a_coloured_light_glows_in_its_colour() -> None:
    red = planes(np.full((HIGH, WIDE), 63), 102, 240)
    lit = glowing(red, 0.5)
    assert [int(p.mean()) for p in lit] == pytest.approx([63, 102, 240], abs=2), "full red cannot be redder"


def test_the_tile_of_grain_is_the_same_everywhere_and_dark_as_often_as_light() -> None:
    tile = pattern()
    assert tile[0, :6].tolist() == FIRST
    assert tile.shape == (256, 256)
    assert -255 <= tile.min() < -250 < 250 < tile.max() <= 255
    assert abs(float(tile.mean())) < 1
    assert float(np.abs(tile).mean()) == pytest.approx(85, abs=1), "of two even chances the difference"
    # Neither along nor across does a value say anything of the next.
    for axis in (0, 1):
        there = np.corrcoef(tile.ravel(), np.roll(tile, 1, axis).ravel())[0, 1]
        assert abs(there) < 0.02


#: As the page has them too.
FIRST = [50, -131, 224, 183, 94, 20]


@given(st.integers(0, 1 << 20), st.floats(0.05, 1.0))
def test_grain_moves_each_point_as_its_pattern_says(number: int, amount: float) -> None:
    grey = planes(np.full((HIGH, WIDE), 120), 60, 200)
    x, y = begins_at(number)
    tile = np.roll(pattern(), (-y, -x), (0, 1))[:HIGH, :WIDE]
    amount = round(amount, 4)
    share = np.rint(np.abs(tile) * amount / 2) / 255
    light, blue, _ = done("grain", grey, amount=amount, number=number)
    assert np.abs(light - (120 + (np.where(tile > 0, 235, 16) - 120) * share)).max() <= 1
    assert (done("grain", grey, amount=amount, number=number)[0] == light).all(), "the same every time"
    mean = share.reshape(HIGH // 2, 2, WIDE // 2, 2).mean(axis=(1, 3))
    assert np.abs(blue - (60 + 68 * mean)).max() <= 1.5
    other = done("grain", grey, amount=amount, number=number + 1)[0]
    assert (other != light).mean() > 0.3, "another in the next frame"


def test_grain_is_as_coarse_in_a_large_film_as_in_a_small_one() -> None:
    light = done("grain", planes(np.full((1080, 1920), 120)), amount=0.5, number=3)[0]
    assert (light[::2, ::2] == light[1::2, 1::2]).all()
    assert (light[::2, ::2] == light[::2, 1::2]).all()


def test_every_kind_of_step_is_done_in_the_film() -> None:
    assert list(ACTS) == list(STEPS)


@pytest.mark.parametrize("step", list(STEPS))
def test_a_step_at_rest_changes_nothing(step: str) -> None:
    picture = planes(np.add.outer(np.arange(HIGH), np.arange(WIDE)) % 200 + 20, 90, 160)
    if step == "bars":
        # There is no shape of nothing: it is left out of the acts.
        return
    for before, after in zip(picture, done(step, picture), strict=True):
        assert np.abs(before.astype(int) - after).max() <= 1


@given(st.lists(st.floats(0.55, 1.45), min_size=9, max_size=9))
def test_ten_steps_round_once(amounts: list[float]) -> None:
    """A dark ramp that is made darker and lighter again is as smooth as one step by the same amount makes it."""
    ramp = planes(np.tile(np.linspace(40, 200, WIDE), (HIGH, 1)))
    sheet = sheet_of(list(ramp), (WIDE, HIGH))
    exact = ramp[0][0].astype(float)
    for amount in (*amounts, 0.9):
        sheet = ACTS["lightness"](sheet, {"amount": amount})
        goal, share = (16, 1 - amount) if amount < 1 else (235, amount - 1)
        exact = exact + (goal - exact) * share
    assert np.abs(coded_planes(sheet)[0][0] - exact).max() <= 0.51


def test_where_a_picture_was_made_smaller_a_step_after_it_leaves_its_outside_free() -> None:
    white = sheet_of(planes(np.full((HIGH, WIDE), 235)), (WIDE, HIGH))
    small: Sheet = ACTS["place"](white, {**STEPS["place"].rest, "scale": 0.5})
    assert small.cover is not None
    assert small.cover[0][HIGH // 2, WIDE // 2] == 1
    assert small.cover[0][2, 2] == 0
    soft = ACTS["blur"](small, {"amount": 0.05})
    assert soft.cover is not None
    # Where it covers half, it is half as light: what is white stays white over white.
    assert soft.planes[0] == pytest.approx(219 * soft.cover[0], abs=0.5)
    lit = ACTS["lightness"](small, {"amount": 2.0})
    assert lit.planes[0] == pytest.approx(219 * small.cover[0], abs=0.5)
