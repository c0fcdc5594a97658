"""Treatments of time: each gives, for the frames of a shot, the time of the shot's own picture that is seen.

The shot's own time is seconds from its first frame as it runs without any treatment. Everything is pieces at a steady or
an evenly changing speed (:mod:`zembi.core.timemap`), so that page and film show the very same frames.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import singledispatch
from itertools import pairwise

from zembi.core.errors import Refused
from zembi.core.timebase import frame_middle, frame_to_seconds
from zembi.core.timemap import Piece, TimeMap, playback
from zembi.core.treatments.model import (
    BackAndForth,
    FitSlot,
    Freeze,
    JumpCuts,
    MomentOnBeat,
    Ramp,
    Reverse,
    Rewind,
    Speed,
    Stutter,
    TimeTreatment,
)
from zembi.core.treatments.music import Length, Music, On, Place

#: Slowest and fastest that a clip is made to run, and straight pieces of which a smooth change is made.
SLOWEST, FASTEST, _SMOOTH = 0.02, 50.0, 12


@dataclass(frozen=True)
class Clip:
    """The clip that a shot shows.

    Attributes:
        in_s: Its second at the shot's first frame.
        speed: At which it runs without treatment.
        moments: Asks for the seconds at which something in it begins to move, ascending.
    """

    in_s: float
    speed: float = 1.0
    moments: Callable[[], Sequence[float]] = tuple

    def own(self, media_s: float) -> float:
        """The shot's own time of a second of the clip."""
        return (media_s - self.in_s) / self.speed


@dataclass(frozen=True)
class Words:
    """The words that a title shows, line by line, and the line of the lyrics that they follow."""

    text: str
    line: int | None = None


@dataclass(frozen=True)
class Ground:
    """Ground of a treatment: frames ``first`` to ``end`` (exclusive) of the programme, and the music."""

    first: int
    end: int
    music: Music
    clip: Clip | None = None
    words: Words | None = None

    @property
    def frames(self) -> int:
        """Length in frames."""
        return self.end - self.first

    @property
    def rate(self) -> Fraction:
        """Programme rate."""
        return self.music.rate

    def seconds(self, frames: int) -> float:
        """So many frames in seconds."""
        return frame_to_seconds(frames, self.rate)

    def middle(self, frame: int) -> float:
        """Seconds from the start to the middle of a frame counted from there."""
        return frame_middle(frame, self.rate)

    def place(self, place: Place) -> int:
        """A place in the music, in frames from the start.

        Raises:
            Refused: it lies outside.
        """
        frame = self.music.frame_of(place) - self.first
        if not 0 <= frame < self.frames:
            raise Refused(
                f"Bar {place.bar}, beat {place.beat:g} is not in this shot, which lasts from {self._said(self.first)} to "
                f"{self._said(self.end)}."
            )
        return frame

    def places(self, on: On | None, at: Place | None) -> list[int]:
        """Every place that is meant, in frames from the start; without any the very start."""
        if on is not None:
            return [f - self.first for f, _ in self.music.places(on, self.first, self.end)]
        return [self.place(at)] if at is not None else [0]

    def length(self, length: Length, at: int, least: int = 1) -> int:
        """Frames of a length from a frame counted from the start."""
        return max(least, self.music.frames(length, self.first + at))

    def need_clip(self, what: str) -> Clip:
        """The clip.

        Raises:
            Refused: the shot shows an angle.
        """
        if self.clip is None:
            raise Refused(f"{what} is of clips: an angle's time is that of the song.")
        return self.clip

    def _said(self, frame: int) -> str:
        if self.music.grid is None:
            return f"frame {frame}"
        there = self.music.grid.position(frame_to_seconds(frame, self.rate))
        return f"bar {there.bar}, beat {there.beat:.3g}"


def warped(treatments: Sequence[TimeTreatment], ground: Ground) -> TimeMap:
    """The shot's own time that is seen in each of its frames: the first treatment, looked at through the next, and so on.

    Raises:
        BadInput, Refused: why one cannot be done, in words.
    """
    seen = playback(ground.frames, 0.0)
    for treatment in treatments:
        seen = seen.through(warp(treatment, ground), ground.rate)
    return seen


@singledispatch
def warp(treatment: TimeTreatment, _ground: Ground) -> TimeMap:
    """The time that one treatment shows in each frame.

    Raises:
        BadInput, Refused: why it cannot be done, in words.
    """
    raise TypeError(f"{type(treatment).__name__} is no treatment of time")


def _in_reach(speed: float, what: str) -> float:
    if not SLOWEST <= speed <= FASTEST:
        nearest = min(FASTEST, max(SLOWEST, speed))
        raise Refused(
            f"{what} would have to run {speed:.3g} times as fast; {nearest:g} times is the nearest that can be done."
        )
    return speed


@warp.register
def _speed(t: Speed, ground: Ground) -> TimeMap:
    _in_reach(t.factor, "The picture")
    at = 0.0 if t.keep == "head" else ground.seconds(ground.frames) * (1 - t.factor)
    return playback(ground.frames, at, t.factor)


@warp.register
def _fit(t: FitSlot, ground: Ground) -> TimeMap:
    clip = ground.need_clip("Fitting a slot")
    start, end = clip.own(t.from_s), clip.own(t.to_s)
    speed = (end - start) / ground.seconds(ground.frames)
    if end <= start:
        raise Refused("What is fitted in has to end after it begins.")
    return playback(ground.frames, start, _in_reach(speed, "The clip"))


@warp.register
def _moment(t: MomentOnBeat, ground: Ground) -> TimeMap:
    clip = ground.need_clip("A moment on a beat")
    frame, moment, count = ground.place(t.at), clip.own(t.moment_s), ground.frames
    if t.then_s is not None and t.then_at is not None:
        return _two_moments(t, ground, frame, ground.place(t.then_at), moment, clip.own(t.then_s))
    if t.hold == "head":
        speed = _in_reach(moment / ground.middle(frame), "The clip")
        if t.rest == "same":
            return playback(count, 0.0, speed)
        goes_on = speed * ground.seconds(frame + 1)
        return _pieces(Piece(frame + 1, 0.0, speed, speed), Piece(count - frame - 1, goes_on, 1.0, 1.0))
    if t.end_s is None:
        raise Refused("From the tail: say where in the clip the shot ends.")
    speed = _in_reach(
        (clip.own(t.end_s) - moment) / (ground.seconds(count) - ground.middle(frame)), "The clip"
    )
    begins = moment - speed * ground.middle(0)
    if t.rest == "same":
        return playback(count, begins - speed * ground.seconds(frame), speed)
    return _pieces(
        Piece(frame, begins - ground.seconds(frame), 1.0, 1.0), Piece(count - frame, begins, speed, speed)
    )


def _two_moments(t: MomentOnBeat, ground: Ground, first: int, second: int, one: float, two: float) -> TimeMap:
    """The first moment on its place, the second on its own, the speed changing evenly between."""
    if second <= first or two <= one:
        raise Refused("The second moment has to lie after the first, in the clip and in the music.")
    half, span = ground.middle(0), ground.seconds(second - first)
    before = _in_reach(one / ground.middle(first), "The clip") if t.rest == "same" else 1.0
    # The picture at the first place's frame edge, and the speed at the second's, from the two middles that are asked for.
    bend = half * half / (2 * span)
    after = 0.0 if t.rest == "same" else 1.0
    a = [[1.0, bend], [1.0, span / 2 + (half if t.rest == "same" else 0.0)]]
    b = [one - before * half + before * bend, two - before * span / 2 - after * half]
    det = a[0][0] * a[1][1] - a[0][1] * a[1][0]
    begins = (b[0] * a[1][1] - a[0][1] * b[1]) / det
    then = (a[0][0] * b[1] - b[0] * a[1][0]) / det
    if then < 0:
        raise Refused(
            f"The clip would have to stop before the second moment: it can lie at most {2 * (two - one) / before:.2f} s after "
            "the first in the music."
        )
    rest = then if t.rest == "same" else 1.0
    goes_on = begins + (before + then) / 2 * span
    return _pieces(
        Piece(first, begins - before * ground.seconds(first), before, before),
        Piece(second - first, begins, before, then),
        Piece(ground.frames - second, goes_on, rest, rest),
    )


@warp.register
def _ramp(t: Ramp, ground: Ground) -> TimeMap:
    if not 2 <= len(t.speeds) <= 8:
        raise Refused("A ramp goes from one speed to another, or through several.")
    if t.at and len(t.at) != len(t.speeds) - 1:
        raise Refused("A ramp has a place for each change of speed.")
    count, turns = ground.frames, len(t.speeds) - 1
    places = (
        [ground.place(p) for p in t.at]
        if t.at
        else [round(count * (k + 1) / (turns + 1)) for k in range(turns)]
    )
    changes = []
    at = 0
    for k, place in enumerate(places):
        long = 0 if t.ease == "sharp" else ground.length(t.over, place, 0)
        start, end = max(at, place - long // 2), place + long - long // 2
        end = min(end, places[k + 1] if k < turns - 1 else count)
        if place < at:
            raise Refused("The changes of speed have to come one after the other.")
        changes.append((start, max(start, end)))
        at = max(start, end)
    if t.solved is None:
        for speed in t.speeds:
            if speed:
                _in_reach(abs(speed), "The picture")
        return _ramped(t.speeds, changes, t.ease, ground)
    clip = ground.need_clip("Solving a speed")
    if not 0 <= t.solved < len(t.speeds) or t.moment_s is None:
        raise Refused("Say which speed is to be found, and the moment of the clip that counts.")
    target = clip.own(t.moment_s)
    frame = ground.place(t.moment_at) if t.moment_at is not None else None

    def reached(speed: float) -> float:
        speeds = [speed if k == t.solved else v for k, v in enumerate(t.speeds)]
        seen = _ramped(speeds, changes, t.ease, ground)
        if frame is not None:
            return float(seen.cut(frame, frame + 1, ground.rate).times(ground.rate)[0])
        last = seen.pieces[-1]
        return last.after(ground.seconds(last.frames), ground.rate)

    least, one = reached(0.0), reached(1.0)
    if abs(one - least) < 1e-9:
        raise Refused("That speed has no part in when the moment comes.")
    speed = _in_reach((target - least) / (one - least), "There the clip")
    return _ramped([speed if k == t.solved else v for k, v in enumerate(t.speeds)], changes, t.ease, ground)


def _ramped(speeds: Sequence[float], changes: list[tuple[int, int]], ease: str, ground: Ground) -> TimeMap:
    out: list[Piece] = []
    now, at = 0.0, 0

    def add(frames: int, speed: float, end: float) -> None:
        nonlocal now, at
        if frames > 0:
            out.append(Piece(frames, now, speed, end))
            now += (speed + end) / 2 * ground.seconds(frames)
            at += frames

    for k, (start, end) in enumerate(changes):
        a, b = speeds[k], speeds[k + 1]
        add(start - at, a, a)
        parts = 1 if ease == "straight" else min(_SMOOTH, end - start)
        edges = [start + round((end - start) * j / parts) for j in range(parts + 1)] if parts else []
        for low, high in pairwise(edges):
            if ease == "straight":
                add(high - low, a, b)
            else:
                shares = [(e - start) / (end - start) for e in (low, high)]
                v, w = (a + (b - a) * s * s * (3 - 2 * s) for s in shares)
                add(high - low, v, w)
    add(ground.frames - at, speeds[-1], speeds[-1])
    return TimeMap(tuple(out))


@warp.register
def _reverse(_t: Reverse, ground: Ground) -> TimeMap:
    return playback(ground.frames, ground.seconds(ground.frames), -1.0)


@warp.register
def _freeze(t: Freeze, ground: Ground) -> TimeMap:
    return _again_and_again(
        ground,
        ground.places(t.on, t.at),
        lambda at, _room: [Piece(ground.length(t.over, at), 0.0, 0.0, 0.0)],
        lambda shown, _at: shown + ground.middle(0),
        stays=t.after == "goes on",
        used=lambda _at: 1,
    )


@warp.register
def _stutter(t: Stutter, ground: Ground) -> TimeMap:
    if t.times is not None and t.times < 1:
        raise Refused("A piece is shown once at least.")

    def pieces(at: int, room: int) -> list[Piece]:
        long = ground.length(t.piece, at)
        times = t.times if t.times is not None else -(-room // long)
        return [Piece(long, 0.0, 1.0, 1.0)] * min(times, -(-room // long))

    return _again_and_again(
        ground,
        ground.places(t.on, t.at),
        pieces,
        lambda shown, _at: shown,
        stays=t.after == "goes on",
        used=lambda at: ground.length(t.piece, at),
    )


def _again_and_again(
    ground: Ground,
    places: list[int],
    pieces: Callable[[int, int], list[Piece]],
    begins: Callable[[float, int], float],
    *,
    stays: bool,
    used: Callable[[int], int],
) -> TimeMap:
    """Plain playback, but from each place pieces that all begin at what is seen there; cut short by the next place.

    Args:
        ground: What it lies on.
        places: Frames from the start, ascending.
        pieces: For a place, and the frames up to the next: pieces whose times count from what is seen there.
        begins: The time at which they begin, from that which is seen at the place.
        stays: Whether playback goes on from there, or is where it would have been.
        used: How many frames of the picture they show, where it goes on.
    """
    out: list[Piece] = []
    late = 0
    at = 0
    for k, place in enumerate(places):
        if place < at:
            continue
        out.append(Piece(place - at, ground.seconds(at - late), 1.0, 1.0))
        until = places[k + 1] if k + 1 < len(places) else ground.frames
        shown = begins(ground.seconds(place - late), place)
        at = place
        for piece in pieces(place, until - place):
            frames = min(piece.frames, until - at)
            out.append(Piece(frames, shown + piece.at_s, piece.speed, piece.end_speed))
            at += frames
        if stays:
            late += max(0, at - place - used(place))
    out.append(Piece(ground.frames - at, ground.seconds(at - late), 1.0, 1.0))
    return _pieces(*out)


@warp.register
def _back_and_forth(t: BackAndForth, ground: Ground) -> TimeMap:
    out: list[Piece] = []
    at = 0
    while at < ground.frames:
        long = ground.length(t.every, at)
        there, back = min(long, ground.frames - at), min(long, max(0, ground.frames - at - long))
        out += [Piece(there, 0.0, 1.0, 1.0), Piece(back, ground.seconds(long), -1.0, -1.0)]
        at += there + back
    return _pieces(*out)


@warp.register
def _rewind(t: Rewind, ground: Ground) -> TimeMap:
    start = ground.place(t.at)
    to = ground.music.frame_of(t.to) - ground.first
    if to >= start:
        raise Refused("A rewind goes to what was seen before.")
    long = min(ground.length(t.over, start), ground.frames - start)
    speed = (to - start) / long
    rest = Piece(ground.frames - start - long, ground.seconds(to), 1.0, 1.0)
    head = Piece(start, 0.0, 1.0, 1.0)
    if not t.grows or long < 2:
        return _pieces(head, Piece(long, ground.seconds(start), speed, speed), rest)
    half = long // 2
    most = 2 * speed
    middle = ground.seconds(start) + most / 2 * ground.seconds(half)
    return _pieces(
        head,
        Piece(half, ground.seconds(start), 0.0, most),
        Piece(long - half, middle, most, 0.0),
        rest,
    )


@warp.register
def _jump_cuts(t: JumpCuts, ground: Ground) -> TimeMap:
    out: list[Piece] = []
    ahead, at = 0.0, 0
    moments: list[float] = []
    if t.by is None:
        clip = ground.need_clip("The next moment of movement")
        moments = [clip.own(m) for m in clip.moments()]
    for place in [p for p in ground.places(t.on, None) if p > 0]:
        out.append(Piece(place - at, ground.seconds(at) + ahead, 1.0, 1.0))
        if t.by is not None:
            ahead += ground.seconds(ground.length(t.by, place))
        else:
            now = ground.seconds(place) + ahead
            ahead += next((m - now for m in moments if m > now + _SOONEST_S), 0.0)
        at = place
    out.append(Piece(ground.frames - at, ground.seconds(at) + ahead, 1.0, 1.0))
    return _pieces(*out)


#: The next moment of movement lies at least so far ahead, in seconds.
_SOONEST_S = 0.25


def _pieces(*pieces: Piece) -> TimeMap:
    return TimeMap(tuple(p for p in pieces if p.frames > 0))
