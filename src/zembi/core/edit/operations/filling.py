"""Operations that fill the song by themselves."""

from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.fill import Clip, bars_each, make_slots, rough_cut, with_broll
from zembi.core.edit.lanes import around_held, part_of
from zembi.core.edit.model import Edit
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused

#: Longest shots of a rough cut, in beats.
MOST_BEATS = 64


@dataclass(frozen=True)
class RoughCut:
    """Fill the song, or frames ``first`` to ``end`` (exclusive) of it, from coverage and B-roll; held shots stay.

    Shots last ``beats``, else a bar where the song is loudest and two elsewhere. So much of the shots (0 to 1) is
    ``broll``: evenly spread, the longest unused first, the first shot of the passage excepted.
    """

    first: int = 0
    end: int | None = None
    beats: int | None = None
    broll: float = 0.0
    op: Literal["rough cut"] = "rough cut"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Rough cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        grid, rate = context.need_grid(), context.rate
        spans = {n: a.spans for n, a in context.angles.items() if a.spans}
        ready = {m: c for m, c in context.clips.items() if c.fills and c.ready}
        clips = [Clip(s.media, s.in_s, s.out_s) for s in context.selects.values() if s.media in ready]
        # What was chosen from a clip says what is good in it.
        chosen = {c.media for c in clips}
        clips += [Clip(m, c.in_s, c.out_s) for m, c in ready.items() if m not in chosen]
        if not spans and not clips:
            raise Refused("There is nothing to cut with yet: lock a take on the Line-up, or add B-roll.")
        if self.beats is not None and not 1 <= self.beats <= MOST_BEATS:
            raise BadInput(f"Shots last 1 to {MOST_BEATS} beats.")
        if not 0 <= self.broll <= 1:
            raise BadInput("The share of B-roll is 0 to 1.")
        frames = [context.cuts.frame_of(beat) for beat in grid.beats]
        bars = [frames[i] for i in grid.bars if grid.beats[i] >= 0]
        starts = [first for first, _ in context.cuts.section_frames(edit.length)]
        if self.beats is None:
            each = bars_each([s.level for s in context.sections]) if starts else [2]
            slots = make_slots(bars, starts or [0], each, edit.length)
        else:
            beats = [f for f, beat in zip(frames, grid.beats, strict=True) if beat >= 0]
            slots = make_slots(beats, starts or [0], [self.beats] * max(1, len(starts)), edit.length)
        first, end = max(0, self.first), min(edit.length, edit.length if self.end is None else self.end)
        if end <= first:
            raise BadInput("The passage is empty.")
        made = rough_cut(edit, slots, spans, clips, frames, rate)
        if self.broll:
            made = with_broll(made, clips, self.broll, first, end, rate)
        if (first, end) == (0, edit.length):
            return made
        index = made.index_at(first)
        shown = made.shots[index]
        head = replace(part_of(shown, first, made.end_of(index), rate), held=False)
        inside = [head, *(s for s in made.shots if first < s.start < end)]
        return around_held(edit, first, end, [replace(s, held=False) for s in inside], rate)
