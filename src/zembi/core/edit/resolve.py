"""From an edit to what is on screen in every frame."""

from fractions import Fraction

from zembi.core.edit.model import AngleSource, ClipSource, Edit, Source
from zembi.core.spans import Span, overlaid, trimmed


def source_spans(
    source: Source, start: int, end: int, angles: dict[int, list[Span]], rate: Fraction
) -> list[Span]:
    """What a source shows in a range of frames; stretches without picture are spans without media."""
    if isinstance(source, ClipSource):
        return [Span(start, end, source.media, source.in_s, source.speed, "clip")]
    if not isinstance(source, AngleSource):
        return [Span(start, end, None)]
    parts: list[Span] = []
    at = start
    for s in angles.get(source.angle, []):
        if s.end <= start or s.start >= end:
            continue
        piece = trimmed(s, start, end, rate)
        if piece.start > at:
            parts.append(Span(at, piece.start, None, label=f"angle {source.angle} has no take here"))
        parts.append(piece)
        at = piece.end
    if at < end:
        parts.append(Span(at, end, None, label=f"angle {source.angle} has no take here"))
    return parts


def programme(edit: Edit, angles: dict[int, list[Span]], rate: Fraction) -> list[Span]:
    """Spans that cover the whole song: the base lane with the cutaways laid over it."""
    base = [
        span
        for i, shot in enumerate(edit.shots)
        for span in source_spans(shot.source, shot.start, edit.end_of(i), angles, rate)
    ]
    over = [span for c in edit.cutaways for span in source_spans(c.source, c.start, c.end, angles, rate)]
    return overlaid(base, over, rate)
