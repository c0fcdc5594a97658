"""Boxes between points met by whole ones: as near as is said, and the same picture as scaling the box itself."""

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from tests.looks import Look, acts
from zembi.media.compositor import CompositeLayer, composed
from zembi.media.enlarge import NEAR, enlarged, whole_box
from zembi.media.sheet import Plane

WIDE, HIGH = 640, 360


def picture() -> list[Plane]:
    """Light that rises to the right and falls downwards, with round hills of colour."""
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(float)
    luma = 40 + 140 * x / WIDE + 40 * (1 - y / HIGH)
    small = (slice(None, None, 2), slice(None, None, 2))
    blue = 128 + 60 * np.sin(x[small] / 50) * np.cos(y[small] / 40)
    red = 128 + 60 * np.cos(x[small] / 70)
    return [np.rint(p).astype(np.uint8) for p in (luma, blue, red)]


def scaled(plane: Plane, box: tuple[float, float, float, float]) -> NDArray[np.int16]:
    """The box by itself, which is slower."""
    k = WIDE // plane.shape[1]
    left, top, wide, high = (v / k for v in box)
    image = Image.fromarray(plane).resize(
        plane.shape[::-1], Image.Resampling.BILINEAR, box=(left, top, left + wide, top + high)
    )
    return np.asarray(image).astype(np.int16)


@settings(max_examples=200, deadline=None)
@given(st.sampled_from([1920, 1080, 640, 360, 90]), st.floats(0.3, 0.999), st.floats(0, 1))
def test_a_box_lies_inside_and_near_its_place(full: int, share: float, place: float) -> None:
    long = full * share
    start = (full - long) * place
    found = whole_box(start, long, full)
    if found is None:
        return
    first, length, to, cut = found
    assert all(v % 2 == 0 for v in found)
    assert 0 <= first <= start + 1e-6
    assert start + long - 1e-6 <= first + length <= full
    assert 0 <= cut <= cut + full <= to
    assert abs((start - first) * to / length - cut) <= NEAR
    assert abs((start + long - first) * to / length - cut - full) <= NEAR


def test_most_boxes_of_a_pulse_are_met() -> None:
    scales = 1 + np.arange(20, 300) / 1000
    for full in (1920, 1080):
        met = [whole_box(full * (1 - 1 / s) / 2, full / s, full) is not None for s in scales]
        assert np.mean(met) > 0.7


@settings(max_examples=60, deadline=None)
@given(st.floats(1.02, 3), st.floats(0, 1), st.floats(0, 1))
def test_it_is_the_picture_that_scaling_the_box_itself_makes(scale: float, x: float, y: float) -> None:
    wide, high = WIDE / scale, HIGH / scale
    box = ((WIDE - wide) * x, (HIGH - high) * y, wide, high)
    planes = picture()
    large = enlarged(planes, box)
    if large is None:
        return
    for plane, made in zip(planes, large, strict=True):
        assert made.shape == plane.shape
        assert np.abs(made.astype(np.int16) - scaled(plane, box)).max() <= 2


@pytest.mark.parametrize(
    "look", [Look(scale=1.25), Look(scale=1.5, x=0.1, y=-0.2), Look(scale=1.25, mirror=1.0)]
)
def test_the_film_lays_it_where_its_look_says(look: Look) -> None:
    planes = picture()
    frame = av.VideoFrame.from_ndarray(
        np.concatenate([p.ravel() for p in planes]).reshape(-1, WIDE), "yuv420p"
    )
    luma = composed([CompositeLayer(acts(look), frame)], WIDE, HIGH).to_ndarray()[:HIGH].astype(float)
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(float) + 0.5
    # Back from the place in the film to that in the picture.
    u = (x - WIDE / 2 - look.x * WIDE) / look.scale + WIDE / 2
    v = (y - HIGH / 2 - look.y * HIGH) / look.scale + HIGH / 2
    u = WIDE - u if look.mirror else u
    exact = 40 + 140 * (u - 0.5) / WIDE + 40 * (1 - (v - 0.5) / HIGH)
    assert np.abs(luma - exact).max() < 1.6
