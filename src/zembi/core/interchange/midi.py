"""The grid and marks as a Standard MIDI File (format 1), both ways: tempo, time signature and marker events."""

import io
from bisect import bisect_right
from dataclasses import dataclass
from itertools import pairwise

import mido

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most
from zembi.core.interchange.lists import Cue
from zembi.core.song.grid import Grid

#: A tempo event is written where going on at the last one would put a beat this far off.
_TOLERANCE_S = 50e-6
#: A name longer than an ordinary marker event is cut.
_LONGEST = 200


@dataclass(frozen=True)
class TempoMap:
    """The music as a file has it: beats in seconds, which of them begin a bar, and named moments."""

    beats: tuple[float, ...]
    bars: tuple[int, ...]
    markers: tuple[Cue, ...]


def write_midi(grid: Grid, cues: list[Cue], *, ticks: int = 960) -> bytes:
    """A grid and cues as a file.

    Tick 0 is song time 0. What lies before the first beat is a bar of one beat, and beats before the first bar
    line a bar of their own, so that every bar line of the song is one in the file. Names keep the characters
    that the format holds (Latin-1); ends of sections and words of lyrics it cannot hold.
    """
    first = next(i for i, b in enumerate(grid.beats) if b > 1e-6)
    if first and abs(grid.beats[first - 1]) <= 1e-6:
        first -= 1
    pickup = grid.beats[first] > 1e-6
    points = [0.0, *grid.beats[first:]] if pickup else list(grid.beats[first:])
    lines = [i - first + pickup for i in grid.bars if i >= first]
    edges = sorted({0, *([1] if pickup else []), *lines})
    conductor = mido.MidiTrack()
    events: list[tuple[int, mido.MetaMessage]] = []
    last = 0
    for a, b in pairwise(edges):
        if b - a != last:
            events.append((a * ticks, mido.MetaMessage("time_signature", numerator=b - a, denominator=4)))
            last = b - a
    at, tempo = 0.0, 0
    for i, until in enumerate(points[1:]):
        if not tempo or abs(at + tempo * 1e-6 - until) > _TOLERANCE_S:
            tempo = min(max(1, round((until - at) * 1e6)), 0xFFFFFF)
            # A whole run of even beats shares one tempo: that of the run, not of its first beat.
            run = next(
                (k for k in range(min(len(points) - 1, i + 256), i + 1, -1) if _even(points, i, k)), i + 1
            )
            even = round((points[run] - at) / (run - i) * 1e6)
            if abs(at + even * 1e-6 - until) <= _TOLERANCE_S:
                tempo = min(max(1, even), 0xFFFFFF)
            events.append((i * ticks, mido.MetaMessage("set_tempo", tempo=tempo)))
        at += tempo * 1e-6
    _fill(conductor, events)
    conductor.append(
        mido.MetaMessage("end_of_track", time=(len(points) - 1) * ticks - sum(m.time for m in conductor))
    )
    markers = mido.MidiTrack()
    placed = [
        (
            _tick(points, c.start_s, ticks),
            mido.MetaMessage("marker", text=c.text[:_LONGEST].encode("latin-1", "replace").decode("latin-1")),
        )
        for c in cues
    ]
    _fill(markers, placed)
    document = mido.MidiFile(type=1, ticks_per_beat=ticks)
    document.tracks += [conductor, markers]
    out = io.BytesIO()
    document.save(file=out)
    return out.getvalue()


def _even(points: list[float], first: int, last: int) -> bool:
    step = (points[last] - points[first]) / (last - first)
    middle = (first + last) // 2
    places = (first + 1, middle, last - 1)
    return all(abs(points[first] + step * (k - first) - points[k]) < _TOLERANCE_S for k in places)


def _fill(track: mido.MidiTrack, events: list[tuple[int, mido.MetaMessage]]) -> None:
    now = 0
    for tick, message in sorted(events, key=lambda e: e[0]):
        track.append(message.copy(time=tick - now))
        now = tick


def _tick(points: list[float], at_s: float, ticks: int) -> int:
    i = min(max(bisect_right(points, at_s) - 1, 0), len(points) - 2)
    a, b = points[i], points[i + 1]
    return max(0, round((i + (at_s - a) / (b - a)) * ticks))


def read_midi(data: bytes, name: str = "") -> TempoMap:
    """The tempo map and markers of a Standard MIDI File.

    A first bar of one beat before bars of more is taken for what lies before the first beat.

    Raises:
        BadInput: not such a file, or without a length.
    """
    what = name or "The file"
    try:
        document = mido.MidiFile(file=io.BytesIO(data))
    except Exception as fault:  # the library raises whatever a damaged file leads it to
        raise BadInput(f"{what} is not a Standard MIDI File that can be read.") from fault
    per = document.ticks_per_beat
    if per <= 0:
        raise BadInput(f"{what} counts in frames, or in nothing, instead of beats.")
    events = sorted(
        ((at, i, m) for i, track in enumerate(document.tracks) for at, m in _absolute(track)),
        key=lambda e: e[:2],
    )
    tempi = [(0, 500_000), *((at, m.tempo) for at, _, m in events if m.type == "set_tempo")]
    meters = [
        (0, 4, 4),
        *((at, m.numerator, m.denominator) for at, _, m in events if m.type == "time_signature"),
    ]
    end = max((at for at, _, _ in events), default=0)
    if end <= 0:
        raise BadInput(f"{what} holds no tempo map: it has no length.")
    _check_beats(meters, per, end, what)
    seconds = _Seconds(tempi, per)
    end += 1
    ticks: list[int] = []
    bars: list[int] = []
    for k, (start, numerator, denominator) in enumerate(meters):
        until = meters[k + 1][0] if k + 1 < len(meters) else end
        step = per * 4 // denominator
        for n, tick in enumerate(range(start, until, step)):
            if n % numerator == 0:
                bars.append(len(ticks))
            ticks.append(tick)
    if len(bars) > 2 and bars[1] - bars[0] == 1 and bars[2] - bars[1] > 1:
        ticks, bars = ticks[1:], [b - 1 for b in bars[1:]]
    markers = tuple(
        Cue(seconds(at), seconds(at), m.text) for at, _, m in events if m.type in ("marker", "cue_marker")
    )
    return TempoMap(tuple(seconds(t) for t in ticks), tuple(bars), markers)


def _check_beats(meters: list[tuple[int, int, int]], per: int, end: int, what: str) -> None:
    """Refuse metres that are none, and a file whose beats would fill the memory."""
    count = 0
    for k, (start, numerator, denominator) in enumerate(meters):
        until = meters[k + 1][0] if k + 1 < len(meters) else end + 1
        step = per * 4 // denominator if 0 < denominator <= 64 else 0
        if not step or not 0 < numerator <= 64:
            raise BadInput(
                f"{what} has a metre of {numerator}/{min(denominator, 10**6)}, which no music has."
            )
        count += max(0, until - start) // step
    at_most(count, what)


def _absolute(track: mido.MidiTrack) -> list[tuple[int, mido.Message]]:
    at, out = 0, []
    for message in track:
        at += message.time
        out.append((at, message))
    return out


class _Seconds:
    """Seconds of a tick under changing tempi."""

    def __init__(self, tempi: list[tuple[int, int]], per_beat: int) -> None:
        self._per = per_beat
        self._ticks, self._times, self._tempi = [0], [0.0], [tempi[0][1]]
        for tick, tempo in tempi[1:]:
            at = self(tick)
            if tick == self._ticks[-1]:
                self._tempi[-1] = tempo
            else:
                self._ticks.append(tick)
                self._times.append(at)
                self._tempi.append(tempo)

    def __call__(self, tick: int) -> float:
        k = bisect_right(self._ticks, tick) - 1
        return self._times[k] + (tick - self._ticks[k]) * self._tempi[k] * 1e-6 / self._per
