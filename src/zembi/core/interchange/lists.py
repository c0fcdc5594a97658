"""Cut lists and marks as CSV, WebVTT and Standard MIDI File."""

import csv
import io
import itertools
from dataclasses import dataclass
from fractions import Fraction

import mido

from zembi.core.song.grid import Grid, relation
from zembi.core.spans import Span
from zembi.core.timebase import frame_to_timecode


@dataclass(frozen=True)
class Cue:
    """A named stretch of the song in seconds."""

    start_s: float
    end_s: float
    text: str


def write_csv(spans: list[Span], names: dict[str, str], grid: Grid, rate: Fraction) -> str:
    """The programme as a table: one row a stretch on screen."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(
        ["start", "end", "frames", "bar", "beat", "against the grid", "file", "in seconds", "speed"]
    )
    for s in spans:
        r = relation(grid, s.start, rate)
        table.writerow([
            frame_to_timecode(s.start, rate), frame_to_timecode(s.end, rate), s.frames, r.bar, f"{r.beat:g}", r.label,
            names.get(s.media or "", ""), f"{s.in_s:.6f}" if s.media else "", f"{s.speed:.6f}" if s.media else "",
        ])  # fmt: skip
    return out.getvalue()


def _clock(seconds: float) -> str:
    thousandths = round(max(0.0, seconds) * 1000)
    return f"{thousandths // 3_600_000:02d}:{thousandths // 60_000 % 60:02d}:{thousandths // 1000 % 60:02d}.{thousandths % 1000:03d}"


def write_vtt(cues: list[Cue]) -> str:
    """WebVTT cues."""
    blocks = [f"{_clock(c.start_s)} --> {_clock(max(c.end_s, c.start_s + 0.001))}\n{c.text}" for c in cues]
    return "WEBVTT\n\n" + "\n\n".join(blocks) + "\n"


def write_midi(grid: Grid, cues: list[Cue], *, ticks: int = 960) -> bytes:
    """A format 1 Standard MIDI File: the tempo map beat by beat, time signature and marker events.

    Tick 0 is song time 0: a first tempo spans from the song's start to the first beat in it.
    """
    beats = [b for b in grid.beats if b > 1e-6]
    points = [0.0, *beats]
    lengths = [b - a for a, b in itertools.pairwise(points)]
    conductor = mido.MidiTrack()
    conductor.append(mido.MetaMessage("time_signature", numerator=grid.metre, denominator=4, time=0))
    waiting, last = 0, -1
    for seconds in lengths:
        tempo = min(max(1, round(seconds * 1e6)), 0xFFFFFF)
        if tempo != last:
            conductor.append(mido.MetaMessage("set_tempo", tempo=tempo, time=waiting))
            waiting, last = 0, tempo
        waiting += ticks
    markers = mido.MidiTrack()
    at = 0
    for cue in sorted(cues, key=lambda c: c.start_s):
        tick = _tick(points, cue.start_s, ticks)
        markers.append(
            mido.MetaMessage(
                "marker", text=cue.text.encode("latin-1", "replace").decode("latin-1"), time=max(0, tick - at)
            )
        )
        at = max(at, tick)
    document = mido.MidiFile(type=1, ticks_per_beat=ticks)
    document.tracks += [conductor, markers]
    out = io.BytesIO()
    document.save(file=out)
    return out.getvalue()


def _tick(points: list[float], at_s: float, ticks: int) -> int:
    for i, (a, b) in enumerate(itertools.pairwise(points)):
        if at_s < b:
            return round((i + max(0.0, at_s - a) / (b - a)) * ticks)
    return (len(points) - 1) * ticks
