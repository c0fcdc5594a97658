"""Turning decoded frames upright and to a size, with bars where the shape differs."""

from typing import Literal

import av
import numpy as np
from av.filter import Graph
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter
from numpy.typing import NDArray

from zembi.media.alpha import coded, fitted, has_alpha, over_black
from zembi.media.size import fitted_inside
from zembi.media.wide import WideFrames, wide_of

_TURNS = {90: ["transpose=cclock"], 180: ["hflip", "vflip"], 270: ["transpose=clock"]}


#: What the film is coded in: BT.709, limited range. Sources that say nothing are taken to be so too.
_FILM = {"dst_colorspace": Colorspace.ITU709, "dst_color_range": ColorRange.MPEG}
_UNSAID, _BT709 = 2, 1


def is_films(frame: av.VideoFrame) -> bool:
    """True if a frame's values mean in the film what they mean in its file."""
    full = frame.color_range == ColorRange.JPEG or frame.format.name.startswith("yuvj")
    return frame.colorspace in (_UNSAID, _BT709) and not full and not frame.format.is_rgb


class Upright:
    """Scales frames into a picture of fixed size, turned upright, fitted inside with black bars.

    The filter chain is built once and again only when the source's size or format changes.
    """

    def __init__(self, width: int, height: int, *, quality: Literal["fast", "fine"] = "fast") -> None:
        self.width, self.height = width, height
        self._scaler = "area" if quality == "fast" else "bicubic"
        self._key: tuple[object, ...] | None = None
        self._graph: Graph | None = None
        # Kept: a scaler of its own for every frame takes longer to make than to use.
        self._to_film, self._to_size = VideoReformatter(), VideoReformatter()
        self._to_deep, self._wide = VideoReformatter(), WideFrames()

    @staticmethod
    def shown_size(frame: av.VideoFrame) -> tuple[int, int]:
        """Width and height after rotation."""
        if round(frame.rotation) % 180 == 90:
            return frame.height, frame.width
        return frame.width, frame.height

    def deep(self, frame: av.VideoFrame) -> av.VideoFrame | None:
        """The frame as 16-bit 4:2:0 of the fixed size, where it holds more than 8 bit and is upright and of this shape."""
        more = max(c.bits for c in frame.format.components) > 8
        shape = frame.width * self.height == frame.height * self.width
        if not more or not shape or round(frame.rotation) % 360:
            return None
        wide = wide_of(frame)
        if wide:
            return self._wide.film(frame, wide, (self.width, self.height), "yuv420p16le")
        if not is_films(frame):
            return None
        return self._to_deep.reformat(
            frame, self.width, self.height, "yuv420p16le", interpolation=self._scaler.upper()
        )

    def cut_out(self, frame: av.VideoFrame) -> tuple[av.VideoFrame, NDArray[np.float32]]:
        """The frame over black as :meth:`picture` gives it, and how much each point of it hides, 0 to 1."""
        colours, alpha = fitted(frame, self.width, self.height)
        return coded(colours), alpha.astype(np.float32) / np.float32(255)

    def picture(self, frame: av.VideoFrame) -> av.VideoFrame:
        """The frame as 8-bit 4:2:0 of the fixed size, in the film's colours; the source frame is not changed."""
        if has_alpha(frame):
            at, base = frame.pts, frame.time_base
            frame = coded(over_black(frame)[0])
            frame.pts, frame.time_base = at, base
        rotation = round(frame.rotation) % 360
        wide = wide_of(frame)
        if wide:
            frame = self._wide.film(frame, wide, self._no_larger(frame), "yuv420p")
        elif not is_films(frame):
            frame = self._to_film.reformat(frame, format="yuv420p", **_FILM)
        plain = frame.format.name == "yuv420p" and not rotation
        if plain and (frame.width, frame.height) == (self.width, self.height):
            return frame
        shape = frame.width * self.height == frame.height * self.width
        if not rotation and shape:
            return self._to_size.reformat(
                frame, self.width, self.height, "yuv420p", interpolation=self._scaler.upper()
            )
        key = (frame.width, frame.height, frame.format.name, rotation)
        if key != self._key:
            self._graph, self._key = self._build(frame, rotation), key
        assert self._graph is not None
        self._graph.push(frame)
        return self._graph.vpull()

    def _no_larger(self, frame: av.VideoFrame) -> tuple[int, int]:
        """The size of a frame, in its own shape and as it lies in its file, no larger than the picture needs; even."""
        across, up = self.shown_size(frame)
        scale = min(1.0, max(self.width / across, self.height / up))
        return max(2, round(frame.width * scale / 2) * 2), max(2, round(frame.height * scale / 2) * 2)

    def _build(self, frame: av.VideoFrame, rotation: int) -> Graph:
        graph = Graph()
        w, h = self.width, self.height
        shown = (frame.height, frame.width) if rotation in (90, 270) else (frame.width, frame.height)
        inner_w, inner_h = fitted_inside(*shown, w, h)
        chain = [
            *_TURNS.get(rotation, []),
            # Told the colours, the scaler leaves them as they are.
            f"scale={inner_w}:{inner_h}:flags={self._scaler}:in_range=tv:out_range=tv"
            ":in_color_matrix=bt709:out_color_matrix=bt709",
            f"pad={w}:{h}:(ow-iw)/2:(oh-ih)/2",
            "setsar=1",
            "format=yuv420p",
        ]
        nodes = [
            graph.add_buffer(
                width=frame.width, height=frame.height, format=frame.format, time_base=frame.time_base
            )
        ]
        for step in chain:
            name, _, arguments = step.partition("=")
            nodes.append(graph.add(name, arguments or None))
        nodes.append(graph.add("buffersink"))
        graph.link_nodes(*nodes)
        graph.configure()
        return graph
