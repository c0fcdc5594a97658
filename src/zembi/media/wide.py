"""Frames of high dynamic range or wide gamut, by their tags, brought to the film's colours in 16 bit."""

from functools import lru_cache

import av
import numpy as np
from av.filter import Graph
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter

from zembi.core.colour.grade import Lut, grid
from zembi.core.colour.wide import Wide, film_of
from zembi.media.lookup import looked_up, lookup_graph

#: Transfer characteristics and primaries as files say them (ISO/IEC 23091-2, tables 2 and 3).
_TRANSFERS: dict[int, Wide] = {16: "pq", 18: "hlg"}
_PRIMARIES_2020 = 9
#: Points of the table along each colour: the curves are steep.
_POINTS = 65


def wide_of(frame: av.VideoFrame) -> Wide | None:
    """The kind of wide colours that a frame's tags say; None for those of a film."""
    found = _TRANSFERS.get(int(frame.color_trc))
    return found or ("2020" if int(frame.color_primaries) == _PRIMARIES_2020 else None)


@lru_cache(maxsize=3)
def _table(wide: Wide) -> Lut:
    return np.asarray(film_of(grid(_POINTS), wide), np.float32)


class WideFrames:
    """Brings wide frames of one file to the film's colours."""

    def __init__(self) -> None:
        self._in, self._out = VideoReformatter(), VideoReformatter()
        self._graph: Graph | None = None
        self._key: tuple[int, int, Wide] | None = None

    def film(self, frame: av.VideoFrame, wide: Wide, size: tuple[int, int], pixels: str) -> av.VideoFrame:
        """The frame in BT.709, limited range.

        Args:
            frame: As decoded.
            wide: Of its colours.
            size: At which it is wanted.
            pixels: The format of 4:2:0 that is wanted.
        """
        at, base = frame.pts, frame.time_base
        coloured = self._in.reformat(frame, *size, "gbrp16le", interpolation="BICUBIC")
        key = (*size, wide)
        if self._graph is None or key != self._key:
            self._graph, self._key = lookup_graph(size, "gbrp16le", lambda: _table(wide)), key
        done = looked_up(self._graph, coloured)
        out = self._out.reformat(
            done, format=pixels, dst_colorspace=Colorspace.ITU709, dst_color_range=ColorRange.MPEG
        )
        out.pts = at
        if base is not None:
            out.time_base = base
        return out
