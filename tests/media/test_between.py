"""Frames in between that move what moves: where a body is seen, run by run, and in a film."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.spans import of
from zembi.core.programme.model import Picture, Span
from zembi.core.timemap import Piece, TimeMap, playback
from zembi.media.between import Moving, moved, seconds_for, slow_runs
from zembi.media.render import Film, film_pictures

#: A body this wide moves so many points in each frame of a source of 25 frames a second.
WIDE, STEP, RATE = 60, 12, 25
SIZE = (320, 180)
TEXTURE = np.kron(np.random.default_rng(0).integers(100, 230, (15, 15)), np.ones((4, 4), int)).astype(
    np.uint8
)


def picture(number: int) -> av.VideoFrame:
    """The body at its place in a frame of the source."""
    luma = np.full(SIZE[::-1], 60, np.uint8)
    left = 20 + STEP * number
    luma[60:120, left : left + WIDE] = TEXTURE[:, : max(0, SIZE[0] - left)]
    flat = np.concatenate([luma.ravel(), np.full(SIZE[0] * SIZE[1] // 2, 128, np.uint8)])
    return av.VideoFrame.from_ndarray(flat.reshape(-1, SIZE[0]), "yuv420p")


def left_of(frame: av.VideoFrame) -> int:
    row = frame.to_ndarray()[60:120].astype(int).max(axis=0)
    return int(np.nonzero(row > 85)[0][0])


TIMES = np.arange(18) / RATE


def exactly(at: NDArray[np.float64]) -> NDArray[np.float64]:
    return 20 + STEP * at * RATE


@pytest.mark.parametrize(
    "at",
    [
        0.1 + np.arange(12) * 0.5 / RATE, 0.4 - np.arange(12) * 0.25 / RATE, np.arange(6) * 0.3 / RATE,
        0.08 + np.cumsum(np.linspace(0.9, 0.2, 14)) / RATE, 0.31 + np.arange(2) * 0.1 / RATE,
    ],
    ids=["half", "backwards", "from the first frame", "slower and slower", "two"],
)  # fmt: skip
def test_a_body_is_where_it_would_be_between_two_frames(at: NDArray[np.float64]) -> None:
    assert slow_runs(at, TIMES) == [(0, len(at))]
    seen = [left_of(f) for f in moved(picture, at, TIMES)]
    assert seen == pytest.approx(exactly(at), abs=2.0)


def test_after_the_last_frame_it_stays_and_every_frame_is_there() -> None:
    at = (len(TIMES) - 3) / RATE + np.arange(12) * 0.4 / RATE
    seen = [left_of(f) for f in moved(picture, at, TIMES)]
    assert len(seen) == 12
    assert seen == pytest.approx(np.minimum(exactly(at), exactly(TIMES[-1:])), abs=2.0)


def test_only_steady_slow_runs_are_made() -> None:
    slow, fast, still = np.full(5, 0.4), np.full(4, 1.5), np.zeros(4)
    at = np.concatenate([[0.1], 0.1 + np.cumsum(np.concatenate([slow, fast, still, -slow])) / RATE])
    assert slow_runs(at, TIMES) == [(0, 6), (13, 19)]
    assert slow_runs(TIMES, TIMES) == slow_runs(at, TIMES[:1]) == slow_runs(at[:1], TIMES) == []


def test_what_is_not_asked_for_is_left_out_and_what_is_comes_in_order() -> None:
    at = 0.1 + np.arange(12) * 0.5 / RATE
    moving = Moving(picture, at, TIMES)
    seen = [moving.picture(k) for k in (3, 4, 8)]
    assert [left_of(f) for f in seen if f] == pytest.approx(exactly(at[[3, 4, 8]]), abs=2.0)
    assert Moving(picture, TIMES, TIMES).picture(2) is None


def test_a_film_moves_what_moves_in_slowed_shots_only(tmp_path: Path) -> None:
    path = tmp_path / "body.mkv"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("ffv1", rate=RATE)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        for n in range(len(TIMES)):
            out.mux(stream.encode(picture(n)))
        out.mux(stream.encode(None))
    film_rate = Fraction(RATE)

    def film(time: TimeMap, blend: str) -> list[int]:
        span = Span(0, time.frames, Picture("body"), time, blend=blend)  # type: ignore[arg-type]
        made = Film(of([span], []), {"body": path}, None, film_rate, *SIZE, 0, time.frames)
        return [left_of(p) for p in film_pictures(made)]

    slow = playback(16, 0.08, 0.25)
    # A frame stands for the middle of its time.
    half = 0.5 / RATE
    assert film(slow, "moved") == pytest.approx(exactly(slow.times(film_rate) - half), abs=2.0)
    stepped = film(slow, "")
    assert len(set(stepped)) == 4, "without, each frame of the source is shown again and again"
    both = TimeMap((Piece(6, 0.04, 1.0, 1.0), Piece(8, 0.28, 0.5, 0.5), Piece(4, 0.42, 0.0, 0.0)))
    seen = film(both, "moved")
    # At its own speed the frame on display, then those in between, and it stands on a whole one.
    assert seen[:5] == [20 + STEP * (1 + k) for k in range(5)]
    assert seen[7:13] == pytest.approx(exactly(both.times(film_rate)[7:13] - half), abs=2.0)
    assert set(seen[15:]) == {20 + STEP * 10}


def test_its_time_is_said_for_the_size_and_the_frames() -> None:
    once = seconds_for(10, 640, 360)
    assert once > 0
    assert seconds_for(40, 1280, 720) == pytest.approx(16 * once)
