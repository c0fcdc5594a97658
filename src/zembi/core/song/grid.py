"""The grid: bars and beats over the whole song, corrected by the editor, and every cut's relation to it."""

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import pairwise
from typing import Literal, get_args

import numpy as np

from zembi.core.errors import BadInput, Refused
from zembi.core.song.cutdown import SongMap
from zembi.core.song.hits import HitKind
from zembi.core.timebase import frame_to_seconds, seconds_to_frame

#: What cuts fall on: nothing, points of the grid, phrases, marks, lines of the lyrics, or hits of a kind.
Unit = Literal["free", "half", "beat", "bar", "phrase", "mark", "line", HitKind]
UNITS: tuple[Unit, ...] = get_args(Unit)

#: Fewest and most bars of a phrase.
PHRASE_BARS = (1, 16)


@dataclass(frozen=True)
class Position:
    """A place in the music: bar (1 is the first downbeat; 0 and less lie before it) and beat from 1.0."""

    bar: int
    beat: float


def place_among(points: Sequence[float], at_s: float) -> float:
    """Index of a time among two or more ascending ones, in fractions between them; on beyond the ends at the last step."""
    before = min(max(bisect_right(points, at_s) - 1, 0), len(points) - 2)
    return float(before + (at_s - points[before]) / (points[before + 1] - points[before]))


def time_at(points: Sequence[float], place: float) -> float:
    """The inverse of :func:`place_among`."""
    before = min(max(math.floor(place), 0), len(points) - 2)
    return float(points[before] + (place - before) * (points[before + 1] - points[before]))


@dataclass(frozen=True)
class Grid:
    """Beats from before the song's start to after its end.

    Attributes:
        beats: Song times in seconds, ascending; they reach past both ends of the song.
        bars: Index into ``beats`` of each downbeat, ascending.
        first_bar: Number of the bar that starts at ``bars[0]``.
    """

    beats: tuple[float, ...]
    bars: tuple[int, ...]
    first_bar: int

    @cached_property
    def metre(self) -> int:
        """The usual number of beats in a bar."""
        return int(np.median(np.diff(self.bars))) if len(self.bars) > 1 else 4

    @cached_property
    def bpm(self) -> float:
        """Median tempo in beats a minute."""
        return float(60 / np.median(np.diff(self.beats)))

    def beats_between(self, start_s: float, end_s: float) -> float:
        """Number of beats from one song time to another, in fractions, each as long as it is there."""
        return place_among(self.beats, end_s) - place_among(self.beats, start_s)

    def bar_of(self, at_s: float) -> tuple[float, float, int]:
        """Start and end of the bar around a song time, in seconds, and its number of beats."""
        i = bisect_right(self.beats, at_s + 1e-6) - 1
        b = min(max(bisect_right(self.bars, i) - 1, 0), len(self.bars) - 2)
        first, last = self.bars[b], self.bars[b + 1]
        return self.beats[first], self.beats[last], last - first

    def bar_time(self, bar: int) -> float:
        """Song time at which a bar begins; bars outside the grid are continued at its edge's tempo."""
        index = bar - self.first_bar
        if 0 <= index < len(self.bars):
            return self.beats[self.bars[index]]
        edge = 0 if index < 0 else -1
        span = self.metre * float(np.median(np.diff(self.beats)))
        known = self.beats[self.bars[edge]]
        return known + (index if index < 0 else index - len(self.bars) + 1) * span

    def position(self, at_s: float) -> Position:
        """Bar and beat of a song time; the beat counts on in fractions."""
        i = min(max(bisect_right(self.beats, at_s + 1e-9) - 1, 0), len(self.beats) - 2)
        fraction = (at_s - self.beats[i]) / (self.beats[i + 1] - self.beats[i])
        b = min(max(bisect_right(self.bars, i) - 1, 0), len(self.bars) - 1)
        return Position(self.first_bar + b, 1 + (i - self.bars[b]) + fraction)

    def time_of(self, bar: int, beat: float) -> float:
        """Song time of a place in the music; the inverse of :meth:`position`.

        Raises:
            BadInput: a bar that the song does not have.
        """
        index = bar - self.first_bar
        if not 0 <= index < len(self.bars) or beat < 1:
            last = self.first_bar + len(self.bars) - 1
            raise BadInput(f"Bar {bar}, beat {beat:g} is not in this song (bars {self.first_bar} to {last}).")
        exact = self.bars[index] + beat - 1
        whole = min(int(exact), len(self.beats) - 2)
        return self.beats[whole] + (exact - whole) * (self.beats[whole + 1] - self.beats[whole])

    @cached_property
    def half_beats(self) -> tuple[float, ...]:
        """Song times of all beats and of the middles between them, ascending."""
        middles = [(a + b) / 2 for a, b in pairwise(self.beats)]
        return tuple(sorted([*self.beats, *middles]))

    @cached_property
    def bar_times(self) -> tuple[float, ...]:
        """Song times of all bar lines, ascending."""
        return tuple(self.beats[i] for i in self.bars)

    @cached_property
    def known_relations(self) -> dict[Fraction, dict[int, "Relation"]]:
        """Cache of what :func:`relations` said of frames at a rate: an edit asks again after every operation."""
        return {}

    def points(self, unit: Unit, others: tuple[float, ...] = ()) -> Sequence[float]:
        """All song times a cut may fall on for a unit, ascending ("free" has none).

        ``others`` are the points of units that are not of the grid.
        """
        if unit == "beat":
            return self.beats
        if unit == "half":
            return self.half_beats
        if unit == "bar":
            return self.bar_times
        return () if unit == "free" else sorted(others)

    def nearest(self, at_s: float, unit: Unit, others: tuple[float, ...] = ()) -> float:
        """The song time of the grid point nearest to ``at_s``; ``at_s`` itself for "free"."""
        points = self.points(unit, others)
        if not points:
            return at_s
        i = bisect_right(points, at_s)
        close = points[max(0, i - 1) : i + 1]
        return min(close, key=lambda p: abs(p - at_s))

    def step(self, at_s: float, steps: int, unit: Unit = "beat") -> float:
        """The grid point ``steps`` on (or back) from a time that may lie between two."""
        points = self.points(unit)
        i = bisect_right(points, at_s + 1e-6) - 1
        on_point = i >= 0 and abs(points[i] - at_s) < 1e-6
        target = i + steps + (0 if steps > 0 or on_point else 1)
        return points[min(max(target, 0), len(points) - 1)]


@dataclass(frozen=True)
class Relation:
    """Relation of a cut to the grid.

    Attributes:
        bar, beat: The nearest beat (whole) or half-beat (.5).
        off_frames: Frames after (+) or before (-) it.
        label: For the page: "bar", "beat 3", "−1 f", "½ after 2".
    """

    bar: int
    beat: float
    off_frames: int
    label: str


def relation(grid: Grid, frame: int, rate: Fraction) -> Relation:
    """Describe a cut: on the bar, on a beat, some frames off one, or on a half-beat."""
    at = frame_to_seconds(frame, rate)
    beat_s = grid.nearest(at, "beat")
    half_s = grid.nearest(at, "half")
    off = frame - seconds_to_frame(beat_s, rate)
    place = grid.position(beat_s)
    if off == 0:
        label = "bar" if round(place.beat) == 1 else f"beat {round(place.beat)}"
        return Relation(place.bar, round(place.beat), 0, label)
    if abs(off) > 3 and frame == seconds_to_frame(half_s, rate):
        half = grid.position(half_s)
        return Relation(half.bar, round(half.beat * 2) / 2, 0, f"½ after {int(half.beat)}")
    sign = "+" if off > 0 else "−"
    return Relation(place.bar, round(place.beat), off, f"{sign}{abs(off)} f")


def relations(grid: Grid, frames: Sequence[int], rate: Fraction) -> list[Relation]:
    """:func:`relation` of many cuts; those asked about before are remembered."""
    known = grid.known_relations.setdefault(rate, {})
    for frame in frames:
        if frame not in known:
            known[frame] = relation(grid, frame, rate)
    return [known[frame] for frame in frames]


def needed_grid(grid: Grid | None) -> Grid:
    """A grid, where there is one.

    Raises:
        Refused: the song has not been listened to yet.
    """
    if grid is None:
        raise Refused("Zembi has not finished listening to the song yet; the grid follows from that.")
    return grid


def through_map(grid: Grid, song: SongMap) -> Grid:
    """The grid of the working song: beats of what is kept, bars numbered on through the joins.

    Where the ends of the song are left out the grid goes on past the new ends at their tempo.
    """
    beats: list[float] = []
    bars: list[int] = []
    downs = set(grid.bars)
    for k, ((a, b), at) in enumerate(zip(song.kept, song.starts, strict=True)):
        low = -np.inf if k == 0 and a == 0 else a - 1e-3
        high = np.inf if k + 1 == len(song.kept) and grid.beats[-1] > b else b - 1e-3
        for i, beat in enumerate(grid.beats):
            place = beat - a + at
            if low <= beat < high and (not beats or place > beats[-1] + 0.02):
                if i in downs:
                    bars.append(len(beats))
                beats.append(place)
    metre, step = grid.metre, 60 / grid.bpm
    if song.kept[0][0] > 0:
        head = metre * (1 + int(max(0.0, beats[0]) / (metre * step))) + ((-bars[0]) % metre if bars else 0)
        beats = [beats[0] - step * j for j in range(head, 0, -1)] + beats
        bars = [i + head for i in bars]
        bars = [*range(bars[0] % metre, bars[0], metre), *bars] if bars else list(range(0, len(beats), metre))
        first = -sum(1 for i in bars if beats[i] < -0.6 * step)
        return Grid(tuple(beats), tuple(bars), 1 + first)
    return Grid(tuple(beats), tuple(bars), grid.first_bar)


@dataclass(frozen=True)
class SectionSpan:
    """A section as the editor keeps it: where it starts, its name, bars in a phrase and repeat group."""

    start_s: float
    name: str
    phrase_bars: int
    group: int


@dataclass(frozen=True)
class Phrase:
    """A row of the sheet: a run of bars. ``start_s`` to ``end_s`` of all phrases together cover the song."""

    section: int
    number: int
    start_s: float
    end_s: float
    first_bar: int
    bars: int


def nearest_bar(grid: Grid, at_s: float) -> int:
    """Number of the bar whose first beat is nearest to a song time."""
    index = min(range(len(grid.bars)), key=lambda k: abs(grid.beats[grid.bars[k]] - at_s))
    return grid.first_bar + index


def phrases(sections: list[SectionSpan], grid: Grid, duration_s: float) -> list[Phrase]:
    """Divide the song into phrases, section by section; leftover bars make a shorter last phrase."""
    rows: list[Phrase] = []
    ordered = sorted(sections, key=lambda s: s.start_s) or [SectionSpan(0.0, "Song", 4, 0)]
    for k, section in enumerate(ordered):
        start = 0.0 if k == 0 else section.start_s
        end = ordered[k + 1].start_s if k + 1 < len(ordered) else duration_s
        first = nearest_bar(grid, section.start_s)
        number, bar, at = 1, first, start
        while at < end - 1e-6:
            bar_until = bar + section.phrase_bars
            until = grid.bar_time(bar_until)
            beat_s = 60 / grid.bpm
            if until > end - 0.6 * grid.metre * beat_s:
                until = end
                while bar_until > bar + 1 and grid.bar_time(bar_until - 1) > end - 0.4 * beat_s:
                    bar_until -= 1
            rows.append(Phrase(k, number, at, until, bar, bar_until - bar))
            number, bar, at = number + 1, bar_until, until
    return rows
