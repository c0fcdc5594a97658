"""Operations on slots: made on the music, emptied, and filled in order."""

from dataclasses import dataclass
from typing import Literal

from zembi.core.edit.items import frames_missing
from zembi.core.edit.lanes import base
from zembi.core.edit.model import Edit, Empty, Item
from zembi.core.edit.operations.context import STRONG, Context
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit
from zembi.core.song.hits import HIT_NAMES, HitKind
from zembi.core.timebase import nth, seconds_to_frame

#: Most clips that slots are filled with at once.
MOST_CLIPS = 2000

Every = Literal["beat", "2 beats", "bar", "2 bars", "phrase", "mark", "second", "hit", "line"]

#: Slots on hits are no shorter than this, in beats.
_SHORTEST = 0.45


@dataclass(frozen=True)
class MakeSlots:
    """Divide frames ``first`` to ``end`` (exclusive) into empty slots on the music. Held shots stay.

    On hits: those of a kind (``band``) from a ``strength`` on (0 to 1), every ``nth`` of them. On lines: where lines of the lyrics begin.
    """

    first: int
    end: int
    every: Every = "bar"
    band: HitKind = "low"
    strength: float = STRONG
    nth: int = 1
    op: Literal["make slots"] = "make slots"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        named = {
            "mark": "Slots on the marks",
            "hit": f"Slots on {HIT_NAMES[self.band][1]}"
            if self.nth == 1
            else f"Slots on every {nth(self.nth)} of the {HIT_NAMES[self.band][1]}",
            "line": "Slots on the lyrics' lines",
        }
        return named.get(self.every, f"Slots of a {self.every}")

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        first, end = _range(edit, self.first, self.end)
        points = [
            context.cuts.frame_of(t) if self.every != "second" else seconds_to_frame(t, context.rate)
            for t in self._times(edit, context)
        ]
        inside = sorted({p for p in points if first < p < end})
        if not inside and self.every in _NONE:
            raise Refused(_NONE[self.every])
        return base.around_held(edit, first, end, [Item(p, Empty()) for p in (first, *inside)], context.rate)

    def _times(self, edit: Edit, context: Context) -> list[float]:
        if self.every == "mark":
            return list(context.marks)
        if self.every == "second":
            return [float(n) for n in range(int(edit.length / context.rate) + 1)]
        if self.every == "phrase":
            return list(context.phrases)
        if self.every == "line":
            return list(context.heard().lines)
        if self.every == "hit":
            return self._hits(context)
        grid = context.need_grid()
        beats = [b for b in grid.beats if b >= 0]
        bars = [grid.beats[i] for i in grid.bars if grid.beats[i] >= 0]
        return {"beat": beats, "2 beats": beats[::2], "bar": bars, "2 bars": bars[::2]}[self.every]

    def _hits(self, context: Context) -> list[float]:
        if not 0 <= self.strength <= 1:
            raise BadInput("The strength of a hit is 0 to 1.")
        if self.nth < 1:
            raise BadInput("Slots are made on every hit (1), every second (2) and so on.")
        out: list[float] = []
        grid = context.need_grid()
        for at, strength in context.heard().bands.get(self.band, ()):
            if strength >= self.strength and (not out or grid.beats_between(out[-1], at) >= _SHORTEST):
                out.append(at)
        return [at for at in out if self.first <= context.cuts.frame_of(at) < self.end][:: self.nth]


#: What is said where there is nothing to make slots on.
_NONE = {
    "mark": "No mark that is shown lies there.",
    "hit": "No hit as strong as that lies there: ask for less strength, or another kind of hits.",
    "line": "No line of the lyrics with a time lies there.",
}


@dataclass(frozen=True)
class Slot:
    """Begin an empty slot at the grid point nearest to a working time: it lasts until the next cut."""

    working_s: float
    unit: Unit = "beat"
    lead: int | None = None
    op: Literal["slot"] = "slot"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Tap a slot"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        frame = context.frame(edit, self.working_s, self.unit, self.lead)
        index = edit.index_at(frame)
        if edit.shots[index].held:
            raise Refused("A held shot lies there.")
        if edit.shots[index].start != frame:
            edit = base.cut(edit, frame, context.rate)
            index += 1
        return base.set_source(edit, index, Empty())


@dataclass(frozen=True)
class Clear:
    """Empty every shot that lies in frames ``first`` to ``end`` (exclusive); cuts and held shots stay."""

    first: int
    end: int
    op: Literal["clear"] = "clear"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Empty a passage"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        first, end = _range(edit, self.first, self.end)
        for index, shot in enumerate(edit.shots):
            if first <= shot.start and edit.end_of(index) <= end and not shot.held:
                edit = base.set_source(edit, index, Empty())
        return edit


@dataclass(frozen=True)
class Chosen:
    """A clip, or a select of one, to fill with."""

    media: str
    select: int | None = None


@dataclass(frozen=True)
class Fill:
    """Fill the empty slots in frames ``first`` to ``end`` (exclusive) with clips and selects in the order given.

    Each goes into the first empty slot that is left and that it is long enough for; a slot too long for all of them
    stays empty.
    """

    first: int
    end: int
    clips: tuple[Chosen, ...]
    op: Literal["fill"] = "fill"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Fill slots with {len(self.clips)} clips"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        first, end = _range(edit, self.first, self.end)
        if not 1 <= len(self.clips) <= MOST_CLIPS:
            raise BadInput(f"Choose what to fill with first: 1 to {MOST_CLIPS:,} clips.")
        chosen = [context.clip(c.media, None, c.select) for c in self.clips]
        open_ = [
            i
            for i, s in enumerate(edit.shots)
            if isinstance(s.source, Empty) and first <= s.start and edit.end_of(i) <= end and not s.held
        ]
        if not open_:
            raise Refused("There is no empty slot in that passage.")
        filled = 0
        for clip, known in chosen:
            fits = [
                i for i in open_
                if not frames_missing(clip, edit.end_of(i) - edit.shots[i].start, known.out_s, context.rate)
            ]  # fmt: skip
            if fits:
                edit = base.set_source(edit, fits[0], clip)
                open_.remove(fits[0])
                filled += 1
        if not filled:
            raise Refused("None of them is long enough for an empty slot there.")
        return edit


def _range(edit: Edit, first: int, end: int) -> tuple[int, int]:
    first, end = max(0, first), min(end, edit.length)
    if end <= first:
        raise BadInput("The passage is empty.")
    return first, end
