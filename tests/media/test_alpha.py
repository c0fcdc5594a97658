"""Pictures with transparency: found, kept in proxies, and seen through in the film, whatever they are kept in."""

import json
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

from tests.spans import of, span
from zembi.core.footage.fit import Fit, chain_of, lie_of
from zembi.core.picture.steps import MATTE
from zembi.core.programme.model import Picture, Span
from zembi.core.timemap import playback
from zembi.media.derive import derive_picture
from zembi.media.probe import content_id, probe
from zembi.media.render import Film, film_pictures

SIZE = (160, 90)
#: Left third opaque, middle half seen through, right third gone; as shares of a light grey.
GREY, ALPHA = 200, (255, 128, 0)
KINDS = ["png", "webp", "prores 4444", "vp9", "qtrle"]


def cut_out(alpha: tuple[int, int, int] = ALPHA) -> NDArray[np.uint8]:
    width, height = SIZE
    pixels = np.full((height, width, 4), GREY, np.uint8)
    for k, value in enumerate(alpha):
        pixels[:, k * width // 3 : (k + 1) * width // 3 if k < 2 else width, 3] = value
    return pixels


def made(folder: Path, kind: str, pixels: NDArray[np.uint8]) -> Path:
    if kind in ("png", "webp"):
        path = folder / f"logo.{kind}"
        Image.fromarray(pixels).save(path, **({"lossless": True} if kind == "webp" else {}))
        return path
    name, codec, form = {
        "prores 4444": ("logo.mov", "prores_ks", "yuva444p10le"), "vp9": ("logo.webm", "libvpx-vp9", "yuva420p"),
        "qtrle": ("logo.mov", "qtrle", "argb"),
    }[kind]  # fmt: skip
    path = folder / name
    with av.open(str(path), "w") as out:
        options = (
            {"profile": "4444"}
            if codec == "prores_ks"
            else {"lossless": "1"}
            if codec == "libvpx-vp9"
            else {}
        )
        stream: Any = out.add_stream(codec, rate=24, options=options)
        stream.width, stream.height, stream.pix_fmt = *SIZE, form
        if codec == "libvpx-vp9":
            stream.metadata["alpha_mode"] = "1"
        for _ in range(6):
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), "rgba")
            out.mux(stream.encode(frame.reformat(format=form, dst_colorspace=1)))
        out.mux(stream.encode(None))
    return path


def luma(rgb: float) -> float:
    return 16 + 219 * rgb / 255


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_transparent_is_found_and_seen_through_in_the_film(tmp_path: Path, kind: str) -> None:
    logo = made(tmp_path, kind, cut_out())
    facts = probe(logo, need=("picture",))
    assert facts.alpha
    under = tmp_path / "under.mkv"
    with av.open(str(under), "w") as out:
        stream: Any = out.add_stream("ffv1", rate=24)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        for _ in range(6):
            plain = np.full((SIZE[1] * 3 // 2, SIZE[0]), 128, np.uint8)
            plain[: SIZE[1]] = 60
            out.mux(stream.encode(av.VideoFrame.from_ndarray(plain, "yuv420p")))
        out.mux(stream.encode(None))
    chain = (MATTE(on=1),)
    over = Span(1, 4, Picture("logo"), playback(3, 0.0), chain)
    film = Film(
        of([span(0, 5, "under")], [over]), {"logo": logo, "under": under}, None, Fraction(24), *SIZE, 0, 5
    )
    seen = [p.to_ndarray()[: SIZE[1]].astype(float) for p in film_pictures(film)]
    assert np.all(seen[0] == 60)
    assert np.all(seen[4] == 60)
    opaque, half, gone = seen[2][45, 20], seen[2][45, 80], seen[2][45, 140]
    assert opaque == pytest.approx(luma(GREY), abs=3)
    assert gone == pytest.approx(60, abs=1)
    assert half == pytest.approx((luma(GREY) + 60) / 2, abs=3)


@pytest.mark.parametrize("kind", KINDS)
def test_a_proxy_carries_the_alpha_under_the_picture(tmp_path: Path, kind: str) -> None:
    logo = made(tmp_path, kind, cut_out())
    folder = derive_picture(logo, tmp_path, content_id(logo), lambda _s, _w: None)
    index = json.loads((folder / "programme.json").read_text())
    assert index["alpha"] is True
    decoder = av.CodecContext.create("h264", "r")
    data = (folder / "programme.h264").read_bytes()[: index["sizes"][0]]
    frames = [*decoder.decode(av.Packet(data)), *decoder.decode(None)]  # type: ignore[attr-defined]
    picture = frames[0].to_ndarray(format="rgb24").astype(int)
    height, width = index["height"], index["width"]
    assert picture.shape == (2 * height, width, 3)
    above, below = picture[height // 2, :, 1], picture[height + height // 2, :, 1]
    for third, value in enumerate(ALPHA):
        at = (2 * third + 1) * width // 6
        assert below[at] == pytest.approx(value, abs=8)
        assert above[at] == pytest.approx(GREY * value / 255, abs=8), "over black"


def test_a_picture_that_could_be_transparent_and_is_not_hides_what_lies_beneath(tmp_path: Path) -> None:
    facts = probe(made(tmp_path, "png", cut_out((255, 255, 255))))
    assert (facts.alpha, facts.pixel_format) == (False, "rgba")


def test_what_another_shape_leaves_free_is_transparent_too(tmp_path: Path) -> None:
    logo = made(tmp_path, "png", cut_out())
    chain = chain_of(lie_of(Fit(), SIZE, (160, 160)), 3)
    film = Film(
        of([], [Span(0, 3, Picture("logo"), playback(3, 0.0), (MATTE(on=1), *chain))]),
        {"logo": logo}, None, Fraction(24), 160, 160, 0, 3,
    )  # fmt: skip
    seen = next(film_pictures(film)).to_ndarray()[:160].astype(int)
    assert seen[5, 20] == 16
    assert seen[80, 20] == pytest.approx(luma(GREY), abs=2)
