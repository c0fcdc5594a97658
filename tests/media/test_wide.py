"""Footage of high dynamic range and wide gamut: published points of its curves, and what becomes of files that say so."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.colour.spaces import LUMINANCE
from zembi.core.colour.video import codes_of, rgb_of_codes
from zembi.core.colour.wide import (
    PEAK,
    TO_709,
    WHITE,
    Wide,
    film_of,
    hlg_light,
    hlg_scene,
    pq_coded,
    pq_light,
    rolled_off,
)
from zembi.media.frames import FrameReader
from zembi.media.picture import Upright
from zembi.media.sheet import planes_of
from zembi.media.wide import wide_of

SIZE = (64, 48)
#: Codes of transfer and primaries in files.
TRANSFER = {"pq": 16, "hlg": 18, "2020": 14}


@pytest.mark.parametrize(
    ("coded", "light"),
    [(0.0, 0.0), (0.508078, 100.0), (0.580690, 203.0), (0.751827, 1000.0), (1.0, 10_000.0)],
)
def test_perceptual_quantisation_at_published_points(coded: float, light: float) -> None:
    assert float(pq_light(np.array(coded))) == pytest.approx(light, rel=2e-4, abs=1e-6)
    assert float(pq_coded(np.array(light))) == pytest.approx(coded, abs=2e-5)


@pytest.mark.parametrize(("coded", "scene"), [(0.0, 0.0), (0.5, 1 / 12), (0.75, 0.265), (1.0, 1.0)])
def test_hybrid_log_gamma_at_published_points(coded: float, scene: float) -> None:
    assert float(hlg_scene(np.array(coded))) == pytest.approx(scene, abs=3e-4)


def test_reference_white_of_both_is_as_bright() -> None:
    """BT.2408, table 1: 75 % of HLG and 58 % of PQ are 203 cd/m2."""
    assert hlg_light(np.full(3, 0.75)) == pytest.approx(WHITE, rel=0.01)
    assert pq_light(np.full(3, 0.5807)) == pytest.approx(WHITE, rel=0.01)
    assert hlg_light(np.ones(3)) == pytest.approx(PEAK, rel=1e-3)


def test_white_stays_white_and_weights_stay() -> None:
    assert TO_709.sum(1) == pytest.approx(1.0, abs=2e-4)
    assert pytest.approx([0.2627, 0.6780, 0.0593], abs=5e-4) == LUMINANCE @ TO_709


@given(st.floats(0, 1), st.floats(0, 1))
def test_brighter_stays_brighter_and_greys_stay_grey(one: float, other: float) -> None:
    low, high = sorted((one, other))
    for wide in ("pq", "hlg", "2020"):
        a, b = film_of(np.full(3, low), wide), film_of(np.full(3, high), wide)  # type: ignore[arg-type]
        assert (a <= b + 1e-9).all()
        assert np.ptp(a) < 2e-3
    assert rolled_off(np.full((1, 3), PEAK)).max() == pytest.approx(WHITE, rel=1e-3)


def frame_of(
    rgb: tuple[float, float, float], wide: Wide | None, pixels: str = "yuv420p10le"
) -> av.VideoFrame:
    """A flat frame of ten bits whose colours are coded with BT.2020's matrix."""
    weights = np.array([0.2627, 0.6780, 0.0593])
    luma = float(weights @ rgb)
    codes = (
        64 + 876 * luma,
        512 + 448 * (rgb[2] - luma) / (1 - weights[2]),
        512 + 448 * (rgb[0] - luma) / (1 - weights[0]),
    )
    frame = av.VideoFrame(*SIZE, pixels)
    for plane, code in zip(frame.planes, codes, strict=True):
        np.frombuffer(memoryview(plane), np.uint16)[:] = round(code)
    frame.colorspace, frame.color_range = 9, 1
    if wide:
        frame.color_trc, frame.color_primaries = TRANSFER[wide], 9
    return frame


@pytest.mark.parametrize("wide", ["pq", "hlg", "2020"])
@pytest.mark.parametrize("rgb", [(0.5, 0.5, 0.5), (0.7, 0.7, 0.7), (0.6, 0.4, 0.35), (0.2, 0.4, 0.45)])
def test_a_frame_is_brought_to_the_films_colours(wide: Wide, rgb: tuple[float, float, float]) -> None:
    frame = frame_of(rgb, wide)
    assert wide_of(frame) == wide
    wanted = codes_of(film_of(np.array(rgb), wide))
    upright = Upright(*SIZE)
    seen = [float(p[10, 10]) for p in planes_of(upright.picture(frame))]
    assert seen == pytest.approx(wanted, abs=1.6)
    deep = upright.deep(frame)
    assert deep is not None
    assert [float(p[10, 10]) / 256 for p in planes_of(deep)] == pytest.approx(wanted, abs=1.0)


def test_a_gradient_of_ten_bits_keeps_its_steps() -> None:
    """Every code of ten bits over the middle of the scale: no step of what comes out is larger than three of 8 bit."""
    out = []
    upright = Upright(*SIZE)
    for code in range(300, 620, 4):
        value = (code - 64) / 876
        deep = upright.deep(frame_of((value,) * 3, "hlg"))
        assert deep is not None
        out.append(float(planes_of(deep)[0][5, 5]) / 256)
    steps = np.diff(out)
    assert (steps > 0).all()
    assert steps.max() < 3


def test_a_file_that_says_so_is_seen_so(tmp_path: Path) -> None:
    path = tmp_path / "phone.mkv"
    with av.open(str(path), "w") as out:
        video = out.add_stream("ffv1", rate=24)
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p10le"
        context = video.codec_context
        context.color_primaries, context.color_trc, context.colorspace, context.color_range = 9, 18, 9, 1
        for number in range(3):
            frame = frame_of((0.75, 0.75, 0.75), "hlg")
            frame.pts, frame.time_base = number, Fraction(1, 24)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    reader = FrameReader(path)
    try:
        frame = reader.frame(1)
        assert wide_of(frame) == "hlg"
        wanted = codes_of(film_of(np.full(3, 0.75), "hlg"))
        done = Upright(32, 24).picture(frame)
        assert (done.width, done.height) == (32, 24)
        assert [float(p[4, 4]) for p in planes_of(done)] == pytest.approx(wanted, abs=1.6)
    finally:
        reader.close()


def test_frames_of_a_film_are_left_alone() -> None:
    frame = av.VideoFrame(*SIZE, "yuv420p")
    assert wide_of(frame) is None
    assert Upright(*SIZE).picture(frame) is frame
    assert rgb_of_codes(np.array([126.0, 128.0, 128.0])) == pytest.approx(0.5, abs=0.01)
