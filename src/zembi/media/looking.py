"""Small pictures of a file: every frame in order, or a few over its length."""

from collections.abc import Callable, Iterator
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray
from PIL import Image

from zembi.core.footage.likeness import SIZE
from zembi.media.derive import STILL_SIZE
from zembi.media.frames import FrameReader
from zembi.media.probe import FrameTimes, frame_times


def _small(frame: av.VideoFrame, scaler: VideoReformatter) -> NDArray[np.uint8]:
    small = scaler.reformat(frame, SIZE[1], SIZE[0], "rgb24", interpolation="AREA")
    return np.asarray(small.to_ndarray(), dtype=np.uint8)


def every_picture(
    path: Path, times: FrameTimes, progress: Callable[[float], None] = lambda _share: None
) -> Iterator[NDArray[np.uint8]]:
    """Every frame of a file in order of presentation, small; where one cannot be decoded, the one before.

    Raises:
        UnreadableMedia: no picture can be decoded.
    """
    reader, scaler = FrameReader(path, times), VideoReformatter()
    try:
        for index in range(len(times.pts)):
            yield _small(reader.frame(index), scaler)
            if index % 50 == 0:
                progress(index / len(times.pts))
    finally:
        reader.close()


def some_pictures(path: Path, count: int) -> NDArray[np.uint8]:
    """A few frames spread evenly over a file, small, shape (count, *SIZE, 3); those at which decoding can start.

    Raises:
        UnreadableMedia: no picture can be decoded.
    """
    times = frame_times(path)
    keys = times.keyframes if len(times.keyframes) >= count else np.arange(len(times.pts))
    chosen = keys[np.round(np.linspace(0, len(keys) - 1, count + 2)[1:-1]).astype(int)]
    reader, scaler = FrameReader(path, times), VideoReformatter()
    try:
        return np.stack([_small(reader.frame(int(i)), scaler) for i in chosen])
    finally:
        reader.close()


def pictures_of_sheet(sheet: Path, stills: int, count: int) -> NDArray[np.uint8]:
    """Some of a file's stills, spread evenly, small, shape (at most count, *SIZE, 3)."""
    width, height = STILL_SIZE
    chosen = np.unique(np.round(np.linspace(0, stills - 1, count + 2)[1:-1]).astype(int))
    with Image.open(sheet) as image:
        tiles = [
            image.crop((n % 10 * width, n // 10 * height, (n % 10 + 1) * width, (n // 10 + 1) * height))
            for n in chosen
        ]
    return np.stack([np.asarray(t.convert("RGB").resize(SIZE[::-1], Image.Resampling.BOX)) for t in tiles])
