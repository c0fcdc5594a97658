"""Sound too long to hold in memory: written to disk as it is decoded, read back in parts."""

import wave
from collections.abc import Iterator
from pathlib import Path
from typing import Self

import numpy as np
from numpy.typing import NDArray

from zembi.core.sync.features import SoundSource, channel_products, channel_weights
from zembi.media.opening import opened
from zembi.media.sound import Samples, SoundReceiver, StreamResampler

_BLOCK = 1 << 18
_FULL = np.float32(32767)


class MappedSound(SoundSource):
    """16-bit mono samples in a file, read as floats slice by slice."""

    def __init__(self, path: Path, header: int = 0) -> None:
        count = (path.stat().st_size - header) // 2
        self._samples: NDArray[np.int16] = (
            np.memmap(path, "<i2", "r", header, (count,)) if count > 0 else np.zeros(0, np.int16)
        )

    def __len__(self) -> int:
        return len(self._samples)

    def __getitem__(self, part: slice, /) -> NDArray[np.float32]:
        return np.asarray(self._samples[part], dtype=np.float32) / _FULL


def mapped_wave(path: Path) -> MappedSound:
    """A file that :class:`WaveWriter` wrote."""
    return MappedSound(path, 44)


class WaveWriter:
    """Writes 16-bit mono WAV block by block."""

    def __init__(self, path: Path, rate: int) -> None:
        self._file = wave.open(str(path), "wb")  # noqa: SIM115 - closed by close()
        self._file.setnchannels(1)
        self._file.setsampwidth(2)
        self._file.setframerate(rate)

    def add(self, mono: NDArray[np.float32]) -> None:
        """Append samples, full scale 1.0."""
        self._file.writeframes((np.clip(mono, -1, 1) * _FULL).astype("<i2").tobytes())

    def close(self) -> None:
        """Finish the file."""
        self._file.close()


class Spool:
    """A sound stream on its way to disk at another rate, with what is needed to choose among its channels.

    A context: what lies on disk is removed when it is left.
    """

    def __init__(self, path: Path, rate: int) -> None:
        self.path, self.rate = path, rate
        self._file = path.open("wb")
        self._receiver = SoundReceiver()
        self._resampler: StreamResampler | None = None
        self._products: NDArray[np.float64] | None = None
        self._count = 0
        self._channels = 0

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_fault: object) -> None:
        self._file.close()
        self.path.unlink(missing_ok=True)

    @property
    def start_s(self) -> float:
        """Presentation time of the first sample."""
        return self._receiver.start_s or 0.0

    def __len__(self) -> int:
        return self._count

    def add(self, frame: object) -> None:
        """Take a decoded audio frame."""
        for block in self._receiver.blocks(frame):  # type: ignore[arg-type]
            if self._resampler is None:
                self._channels = block.shape[1]
                self._resampler = StreamResampler(self._receiver.rate, self.rate, self._channels)
            self._keep(self._resampler.push(block))

    def _keep(self, block: Samples) -> None:
        if not len(block):
            return
        products = channel_products(block)
        self._products = products if self._products is None else self._products + products
        self._count += len(block)
        self._file.write((np.clip(block, -1, 1) * _FULL).astype("<i2").tobytes())

    def mono(self, offset_s: float) -> Iterator[NDArray[np.float32]]:
        """The chosen channels as blocks; sound that starts ``offset_s`` after the picture is put on its clock."""
        if self._resampler is not None:
            self._keep(self._resampler.push(np.zeros((0, self._channels), np.float32), last=True))
        self._file.flush()
        if self._products is None:
            return
        weights = channel_weights(self._products, self._count)
        late = round(offset_s * self.rate)
        for start in range(0, min(max(late, 0), 3600 * self.rate), _BLOCK):
            yield np.zeros(min(_BLOCK, late - start), np.float32)
        whole = np.memmap(self.path, "<i2", "r", 0, (self._count, self._channels))
        for start in range(max(0, -late), self._count, _BLOCK):
            yield np.asarray((whole[start : start + _BLOCK].astype(np.float32) / _FULL) @ weights, np.float32)


def spooled_take(path: Path, picture_start_s: float, rate: int, folder: Path) -> SoundSource:
    """A take's mono sound at ``rate``, decoded into a folder; sample 0 is the first picture frame's time.

    Args:
        path: The take.
        picture_start_s: Presentation time of its first picture frame.
        rate: Sample rate wanted.
        folder: A folder of the caller's, which outlives what is returned.

    Returns:
        An empty sound where the file has none.

    Raises:
        UnreadableMedia: not media, or damaged.
    """
    target = folder / "mono.raw"
    with Spool(folder / "channels.raw", rate) as spool, target.open("wb") as out:
        with opened(path) as container:
            if container.streams.audio:
                for frame in container.decode(container.streams.audio[0]):
                    spool.add(frame)
        for block in spool.mono(spool.start_s - picture_start_s):
            out.write((np.clip(block, -1, 1) * _FULL).astype("<i2").tobytes())
    return MappedSound(target)
