"""Pictures with transparency: what their alpha leaves of them, over black, and beside it as a picture of its own."""

from functools import lru_cache

import av
import cv2
import numpy as np
from av.video.reformatter import Colorspace, VideoReformatter
from numpy.typing import NDArray

from zembi.media.size import fitted_inside

Bytes = NDArray[np.uint8]

#: Formats whose palette may hold alpha, which is known only once it is looked up.
_PALETTES = {"pal8"}


def has_alpha(frame: av.VideoFrame) -> bool:
    """True if a frame's format holds alpha."""
    return _holds_alpha(frame.format.name)


@lru_cache(maxsize=256)
def _holds_alpha(name: str) -> bool:
    """Asked for every frame, and looked up once for each format."""
    return name in _PALETTES or any(c.is_alpha for c in av.VideoFormat(name, 2, 2).components)


def is_see_through(frame: av.VideoFrame, *, whole: bool) -> bool:
    """True if a frame may be seen through; of one that is the ``whole`` file, if any point of it is."""
    return has_alpha(frame) and (not whole or bool((_rgba(frame)[..., 3] < 255).any()))


def _rgba(frame: av.VideoFrame) -> Bytes:
    """Points of a frame, upright, shape (height, width, 4)."""
    # Values that do not say what they are, are BT.709's.
    said = frame.format.is_rgb or frame.format.name in _PALETTES
    colours = {} if said else {"src_colorspace": Colorspace.ITU709}
    pixels = VideoReformatter().reformat(frame, format="rgba", **colours).to_ndarray()
    return np.asarray(np.rot90(pixels, round(frame.rotation) % 360 // 90), np.uint8)


def over_black(frame: av.VideoFrame) -> tuple[Bytes, Bytes]:
    """A frame over black, shape (height, width, 3), and its alpha, shape (height, width)."""
    pixels = _rgba(frame)
    alpha = pixels[..., 3]
    colours = (pixels[..., :3].astype(np.uint16) * alpha[..., None] + 127) // 255
    return colours.astype(np.uint8), alpha


def fitted(frame: av.VideoFrame, width: int, height: int) -> tuple[Bytes, Bytes]:
    """As :func:`over_black`, fitted whole into a size; what it leaves free is transparent."""
    pair = over_black(frame)
    high, wide = pair[1].shape
    inner = fitted_inside(wide, high, width, height)
    smaller = inner[0] < wide
    out = []
    for pixels in pair:
        made = np.zeros((height, width, *pixels.shape[2:]), np.uint8)
        left, top = (width - inner[0]) // 2 // 2 * 2, (height - inner[1]) // 2 // 2 * 2
        scaled = cv2.resize(pixels, inner, interpolation=cv2.INTER_AREA if smaller else cv2.INTER_LINEAR)
        made[top : top + inner[1], left : left + inner[0]] = scaled
        out.append(made)
    return out[0], out[1]


def stacked(frame: av.VideoFrame, width: int, height: int) -> av.VideoFrame:
    """A frame over black of a size, and under it its alpha as grey: how a proxy carries both in one picture."""
    colours, alpha = fitted(frame, width, height)
    both = np.concatenate([colours, np.repeat(alpha[..., None], 3, axis=2)])
    return coded(both)


def coded(pixels: Bytes) -> av.VideoFrame:
    """RGB points as a frame of the film's: 8-bit 4:2:0, BT.709, limited range."""
    made = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), "rgb24")
    return VideoReformatter().reformat(made, format="yuv420p", dst_colorspace=Colorspace.ITU709)
