"""Position of a take without usable sound, from a camera that ran beside it by the same clock."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from zembi.core.sync.refine import Line

Clock = Literal["timecode", "creation time"]

#: Stretches of song shorter than this are not proposed.
_LEAST_S = 1.0


@dataclass(frozen=True)
class Clocked:
    """A take by the clocks in its file; None where it has none.

    Attributes:
        name: What it is called.
        seconds: Length.
        timecode_s: Its first frame's timecode, in seconds of its own frame rate.
        created_s: When recording began, seconds since 1970.
    """

    name: str
    seconds: float
    timecode_s: float | None
    created_s: float | None

    def reading(self, clock: Clock) -> float | None:
        """Time of its first frame by a clock."""
        return self.timecode_s if clock == "timecode" else self.created_s


@dataclass(frozen=True)
class LockedRun:
    """A locked pass of another take."""

    take: Clocked
    start_s: float
    end_s: float
    line: Line


@dataclass(frozen=True)
class ClockPlace:
    """A place to be confirmed: take range, its line, and what it rests on."""

    start_s: float
    end_s: float
    line: Line
    by: Clock
    beside: str


def place_by_clock(take: Clocked, runs: Sequence[LockedRun]) -> list[ClockPlace]:
    """Places at which other cameras filmed the song while this one ran, timecode before creation time.

    Creation times are whole seconds: such a place is a start for the eye, no more.

    Args:
        take: The take without a place.
        runs: Locked passes of other takes.

    Returns:
        In take order, none overlapping.
    """
    clocks: tuple[Clock, ...] = ("timecode", "creation time")
    for clock in clocks:
        own = take.reading(clock)
        if own is None:
            continue
        places: list[ClockPlace] = []
        for run in sorted(runs, key=lambda r: r.start_s - r.end_s):
            other = run.take.reading(clock)
            if other is None:
                continue
            ahead = own - other  # take time 0 is this far into the other take
            start, end = max(0.0, run.start_s - ahead), min(take.seconds, run.end_s - ahead)
            if end - start < _LEAST_S or any(start < p.end_s and p.start_s < end for p in places):
                continue
            line = Line(run.line.song(ahead), run.line.rate)
            places.append(ClockPlace(start, end, line, clock, run.take.name))
        if places:
            return sorted(places, key=lambda p: p.start_s)
    return []
