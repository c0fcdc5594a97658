"""From an edit to the programme: the only way."""

from collections.abc import Mapping
from fractions import Fraction

from zembi.core.edit.model import AngleSource, ClipSource, Edit, Source
from zembi.core.programme.model import Black, Content, Hole, Layer, Picture, Programme, Span, Why, trimmed
from zembi.core.programme.sound import SILENT, Sound
from zembi.core.timemap import playback


def source_spans(
    source: Source, start: int, end: int, angles: Mapping[int, list[Span]], names: Mapping[int, str], why: Why,
    rate: Fraction,
) -> list[Span]:  # fmt: skip
    """What a source shows in a range of frames, without gaps: where an angle has no take, a hole.

    Args:
        source: Of a shot or cutaway.
        start, end: Its frames (half-open).
        angles: What each angle shows, by id, in order.
        names: What to call each angle.
        why: What the spans come from.
        rate: Programme rate.
    """
    if isinstance(source, ClipSource):
        content: Content = Picture(source.media)
        return [Span(start, end, content, playback(end - start, source.in_s, source.speed), why=why)]
    if not isinstance(source, AngleSource):
        return [Span(start, end, Black(), why=why)]
    missing = Hole(f"{names.get(source.angle, f'angle {source.angle}')} has no take here")
    parts: list[Span] = []
    at = start
    for s in angles.get(source.angle, []):
        if s.end <= start or s.start >= end:
            continue
        piece = trimmed(s, start, end, rate, why)
        if piece.start > at:
            parts.append(Span(at, piece.start, missing, why=why))
        parts.append(piece)
        at = piece.end
    if at < end:
        parts.append(Span(at, end, missing, why=why))
    return parts


def compiled(
    edit: Edit,
    angles: Mapping[int, list[Span]],
    names: Mapping[int, str],
    rate: Fraction,
    sound: Sound = SILENT,
) -> Programme:
    """The programme of an edit: its shots, and its cutaways over them.

    Args:
        edit: The edit.
        angles: What each angle shows, by id.
        names: What to call each angle where it has nothing.
        rate: Programme rate.
        sound: What is heard.
    """
    base = [
        span
        for i, shot in enumerate(edit.shots)
        for span in source_spans(
            shot.source, shot.start, edit.end_of(i), angles, names, Why("shot", shot.start), rate
        )
    ]
    over = [
        span
        for c in edit.cutaways
        for span in source_spans(c.source, c.start, c.end, angles, names, Why("cutaway", c.start), rate)
    ]
    layers = [Layer("Shots", tuple(base)), *([Layer("Cutaways", tuple(over))] if over else [])]
    return Programme(edit.length, tuple(layers), sound)
