"""Treatments that go with their picture to another place in the song."""

import dataclasses
from bisect import bisect_left, bisect_right
from typing import Any

from zembi.core.song.grid import Grid
from zembi.core.treatments.model import Treatment
from zembi.core.treatments.music import Place


def moved_on(
    treatments: tuple[Treatment, ...], from_s: float, to_s: float, grid: Grid
) -> tuple[Treatment, ...]:
    """The treatments of a shot that began at one time where it begins at another: each place as many beats on.

    A place that would lie outside the song stays where it was.
    """
    one, two = (bisect_left(grid.beats, grid.nearest(s, "beat")) for s in (from_s, to_s))
    return tuple(_moved(t, two - one, grid) for t in treatments) if one != two else treatments


def _moved(value: Any, beats: int, grid: Grid) -> Any:
    if isinstance(value, Place):
        return _later(value, beats, grid)
    if isinstance(value, tuple):
        return tuple(_moved(v, beats, grid) for v in value)
    if not dataclasses.is_dataclass(value) or isinstance(value, type):
        return value
    fields = {f.name: getattr(value, f.name) for f in dataclasses.fields(value)}
    return dataclasses.replace(value, **{n: _moved(v, beats, grid) for n, v in fields.items()})


def _later(place: Place, beats: int, grid: Grid) -> Place:
    bar = place.bar - grid.first_bar
    if not 0 <= bar < len(grid.bars):
        return place
    at = grid.bars[bar] + place.beat - 1 + beats
    if not grid.bars[0] <= at <= len(grid.beats) - 1:
        return place
    bar = bisect_right(grid.bars, at + 1e-9) - 1
    return Place(grid.first_bar + bar, round(at - grid.bars[bar] + 1, 6))
