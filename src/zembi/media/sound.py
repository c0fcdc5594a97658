"""Reading sound: exact sample positions, any layout, in blocks so that long files stay small."""

from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path

import av
import numpy as np
import soxr
from numpy.typing import NDArray

from zembi.core.errors import UnreadableMedia
from zembi.media.opening import opened

Samples = NDArray[np.float32]

_TOGETHER = 2048
#: Most that is held of one sound at once: half an hour of stereo at 48 kHz.
MOST_SOUND_BYTES = 720 << 20
#: A jump in a sound stream's own clock larger than this is a real gap and is filled with silence.
_GAP_S = 0.08


class SoundReceiver:
    """Turns decoded audio frames into continuous blocks of float samples, gaps filled from presentation times."""

    def __init__(self, channels: int | None = None) -> None:
        self._resampler: av.AudioResampler | None = None
        self._channels = channels
        self._next: int | None = None
        self.rate = 0
        self.start_s: float | None = None

    def blocks(self, frame: av.AudioFrame) -> Iterator[Samples]:
        """Blocks of shape (samples, channels) for one decoded frame; the first call fixes rate and layout."""
        if self._resampler is None:
            self.rate = frame.sample_rate
            layout = frame.layout if self._channels is None else {1: "mono", 2: "stereo"}[self._channels]
            self._resampler = av.AudioResampler("fltp", layout, self.rate)
        if frame.pts is not None and frame.time_base is not None:
            at = round(frame.pts * frame.time_base * self.rate)
            if self.start_s is None:
                self.start_s, self._next = float(frame.pts * frame.time_base), at
            elif self._next is not None and at - self._next > _GAP_S * self.rate:
                count = self._channels or len(frame.layout.channels)
                yield np.zeros((min(at - self._next, 3600 * self.rate), count), np.float32)
                self._next = at
        for out in self._resampler.resample(frame):
            block = np.ascontiguousarray(out.to_ndarray().T, dtype=np.float32)
            if self._next is not None:
                self._next += len(block)
            yield block


def sound_blocks(path: Path) -> Iterator[tuple[Samples, int]]:
    """A file's sound as (samples (n, channels), rate) blocks from its first sample.

    Raises:
        UnreadableMedia: no sound, or damaged.
    """
    with opened(path) as container:
        if not container.streams.audio:
            raise UnreadableMedia(f"{path.name} has no sound.")
        receiver = SoundReceiver()
        for frame in container.decode(container.streams.audio[0]):
            for block in receiver.blocks(frame):
                yield block, receiver.rate


def read_sound(path: Path, *, progress: Callable[[int], None] = lambda _n: None) -> tuple[Samples, int]:
    """All of a file's sound: samples (n, channels) at its own rate.

    Raises:
        UnreadableMedia: no sound or no sample, or more than is kept in memory at once.
    """
    parts: deque[Samples] = deque()
    small: list[Samples] = []
    rate, total, size = 0, 0, 0
    for block, rate in sound_blocks(path):
        small.append(block)
        if len(small) == _TOGETHER:
            # Large pieces go back to the system when they are let go of; thousands of small ones do not.
            parts.append(np.concatenate(small))
            small.clear()
        total, size = total + len(block), size + block.nbytes
        if size > MOST_SOUND_BYTES:
            raise too_much_sound(path.name, total / rate)
        progress(total)
    if not total:
        raise UnreadableMedia(f"{path.name} holds no sound; it may be cut off. Copy it again.")
    parts.extend(small)
    # Put together piece by piece, so that it is never there twice.
    whole = np.empty((total, parts[0].shape[1]), np.float32)
    at = 0
    while parts:
        part = parts.popleft()
        whole[at : at + len(part)] = part
        at += len(part)
    return whole, rate


def too_much_sound(name: str, seconds: float) -> UnreadableMedia:
    """The refusal of a sound that is too long to be worked with whole."""
    return UnreadableMedia(
        f"{name} is too long to be worked with as a song: {seconds / 60:.0f} minutes at its sample rate and number of "
        "channels fill the memory. Cut it, or save it in stereo at 48 kHz."
    )


def resample(sound: Samples, rate: float, to_rate: float) -> Samples:
    """Resample (n,) or (n, channels); sample 0 stays sample 0."""
    return sound if rate == to_rate else np.asarray(soxr.resample(sound, rate, to_rate), dtype=np.float32)


class StreamResampler:
    """Resampling block by block with the same result as all at once."""

    def __init__(self, rate: int, to_rate: int, channels: int) -> None:
        self._stream = (
            soxr.ResampleStream(rate, to_rate, channels, dtype="float32") if rate != to_rate else None
        )

    def push(self, block: Samples, *, last: bool = False) -> Samples:
        """Resampled samples that are ready; call once with ``last`` to get the rest."""
        return block if self._stream is None else np.asarray(self._stream.resample_chunk(block, last=last))
