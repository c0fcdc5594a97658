"""A picture in the film's chain: three planes about black, in floating point, and how much of each point it covers."""

from dataclasses import dataclass
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.uint8]
Sheetlike = NDArray[np.float32]

#: Coded black and white of the three planes: 8 bit, ITU-R BT.709, limited range.
BLACK, WHITE = (16, 128, 128), (235, 128, 128)


def plane_size(size: tuple[int, int], plane: int) -> tuple[int, int]:
    """Width and height of a plane of a frame of a size, 4:2:0."""
    return size if plane == 0 else (size[0] // 2, size[1] // 2)


@dataclass(frozen=True)
class Sheet:
    """A picture of the film's size while steps act on it.

    Attributes:
        size: Width and height in points.
        planes: Luma and both chromas, values of 8 bit less black's, multiplied by how much they cover: what is linear in
            premultiplied RGB is linear in these.
        cover: How much of what lies beneath each point hides, 0 to 1, plane by plane; None where it hides all of it.
    """

    size: tuple[int, int]
    planes: list[Sheetlike]
    cover: list[Sheetlike] | None = None

    def with_planes(self, planes: list[Sheetlike]) -> "Sheet":
        """The picture with other values that cover as much."""
        return Sheet(self.size, planes, self.cover)

    def covers(self, plane: int) -> Sheetlike | float:
        """Coverage of a plane."""
        return 1.0 if self.cover is None else self.cover[plane]


def planes_of(frame: av.VideoFrame) -> list[NDArray[Any]]:
    """The three planes of a frame of 4:2:0, 8 or 16 bit, as arrays of their own size."""
    kind = np.uint16 if frame.format.name.endswith("16le") else np.uint8
    out = []
    for k, plane in enumerate(frame.planes):
        across, up = plane_size((frame.width, frame.height), k)
        rows = np.frombuffer(memoryview(plane), kind)
        out.append(rows.reshape(-1, plane.line_size // np.dtype(kind).itemsize)[:up, :across])
    return out


def sheet_of(planes: list[NDArray[Any]], size: tuple[int, int]) -> Sheet:
    """An opaque picture of coded planes."""
    deep = planes[0].dtype == np.uint16
    scaled = [p.astype(np.float32) * np.float32(1 / 256) if deep else p.astype(np.float32) for p in planes]
    return Sheet(size, [p - np.float32(black) for p, black in zip(scaled, BLACK, strict=True)])


def even(size: tuple[int, int], value: tuple[int, int, int]) -> Sheet:
    """An opaque picture of one coded value."""
    return Sheet(
        size,
        [np.full(plane_size(size, k)[::-1], v - BLACK[k], np.float32) for k, v in enumerate(value)],
    )


def coded_planes(sheet: Sheet) -> list[Plane]:
    """The picture over black, in 8 bit."""
    return [
        np.clip(np.rint(p + np.float32(black)), 0, 255).astype(np.uint8)
        for p, black in zip(sheet.planes, BLACK, strict=True)
    ]


def over(beneath: Sheet, above: Sheet, opacity: float = 1.0) -> Sheet:
    """A picture over an opaque one: the coded values are mixed, with no change to linear light."""
    share = np.float32(opacity)
    if above.cover is None:
        planes = [b + (a - b) * share for a, b in zip(above.planes, beneath.planes, strict=True)]
    else:
        planes = [
            b * (1 - c * share) + a * share
            for a, b, c in zip(above.planes, beneath.planes, above.cover, strict=True)
        ]
    return Sheet(beneath.size, planes)
