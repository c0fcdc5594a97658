"""An edit at another frame rate: what lies on the music stays on it, all else at its time to the nearest frame."""

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from zembi.core.edit.carry import anchor
from zembi.core.edit.model import AngleSource, Edit, Item, Lane, Source, checked, ends_of
from zembi.core.song.grid import Grid
from zembi.core.timebase import frame_to_seconds, seconds_to_frame
from zembi.core.treatments.model import Treatment
from zembi.core.treatments.music import Length


@dataclass(frozen=True)
class Rerated:
    """An edit at another rate.

    Attributes:
        edit: The edit.
        gone: Items that would have no frame of their own any more, and are left out.
        on_music: Edges that lay on a beat or half beat, and do again.
        moved_s: Seconds by which another edge moved at most.
    """

    edit: Edit
    gone: int
    on_music: int
    moved_s: float


def at_rate(edit: Edit, length: int, old: Fraction, new: Fraction, grid: Grid | None) -> Rerated:
    """The edit at another rate.

    Args:
        edit: The edit.
        length: Frames of the working song at the new rate.
        old, new: Rates.
        grid: Of the music; None while it is not known.
    """
    lead, tail = round(edit.lead * new / old), round(edit.tail * new / old)
    moved: dict[int, tuple[int, float]] = {}
    on_music: set[int] = set()

    def there(frame: int) -> int:
        ends = {0: 0, edit.length: length, edit.first: -lead, edit.end: length + tail}
        if frame in ends:
            return ends[frame]
        if frame > edit.length:
            return min(length + round((frame - edit.length) * new / old), length + tail)
        if frame not in moved:
            point, off = anchor(frame, grid, old)
            at = frame_to_seconds(frame, old)
            if grid is not None and seconds_to_frame(point, old) + off == frame and point != at:
                to, shift = seconds_to_frame(point, new) + off, 0.0
                on_music.add(frame)
            else:
                to = seconds_to_frame(at, new)
                shift = abs(frame_to_seconds(to, new) - at)
            moved[frame] = min(max(-lead, to), length + tail), shift
        return moved[frame][0]

    gone = 0
    lanes = []
    for lane in edit.lanes:
        items = _items(lane, edit.length, length + tail, there, new / old)
        gone += len(lane.items) - len(items)
        lanes.append(replace(lane, items=tuple(items)))
    after = checked(replace(edit, length=length, lanes=tuple(lanes), lead=lead, tail=tail))
    return Rerated(after, gone, len(on_music), max((shift for _, shift in moved.values()), default=0.0))


def _items(lane: Lane, old: int, film_end: int, there: Callable[[int], int], times: Fraction) -> list[Item]:
    """Items of a lane at their new frames; of two that would begin on one, the later stays."""
    out: list[Item] = []
    for item, end in zip(lane.items, ends_of(lane, old), strict=True):
        start, until = there(item.start), there(end)
        if until <= start or start >= film_end:
            continue
        if out and not lane.kind.overlap and out[-1].end is not None and out[-1].end > start:
            out[-1] = replace(out[-1], end=start)
        whole = (min(there(item.whole[0]), start), max(there(item.whole[1]), until)) if item.whole else None
        out.append(
            replace(
                item, start=start, end=None if item.end is None else until, whole=whole,
                source=_source(item.source, times), treatments=tuple(_treatment(t, times) for t in item.treatments),
            )
        )  # fmt: skip
    if not lane.kind.gaps and out and out[0].start:
        out[0] = replace(out[0], start=0)
    return out


def _source(source: Source, times: Fraction) -> Source:
    if isinstance(source, AngleSource) and source.slip:
        return replace(source, slip=round(source.slip * times))
    return source


def _treatment(treatment: Treatment, times: Fraction) -> Treatment:
    made: Treatment = _scaled(treatment, times)
    return made


def _scaled(value: Any, times: Fraction) -> Any:
    """A value whose lengths in frames last as long."""
    if isinstance(value, Length):
        if value.unit != "frames" or not value.value:
            return value
        return replace(value, value=float(max(1, round(value.value * float(times)))))
    if isinstance(value, tuple):
        return tuple(_scaled(v, times) for v in value)
    if not dataclasses.is_dataclass(value) or isinstance(value, type):
        return value
    given = {f.name: getattr(value, f.name) for f in dataclasses.fields(value)}
    return dataclasses.replace(value, **{n: _scaled(v, times) for n, v in given.items()})
