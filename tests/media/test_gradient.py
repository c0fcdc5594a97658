"""A gradient that is brought up does not band: footage of ten bits keeps them until its colours are worked out."""

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from zembi.core.picture.chain import Chain
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import GRADE, PLACE
from zembi.core.programme.model import Layer, Programme, shown
from zembi.media.render import Film, film_pictures

SIZE = (1408, 32)
FRAMES = 3
#: The dark third of the scale, in codes of ten bits: three stops up it reaches white's neighbourhood.
DARK, BRIGHT = 64, 64 + 351


def gradient(path: Path, bits: int) -> Path:
    """A file without loss whose luma rises from column to column, one code of ten bits at a time."""
    ramp = np.linspace(DARK, BRIGHT, SIZE[0]).astype(np.uint16)
    kind = np.uint16 if bits == 10 else np.uint8
    with av.open(path, "w") as out:
        stream = out.add_stream("ffv1", rate=24)
        stream.width, stream.height = SIZE
        stream.pix_fmt = "yuv420p10le" if bits == 10 else "yuv420p"
        for n in range(FRAMES + 1):
            frame = av.VideoFrame(*SIZE, stream.pix_fmt)
            for k, plane in enumerate(frame.planes):
                rows = np.frombuffer(memoryview(plane), kind).reshape(plane.height, -1)[:, : plane.width]  # type: ignore[attr-defined]
                rows[:] = (ramp if bits == 10 else (ramp / 4).astype(kind)) if k == 0 else 1 << (bits - 1)
            frame.pts, frame.time_base = n, Fraction(1, 24)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def steps(path: Path, chain: Chain) -> set[int]:
    """Differences of neighbouring columns of the film's luma, before it is coded."""
    span = replace(shown(0, FRAMES, "m", 0.0), chain=chain)
    film = Film(
        Programme(FRAMES, (Layer("Shots", (span,)),)), {"m": path}, None, Fraction(24), *SIZE, 0, FRAMES
    )
    found: set[int] = set()
    for made in film_pictures(film):
        plane = made.planes[0]
        row = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)[5, : SIZE[0]]
        assert row.max() > 200, "three stops up it is bright"
        found |= set(np.diff(row.astype(int)).tolist())
    return found


RISES = Curve((Key(0, 2.98, "straight"), Key(FRAMES, 3.02, "hold")))


@pytest.mark.parametrize(
    "chain",
    [(GRADE(exposure=3.0),), (GRADE(exposure=1.5), GRADE(exposure=1.5)), (GRADE(exposure=RISES),), (GRADE(exposure=3.0), PLACE(mirror=1.0))],
    ids=["one grade", "two grades", "one that moves", "a grade among other steps"],
)  # fmt: skip
def test_ten_bits_brought_up_three_stops_have_no_step_of_more_than_one(tmp_path: Path, chain: Chain) -> None:
    found = steps(gradient(tmp_path / "ten.mkv", 10), chain)
    assert {abs(d) for d in found} <= {0, 1}


def test_eight_bits_brought_up_so_do_band(tmp_path: Path) -> None:
    """What the test above would see if footage of ten bits were brought to eight before it is graded."""
    assert max(steps(gradient(tmp_path / "eight.mkv", 8), (GRADE(exposure=3.0),))) >= 2
