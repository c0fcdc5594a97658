"""The operation that gives a film a lead-in and a tail: pictures and titles before and after the song."""

from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.items import part_of
from zembi.core.edit.model import Edit, Item, checked
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput
from zembi.core.treatments.music import Length

#: Longest lead-in and tail.
MOST_AROUND_S = 120


@dataclass(frozen=True)
class Surround:
    """Let the film begin before the song and end after it; what is left out stays as it is.

    Nothing inside the song moves. What lies in a part that is cut off is cut off with it.

    Args:
        lead: How much comes before the song: frames, or beats and bars of its first tempo.
        tail: How much comes after it: frames, or beats and bars of its last tempo.
    """

    lead: Length | None = None
    tail: Length | None = None
    op: Literal["surround"] = "surround"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        if self.lead is not None and self.tail is not None:
            return "Change the lead-in and the tail"
        return "Change the tail" if self.lead is None else "Change the lead-in"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        music = context.material.ground(0, edit.length).music
        lead = edit.lead if self.lead is None else music.before(self.lead, 0)
        tail = edit.tail if self.tail is None else music.frames(self.tail, edit.length)
        for name, frames in (("lead-in", lead), ("tail", tail)):
            if not 0 <= frames <= MOST_AROUND_S * context.rate:
                raise BadInput(f"A {name} lasts from nothing to {MOST_AROUND_S} s.")
        film = replace(edit, lead=lead, tail=tail)
        lanes = [
            replace(
                lane, items=tuple(i for item in lane.items if (i := _inside(item, film, context)) is not None)
            )
            if lane.kind.gaps
            else lane
            for lane in film.lanes
        ]
        return checked(replace(film, lanes=tuple(lanes)))


def _inside(item: Item, film: Edit, context: Context) -> Item | None:
    """The part of an item that lies inside the film; None where nothing does."""
    assert item.end is not None
    start, end = max(item.start, film.first), min(item.end, film.end)
    if end <= start:
        return None
    kept = item if start == item.start else part_of(item, start, item.end, context.rate)
    return replace(kept, end=end)
