"""Frames between two of a file in which what moves is moved, by the library's motion-compensating filter."""

import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise

import av
import numpy as np
from numpy.typing import NDArray

#: Pictures are given to the filter at whole parts of a film's frame.
_PARTS = 90_000
#: The size at which the filter's time is measured.
_TRIED = (480, 270)


def slow_runs(at: NDArray[np.float64], times: NDArray[np.float64]) -> list[tuple[int, int]]:
    """Runs of frames (first, end) in which time goes on steadily by less than a frame of the file each.

    Args:
        at: Media time of each frame of the film, seconds.
        times: The moments that the file's frames stand for, ascending, seconds.
    """
    if len(times) < 2 or len(at) < 2:
        return []
    steps = np.diff(at)
    long = float(np.median(np.diff(times)))
    way = np.where((np.abs(steps) > 1e-9) & (np.abs(steps) < long * 0.999), np.sign(steps), 0).astype(int)
    edges = [0, *(np.nonzero(np.diff(way))[0] + 1).tolist(), len(way)]
    return [(a, b + 1) for a, b in pairwise(edges) if way[a] != 0]


def moved(
    picture: Callable[[int], av.VideoFrame], at: NDArray[np.float64], times: NDArray[np.float64]
) -> Iterator[av.VideoFrame]:
    """The film's frames of one of :func:`slow_runs`, each made of the file's frames around it.

    Args:
        picture: A frame of the file by number, 8-bit 4:2:0, all of one size.
        at: Media time of each frame of the film, all rising or all falling, seconds.
        times: The moments that the file's frames stand for, ascending, seconds.
    """
    down = at[-1] < at[0]
    low, high = min(at[0], at[-1]), max(at[0], at[-1])
    # The filter looks at one frame more before, and two after, those that it works between.
    first = max(0, int(np.searchsorted(times, low, side="right")) - 3)
    last = min(len(times) - 1, int(np.searchsorted(times, high, side="right")) + 2)
    wanted = range(last, first - 1, -1) if down else range(first, last + 1)
    places = _places(at, times[list(wanted)])
    graph: _Filter | None = None
    made = 0
    for number, place in [*zip(wanted, places, strict=True), *_after(wanted, places)]:
        frame = picture(number)
        graph = graph or _Filter(frame)
        for pts, done in graph.more(frame, place):
            # What comes before the first is the filter's run-up.
            while made < len(at) and pts >= made:
                made += 1
                yield done
        if made == len(at):
            return
    ending = picture(wanted[-1])
    while made < len(at):
        made += 1
        yield ending


def _places(at: NDArray[np.float64], seconds: NDArray[np.float64]) -> NDArray[np.float64]:
    """At which frame of the film, counted on, moments of the file are seen; straight on before the first and after the last."""
    frames = np.arange(len(at), dtype=np.float64)
    sign = -1.0 if at[-1] < at[0] else 1.0
    seen = np.interp(sign * seconds, sign * at, frames)
    before, after = sign * seconds < sign * at[0], sign * seconds > sign * at[-1]
    seen[before] = (seconds[before] - at[0]) / (at[1] - at[0])
    seen[after] = frames[-1] + (seconds[after] - at[-1]) / (at[-1] - at[-2])
    return np.asarray(seen)


def _after(wanted: range, places: NDArray[np.float64]) -> list[tuple[int, float]]:
    """The last frame again, so that the filter lets go of what it holds."""
    step = max(1.0, float(places[-1] - places[-2])) if len(places) > 1 else 1.0
    return [(wanted[-1], float(places[-1]) + step * k) for k in (1, 2, 3)]


class Moving:
    """The frames that are made in the slow runs of a stretch of film, asked for one after the other."""

    def __init__(
        self, picture: Callable[[int], av.VideoFrame], at: NDArray[np.float64], times: NDArray[np.float64]
    ) -> None:
        self._ask, self._at, self._times = picture, at, times
        self._runs = slow_runs(at, times)
        self._made: Iterator[av.VideoFrame] = iter(())
        self._next = self._end = 0

    def picture(self, frame: int) -> av.VideoFrame | None:
        """The one of a frame of the stretch, later than the last that was asked for; None where nothing is slowed."""
        if frame >= self._end:
            run = next((r for r in self._runs if r[0] <= frame < r[1]), None)
            if run is None:
                return None
            # What was not asked for at the head of a run need not be made.
            self._next, self._end = frame, run[1]
            at = self._at[frame : run[1]]
            self._made = moved(self._ask, at, self._times) if len(at) > 1 else iter(())
        done = None
        while self._next <= frame:
            done = next(self._made, None)
            self._next += 1
        return done


class _Filter:
    """One graph of the filter, whose output has a frame at each whole number of the film's frames."""

    def __init__(self, like: av.VideoFrame) -> None:
        self._graph = av.filter.Graph()
        source = self._graph.add(
            "buffer",
            f"width={like.width}:height={like.height}:pix_fmt={like.format.name}:time_base=1/{_PARTS}:pixel_aspect=1/1",
        )
        way = self._graph.add("minterpolate", "fps=1:mi_mode=mci")
        end = self._graph.add("buffersink")
        source.link_to(way)
        way.link_to(end)
        self._graph.configure()

    def more(self, frame: av.VideoFrame, place: float) -> list[tuple[int, av.VideoFrame]]:
        """Give it a frame at a place; get what is complete, with the film's frame of each."""
        copy = av.VideoFrame.from_ndarray(frame.to_ndarray(), frame.format.name)
        copy.pts, copy.time_base = round(place * _PARTS), Fraction(1, _PARTS)
        self._graph.push(copy)
        out: list[tuple[int, av.VideoFrame]] = []
        while True:
            try:
                done = self._graph.pull()
            except (av.error.BlockingIOError, av.error.EOFError):
                return out
            assert isinstance(done, av.VideoFrame)
            out.append((int(done.pts or 0), done))


@lru_cache(maxsize=1)
def _seconds_a_point() -> float:
    """Seconds an interpolated pixel takes on this machine, measured once on a few small moving pictures."""
    width, height = _TRIED
    rng = np.random.default_rng(1)
    sheet = rng.integers(16, 235, (height * 3 // 2, width + 64), np.uint8)

    def picture(number: int) -> av.VideoFrame:
        return av.VideoFrame.from_ndarray(
            np.ascontiguousarray(sheet[:, 4 * number : 4 * number + width]), "yuv420p"
        )

    began = time.perf_counter()
    made = list(moved(picture, np.arange(8, dtype=np.float64) / 2 + 2, np.arange(9, dtype=np.float64)))
    return (time.perf_counter() - began) / len(made) / (width * height)


def seconds_for(frames: int, width: int, height: int) -> float:
    """About how long so many frames of a size take on this machine."""
    return frames * width * height * _seconds_a_point()
