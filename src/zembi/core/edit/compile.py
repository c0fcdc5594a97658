"""From an edit to the programme: the only way."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache

from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty, Shot, Source
from zembi.core.footage.fit import AS_IT_LIES, Lie, curves_of
from zembi.core.memory import by_identity
from zembi.core.programme.model import Black, Content, Hole, Layer, Picture, Programme, Span, Why, trimmed
from zembi.core.programme.sound import SILENT, Sound
from zembi.core.timemap import playback


@dataclass(frozen=True, eq=False)
class Material:
    """What an edit is made of, told apart by identity: what is compiled of it once need not be again.

    Attributes:
        angles: What each angle shows, by id, in order.
        names: What to call each angle where it has nothing.
        rate: Programme rate.
        fits: How each file lies in the frame where that is not whole and upright.
    """

    angles: Mapping[int, Sequence[Span]]
    names: Mapping[int, str]
    rate: Fraction
    fits: Mapping[str, Lie] = field(default_factory=dict)


@lru_cache(maxsize=1 << 14)
def source_spans(source: Source, start: int, end: int, why: Why, material: Material) -> tuple[Span, ...]:
    """What a source shows in a range of frames, without gaps: where an angle has no take, a hole.

    Args:
        source: Of a shot or cutaway.
        start, end: Its frames (half-open).
        why: What the spans come from.
        material: The angles.
    """
    if isinstance(source, ClipSource):
        content: Content = Picture(source.media)
        time = playback(end - start, source.in_s, source.speed)
        curves = curves_of(material.fits.get(source.media, AS_IT_LIES), end - start)
        return (Span(start, end, content, time, curves, why),)
    if isinstance(source, Empty):
        return (Span(start, end, Hole("an empty slot"), why=why),)
    if not isinstance(source, AngleSource):
        return (Span(start, end, Black(), why=why),)
    if source.slip:
        # What is seen so many frames later, now.
        there = source_spans(AngleSource(source.angle), start + source.slip, end + source.slip, why, material)
        return tuple(replace(s, start=s.start - source.slip, end=s.end - source.slip) for s in there)
    missing = Hole(f"{material.names.get(source.angle, f'angle {source.angle}')} has no take here")
    parts: list[Span] = []
    at = start
    for s in material.angles.get(source.angle, []):
        if s.end <= start or s.start >= end:
            continue
        piece = trimmed(s, start, end, material.rate, why)
        if piece.start > at:
            parts.append(Span(at, piece.start, missing, why=why))
        parts.append(piece)
        at = piece.end
    if at < end:
        parts.append(Span(at, end, missing, why=why))
    return tuple(parts)


@by_identity(1 << 14)
def _shot_spans(shot: Shot, end: int, material: Material) -> tuple[Span, ...]:
    return source_spans(shot.source, shot.start, end, Why("shot", shot.start), material)


def compiled(edit: Edit, material: Material, sound: Sound = SILENT) -> Programme:
    """The programme of an edit: its shots, and its cutaways over them.

    Args:
        edit: The edit.
        material: What it is made of.
        sound: What is heard.
    """
    ends = [*(s.start for s in edit.shots[1:]), edit.length]
    base = [
        span for shot, end in zip(edit.shots, ends, strict=True) for span in _shot_spans(shot, end, material)
    ]
    over = [
        span
        for c in edit.cutaways
        for span in source_spans(c.source, c.start, c.end, Why("cutaway", c.start), material)
    ]
    layers = [Layer("Shots", tuple(base)), *([Layer("Cutaways", tuple(over))] if over else [])]
    return Programme(edit.length, tuple(layers), sound)
