"""Reading single frames by number, forward fast, with as few seeks as possible."""

from pathlib import Path

import av
import numpy as np

from zembi.core.errors import UnreadableMedia
from zembi.media.opening import open_container, pictures
from zembi.media.probe import FrameTimes, frame_times


class FrameReader:
    """Random access to a file's picture frames by index in presentation order."""

    def __init__(self, path: Path, times: FrameTimes | None = None, *, threads: int = 0) -> None:
        self.path = path
        self.times = times or frame_times(path)
        try:
            self._container = open_container(path)
        except (av.error.FFmpegError, OSError) as fault:
            raise UnreadableMedia(f"{path.name} cannot be opened ({fault.strerror}).") from fault
        self._stream = next(
            s for s in self._container.streams.video if not s.disposition & av.stream.Disposition.attached_pic
        )
        self._stream.thread_type = "AUTO"
        if threads:
            self._stream.codec_context.thread_count = threads
        self._frames = pictures(self._container, self._stream)
        self._at = -1
        self._current: av.VideoFrame | None = None

    def close(self) -> None:
        """Let go of the file."""
        self._container.close()

    def frame(self, index: int) -> av.VideoFrame:
        """The frame with this index; the same object when asked again.

        Raises:
            UnreadableMedia: the file ends or breaks before any frame could be decoded.
        """
        index = min(max(index, 0), len(self.times.pts) - 1)
        if index == self._at and self._current is not None:
            return self._current
        before = int(np.searchsorted(self.times.keyframes, index, side="right")) - 1
        key = int(self.times.keyframes[max(0, before)]) if len(self.times.keyframes) else 0
        if index < self._at or key > self._at + 1:
            self._seek(key)
        target = int(self.times.pts[index])
        while self._current is None or self._at < index:
            following = self._next()
            if following is None:
                break
            self._current = following
            pts = following.pts if following.pts is not None else target
            self._at = max(0, int(np.searchsorted(self.times.pts, pts, side="right")) - 1)
            if pts < self.times.pts[0]:
                self._at = -1
        if self._current is None:
            raise UnreadableMedia(f"{self.path.name}: no picture could be decoded near frame {index}.")
        self._at = index if self._at < index else self._at
        return self._current

    def _next(self) -> av.VideoFrame | None:
        while True:
            try:
                return next(self._frames, None)
            except av.error.InvalidDataError:
                continue

    def _seek(self, key: int) -> None:
        # Some containers seek by decode time: a key frame of the very file start is reached by asking early.
        target = int(self.times.pts[key]) if key else int(self.times.pts[0]) - 1
        self._container.seek(target, stream=self._stream, backward=True, any_frame=False)
        self._frames = pictures(self._container, self._stream)
        self._current, self._at = None, -1
        following = self._next()
        if following is not None and following.pts is not None and following.pts > self.times.pts[key]:
            self._container.seek(0, stream=self._stream, backward=True)
            self._frames = pictures(self._container, self._stream)
            following = self._next()
        if following is not None:
            self._current = following
            pts = following.pts if following.pts is not None else int(self.times.pts[key])
            self._at = int(np.searchsorted(self.times.pts, pts, side="right")) - 1
