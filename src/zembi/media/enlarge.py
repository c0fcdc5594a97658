"""A part of a picture made as large as the frame by the library's scaler, which knows whole points only.

A box between points is met by a larger one of whole points, scaled to a whole size and cut where it fits: of all
such boxes the one that comes nearest is taken. That is several times faster than scaling the box itself.
"""

from functools import lru_cache

import av
import numpy as np

from zembi.media.sheet import Plane

#: Farther than this beside its place, in points of the film, no picture is laid.
NEAR = 1 / 12
#: Boxes that are tried are up to so many points larger at each end.
_MORE = 80


@lru_cache(maxsize=8192)
def whole_box(start: float, long: float, full: int) -> tuple[int, int, int, int] | None:
    """Along one side: the box's first point and its length, the length it is scaled to, and where that is cut.

    All are even, so that colours of half the size lie at whole points too.

    Args:
        start, long: The box that is to fill the side, in points.
        full: Points of the side, even.

    Returns:
        None where none comes near enough.
    """
    first, end = 2 * int((start + 1e-9) // 2), 2 * int(np.ceil((start + long - 1e-9) / 2))
    firsts = np.arange(first, max(-1, first - _MORE), -2)
    a, n = firsts[None, :], np.arange(end, min(full, end + _MORE) + 1, 2)[:, None] - firsts[None, :]
    m = 2 * np.rint(n * (full / long) / 2)
    d = 2 * np.rint((start - a) * m / n / 2)
    off = np.maximum(np.abs((start - a) * m / n - d), np.abs((start + long - a) * m / n - d - full))
    off = np.where(d + full <= m, off, np.inf)
    i, k = np.unravel_index(int(off.argmin()), off.shape)
    if off[i, k] > NEAR:
        return None
    return int(firsts[k]), int(n[i, k]), int(m[i, k]), int(d[i, k])


def enlarged(planes: list[Plane], box: tuple[float, float, float, float]) -> list[Plane] | None:
    """Three planes of which a box (left, top, width, height, in points of the first) fills the frame.

    Returns:
        None where no box of whole points comes near enough.
    """
    high, wide = planes[0].shape
    across, down = whole_box(box[0], box[2], wide), whole_box(box[1], box[3], high)
    if across is None or down is None:
        return None
    (x, w, to_w, cut_x), (y, h, to_h, cut_y) = across, down
    sizes = (1, 2, 2)
    parts = [p[y // k : (y + h) // k, x // k : (x + w) // k] for p, k in zip(planes, sizes, strict=True)]
    flat = np.concatenate([p.ravel() for p in parts]).reshape(-1, w)
    part = av.VideoFrame.from_ndarray(flat, "yuv420p")
    large = part.reformat(width=to_w, height=to_h, interpolation="BILINEAR")
    out = []
    for plane, k in zip(large.planes, sizes, strict=True):
        rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
        out.append(rows[cut_y // k : (cut_y + high) // k, cut_x // k : (cut_x + wide) // k])
    return out
