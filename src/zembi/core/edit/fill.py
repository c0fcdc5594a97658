"""Rough cut: fill the whole song from coverage and B-roll."""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from zembi.core.edit.lanes import frames_missing, part_of
from zembi.core.edit.model import AngleSource, Black, ClipSource, Edit, Shot, Source, checked
from zembi.core.lineup.coverage import covers
from zembi.core.programme.model import Span


@dataclass(frozen=True)
class Slot:
    """A place for one shot, in frames (half-open)."""

    start: int
    end: int


@dataclass(frozen=True)
class Clip:
    """B-roll that may fill a hole: usable from ``in_s`` to ``out_s``."""

    media: str
    in_s: float
    out_s: float


def make_slots(
    bar_frames: list[int], section_frames: list[int], bars_each: list[int], length: int
) -> list[Slot]:
    """Divide the song into slots of one or more bars, section by section.

    Args:
        bar_frames: Cut frames of all bar lines, ascending.
        section_frames: First frame of each section, ascending; the first is taken as 0.
        bars_each: Bars to a shot in each section.
        length: Frames of the song.
    """
    starts = [0, *section_frames[1:]]
    ends = [*section_frames[1:], length]
    slots: list[Slot] = []
    bar = (bar_frames[-1] - bar_frames[0]) // max(1, len(bar_frames) - 1) if bar_frames else length
    for start, end, step in zip(starts, ends, bars_each, strict=True):
        inside = [b for b in bar_frames if start <= b < end]
        lines = [start, *[b for b in inside[::step] if b - start > bar // 2 and end - b > bar // 2], end]
        slots += [Slot(a, b) for a, b in itertools.pairwise(lines) if b > a]
    return slots


def bars_each(levels: list[float]) -> list[int]:
    """Bars to a shot in each section: one where the song is loudest (within what one hears as the same), else two.

    Args:
        levels: Loudness of each section in LUFS.
    """
    return [1 if level > max(levels) - 1.5 else 2 for level in levels]


def at_holes(slots: list[Slot], angles: Mapping[int, Sequence[Span]], beat_frames: list[int]) -> list[Slot]:
    """Split slots that no angle covers whole, on the beats next to where coverage begins or ends."""
    edges = sorted({e for spans in angles.values() for s in spans for e in (s.start, s.end)})
    out = []
    for slot in slots:
        inner = [e for e in edges if slot.start < e < slot.end]
        if not inner or any(covers(spans, slot.start, slot.end) for spans in angles.values()):
            out.append(slot)
            continue
        near = [b for b in beat_frames if slot.start < b < slot.end]
        points = {slot.start, slot.end}
        for edge in inner:
            points |= {min((b for b in near if b >= edge), default=slot.end)}
            points |= {max((b for b in near if b <= edge), default=slot.start)}
        out += [Slot(a, b) for a, b in itertools.pairwise(sorted(points))]
    return out


def rough_cut(
    edit: Edit,
    slots: list[Slot],
    angles: Mapping[int, Sequence[Span]],
    clips: list[Clip],
    beat_frames: list[int],
    rate: Fraction,
) -> Edit:
    """Fill every slot: the covering angle unused for longest, never one twice running; holes from B-roll.

    Held shots and cutaways stay as they are. Where only the angle already on covers a slot, its shot runs on.

    Args:
        edit: The edit to fill.
        slots: From :func:`make_slots`.
        angles: What each angle shows, by number.
        clips: B-roll to fill holes with, in order of preference.
        beat_frames: Cut frames of all beats, for splitting slots at holes.
        rate: Frames a second.
    """
    last_used = dict.fromkeys(angles, -1)
    clip_uses = [0] * len(clips)
    lane: list[Shot] = []
    held = [(s.start, edit.end_of(i), s) for i, s in enumerate(edit.shots) if s.held]
    for number, slot in enumerate(at_holes(_around(slots, held), angles, beat_frames)):
        before = _source_before(lane, held, slot.start)
        after = next((s.source for a, _, s in held if a == slot.end), None)
        source = _choose(slot, angles, last_used, before, after, clips, clip_uses, rate)
        if isinstance(source, AngleSource):
            last_used[source.angle] = number
        if source != before:
            lane.append(Shot(slot.start, source))
    lane += [s for _, _, s in held]
    shots = _tidied(sorted(lane, key=lambda s: s.start), edit, held, rate)
    return checked(replace(edit, shots=tuple(shots)))


def with_broll(edit: Edit, clips: Sequence[Clip], share: float, first: int, end: int, rate: Fraction) -> Edit:
    """Give a share of the shots that begin in a range to B-roll: evenly, the longest clip first, none twice in a row.

    The first of the range, held shots and those that no clip is long enough for keep what they show.
    """
    order = sorted(range(len(clips)), key=lambda i: clips[i].in_s - clips[i].out_s)
    uses = dict.fromkeys(order, 0)
    shots = list(edit.shots)
    inside = [i for i, s in enumerate(shots) if first < s.start < end and not s.held]
    owed, last = 0.0, -1
    for index in inside:
        owed += share
        if owed < 1 - 1e-9:
            continue
        frames = edit.end_of(index) - shots[index].start
        fitting = [i for i in order if i != last and not _missing(clips[i], frames, rate)]
        if not fitting:
            continue
        last = min(fitting, key=lambda i: uses[i])
        uses[last] += 1
        owed -= 1
        shots[index] = replace(shots[index], source=ClipSource(clips[last].media, clips[last].in_s))
    return checked(replace(edit, shots=tuple(shots)))


def _around(slots: list[Slot], held: list[tuple[int, int, Shot]]) -> list[Slot]:
    """Slots with the held shots taken out."""
    out = slots
    for start, end, _ in held:
        parts = []
        for s in out:
            if s.start < min(s.end, start):
                parts.append(Slot(s.start, min(s.end, start)))
            if max(s.start, end) < s.end:
                parts.append(Slot(max(s.start, end), s.end))
        out = parts
    return out


def _source_before(lane: list[Shot], held: list[tuple[int, int, Shot]], frame: int) -> Source | None:
    just = next((s.source for _, end, s in held if end == frame), None)
    return just if just is not None else (lane[-1].source if lane else None)


def _choose(
    slot: Slot,
    angles: Mapping[int, Sequence[Span]],
    last_used: dict[int, int],
    before: Source | None,
    after: Source | None,
    clips: list[Clip],
    clip_uses: list[int],
    rate: Fraction,
) -> Source:
    able = [n for n, spans in angles.items() if covers(spans, slot.start, slot.end)]
    free = [n for n in able if AngleSource(n) not in (before, after)]
    if free:
        return AngleSource(min(free, key=lambda n: (last_used[n], n)))
    if isinstance(before, AngleSource) and before.angle in able:
        return before
    frames = slot.end - slot.start
    fitting = [i for i, c in enumerate(clips) if not _missing(c, frames, rate)]
    if fitting:
        i = min(fitting, key=lambda i: (clip_uses[i], i))
        clip_uses[i] += 1
        return ClipSource(clips[i].media, clips[i].in_s)
    return AngleSource(able[0]) if able else Black()


def _missing(clip: Clip, frames: int, rate: Fraction) -> int:
    return frames_missing(ClipSource(clip.media, clip.in_s), frames, clip.out_s, rate)


def _tidied(lane: list[Shot], edit: Edit, held: list[tuple[int, int, Shot]], rate: Fraction) -> list[Shot]:
    """Make sure the lane starts at 0 and that something follows each held shot."""
    starts = {s.start for s in lane}
    for _, end, shot in held:
        if end < edit.length and end not in starts:
            lane.append(replace(part_of(shot, end, end, rate), held=False))
    lane.sort(key=lambda s: s.start)
    if not lane or lane[0].start != 0:
        lane.insert(0, Shot(0, Black()))
    return lane
