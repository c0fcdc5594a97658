"""The operation that makes a first cut of the shot list: each line of it in its section, one after the other."""

from dataclasses import dataclass
from itertools import groupby
from typing import Literal

from zembi.core.edit.items import frames_missing
from zembi.core.edit.lanes import base
from zembi.core.edit.model import AngleSource, Edit, Empty, Item, Source
from zembi.core.edit.operations.context import Context, Line
from zembi.core.edit.operations.laying import A_BAR_LONG
from zembi.core.errors import Refused
from zembi.core.song.grid import Unit

#: Seconds that a line lasts which has no length of its own, at least: an angle, a still, a slot to be filled.
_LEAST_S = 1.0


@dataclass(frozen=True)
class Assemble:
    """Lay what was ticked off each line of the shot list, in its order, from the beginning of the line's section on.

    A clip lasts its own length, to the last place of the ``unit`` that it reaches; an angle, a still and a line of which
    nothing was shot last until the next bar or place. A line of which nothing was shot leaves a slot that says what was
    planned. Lines without a section begin with the song. Where a section is too short for its lines they share it.
    Held shots stay.
    """

    unit: Unit = "beat"
    op: Literal["assemble"] = "assemble"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Assemble the shot list"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        lines = context.listed()
        if not lines:
            raise Refused("The shot list is empty: write what was planned on Coverage, or read a CSV there.")
        places = context.falls("beat" if self.unit == "free" else self.unit)
        names = [s.name for s in context.sections]
        frames = context.cuts.section_frames(edit.length) or [(0, edit.length)]
        ordered = sorted(lines, key=lambda line: _order(line, names))
        # Lines without a section lie before those of the first, in its place: neither is laid over the other.
        for section, group in groupby(ordered, key=lambda line: max(0, _order(line, names))):
            first, end = frames[section]
            inside = [first, *(p for p in places if first < p < end), end]
            shots = self._shots(list(group), inside, context)
            until = shots.pop().start
            edit = base.around_held(edit, first, until, shots, context.rate)
        return edit

    def _shots(self, lines: list[Line], places: list[int], context: Context) -> list[Item]:
        """Shots of the lines of a section, and an item where the last of them ends."""
        out: list[Item] = []
        at = 0
        for left, line in zip(range(len(lines), 0, -1), lines, strict=True):
            if at >= len(places) - 1:
                break
            # As many places as there are lines still to come are left for them.
            most = max(at + 1, len(places) - left)
            source, until = self._lasts(line, places, at, most, context)
            out.append(Item(places[at], source))
            at = until
        return [*out, Item(places[at], Empty())]

    def _lasts(
        self, line: Line, places: list[int], at: int, most: int, context: Context
    ) -> tuple[Source, int]:
        """Source of a line, and the index of the place at which it ends."""
        source: Source = AngleSource(line.angle) if line.angle else Empty(line.words)
        if line.media:
            clip, known = context.clip(line.media, None, line.select)
            source = clip
            if not known.still:
                reached = [
                    k
                    for k in range(at + 1, most + 1)
                    if not frames_missing(clip, places[k] - places[at], known.out_s, context.rate)
                ]
                # One that is shorter than the way to the next place cannot be shown: its slot waits for another.
                return (clip, reached[-1]) if reached else (Empty(line.words), at + 1)
        bar = context.need_grid().metre if self.unit in A_BAR_LONG and self.unit != "bar" else 1
        least = places[at] + float(context.rate) * _LEAST_S
        until = next((k for k in range(at + bar, most + 1) if places[k] >= least), most)
        return source, until


def _order(line: Line, names: list[str]) -> int:
    """Index of a line's section; -1 where it has none that the song has."""
    return names.index(line.section) if line.section in names else -1
