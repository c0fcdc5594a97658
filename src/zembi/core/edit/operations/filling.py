"""Operations that fill the song by themselves."""

from dataclasses import dataclass
from typing import Literal

from zembi.core.edit.fill import Clip, bars_each, make_slots, rough_cut
from zembi.core.edit.model import Edit
from zembi.core.edit.operations.context import Context
from zembi.core.errors import Refused
from zembi.core.timebase import seconds_to_frame


@dataclass(frozen=True)
class RoughCut:
    """Fill the whole song from coverage and B-roll; held shots stay."""

    op: Literal["rough cut"] = "rough cut"

    def named(self, _context: Context) -> str:
        """What undo calls it."""
        return "Rough cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        grid, rate, lead = context.need_grid(), context.rate, context.lead
        spans = {n: a.spans for n, a in context.angles.items() if a.spans}
        ready = {m: c for m, c in context.clips.items() if c.fills and c.ready}
        clips = [Clip(s.media, s.in_s, s.out_s) for s in context.selects.values() if s.media in ready]
        # What was chosen from a clip says what is good in it.
        chosen = {c.media for c in clips}
        clips += [Clip(m, c.in_s, c.out_s) for m, c in ready.items() if m not in chosen]
        if not spans and not clips:
            raise Refused("There is nothing to cut with yet: lock a take on the Line-up, or add B-roll.")
        frames = [max(0, seconds_to_frame(beat, rate) - lead) for beat in grid.beats]
        bars = [frames[i] for i in grid.bars if grid.beats[i] >= 0]
        starts = [
            seconds_to_frame(s.start_s, rate) - (lead if k else 0) for k, s in enumerate(context.sections)
        ]
        each = bars_each([s.level for s in context.sections]) if starts else [2]
        slots = make_slots(bars, starts or [0], each, edit.length)
        return rough_cut(edit, slots, spans, clips, frames, rate)
