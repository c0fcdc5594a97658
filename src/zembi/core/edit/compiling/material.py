"""Material of an edit, and the spans that a source shows of it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache

from zembi.core.colour.evening import Evening
from zembi.core.edit.model import AngleSource, CardSource, ClipSource, Empty, Source
from zembi.core.footage.fit import AS_IT_LIES, Lie, chain_of
from zembi.core.picture.chain import PLAIN, Chain
from zembi.core.programme.model import EMPTY_SLOT, Black, Content, Hole, Picture, Span, Title, Why, trimmed
from zembi.core.timemap import playback
from zembi.core.treatments.music import Music
from zembi.core.treatments.timing import Clip, Ground, Words


def _no_moments(_media: str) -> Sequence[float]:
    return ()


@dataclass(frozen=True, eq=False)
class Material:
    """Material of an edit, compared by identity: what is compiled of it once need not be again.

    Attributes:
        angles: What each angle shows, by id, in order.
        names: What to call each angle where it has nothing.
        rate: Programme rate.
        fits: How each file lies in the frame where that is not whole and upright.
        grades: The grade of each file that has one of its own.
        evened: Corrections of the light of each file that has them, along its length.
        music: What treatments follow.
        aspect: Width of the film by its height.
        moments: Asks for the seconds of a file at which something in it begins to move.
        rates: Frames a second of each file, where that is even.
        making: About how many seconds it takes to make so many frames in between for the film; None where not known.
    """

    angles: Mapping[int, Sequence[Span]]
    names: Mapping[int, str]
    rate: Fraction
    fits: Mapping[str, Lie] = field(default_factory=dict)
    grades: Mapping[str, Chain] = field(default_factory=dict)
    evened: Mapping[str, Evening] = field(default_factory=dict)
    music: Music | None = None
    aspect: float = 16 / 9
    moments: Callable[[str], Sequence[float]] = _no_moments
    rates: Mapping[str, Fraction] = field(default_factory=dict)
    making: Callable[[int], float] | None = None

    def of_file(self, media: str, frames: int) -> Chain:
        """Chain of a file's picture wherever it is shown: its grade, and how it lies in the frame."""
        return (*self.grades.get(media, PLAIN), *chain_of(self.fits.get(media, AS_IT_LIES), frames))

    def ground(self, first: int, end: int, source: Source | None = None) -> Ground:
        """Ground of the treatments of a shot or range."""
        clip = None
        if isinstance(source, ClipSource):
            clip = Clip(source.in_s, source.speed, lambda: self.moments(source.media))
        words = Words(source.card.text, source.line) if isinstance(source, CardSource) else None
        return Ground(first, end, self.music or Music(self.rate), clip, words)


@lru_cache(maxsize=1 << 14)
def source_spans(source: Source, start: int, end: int, why: Why, material: Material) -> tuple[Span, ...]:
    """Spans of a source in a range of frames, without gaps: where an angle has no take, a hole.

    Args:
        source: Of an item.
        start, end: Its frames (half-open).
        why: What the spans come from.
        material: The angles.
    """
    if isinstance(source, ClipSource):
        content: Content = Picture(source.media)
        time = playback(end - start, source.in_s, source.speed)
        chain = material.of_file(source.media, end - start)
        return (Span(start, end, content, time, chain, why),)
    if isinstance(source, CardSource):
        return (Span(start, end, Title(source.card), why=why),)
    if isinstance(source, Empty):
        return (Span(start, end, EMPTY_SLOT, why=why),)
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


def plain_spans(
    source: Source, first: int, start: int, end: int, why: Why, material: Material
) -> tuple[Span, ...]:
    """Spans of a source from ``start`` on, its in point meant for ``first``."""
    if isinstance(source, ClipSource) and start != first:
        own = playback(1, source.in_s, source.speed).pieces[0]
        seconds = (start - first) * material.rate.denominator / material.rate.numerator
        source = replace(source, in_s=own.after(seconds, material.rate))
    return source_spans(source, start, end, why, material)
