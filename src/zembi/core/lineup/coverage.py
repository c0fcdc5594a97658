"""Coverage: which angle has picture where, which pass feeds it, and where there is none."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.programme.model import Picture, Span, Why
from zembi.core.timebase import frame_middle, seconds_to_frame
from zembi.core.timemap import playback


@dataclass(frozen=True)
class PassOnAngle:
    """A locked pass that belongs to an angle. Song time = ``song_start_s + rate * (take time - take_start_s)``."""

    id: str
    media: str
    angle: int
    take_start_s: float
    take_end_s: float
    song_start_s: float
    rate: float

    @property
    def song_end_s(self) -> float:
        """Song time at which the pass ends."""
        return self.song_start_s + self.rate * (self.take_end_s - self.take_start_s)

    def take_time(self, song_s: float) -> float:
        """Take time at a song time."""
        return self.take_start_s + (song_s - self.song_start_s) / self.rate


@dataclass(frozen=True)
class Feed:
    """The editor's choice: in this song range the angle shows this pass."""

    angle: int
    start_s: float
    end_s: float
    pass_id: str


def pass_frames(p: PassOnAngle, rate: Fraction, length: int) -> tuple[int, int]:
    """Programme frames whose middle lies inside the pass, as a half-open range."""
    first = seconds_to_frame(p.song_start_s, rate)
    while first > 0 and frame_middle(first - 1, rate) >= p.song_start_s:
        first -= 1
    while frame_middle(first, rate) < p.song_start_s:
        first += 1
    last = seconds_to_frame(p.song_end_s, rate)
    while frame_middle(last, rate) < p.song_end_s:
        last += 1
    while last > 0 and frame_middle(last - 1, rate) >= p.song_end_s:
        last -= 1
    return max(0, min(first, length)), max(0, min(last, length))


def pass_span(p: PassOnAngle, start: int, end: int, rate: Fraction) -> Span:
    """The span that shows a pass in the given frames, in sync with the song."""
    time = playback(end - start, p.take_time(float(start / rate)), 1 / p.rate)
    return Span(start, end, Picture(p.media), time, why=Why("angle", p.angle))


#: Frames (half-open) in which an angle shows a pass.
Run = tuple[int, int, PassOnAngle]


def angle_runs(
    angle: int, passes: Sequence[PassOnAngle], feeds: Sequence[Feed], rate: Fraction, length: int
) -> list[Run]:
    """Passes that an angle shows over the whole song; frames that no pass covers are left out.

    A feed wins where its pass has picture; elsewhere the first pass in the order given that covers the frame.
    """
    mine = [p for p in passes if p.angle == angle]
    # By the piece itself: a cutdown may leave a pass in several.
    ranges = {p: pass_frames(p, rate, length) for p in mine}
    edges = {e for r in ranges.values() for e in r}
    chosen = [f for f in feeds if f.angle == angle]
    for f in chosen:
        edges |= {
            min(length, max(0, seconds_to_frame(f.start_s, rate))),
            min(length, max(0, seconds_to_frame(f.end_s, rate))),
        }
    borders = sorted(edges)
    runs: list[Run] = []
    for a, b in itertools.pairwise(borders):
        here = [p for p in mine if ranges[p][0] <= a and b <= ranges[p][1]]
        if not here:
            continue
        middle = frame_middle((a + b) // 2, rate)
        wanted = [f.pass_id for f in chosen if f.start_s <= middle < f.end_s]
        best = next((p for p in here if p.id in wanted), here[0])
        if runs and runs[-1][2] is best and runs[-1][1] == a:
            runs[-1] = (runs[-1][0], b, best)
        else:
            runs.append((a, b, best))
    return runs


def angle_spans(
    angle: int, passes: Sequence[PassOnAngle], feeds: Sequence[Feed], rate: Fraction, length: int
) -> list[Span]:
    """Spans of an angle over the whole song, from :func:`angle_runs`."""
    return [pass_span(p, a, b, rate) for a, b, p in angle_runs(angle, passes, feeds, rate, length)]


def within(runs: Sequence[Run], start: int, end: int) -> list[Run]:
    """Parts of runs in frames ``start`` to ``end`` (exclusive)."""
    return [(max(a, start), min(b, end), p) for a, b, p in runs if a < end and start < b]


def uncovered(spans: Sequence[Span], length: int) -> list[tuple[int, int]]:
    """Frame ranges (half-open) that none of the spans covers."""
    holes, at = [], 0
    for s in sorted(spans, key=lambda s: s.start):
        if s.start > at:
            holes.append((at, s.start))
        at = max(at, s.end)
    if at < length:
        holes.append((at, length))
    return holes


def covers(spans: Sequence[Span], start: int, end: int) -> bool:
    """True if the spans have picture in every frame of the range."""
    at = start
    for s in sorted(spans, key=lambda s: s.start):
        if s.start <= at < s.end:
            at = s.end
        if at >= end:
            return True
    return at >= end
