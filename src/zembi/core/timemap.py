"""From programme frames to media time: runs of pieces at a steady or an evenly changing speed, exact in each.

Frame *k* of a piece is taken at its middle, *t* = (k + 1/2) / rate seconds into it, and shows the media time

    at_s + speed * t + (end_speed - speed) * t² / (2 * T),    T = frames / rate

so equal speeds are plain playback, unequal ones a ramp, 0 a freeze and less than 0 backwards. The page reads
pieces by the same rule; both are held to one table of cases (``tests/cases/timemap.json``).
"""

import math
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import Refused
from zembi.core.timebase import ON_TIME


@dataclass(frozen=True)
class Piece:
    """``frames`` programme frames from media time ``at_s``, the speed changing evenly from one to the other."""

    frames: int
    at_s: float
    speed: float
    end_speed: float

    def after(self, seconds: float, rate: Fraction) -> float:
        """Media time so many programme seconds into the piece."""
        at = self.at_s + self.speed * seconds
        if self.end_speed != self.speed:
            at += (self.end_speed - self.speed) * seconds * seconds * float(rate) / (2 * self.frames)
        return at

    def cut(self, first: int, end: int, rate: Fraction) -> "Piece":
        """Frames ``first`` to ``end`` (exclusive) of the piece, each showing what it showed."""
        if first == 0 and end == self.frames:
            return self
        bend = (self.end_speed - self.speed) / self.frames
        return Piece(
            end - first,
            self.after(first * rate.denominator / rate.numerator, rate),
            self.speed + bend * first,
            self.speed + bend * end,
        )


@dataclass(frozen=True)
class TimeMap:
    """Pieces one after the other; empty for what has no media."""

    pieces: tuple[Piece, ...] = ()

    @property
    def frames(self) -> int:
        """Length in programme frames."""
        return sum(p.frames for p in self.pieces)

    @property
    def start_s(self) -> float:
        """Media time at the very beginning of the first frame; 0 without media."""
        return self.pieces[0].at_s if self.pieces else 0.0

    def times(self, rate: Fraction) -> NDArray[np.float64]:
        """Media time on display in each frame, shape (frames,)."""
        parts = []
        for p in self.pieces:
            t = (np.arange(p.frames) * 2 + 1) * float(Fraction(1, 2) / rate)
            at = p.at_s + p.speed * t
            if p.end_speed != p.speed:
                at = at + (p.end_speed - p.speed) * t * t * float(rate) / (2 * p.frames)
            parts.append(at)
        return np.concatenate(parts) if parts else np.zeros(0)

    def cut(self, first: int, end: int, rate: Fraction) -> "TimeMap":
        """Frames ``first`` to ``end`` (exclusive) of the map; every frame shows what it showed."""
        if len(self.pieces) == 1 and 0 <= first < end <= self.pieces[0].frames:
            return TimeMap((self.pieces[0].cut(first, end, rate),))
        out, at = [], 0
        for p in self.pieces:
            a, b = max(first, at), min(end, at + p.frames)
            if a < b:
                out.append(p.cut(a - at, b - at, rate))
            at += p.frames
        return TimeMap(tuple(out))

    def through(self, seen: "TimeMap", rate: Fraction) -> "TimeMap":
        """Composition of two time maps: this one looked at through another, whose times are seconds of this one.

        Before its first frame and after its last this one goes on at its speed there.

        Raises:
            Refused: both change their speed in one place.
        """
        ends = np.cumsum([p.frames for p in self.pieces])
        out: list[Piece] = []
        for piece in seen.pieces:
            times = TimeMap((piece,)).times(rate)
            # The frame of this map that is on screen at each time, and which of its pieces that is in.
            frames = np.floor(times * float(rate) + ON_TIME)
            inside = np.minimum(np.searchsorted(ends, frames, side="right"), len(self.pieces) - 1)
            edges = [0, *(np.nonzero(np.diff(inside))[0] + 1).tolist(), piece.frames]
            for first, end in pairwise(edges):
                k = int(inside[first])
                begins = float(ends[k] - self.pieces[k].frames) / float(rate)
                out.append(_through(self.pieces[k], begins, piece.cut(first, end, rate), rate))
        return TimeMap(tuple(out))

    def extended(self, before: int, after: int, rate: Fraction) -> "TimeMap":
        """The map with so many frames more at its head and tail, at the speed that it has there."""
        if not (before or after) or not self.pieces:
            return self
        first, last = self.pieces[0], self.pieces[-1]
        seconds = before * rate.denominator / rate.numerator
        head = Piece(before, first.at_s - first.speed * seconds, first.speed, first.speed)
        end_s = last.after(last.frames * rate.denominator / rate.numerator, rate)
        tail = Piece(after, end_s, last.end_speed, last.end_speed)
        return TimeMap(tuple(p for p in (head, *self.pieces, tail) if p.frames))

    def extent(self, rate: Fraction) -> tuple[float, float]:
        """Earliest and latest media time that is on display in any frame; (0, 0) without media."""
        seen: list[float] = []
        for p in self.pieces:
            if p.speed == p.end_speed:
                half = rate.denominator / (2 * rate.numerator)
                seen += [p.at_s + p.speed * half, p.at_s + p.speed * (2 * p.frames - 1) * half]
                continue
            wanted = {0, p.frames - 1}
            if p.speed * p.end_speed < 0:
                turn = p.speed * p.frames / (p.speed - p.end_speed) - 0.5
                wanted |= {min(max(k, 0), p.frames - 1) for k in (math.floor(turn), math.ceil(turn))}
            seen += [p.after((2 * k + 1) * rate.denominator / (2 * rate.numerator), rate) for k in wanted]
        return (min(seen), max(seen)) if seen else (0.0, 0.0)

    def outside(self, low_s: float, high_s: float, rate: Fraction) -> int:
        """Number of frames that show a media time before ``low_s`` or from ``high_s`` on: without picture."""
        low, high = self.extent(rate)
        if low >= low_s - ON_TIME and high < high_s + ON_TIME:
            return 0
        times = self.times(rate)
        return int(np.sum((times < low_s - ON_TIME) | (times >= high_s + ON_TIME)))


def _through(outer: Piece, begins_s: float, seen: Piece, rate: Fraction) -> Piece:
    """A piece that begins at a time, looked at through one that lies in it."""
    into = seen.at_s - begins_s
    if outer.speed == outer.end_speed:
        v = outer.speed
        return Piece(seen.frames, outer.at_s + v * into, v * seen.speed, v * seen.end_speed)
    if seen.speed != seen.end_speed:
        raise Refused("The speed changes here already: one ramp at a time.")
    bend = (outer.end_speed - outer.speed) * float(rate) / outer.frames
    long = seen.frames * rate.denominator / rate.numerator
    speeds = [(outer.speed + bend * (into + seen.speed * t)) * seen.speed for t in (0.0, long)]
    return Piece(seen.frames, outer.at_s + outer.speed * into + bend * into * into / 2, *speeds)


#: Of what has no media.
NO_TIME = TimeMap()


def playback(frames: int, at_s: float, speed: float = 1.0) -> TimeMap:
    """Plain playback at one speed."""
    return TimeMap((Piece(frames, at_s, speed, speed),))
