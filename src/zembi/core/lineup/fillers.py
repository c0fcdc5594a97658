"""Fillers: candidates for where an angle, or all of them, have no picture."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

from zembi.core.programme.model import Span

K = TypeVar("K")


@dataclass(frozen=True)
class FillerCandidate:
    """A clip or select that could be laid: its frames in the programme, and whether it is tagged for the section."""

    id: str
    frames: int
    tagged: bool = False


def share_covered(spans: Sequence[Span], start: int, end: int) -> float:
    """Share of frames ``start`` to ``end`` (exclusive) that spans of one angle, not overlapping, have picture for."""
    inside = sum(max(0, min(s.end, end) - max(s.start, start)) for s in spans)
    return inside / max(1, end - start)


def other_angles(angles: Mapping[K, Sequence[Span]], start: int, end: int) -> list[tuple[K, float]]:
    """Angles with picture in a hole and the share of it that they cover, the most first."""
    shares = [(angle, share_covered(spans, start, end)) for angle, spans in angles.items()]
    return sorted(((a, share) for a, share in shares if share > 0), key=lambda x: -x[1])


def stretches_for(stretches: Sequence[FillerCandidate], frames: int, most: int = 12) -> list[FillerCandidate]:
    """Candidates to fill a hole of so many frames: tagged for the section first, then long enough, then the longest."""
    order = sorted(stretches, key=lambda s: (not s.tagged, s.frames < frames, -s.frames))
    return order[:most]
