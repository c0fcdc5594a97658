"""Cuts of a song on set: joints between the passes of one take, and what was left out or played twice at each."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from zembi.core.song.grid import Grid, place_among
from zembi.core.sync.refine import Line

#: Seconds of take between two passes below which the song went straight on from one to the other.
_SIDE_BY_SIDE_S = 1.0
#: Share of a beat by which a jump may miss a whole number of beats and still be a cut in the music, and fewest beats.
_OFF_BEAT, _FEWEST_BEATS = 0.15, 1
#: Two takes agree where both ends of what they leave out are this near.
_AGREE_S = 0.15


@dataclass(frozen=True)
class Run:
    """A pass of a take: where it lies in the take, and its line through the song."""

    number: int
    start_s: float
    end_s: float
    line: Line


@dataclass(frozen=True)
class Joint:
    """A place in a take at which the song jumps by whole beats.

    Attributes:
        before: Number of the pass that ends here; the next one of the take begins.
        take_s: Take time of the joint.
        kind: "left out" where the song goes on later, "twice" where a part of it comes again.
        on_beat_s: The take time next to it at which the song was left on the beat.
        start_s, end_s: The part of the song that was left out or comes twice.
        words: What it is, in bars and beats.
    """

    before: int
    take_s: float
    on_beat_s: float
    kind: Literal["left out", "twice"]
    start_s: float
    end_s: float
    words: str


@dataclass(frozen=True)
class CutOnSet:
    """A part of the song that several takes leave out."""

    takes: tuple[str, ...]
    start_s: float
    end_s: float
    words: str


def joints(runs: Sequence[Run], grid: Grid | None) -> list[Joint]:
    """Joints between the passes of a take, in take order; none where the song was merely begun again elsewhere.

    Args:
        runs: The take's passes.
        grid: The song's; without one nothing tells a cut in the music from a jump.
    """
    if grid is None:
        return []
    found = []
    for number, (a, b) in enumerate(pairwise(sorted(runs, key=lambda r: r.start_s)), 1):
        if b.start_s - a.end_s > _SIDE_BY_SIDE_S:
            continue
        take_s = (a.end_s + b.start_s) / 2
        left, entered = a.line.song(take_s), b.line.song(take_s)
        beats = place_among(grid.beats, entered) - place_among(grid.beats, left)
        if abs(beats - round(beats)) > _OFF_BEAT or abs(round(beats)) < _FEWEST_BEATS:
            continue
        kind: Literal["left out", "twice"] = "left out" if beats > 0 else "twice"
        start, end = (grid.nearest(t, "beat") for t in sorted((left, entered)))
        words = f"{_span(grid, start, end)} {_DOES[kind]} between pass {number} and {number + 1}"
        on_beat_s = a.line.take(start if beats > 0 else end)
        found.append(Joint(a.number, take_s, on_beat_s, kind, start, end, words))
    return found


_DOES = {"left out": "left out", "twice": "played twice"}


def _span(grid: Grid, start_s: float, end_s: float) -> str:
    """A stretch of song in bars, or in bars and beats where it does not begin and end with one."""
    first, last = grid.position(start_s + 1e-3), grid.position(end_s + 1e-3)
    if int(first.beat) == int(last.beat) == 1:
        count = last.bar - first.bar
        return f"bar {first.bar}" if count == 1 else f"bars {first.bar} to {last.bar - 1}"
    return f"{first.bar}.{int(first.beat)} to {last.bar}.{int(last.beat)}"


def agreed(of_takes: Mapping[str, Iterable[Joint]], grid: Grid | None) -> list[CutOnSet]:
    """Parts of the song that two takes or more leave out alike, in song order."""
    if grid is None:
        return []
    parts: list[tuple[float, float, list[str]]] = []
    for take, found in of_takes.items():
        for joint in (j for j in found if j.kind == "left out"):
            known = next(
                (p for p in parts if abs(p[0] - joint.start_s) + abs(p[1] - joint.end_s) < _AGREE_S), None
            )
            if known is None:
                parts.append((joint.start_s, joint.end_s, [take]))
            elif take not in known[2]:
                known[2].append(take)
    return [
        CutOnSet(tuple(takes), start, end, _span(grid, start, end))
        for start, end, takes in sorted(parts)
        if len(takes) > 1
    ]
