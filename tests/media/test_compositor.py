"""Laying pictures over each other: known pixels for every curve, and a dissolve in a rendered film."""

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.looks import Look, acts, chain
from tests.spans import of, span
from zembi.core.picture.chain import Act
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import PLACE, SHIFT
from zembi.core.picture.steps.shift import points
from zembi.core.programme.model import Black, Layer, Picture, Programme, Span, Title
from zembi.core.timemap import playback
from zembi.core.titles.card import Card, CardLine
from zembi.media.compositor import CompositeLayer, composed
from zembi.media.picture import Upright
from zembi.media.render import Film, film_pictures

SIZE = (64, 32)


def flat(luma: int, blue: int = 128, red: int = 128) -> av.VideoFrame:
    width, height = SIZE
    planes = [
        np.full(width * height, luma),
        np.full(width * height // 4, blue),
        np.full(width * height // 4, red),
    ]
    return av.VideoFrame.from_ndarray(np.concatenate(planes).astype(np.uint8).reshape(-1, width), "yuv420p")


def halves() -> av.VideoFrame:
    """The left half dark, the right half light."""
    width, height = SIZE
    luma = np.where(np.arange(width) < width // 2, 50, 200)
    rows = np.concatenate([np.tile(luma, height), np.full(width * height // 2, 128)])
    return av.VideoFrame.from_ndarray(rows.astype(np.uint8).reshape(-1, width), "yuv420p")


def luma_of(frame: av.VideoFrame) -> NDArray[np.uint8]:
    return np.asarray(frame.to_ndarray()[: frame.height])


def lay(*parts: CompositeLayer) -> NDArray[np.uint8]:
    return luma_of(composed(list(parts), *SIZE))


def test_one_picture_as_it_is_comes_back_untouched() -> None:
    frame = flat(90)
    assert composed([CompositeLayer(frame=frame)], *SIZE) is frame
    assert (lay() == 16).all()


def test_opacity_mixes_the_coded_values_of_all_planes() -> None:
    out = composed(
        [
            CompositeLayer(frame=flat(40, 100, 60)),
            CompositeLayer(acts(Look(opacity=0.25)), flat(200, 140, 220)),
        ],
        *SIZE,
    )
    values = out.to_ndarray()
    assert set(values[: SIZE[1]].ravel()) == {80}
    chroma = values[SIZE[1] :].ravel()
    assert (set(chroma[: len(chroma) // 2]), set(chroma[len(chroma) // 2 :])) == ({110}, {100})


@pytest.mark.parametrize(("lightness", "luma"), [(0.0, 16), (0.5, 58), (1.0, 100), (1.5, 168), (2.0, 235)])
def test_lightness_goes_straight_to_black_and_to_white(lightness: float, luma: int) -> None:
    assert set(lay(CompositeLayer(acts(Look(lightness=lightness)), flat(100))).ravel()) <= {
        luma,
        luma - 1,
        luma + 1,
    }


def test_scale_is_about_the_middle_and_what_is_outside_lets_through() -> None:
    out = lay(CompositeLayer(frame=flat(200)), CompositeLayer(acts(Look(scale=0.5)), flat(60)))
    assert (out[8:24, 16:48] == 60).all()
    assert (out[:7] == 200).all()
    assert (out[:, :15] == 200).all()


def test_shift_is_in_shares_of_the_frame_to_the_right_and_down() -> None:
    out = lay(CompositeLayer(acts(Look(x=0.25, y=0.5)), flat(200)))
    assert (out[17:, 17:] == 200).all()
    assert (out[:15] == 16).all()
    assert (out[:, :15] == 16).all()


def test_a_turn_is_clockwise() -> None:
    # The light half is on the right; a quarter turn clockwise brings it to the bottom.
    out = lay(CompositeLayer(acts(Look(turn=90)), halves()))
    assert out[4, 32] == 50
    assert out[27, 32] == 200
    assert (lay(CompositeLayer(acts(Look(turn=180)), halves()))[16, [5, 60]] == [200, 50]).all()


def words(text: str) -> Card:
    return Card((CardLine(text),), size=0.5, shadow=0.0)


def test_words_are_light_over_what_lies_beneath() -> None:
    out = lay(CompositeLayer(frame=flat(60)), CompositeLayer(card=words("HH")))
    assert out[8:24, 20:44].max() > 180
    assert (out[:6] == 60).all()
    assert (out[:, :10] == 60).all()


def test_a_dissolve_a_fade_and_black_in_a_film(tmp_path: Path) -> None:
    files = {}
    for name, luma in (("dark", 40), ("light", 200)):
        with av.open(str(tmp_path / f"{name}.mkv"), "w") as out:
            stream = out.add_stream("ffv1", rate=24)
            stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
            for _ in range(48):
                out.mux(stream.encode(flat(luma)))
            out.mux(stream.encode(None))
        files[name] = tmp_path / f"{name}.mkv"
    up = chain(opacity=Curve((Key(0, 0.0, "straight"), Key(8, 1.0, "straight"))))
    away = chain(lightness=Curve((Key(0, 1.0, "straight"), Key(10, 0.0, "straight"))))
    base = [
        span(0, 20, "dark"),
        Span(12, 30, Picture("light"), playback(18, 0.0), up),
        Span(30, 40, Picture("light"), playback(10, 1.0), away),
    ]
    over = [Span(2, 4, Black()), span(5, 7, None), Span(36, 38, Title(words("H")))]
    film = Film(of(base, over), files, None, Fraction(24), *SIZE, 0, 40)
    seen = [int(luma_of(p)[0, 0]) for p in film_pictures(film)]
    assert seen[:12] == [40, 40, 16, 16, 40, 40, 40, 40, 40, 40, 40, 40]
    assert seen[12:20] == [round(40 + 160 * (n + 0.5) / 8) for n in range(8)]
    assert set(seen[20:30]) == {200}
    assert seen[30:] == [pytest.approx(16 + 184 * (1 - (n + 0.5) / 10), abs=1) for n in range(10)]


def test_a_frame_pushed_aside_leaves_the_rest_to_what_lies_beneath() -> None:
    """An enlarged picture is cut off at the frame before it is pushed; pairs of points keep chroma in its place."""
    moved = tuple(
        Act(kind, {**kind.rest, **values})
        for kind, values in ((PLACE, {"scale": 2.0}), (SHIFT, {"x": -0.25, "y": 0.5}))
    )
    out = lay(CompositeLayer(frame=flat(60)), CompositeLayer(acts=moved, frame=flat(200)))
    width, height = SIZE
    assert (out[: height // 2] == 60).all()
    assert (out[height // 2 :, : width * 3 // 4] == 200).all()
    assert (out[:, width * 3 // 4 :] == 60).all()
    for share in np.linspace(-1, 1, 333):
        # Two pictures one side apart stay so when they are rounded.
        for length in (1920, 1080, 858, 270, 238):
            assert points(float(share) + 1, length) - points(float(share), length) == length
            assert points(float(share), length) % 2 == 0


def test_nothing_laid_is_black_and_a_range_begins_where_it_begins(tmp_path: Path) -> None:
    programme = Programme(9, (Layer("Shots", ()),))
    assert {
        int(luma_of(p).max()) for p in film_pictures(Film(programme, {}, None, Fraction(24), *SIZE, 2, 7))
    } == {16}


def coded(luma: int, blue: int, red: int, name: str, matrix: int, levels: int) -> av.VideoFrame:
    frame = flat(luma, blue, red)
    if name != "yuv420p":
        frame = av.VideoFrame.from_ndarray(np.full((SIZE[1], SIZE[0], 3), (luma, blue, red), np.uint8), name)
    frame.colorspace, frame.color_range, frame.time_base = matrix, levels, Fraction(1, 24)
    return frame


@pytest.mark.parametrize(
    ("source", "becomes"),
    [
        # Red 200, green 100, blue 40: in BT.709 of limited range, by its own formula.
        (coded(200, 100, 40, "rgb24", 2, 0), (116, 92, 174)), (coded(40, 100, 200, "bgr24", 2, 0), (116, 92, 174)),
        # The same colour as BT.601 codes it, in both ranges.
        (coded(122, 87, 176, "yuv420p", 5, 1), (116, 92, 174)), (coded(123, 81, 183, "yuv420p", 5, 2), (116, 92, 174)),
        # White and black of full range.
        (coded(255, 128, 128, "yuv420p", 1, 2), (235, 128, 128)), (coded(0, 128, 128, "yuv420p", 1, 2), (16, 128, 128)),
        # What is coded as the film is, or says nothing, is not touched.
        (coded(122, 87, 176, "yuv420p", 1, 1), (122, 87, 176)), (coded(122, 87, 176, "yuv420p", 2, 0), (122, 87, 176)),
    ],
    ids=["rgb", "bgr", "601", "601 full", "white", "black", "709", "unsaid"],
)  # fmt: skip
@pytest.mark.parametrize("size", [SIZE, (32, 32)], ids=["same", "bars"])
def test_colours_mean_in_the_film_what_they_mean_in_the_source(
    source: av.VideoFrame, becomes: tuple[int, int, int], size: tuple[int, int]
) -> None:
    picture = Upright(*size).picture(source)
    middle = [
        int(np.frombuffer(p, np.uint8).reshape(p.height, p.line_size)[p.height // 2, p.width // 2])
        for p in picture.planes
    ]
    assert middle == pytest.approx(becomes, abs=2)


def test_a_step_on_footage_of_ten_bits_is_worked_out_of_all_of_them(tmp_path: Path) -> None:
    """405 of 1023 is 101.25 in 8 bit: rounded before the step it would be told as 98, not 99."""
    path = tmp_path / "deep.mkv"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("ffv1", rate=24)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p10le"
        frame = av.VideoFrame(*SIZE, "yuv420p10le")
        for plane, value in zip(frame.planes, (405, 512, 512), strict=True):
            plane.update(np.full(plane.buffer_size // 2, value, np.uint16).tobytes())
        for n in range(4):
            frame.pts = n
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    darker = [Span(0, 4, Picture("deep"), playback(4, 0.0), chain(lightness=0.97))]
    film = Film(of(darker), {"deep": path}, None, Fraction(24), *SIZE, 0, 4)
    assert {int(v) for p in film_pictures(film) for v in luma_of(p).ravel()} == {99}
    plain = replace(film, programme=of([replace(darker[0], chain=())]))
    assert {int(v) for p in film_pictures(plain) for v in luma_of(p).ravel()} <= {101, 102}, "dithered"
