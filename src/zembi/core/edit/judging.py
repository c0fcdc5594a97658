"""Statistics of a cut as a whole: how long shots are, where cuts fall, how angles come and go, what comes twice.

Nothing of it is right or wrong; each place can be gone to.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.edit.falls import Falls
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty
from zembi.core.song.grid import Grid, relation
from zembi.core.timebase import frame_to_seconds

#: A shot is long where it lasts so many times as long as the others of its section, at least so many beats.
_LONG, _LONG_BEATS = 2.5, 8.0


@dataclass(frozen=True)
class SectionCut:
    """The cut of a section: frames (half-open, the lead allowed for), its loudness, how many shots begin in it and how long they are."""

    name: str
    start: int
    end: int
    level: float
    shots: int
    mean_beats: float


@dataclass(frozen=True)
class Seen:
    """Use of an angle: shots, frames, and the longest time that it was away between two of them, with where."""

    angle: int
    shots: int
    frames: int
    away_beats: float
    away_until: int


@dataclass(frozen=True)
class Remark:
    """Something to look at, at a frame."""

    frame: int
    words: str


@dataclass(frozen=True)
class Judgement:
    """A cut as a whole. ``falls`` counts cuts on a bar, a beat, a half-beat, and off all of them, the lead allowed for."""

    shots: int
    mean_beats: float
    falls: dict[str, int]
    parts: list[SectionCut]
    angles: list[Seen]
    places: list[Remark]


def judge(
    edit: Edit, grid: Grid, falls: Falls, sections: Sequence[tuple[str, float]]
) -> Judgement:  # fmt: skip
    """Judge a cut. Lengths are in beats as long as they are there; where nothing is cut yet there are no shots.

    Args:
        edit: The cut.
        grid: The working song's.
        falls: Where cuts fall, with the song's sections.
        sections: Name and loudness of each of them.
    """
    rate = falls.rate
    ranges = falls.section_frames(edit.length)
    lengths = [_beats(grid, s.start, edit.end_of(i), rate) for i, s in enumerate(edit.shots)]
    cut = [
        (s.start, n)
        for i, (s, n) in enumerate(zip(edit.shots, lengths, strict=True))
        if not _uncut(edit, i, ranges)
    ]
    parts = []
    for (name, level), (first, end) in zip(sections, ranges, strict=True):
        inside = [n for start, n in cut if first <= start < end]
        mean = sum(inside) / len(inside) if inside else 0.0
        parts.append(SectionCut(name, first, end, level, len(inside), mean))
    return Judgement(
        len(cut), sum(n for _, n in cut) / max(1, len(cut)), _falls(edit, grid, falls), parts, _angles(edit, grid, rate),
        sorted([*_long(edit, parts, lengths), *_twice(edit, rate), *_quiet_and_fast(parts)], key=lambda p: p.frame),
    )  # fmt: skip


def _uncut(edit: Edit, index: int, sections: Sequence[tuple[int, int]]) -> bool:
    """True if a shot is where nothing was cut yet: an empty slot over a whole section or more."""
    start, end = edit.shots[index].start, edit.end_of(index)
    whole = sections or [(0, edit.length)]
    return isinstance(edit.shots[index].source, Empty) and any(start <= a and b <= end for a, b in whole)


def _beats(grid: Grid, start: int, end: int, rate: Fraction) -> float:
    """Beats from one frame to another."""
    return grid.beats_between(frame_to_seconds(start, rate), frame_to_seconds(end, rate))


def _falls(edit: Edit, grid: Grid, falls: Falls) -> dict[str, int]:
    out = {"bar": 0, "beat": 0, "half-beat": 0, "off": 0}
    for shot in edit.shots[1:]:
        lead = falls.lead_at(falls.nearest_point(shot.start, grid, "half"))
        found = relation(grid, shot.start + lead, falls.rate)
        if found.off_frames:
            out["off"] += 1
        elif found.beat == 1:
            out["bar"] += 1
        else:
            out["beat" if float(found.beat).is_integer() else "half-beat"] += 1
    return out


def _angles(edit: Edit, grid: Grid, rate: Fraction) -> list[Seen]:
    out: dict[int, Seen] = {}
    last: dict[int, int] = {}
    for index, shot in enumerate(edit.shots):
        if not isinstance(shot.source, AngleSource):
            continue
        angle, end = shot.source.angle, edit.end_of(index)
        before = out.get(angle, Seen(angle, 0, 0, 0.0, 0))
        away = round(_beats(grid, last.get(angle, shot.start), shot.start, rate), 1)
        longer = away > before.away_beats
        out[angle] = Seen(
            angle, before.shots + 1, before.frames + end - shot.start, away if longer else before.away_beats,
            shot.start if longer else before.away_until,
        )  # fmt: skip
        last[angle] = end
    return list(out.values())


def _long(edit: Edit, parts: Sequence[SectionCut], lengths: Sequence[float]) -> list[Remark]:
    out = []
    for shot, beats in zip(edit.shots, lengths, strict=True):
        part = next((p for p in parts if p.start <= shot.start < p.end), None)
        others = (part.mean_beats * part.shots - beats) / (part.shots - 1) if part and part.shots > 1 else 0.0
        if others and beats >= _LONG_BEATS and beats > _LONG * others and not isinstance(shot.source, Empty):
            out.append(
                Remark(
                    shot.start,
                    f"{beats:.0f} beats long, the others of {part.name if part else ''} {others:.1f}",
                )
            )
    return out


def _twice(edit: Edit, rate: Fraction) -> list[Remark]:
    """Clips of which the same stretch is seen again."""
    lanes = [(i.start, end, i.source) for i, end in edit.placed()]
    out = []
    seen: dict[str, list[tuple[float, float, int]]] = {}
    for start, end, source in sorted(lanes, key=lambda x: x[0]):
        if not isinstance(source, ClipSource):
            continue
        until = source.in_s + source.speed * float((end - start) / rate)
        for a, b, at in seen.get(source.media, []):
            if a < until and source.in_s < b and at != start:
                out.append(Remark(start, f"the same stretch of a clip as at frame {at}"))
                break
        seen.setdefault(source.media, []).append((source.in_s, until, start))
    return out


def _quiet_and_fast(parts: Sequence[SectionCut]) -> list[Remark]:
    """A section that is cut faster than a louder one."""
    cut = [p for p in parts if p.shots]
    if len(cut) < 2:
        return []
    loudest = max(cut, key=lambda p: p.level)
    return [
        Remark(p.start, f"{p.name} is cut faster than {loudest.name}, the loudest")
        for p in cut
        if p is not loudest and p.level < loudest.level - 3 and p.mean_beats < 0.8 * loudest.mean_beats
    ]
