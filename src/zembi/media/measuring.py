"""Measuring a file's picture by its proxy, whose frames can each be decoded alone."""

import json
from collections.abc import Callable, Iterator
from pathlib import Path

import av
import numpy as np

from zembi.core.footage.measure import EVERY_S, Bytes, Measured, measure


def measured(derived: Path, progress: Callable[[float], None] = lambda _share: None) -> Measured:
    """Measure a file that has proxies; ``derived`` is the folder they lie in."""
    index = json.loads((derived / "programme.json").read_text())
    return measure(_moments(derived / "programme.h264", index, progress))


def _moments(
    proxy: Path, index: dict[str, list[float]], progress: Callable[[float], None]
) -> Iterator[tuple[Bytes, Bytes, Bytes]]:
    times = np.array(index["times"])
    last = len(times) - 1
    codec = av.CodecContext.create("h264", "r")
    codec.thread_count = 1
    with proxy.open("rb") as file:

        def frame(number: int) -> Bytes:
            file.seek(int(index["offsets"][number]))
            packet = av.Packet(file.read(int(index["sizes"][number])))
            (picture, *_) = [*codec.decode(packet), *codec.decode(None)]
            codec.flush_buffers()
            return np.asarray(picture.to_ndarray(format="rgb24"), dtype=np.uint8)

        for at in np.arange(0.0, float(times[-1]) + 1e-6, EVERY_S):
            first = min(int(np.searchsorted(times, at)), max(0, last - 2))
            one, two, three = (frame(min(first + k, last)) for k in range(3))
            yield one, two, three
            progress(float(at) / max(1e-6, float(times[-1])))
