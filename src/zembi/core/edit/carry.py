"""Bringing an edit along: with cuts that were on a grid that moved, and through a changed cutdown."""

from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from zembi.core.edit.items import head_trimmed, later, missing_before, moved_on
from zembi.core.edit.lanes.base import move_cuts
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import (
    AngleSource,
    CardSource,
    ClipSource,
    Edit,
    Item,
    Lane,
    Source,
    checked,
    ends_of,
)
from zembi.core.song.cutdown import SongMap
from zembi.core.song.grid import Grid
from zembi.core.timebase import frame_to_seconds, frames_for_length, seconds_to_frame

#: A cut this near a beat belongs to it.
_REACH = 3


def cuts_on_grid(edit: Edit, before: Grid, after: Grid, rate: Fraction) -> list[tuple[int, int]]:
    """Cuts that lay on a beat or half-beat of a grid, and where they would lie on another: (frame, new frame).

    A cut goes to the nearest beat of the new grid (to a half-beat where it lay on one); those that stay are not
    listed, nor those that would meet their neighbour or whose clip has no picture that early. Ends of titles are listed
    alike, but for those of titles that follow the lyrics.
    """

    def on_grid(frame: int) -> int:
        """The frame to which one that lay on the grid goes; itself where it did not."""
        for unit in ("beat", "half"):
            point = before.nearest(frame_to_seconds(frame, rate), unit)
            if seconds_to_frame(point, rate) == frame:
                return seconds_to_frame(after.nearest(point, unit), rate)
        return frame

    out: list[tuple[int, int]] = []
    for i, shot in enumerate(edit.shots[1:], 1):
        to = on_grid(shot.start)
        floor = out[-1][1] if out and out[-1][0] == edit.shots[i - 1].start else edit.shots[i - 1].start
        reaches = not missing_before(head_trimmed(shot, to, rate), edit.end_of(i), rate)
        if to != shot.start and floor < to < edit.length and reaches:
            out.append((shot.start, to))
    # A cut that cannot go keeps what begins with it.
    stay = {shot.start for shot in edit.shots} | {0, edit.length}
    out += [(f, to) for f in on_music(edit) - stay if f != (to := on_grid(f)) and 0 < to < edit.length]
    return sorted(out)


def on_music(edit: Edit) -> set[int]:
    """Frames that can be brought along: those of cuts, and the ends of titles."""
    titles = {f for i in _titles_on_music(edit) for f in (i.start, i.end or edit.length)}
    return {shot.start for shot in edit.shots} | titles


def _titles_on_music(edit: Edit) -> list[Item]:
    """Titles inside the song that follow no line of the lyrics."""
    return [
        item
        for lane in edit.of_kind(TITLES)
        for item in lane.items
        if isinstance(item.source, CardSource) and item.source.line is None and 0 <= item.start < edit.length
    ]


def bring_cuts(edit: Edit, moves: list[tuple[int, int]], rate: Fraction) -> Edit:
    """Move cuts as :func:`cuts_on_grid` offers; clips keep their picture in place, titles come along, other lanes stay.

    Raises:
        Refused: as :func:`~zembi.core.edit.lanes.base.move_cuts`.
    """
    to = dict(moves)
    after = move_cuts(edit, to, rate)
    follow = {item.id for item in _titles_on_music(edit)}
    for lane in edit.of_kind(TITLES):
        moved = [_with_ends(i, to) if i.id in follow else i for i in lane.items]
        ordered = sorted(moved, key=lambda i: i.start)
        # Where two would meet, those of the lane stay.
        if all((a.end or 0) <= b.start for a, b in pairwise(ordered)):
            after = after.with_items(lane, ordered)
    return after


def _with_ends(item: Item, to: dict[int, int]) -> Item:
    start, end = to.get(item.start, item.start), to.get(item.end or 0, item.end or 0)
    return replace(item, start=start, end=end) if start < end else item


def fitted(edit: Edit, length: int) -> Edit:
    """The edit for a song of another length: items stay; what lies beyond the end goes, or the last shot runs on.

    What lies after the song stays after it, and what runs on over its end runs on as long.
    """

    def ends(end: int) -> int:
        return end + min(0, length - edit.length) if end > edit.length else min(end, length)

    lanes = tuple(
        replace(
            lane,
            items=tuple(
                i if i.end is None else replace(i, end=ends(i.end))
                for i in lane.items
                if i.start < min(length, edit.length)
            )
            + tuple(moved_on(i, length - edit.length) for i in lane.items if i.start >= edit.length),
        )
        for lane in edit.lanes
    )
    return checked(replace(edit, length=length, lanes=lanes))


def anchor(frame: int, grid: Grid | None, rate: Fraction) -> tuple[float, int]:
    """The moment a frame belongs to, and how many frames off it lies: a near beat's own time, else the frame's."""
    at = frame_to_seconds(frame, rate)
    if grid is not None:
        for unit in ("beat", "half"):
            point = grid.nearest(at, unit)
            off = frame - seconds_to_frame(point, rate)
            if abs(off) <= (_REACH if unit == "beat" else 0):
                return point, off
    return at, 0


def _pieces(
    start: int, end: int, old: SongMap, new: SongMap, grid: Grid | None, rate: Fraction
) -> list[tuple[int, int, float]]:
    """Ranges of the new working song for frames ``start`` to ``end`` of the old: (start, end, seconds into them)."""
    (a, a_off), (b, b_off) = anchor(start, grid, rate), anchor(end, grid, rate)
    total = frames_for_length(new.seconds, rate)
    out: list[tuple[int, int, float]] = []
    for k, (low, high) in enumerate(old.kept):
        x, y = max(a, old.starts[k]), min(b, old.starts[k] + high - low)
        if y <= x:
            continue
        for song_a, song_b, at in new.pieces(low + x - old.starts[k], low + y - old.starts[k]):
            head = abs(song_a - old.to_song(a)) < 1e-9
            tail = abs(song_b - (low + y - old.starts[k])) < 1e-9 and y == b
            first = seconds_to_frame(at, rate) + (a_off if head else 0)
            last = seconds_to_frame(at + song_b - song_a, rate) + (b_off if tail else 0)
            into = 0.0 if head else song_a - low + old.starts[k] - frame_to_seconds(start, rate)
            first, last = max(0, first), min(total, last)
            if (
                out
                and out[-1][1] >= first
                and abs(into - out[-1][2] - (first - out[-1][0]) / float(rate)) < 0.02
            ):
                out[-1] = (out[-1][0], max(last, out[-1][1]), out[-1][2])
            elif last > first:
                out.append((first, last, into))
    return out


def _later(source: Source, seconds: float) -> Source:
    return later(source, seconds) if isinstance(source, ClipSource) else source


@dataclass(frozen=True)
class _Cutdown:
    """A change of the cutdown, as :func:`through_cutdown` is given it."""

    old: SongMap
    new: SongMap
    grid: Grid | None
    rate: Fraction

    def pieces(self, start: int, end: int) -> list[tuple[int, int, float]]:
        return _pieces(start, end, self.old, self.new, self.grid, self.rate)


def through_cutdown(edit: Edit, old: SongMap, new: SongMap, grid: Grid | None, rate: Fraction) -> Edit:
    """The edit after the cutdown changed: every item of every lane stays with its part of the song.

    What lies in a part that is left out now goes; on the base lane, what comes back is filled by the shot before it. A cut
    within three frames of a beat keeps its distance from that beat.

    Args:
        edit: In frames of the old working song.
        old, new: The song's maps before and after.
        grid: The grid of the old working song.
        rate: The project's.
    """
    length, change = frames_for_length(new.seconds, rate), _Cutdown(old, new, grid, rate)
    lanes = tuple(
        replace(
            lane, items=tuple((_with_gaps if lane.kind.gaps else _without_gaps)(lane, edit, length, change))
        )
        for lane in edit.lanes
    )
    return checked(replace(edit, length=length, lanes=lanes))


def _without_gaps(lane: Lane, edit: Edit, length: int, change: _Cutdown) -> list[Item]:
    out: list[Item] = []
    for item, end_before in zip(lane.items, ends_of(lane, edit.length), strict=True):
        for start, _end, into in change.pieces(item.start, end_before):
            part = replace(item, start=start, source=_later(item.source, into), whole=None)
            goes_on = out and isinstance(part.source, AngleSource) and into > 0
            if goes_on and out[-1] == replace(part, start=out[-1].start):
                continue
            if out and start <= out[-1].start:
                out[-1] = replace(part, start=out[-1].start)
            else:
                out.append(part)
    kept = [i for i in out if i.start < length] or [replace(lane.items[0], start=0)]
    return [replace(kept[0], start=0), *kept[1:]]


def _with_gaps(lane: Lane, edit: Edit, length: int, change: _Cutdown) -> list[Item]:
    out: list[Item] = []
    reached = 0
    for item, end_before in zip(lane.items, ends_of(lane, edit.length), strict=True):
        if end_before <= 0 or item.start >= edit.length:
            # Before and after the song nothing is left out of it.
            out.append(moved_on(item, length - edit.length if end_before > 0 else 0))
            continue
        head, tail = min(0, item.start), max(0, end_before - edit.length)
        for start, end, into in change.pieces(max(0, item.start), min(end_before, edit.length)):
            low, high = max(start, 0 if lane.kind.overlap else reached), min(end, length)
            if low >= high:
                continue
            reached = high
            # What runs on over an end of the song does so still, where that end is kept.
            runs_in = low == 0 and into == 0
            late = into + (0.0 if runs_in else frame_to_seconds(-head, change.rate))
            out.append(
                replace(
                    item,
                    start=low + (head if runs_in else 0),
                    end=high + (tail if high == length else 0),
                    source=_later(item.source, late),
                    whole=None,
                )
            )
    return sorted(out, key=lambda i: i.start)
