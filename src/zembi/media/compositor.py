"""Laying pictures over each other: the one place where the film does it, as the page's compositor does on its canvas.

All mixing is of the coded values, plane by plane, with no change to linear light. A picture on whose chain steps act is
worked out in floating point and rounded once; one that is only enlarged, or only mixed with another, stays in 8 bit.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from zembi.core.colour.video import codes_of
from zembi.core.picture.chain import Act, covers
from zembi.core.picture.step import Values
from zembi.core.picture.steps import OPACITY, PLACE
from zembi.core.picture.steps.place import fills
from zembi.core.titles.card import Card
from zembi.core.titles.shown import ALL, Shown
from zembi.media.enlarge import enlarged
from zembi.media.sheet import (
    BLACK,
    Plane,
    Sheet,
    coded_planes,
    even,
    over,
    plane_size,
    planes_of,
    sheet_of,
)
from zembi.media.steps import ACTS
from zembi.media.steps.dense import graded_planes, may_look_up
from zembi.media.steps.place import box, placed_part
from zembi.media.titles.raster import card_picture


@dataclass(frozen=True)
class CompositeLayer:
    """One picture of a stack: a frame, what is ``shown`` of a card of words, a colour ("#rrggbb"), or black where none is given.

    ``cover`` says how much each point of a frame over black hides, 0 to 1; without it, all.
    """

    acts: tuple[Act, ...] = ()
    frame: av.VideoFrame | None = None
    card: Card | None = None
    shown: Shown = ALL
    colour: str | None = None
    cover: NDArray[np.float32] | None = field(default=None, compare=False)


def composed(parts: list[CompositeLayer], width: int, height: int) -> av.VideoFrame:
    """Parts laid over each other on black, the first undermost; 8-bit 4:2:0.

    A single frame on which nothing acts comes back as the very object.
    """
    if len(parts) == 1 and parts[0].frame is not None and not parts[0].acts:
        return parts[0].frame
    size = (width, height)
    out: list[Plane] | Sheet | None = None
    # A frame of this picture's own, in whose planes cards are laid.
    own: av.VideoFrame | None = None
    for part in parts:
        acts, opacity = _parted(part.acts)
        if opacity <= 0:
            continue
        if part.card is not None and not isinstance(out, Sheet) and all(a.kind is PLACE for a in acts):
            if own is None:
                own = _frame(out or [], width, height)
                out = [np.asarray(p) for p in planes_of(own)]
            if acts or opacity < 1:
                moving = _moving_card(part.card, part.shown, size)
                for act in acts:
                    moving = _placed_card(moving, act.values, size)
                _lay_moving(out or [], moving, opacity)
            else:
                _lay_card(out or [], _card_planes(part.card, part.shown, size))
            continue
        own = None
        drawn = _in_eight_bits(part, acts, size) or _acted(part, acts, size)
        whole = isinstance(drawn, list) or drawn.cover is None
        if whole and opacity >= 1:
            out = drawn
        elif isinstance(drawn, list) and (out is None or isinstance(out, list)):
            out = _mixed(out or _black(size), drawn, opacity)
        else:
            beneath = even(size, BLACK) if out is None else _sheet(out, size)
            out = over(beneath, _sheet(drawn, size), opacity)
    if own is not None:
        return own
    if isinstance(out, Sheet):
        out = coded_planes(out)
    return _frame(out or [], width, height)


def _parted(acts: tuple[Act, ...]) -> tuple[tuple[Act, ...], float]:
    """Acts without an opacity at their end, and that."""
    if acts and acts[-1].kind is OPACITY:
        return acts[:-1], min(1.0, acts[-1].values["amount"])
    return acts, 1.0


def _sheet(drawn: list[Plane] | Sheet, size: tuple[int, int]) -> Sheet:
    return drawn if isinstance(drawn, Sheet) else sheet_of(list(drawn), size)


def _black(size: tuple[int, int]) -> list[Plane]:
    return [np.full(plane_size(size, k)[::-1], v, np.uint8) for k, v in enumerate(BLACK)]


def _in_eight_bits(part: CompositeLayer, acts: tuple[Act, ...], size: tuple[int, int]) -> list[Plane] | None:
    """Planes of a picture that needs no more than 8 bit: as it is, or a part of it enlarged by the library's scaler."""
    if part.card is not None or (part.frame is not None and part.frame.format.name != "yuv420p"):
        return None
    if part.frame is None:
        value = coded(part.colour) if part.colour else BLACK
        plain = [np.full(plane_size(size, k)[::-1], v, np.uint8) for k, v in enumerate(value)]
        return plain if covers(acts) and not acts else None
    planes: list[Plane] = [np.asarray(p, np.uint8) for p in planes_of(part.frame)]
    graded = next((k for k, act in enumerate(acts) if not may_look_up(act)), len(acts))
    # Only where nothing else is worked out after it, so that values are rounded once.
    if graded and (graded == len(acts) or _enlarges(acts[graded:])):
        planes = graded_planes(planes, acts[:graded])
        acts = acts[graded:]
    if not acts:
        return planes
    if _enlarges(acts):
        turned = [p[:, ::-1] for p in planes] if acts[0].values["mirror"] else planes
        return enlarged(turned, box(acts[0].values, *size))
    return None


def _enlarges(acts: tuple[Act, ...]) -> bool:
    """True if the picture is only enlarged, upright."""
    return len(acts) == 1 and acts[0].kind is PLACE and fills(acts[0].values) and acts[0].values["scale"] > 1


def _acted(part: CompositeLayer, acts: tuple[Act, ...], size: tuple[int, int]) -> Sheet:
    """A picture after its chain."""
    if part.card is not None:
        sheet = _card_sheet(part.card, part.shown, size)
    elif part.frame is not None:
        sheet = sheet_of(planes_of(part.frame), size)
        if part.cover is not None:
            half = cv2.resize(part.cover, plane_size(size, 1), interpolation=cv2.INTER_AREA)
            covers_ = [part.cover, *(np.asarray(half, np.float32),) * 2]
            sheet = Sheet(size, sheet.planes, covers_)
    else:
        sheet = even(size, coded(part.colour) if part.colour else BLACK)
    for act in acts:
        sheet = ACTS[act.kind.name](sheet, act.values)
    return sheet


def _frame(planes: list[Plane], width: int, height: int) -> av.VideoFrame:
    """A frame of three planes; black where there are none."""
    frame = av.VideoFrame(width, height, "yuv420p")
    for k, plane in enumerate(frame.planes):
        across, up = plane_size((width, height), k)
        rows = np.frombuffer(memoryview(plane), np.uint8)
        rows = rows.reshape(-1, plane.line_size)[:up, :across]
        rows[:] = planes[k] if planes else BLACK[k]
    return frame


def coded(colour: str) -> tuple[int, int, int]:
    """The three values of a colour, "#rrggbb": ITU-R BT.709, limited range."""
    luma, blue, red = codes_of(np.array([int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)])).tolist()
    return round(luma), round(blue), round(red)


def _mixed(under: list[Plane], above: list[Plane], opacity: float) -> list[Plane]:
    """Two opaque pictures mixed in whole numbers, rounded: as good as 8 bit can tell, in a third of the time."""
    part = np.uint16(round(opacity * 256))
    return [
        ((u.astype(np.uint16) * (np.uint16(256) - part) + a.astype(np.uint16) * part + np.uint16(128)) >> np.uint16(8))
        .astype(np.uint8)
        for u, a in zip(under, above, strict=True)
    ]  # fmt: skip


@dataclass(frozen=True, eq=False)
class _CardPlane:
    """The part of a plane of the film that a card covers.

    Attributes:
        left, top: Its first column and row.
        both: Of shape (rows, columns, 2): values less black's, premultiplied, and how much each hides.
        kept, added: The same in whole numbers of 65536 a value: how much of what lies beneath is kept, and what comes to it.
    """

    left: int
    top: int
    both: NDArray[np.float32]
    kept: NDArray[np.uint32]
    added: NDArray[np.uint32]

    @property
    def part(self) -> tuple[slice, slice]:
        rows, columns = self.both.shape[:2]
        return slice(self.top, self.top + rows), slice(self.left, self.left + columns)


def _card_plane(left: int, top: int, both: NDArray[np.float32], black: int) -> _CardPlane:
    values, cover = both[..., 0].astype(np.float64), both[..., 1].astype(np.float64)
    # Half a value, so that cutting off the fraction rounds.
    added = np.rint((values + black * cover) * (1 << 16)).astype(np.uint32) + np.uint32(1 << 15)
    return _CardPlane(left, top, both, np.rint((1 - cover) * (1 << 16)).astype(np.uint32), added)


@lru_cache(maxsize=32)
def _card_planes(card: Card, shown: Shown, size: tuple[int, int]) -> tuple[_CardPlane, ...]:
    """The three planes of what is seen of a card."""
    picture = card_picture(card, *size, shown)
    red, green, blue, cover = (np.ascontiguousarray(c) for c in np.moveaxis(picture.rgba, -1, 0))
    luma = np.float32(0.2126) * red + np.float32(0.7152) * green + np.float32(0.0722) * blue
    half = (luma.shape[1] // 2, luma.shape[0] // 2)

    def chroma(plane: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.resize(plane, half, interpolation=cv2.INTER_AREA), np.float32)

    small = chroma(cover)
    values = [
        luma * np.float32(219),
        chroma(np.asarray((blue - luma) * np.float32(224 / 1.8556), np.float32)),
        chroma(np.asarray((red - luma) * np.float32(224 / 1.5748), np.float32)),
    ]
    out = []
    for k, plane in enumerate(values):
        hides = small if k else cover
        both = np.stack((np.asarray(plane), np.asarray(hides)), axis=-1).astype(np.float32)
        by = 2 if k else 1
        out.append(_card_plane(picture.left // by, picture.top // by, both, BLACK[k]))
    return tuple(out)


@dataclass(frozen=True, eq=False)
class _MovingCard:
    """A card that is another in each frame, in 8 bit as it is laid: premultiplied values and how much they hide.

    Four channels, which OpenCV moves as quickly as one: luma, cover and two that are empty, and both chromas, cover and an
    empty one at half the size. Each with its first column and row.
    """

    luma: tuple[NDArray[np.uint8], int, int]
    chroma: tuple[NDArray[np.uint8], int, int]


@lru_cache(maxsize=32)
def _moving_card(card: Card, shown: Shown, size: tuple[int, int]) -> _MovingCard:
    planes = _card_planes(card, shown, size)

    def eight(k: int, channel: int) -> NDArray[np.uint8]:
        both = planes[k].both
        value = (
            both[..., 0] + np.float32(BLACK[k]) * both[..., 1]
            if channel == 0
            else both[..., 1] * np.float32(255)
        )
        return np.clip(np.rint(value), 0, 255).astype(np.uint8)

    luma = [eight(0, 0), eight(0, 1)]
    chroma = [eight(1, 0), eight(2, 0), eight(1, 1)]
    four = [np.dstack([*given, *[np.zeros_like(given[0])] * (4 - len(given))]) for given in (luma, chroma)]
    return _MovingCard((four[0], planes[0].left, planes[0].top), (four[1], planes[1].left, planes[1].top))


def _placed_card(moving: _MovingCard, values: Values, size: tuple[int, int]) -> _MovingCard:
    """A card scaled, turned and shifted: only where it lies is anything worked out."""
    return _MovingCard(
        placed_part(*moving.luma, values, plane_size(size, 0)),
        placed_part(*moving.chroma, values, plane_size(size, 1)),
    )


def _lay_card(planes: Sequence[Plane], card: tuple[_CardPlane, ...]) -> None:
    """Lay a card that stays over planes, in place, to half a value."""
    for plane, over_it in zip(planes, card, strict=True):
        beneath = plane[over_it.part]
        beneath[:] = (beneath * over_it.kept + over_it.added) >> np.uint32(16)


def _lay_moving(planes: Sequence[Plane], moving: _MovingCard, opacity: float) -> None:
    """Lay a card that moves or fades over planes, in place, to a value."""
    for first, ((four, left, top), cover_at) in ((0, (moving.luma, 1)), (1, (moving.chroma, 2))):
        if not four.size:
            continue
        channels: Sequence[Any] = cv2.split(
            four if opacity >= 1 else cv2.convertScaleAbs(four, alpha=opacity)
        )
        kept = cv2.bitwise_not(channels[cover_at])
        for k, value in enumerate(channels[:cover_at]):
            beneath = planes[first + k][top : top + four.shape[0], left : left + four.shape[1]]
            beneath[:] = cv2.add(cv2.multiply(beneath, kept, scale=1 / 255), value)


def _card_sheet(card: Card, shown: Shown, size: tuple[int, int]) -> Sheet:
    """A card as a picture of the frame's size."""
    planes = [np.zeros(plane_size(size, k)[::-1], np.float32) for k in range(3)]
    covers_ = [np.zeros_like(p) for p in planes]
    for k, part in enumerate(_card_planes(card, shown, size)):
        planes[k][part.part] = part.both[..., 0]
        covers_[k][part.part] = part.both[..., 1]
    return Sheet(size, planes, covers_)
