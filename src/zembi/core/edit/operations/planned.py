"""Operations by the plan and by rules: a passage cut as planned, and slots filled without choosing each clip."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from operator import attrgetter
from typing import Literal

from zembi.core.edit.model import Edit, Empty
from zembi.core.edit.operations.context import Context
from zembi.core.edit.operations.cutting import shot_index
from zembi.core.edit.operations.slots import Chosen
from zembi.core.edit.planning import (
    LENGTHS,
    Beat,
    NextBest,
    Pace,
    PacedRange,
    Shortfall,
    Stock,
    carry_out,
    checked_pace,
    fill_slots,
    next_best,
    pace_of,
    why_empty,
)
from zembi.core.edit.rules import RULES
from zembi.core.edit.stretches import Clip, parted
from zembi.core.errors import BadInput, Refused
from zembi.core.footage.look import Look
from zembi.core.timebase import seconds_to_frame

#: Seeds are no larger.
_MOST_SEED = 1_000_000


@dataclass(frozen=True)
class RoughCut:
    """Cut frames ``first`` to ``end`` (exclusive; the whole song without) as the plan says; held shots stay.

    The same ``seed`` makes the same cut; ``without`` names rules that are switched off. ``beats`` to a shot and a share
    of ``broll`` (0 to 1) take the place of what is planned there.
    """

    first: int = 0
    end: int | None = None
    seed: int = 0
    without: tuple[str, ...] = ()
    beats: int | None = None
    broll: float | None = None
    op: Literal["rough cut"] = "rough cut"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Rough cut"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        _checked(self.seed, self.without)
        stock = stock_of(context)
        if not any(stock.angles.values()) and not stock.clips:
            raise Refused("There is nothing to cut with yet: lock a take on the Line-up, or add B-roll.")
        first, end = max(0, self.first), min(edit.length, edit.length if self.end is None else self.end)
        if end <= first:
            raise BadInput("The passage is empty.")
        passages = [
            PacedRange(max(p.first, first), min(p.end, end), p.name, self._pace(p.pace))
            for p in _passages(edit, context)
            if p.first < end and first < p.end
        ]
        beats, sung = _music(context)
        return carry_out(edit, passages, beats, sung, stock, context.rate, self.seed, self.without)

    def _pace(self, planned: Pace) -> Pace:
        """The plan, with the values that are asked for."""
        shortest, longest = (planned.shortest, planned.longest) if self.beats is None else (self.beats,) * 2
        broll = planned.broll if self.broll is None else self.broll
        return checked_pace(replace(planned, shortest=shortest, longest=longest, broll=broll))


@dataclass(frozen=True)
class FillByRules:
    """Fill the empty slots in frames ``first`` to ``end`` (exclusive) by rules, with ``clips`` or, without, with any;
    ``mixed``, with angles too, as the plan shares them out.

    The same ``seed`` fills alike; ``without`` names rules that are switched off. Slots longer than every stretch that is free stay
    empty.
    """

    first: int
    end: int
    clips: tuple[Chosen, ...] = ()
    seed: int = 0
    without: tuple[str, ...] = ()
    mixed: bool = False
    op: Literal["fill by rules"] = "fill by rules"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Fill slots by rules"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        _checked(self.seed, self.without)
        slots = self._slots(edit)
        if not slots:
            raise Refused("There is no empty slot in that passage.")
        stock = stock_of(context, self.clips)
        if not stock.clips and not (self.mixed and stock.angles):
            raise Refused("There is no B-roll to fill with yet.")
        beats, sung = _music(context)
        after = fill_slots(
            edit,
            slots,
            _passages(edit, context),
            beats,
            sung,
            stock,
            context.rate,
            self.seed,
            self.without,
            self.mixed,
        )
        if after == edit:
            raise Refused(self.left_empty(edit, context)[0].words)
        return after

    def left_empty(self, edit: Edit, context: Context) -> list[Shortfall]:
        """Reasons for each slot of the passage that is empty, of an edit that was filled."""
        stock = stock_of(context, self.clips)
        return why_empty(edit, self._slots(edit), stock, context.rate, self.without)

    def _slots(self, edit: Edit) -> list[int]:
        return [
            i
            for i, s in enumerate(edit.shots)
            if isinstance(s.source, Empty)
            and self.first <= s.start
            and edit.end_of(i) <= self.end
            and not s.held
        ]


def next_bests(edit: Edit, item: int, context: Context, without: tuple[str, ...] = ()) -> list[NextBest]:
    """Clips that could take the place of what a shot shows, in the order of the rules.

    Raises:
        BadInput: a rule that there is none of.
        Refused: the shot is not there any more, or the song has not been listened to.
    """
    _checked(0, without)
    beats, sung = _music(context)
    index = shot_index(edit, item)
    return next_best(
        edit, index, _passages(edit, context), beats, sung, stock_of(context), context.rate, without
    )


def _checked(seed: int, without: tuple[str, ...]) -> None:
    known = [*LENGTHS, *(r.name for r in RULES)]
    wrong = [w for w in without if w not in known]
    if wrong:
        raise BadInput(f"There is no rule “{wrong[0]}”; there are {', '.join(known)}.")
    if not 0 <= seed <= _MOST_SEED:
        raise BadInput(f"A seed is 0 to {_MOST_SEED:,}.")


def _passages(edit: Edit, context: Context) -> list[PacedRange]:
    has_clips = any(c.fills for c in context.clips.values())
    out = []
    for k, (start, end) in enumerate(context.cuts.section_frames(edit.length) or [(0, edit.length)]):
        part = context.sections[k] if context.sections else None
        pace = part.pace if part and part.pace else pace_of(part.energy if part else 0.5, has_clips)
        if end > start:
            out.append(PacedRange(start, end, part.name if part else "", checked_pace(pace)))
    return out


def _music(context: Context) -> tuple[list[Beat], list[tuple[int, int]]]:
    grid, heard = context.need_grid(), context.heard()
    bars = {grid.beats[i] for i in grid.bars}
    lines = sorted(context.phrases)
    beats = []
    for k, at in enumerate(grid.beats):
        if at < -1e-6:
            continue
        frame = context.cuts.frame_of(at)
        energy = heard.energy[k] if k < len(heard.energy) else 0.5
        hit = heard.hits[k] if k < len(heard.hits) else 0.0
        begins = any(abs(grid.beats_between(line, at)) < 0.25 for line in lines)
        beats.append(Beat(frame, energy, at in bars, begins, hit))
    sung = [(seconds_to_frame(a, context.rate), seconds_to_frame(b, context.rate)) for a, b in heard.sung]
    return beats, sung


def stock_of(context: Context, chosen: tuple[Chosen, ...] = ()) -> Stock:
    """Footage to cut with: what the angles show, and the clips that were chosen or, without, all that fill."""
    ready = {m: c for m, c in context.clips.items() if c.fills and c.ready}
    if chosen:
        footage = [(c.media, context.clip(c.media, None, c.select)[1], False) for c in chosen]
    else:
        kept = [(s.media, s, False) for s in context.selects.values() if s.media in ready]
        cut_from = {media for media, _, _ in kept}
        footage = kept + [(media, c, media in cut_from) for media, c in ready.items()]
    looks = [context.look(f) for _, f, _ in footage]
    moving, light = (sorted(of(look) for look in looks if look) for of in (_motion, _light))
    clips = tuple(
        Clip(
            media, f.name, parted((f.in_s, f.out_s), context.cuts_in(media)), f.speed,
            frozenset(t.lower() for t in f.tags),
            _rank(look, _motion, moving), _rank(look, _light, light), look, context.worth(media), f.still, rest,
        )
        for (media, f, rest), look in zip(footage, looks, strict=True)
    )  # fmt: skip
    angles = {n: a.spans for n, a in context.angles.items() if a.spans}
    return Stock(angles, frozenset(n for n, a in context.angles.items() if a.close), clips)


_motion, _light = attrgetter("motion"), attrgetter("light")


def _rank(look: Look | None, of: Callable[[Look], float], all_: list[float]) -> float | None:
    """Place of a look among all, 0 (the least) to 1; None where it was not measured."""
    return None if look is None else all_.index(of(look)) / max(1, len(all_) - 1)
