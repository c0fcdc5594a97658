"""Places and lengths in the music, as treatments name them, and the frames that they are."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import BadInput
from zembi.core.song.grid import Grid, needed_grid, place_among, time_at
from zembi.core.song.hits import HIT_KINDS, HIT_NAMES, HitKind
from zembi.core.timebase import frame_to_seconds, nth, seconds_to_frame

Floats = NDArray[np.float64]
What = Literal["beat", "half beat", "bar", "phrase", "mark", HitKind]
#: Seconds of a beat where no music is known yet.
_PLAIN_BEAT_S = 0.5


@dataclass(frozen=True)
class Place:
    """A place in the music: bar and beat, each from 1."""

    bar: int
    beat: float = 1.0


_WRITTEN = re.compile(r"\s*(-?\d+)(?:[.:](\d+(?:\.\d+)?))?\s*")


def place_from(text: str) -> Place:
    """A place as it is written: "13", "13:2" or "13.2", beats with parts too ("13:2.5").

    Raises:
        BadInput: it is not of that form.
    """
    match = _WRITTEN.fullmatch(text)
    if not match or (match[2] is not None and float(match[2]) < 1):
        raise BadInput(f"“{text}” is not a place in the song: write bar:beat, as in 13:1.")
    return Place(int(match[1]), float(match[2] or 1))


@dataclass(frozen=True)
class Length:
    """So many frames, beats or bars; parts of them too."""

    value: float
    unit: Literal["frames", "beats", "bars"] = "beats"

    def __str__(self) -> str:
        unit = self.unit[:-1] if self.value == 1 else self.unit
        return f"{self.value:g} {unit}"


@dataclass(frozen=True)
class On:
    """Places in the music at which something happens again and again.

    Attributes:
        what: Beats, bars, marks..., or hits of a kind.
        above: Of hits, those at least so strong (0 to 1).
        every: Of those every n-th, the first included.
        skip: How many are left out before the first.
    """

    what: What = "beat"
    above: float = 0.5
    every: int = 1
    skip: int = 0

    def __str__(self) -> str:
        named = HIT_NAMES[self.what][1] if self.what in HIT_NAMES else f"{self.what}s"
        return f"on {named}" if self.every == 1 else f"on every {nth(self.every)} of the {named}"


@dataclass(frozen=True, eq=False)
class Music:
    """Music that treatments follow; working time in seconds. Compared by identity, as what follows it is cached.

    Attributes:
        rate: Programme rate.
        grid: None while the song has not been listened to.
        phrases: Where phrases start.
        marks: Marks that are shown, ascending.
        bands: Hits of each kind with their strength, ascending.
        sung: Lines of the lyrics in order: the id of each, and its words with their times where they have any.
    """

    rate: Fraction
    grid: Grid | None = None
    phrases: tuple[float, ...] = ()
    marks: tuple[float, ...] = ()
    bands: Mapping[str, Sequence[tuple[float, float]]] = field(default_factory=dict)
    sung: tuple[tuple[int, tuple[tuple[float, str], ...]], ...] = ()

    def sung_from(self, line: int) -> list[tuple[float, str]]:
        """Words with their times from a line of the lyrics on; none where its own have none, or it is not there."""
        at = next((n for n, (number, _) in enumerate(self.sung) if number == line), None)
        if at is None or not self.sung[at][1]:
            return []
        return [word for _, words in self.sung[at:] for word in words]

    @cached_property
    def _beats(self) -> Floats:
        if self.grid is not None:
            return np.array(self.grid.beats)
        return np.asarray(np.arange(-8, 20_000) * _PLAIN_BEAT_S, np.float64)

    @cached_property
    def _bars(self) -> Floats:
        return np.array(self.grid.bar_times) if self.grid is not None else self._beats[::4]

    def frame_of(self, place: Place) -> int:
        """The frame of a place.

        Raises:
            BadInput: the song has no such bar.
            Refused: it has not been listened to yet.
        """
        at = needed_grid(self.grid).time_of(place.bar, place.beat)
        return max(0, seconds_to_frame(at, self.rate))

    def frames(self, length: Length, at: int) -> int:
        """Number of frames of a length that begins at a frame; a negative one ends there and is negative too."""
        if length.unit == "frames":
            return round(length.value)
        points = (self._beats if length.unit == "beats" else self._bars).tolist()
        here = frame_to_seconds(at, self.rate)
        return seconds_to_frame(time_at(points, place_among(points, here) + length.value), self.rate) - at

    def before(self, length: Length, at: int) -> int:
        """Number of frames of a length that ends at a frame."""
        return -self.frames(Length(-length.value, length.unit), at)

    def places(self, on: On, first: int, end: int) -> list[tuple[int, float]]:
        """Frames at which it happens from ``first`` to ``end`` (exclusive), each once, with a strength from 0 to 1."""
        if on.every < 1 or on.skip < 0:
            raise BadInput("Every how many: a whole number from 1; left out before the first: from 0.")
        low, high = frame_to_seconds(first, self.rate) - 1, frame_to_seconds(end, self.rate) + 1
        if on.what in HIT_KINDS:
            hits = [h for h in self.bands.get(on.what, ()) if low <= h[0] <= high and h[1] >= on.above]
        else:
            times = self._times(on.what)
            hits = [(float(t), 1.0) for t in times[(times >= low) & (times <= high)]]
        out: dict[int, float] = {}
        for at, strength in hits:
            frame = seconds_to_frame(at, self.rate)
            if first <= frame < end:
                out[frame] = max(strength, out.get(frame, 0.0))
        return sorted(out.items())[on.skip :: on.every]

    def _times(self, what: What) -> Floats:
        if what == "half beat":
            return np.sort(np.concatenate([self._beats, (self._beats[1:] + self._beats[:-1]) / 2]))
        if what == "beat":
            return self._beats
        return {"bar": self._bars, "phrase": np.array(self.phrases), "mark": np.array(self.marks)}[what]
