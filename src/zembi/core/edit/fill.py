"""Places for shots, parted where the coverage of angles begins or ends."""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zembi.core.lineup.coverage import covers
from zembi.core.programme.model import Span


@dataclass(frozen=True)
class SlotSpan:
    """A place for one shot, in frames (half-open)."""

    start: int
    end: int


def at_holes(
    slots: list[SlotSpan], angles: Mapping[int, Sequence[Span]], beat_frames: list[int]
) -> list[SlotSpan]:
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
        out += [SlotSpan(a, b) for a, b in itertools.pairwise(sorted(points))]
    return out
