"""Context of operations: the song, the angles and the clips."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.falls import Falls
from zembi.core.edit.model import SPEEDS, AngleSource, ClipSource, Edit
from zembi.core.edit.planning import Pace
from zembi.core.errors import BadInput, Refused
from zembi.core.footage.look import Look
from zembi.core.programme.model import Span
from zembi.core.song.grid import Grid, Unit, needed_grid, place_among, time_at
from zembi.core.song.heard import Heard
from zembi.core.song.hits import HIT_KINDS, HIT_NAMES
from zembi.core.timebase import frame_at, seconds_to_frame

#: Strength of a hit, 0 to 1, from which cuts fall on it.
STRONG = 0.5
#: Message where a unit has no points.
_NONE: dict[str, str] = {
    "mark": "Cuts fall on marks, and no marks are shown: tap or show some on the Song view.",
    "line": "Cuts fall on lines of the lyrics, and none has a time: type or read the lyrics on the Song view.",
} | {kind: f"Cuts fall on {many}, and none is heard." for kind, (_one, many) in HIT_NAMES.items()}


@dataclass(frozen=True)
class AngleCoverage:
    """An angle as operations see it: its number, what it shows, and whether it is a close one."""

    number: int
    spans: Sequence[Span] = ()
    close: bool = False


@dataclass(frozen=True)
class Footage:
    """A file or select that can be laid: what may be used of it in seconds, and at what speed by itself.

    ``fills`` where a rough cut may choose it. ``moment_s`` is a moment of it that was marked, ``seconds`` what there is
    of its file; a ``still`` is one picture.
    """

    name: str
    in_s: float
    out_s: float
    ready: bool = True
    fills: bool = False
    speed: float = 1.0
    media: str = ""
    tags: tuple[str, ...] = ()
    moment_s: float | None = None
    seconds: float = float("inf")
    still: bool = False


@dataclass(frozen=True)
class SectionContext:
    """A section: where it starts in working time, its loudness in LUFS, its energy against the song's most (0 to 1), what
    was planned for it by hand, and a lead of its own.
    """

    start_s: float
    level: float = -70.0
    name: str = ""
    energy: float = 0.5
    pace: Pace | None = None
    lead: int | None = None


@dataclass(frozen=True)
class Line:
    """A line of the shot list: its section ("" for none), what was planned, and what of that is there: an angle, or a
    file with a picture and a select of it.
    """

    section: str
    words: str
    angle: int | None = None
    media: str | None = None
    select: int | None = None


@dataclass(frozen=True)
class SungLine:
    """A timed line of the lyrics, in working time; ``id`` names it."""

    id: int
    text: str
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Context:
    """The song and the material at the time of an operation; times are working time.

    Attributes:
        rate: The project's.
        grid: None while the song has not been listened to.
        phrases: Where phrases start.
        marks: Marks in sets that are shown.
        sections: In order.
        lead: Frames before the grid point at which the project's cuts fall, where a section has none of its own.
        strong: Strength of a hit from which cuts fall on it.
        angles: By id, in order of number.
        clips: By id, in order of preference.
        selects: By id; each names its ``media``.
        heard: What was heard of the music; asked for only by what follows it.
        look: Look of a clip, None where nothing was measured; likewise.
        worth: Worth of each moment of a file (see :func:`zembi.core.footage.worth.worth`); likewise.
        cuts_in: Seconds at which a file is cut within; likewise.
        listed: Lines of the shot list in order; likewise.
        lyrics: Lines of the lyrics that are timed and kept, in order; likewise.
        material: What the edit is compiled of, with the music that treatments follow.
    """

    rate: Fraction
    grid: Grid | None = None
    phrases: tuple[float, ...] = ()
    marks: tuple[float, ...] = ()
    sections: tuple[SectionContext, ...] = ()
    lead: int = 0
    strong: Mapping[str, float] = field(default_factory=dict)
    angles: Mapping[int, AngleCoverage] = field(default_factory=dict)
    clips: Mapping[str, Footage] = field(default_factory=dict)
    selects: Mapping[int, Footage] = field(default_factory=dict)
    heard: Callable[[], Heard] = Heard
    look: Callable[[Footage], Look | None] = lambda _footage: None
    worth: Callable[[str], tuple[float, ...]] = lambda _media: ()
    cuts_in: Callable[[str], tuple[float, ...]] = lambda _media: ()
    listed: Callable[[], Sequence[Line]] = lambda: ()
    lyrics: Callable[[], Sequence[SungLine]] = lambda: ()
    material: Material = field(default_factory=lambda: Material({}, {}, Fraction(24)))

    def need_grid(self) -> Grid:
        """The grid.

        Raises:
            Refused: the song has not been listened to yet.
        """
        return needed_grid(self.grid)

    @cached_property
    def cuts(self) -> Falls:
        """Rule of where cuts fall."""
        return Falls(self.rate, self.lead, tuple((s.start_s, s.lead) for s in self.sections))

    def point(self, working_s: float, unit: Unit) -> float:
        """The grid point nearest to a working time.

        Raises:
            Refused: nothing to fall on, or no grid yet.
        """
        others = self.others(unit)
        if not others and unit in _NONE:
            raise Refused(_NONE[unit])
        return self.need_grid().nearest(working_s, unit, others)

    def others(self, unit: Unit) -> tuple[float, ...]:
        """Points of a unit that are not of the grid, in working time."""
        if unit == "phrase":
            return self.phrases
        if unit == "mark":
            return self.marks
        if unit == "line":
            return self.heard().lines
        if unit in HIT_KINDS:
            least = self.strong.get(unit, STRONG)
            return tuple(at for at, strength in self.heard().bands.get(unit, ()) if strength >= least)
        return ()

    def falls(self, unit: Unit) -> list[int]:
        """Frames on which cuts may fall for a unit, ascending; none for "free"."""
        points = self.need_grid().points(unit, self.others(unit))
        return sorted({self.cuts.frame_of(p) for p in points if p >= -1e-6})

    def next_point(self, point_s: float, unit: Unit) -> float | None:
        """The point of a unit after one of them; None after the last."""
        points = self.need_grid().points(unit, self.others(unit))
        return next((p for p in points if p > point_s + 1e-6), None)

    def frame(self, edit: Edit, working_s: float, unit: Unit, lead: int | None) -> int:
        """The frame at which a cut asked for at a working time falls; "free" is the frame on screen at that time.

        Raises:
            BadInput: a lead out of range.
            Refused: no marks to fall on, or no grid yet.
        """
        last = max(0, edit.length - 1)
        if unit == "free":
            return min(max(0, frame_at(working_s, self.rate)), last)
        return min(self.cuts.frame_of(self.point(working_s, unit), lead), last)

    def frame_around(self, edit: Edit, working_s: float, unit: Unit, lead: int | None) -> int:
        """As :meth:`frame`, and in the lead-in and tail too, where beats and bars go on as at the song's ends.

        Raises:
            BadInput, Refused: as :meth:`frame`.
        """
        at = frame_at(working_s, self.rate)
        if 0 <= at < edit.length or not edit.first <= at < edit.end:
            return self.frame(edit, working_s, unit, lead)
        if unit == "free":
            return at
        grid = self.need_grid()
        points = grid.bar_times if unit == "bar" else grid.beats
        step = 2 if unit == "half" else 1
        nearest = time_at(points, round(place_among(points, working_s) * step) / step)
        return min(max(edit.first, seconds_to_frame(nearest, self.rate)), edit.end - 1)

    def end_around(self, edit: Edit, working_s: float, unit: Unit, lead: int | None) -> int:
        """As :meth:`frame_around`, for an end (exclusive): at the latest that of the film."""
        if frame_at(working_s, self.rate) >= edit.end:
            return edit.end
        return self.frame_around(edit, working_s, unit, lead)

    def angle(self, angle: int) -> AngleSource:
        """An angle as a source.

        Raises:
            BadInput: there is no such angle.
        """
        if angle not in self.angles:
            raise BadInput("There is no such angle any more.")
        return AngleSource(angle)

    def clip(
        self, media: str, speed: float | None = None, select: int | None = None
    ) -> tuple[ClipSource, Footage]:
        """A clip, or a select of it, from its in point, and what may be used of it; without a speed, at its own.

        Raises:
            BadInput: there is no such file with a picture, no such select of it, or the speed is out of range.
            Refused: it is not ready yet.
        """
        known = self.clips.get(media)
        if known is None:
            raise BadInput("That file has no picture to lay, or is not in this project.")
        if select is not None:
            chosen = self.selects.get(select)
            if chosen is None or chosen.media != media:
                raise BadInput(f"There is no such select of {known.name} any more.")
            known = replace(chosen, ready=known.ready)
        speed = known.speed if speed is None else speed
        if not SPEEDS[0] <= speed <= SPEEDS[1]:
            raise BadInput(f"A speed of {speed:g} is outside {SPEEDS[0]:g} to {SPEEDS[1]:g}.")
        if not known.ready:
            raise Refused(f"{known.name} is not ready yet.")
        return ClipSource(media, known.in_s, speed), known
