"""Operations that move cuts together: pushed, spread off the beat, brought back to it."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from zembi.core.edit.lanes import base
from zembi.core.edit.model import Edit
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused

#: Farthest that cuts are pushed at a time, and spread off the beat, in frames.
MOST_PUSH = 10_000
MOST_LOOSE = 24


def _cuts(edit: Edit, first: int, last: int, *, held: bool) -> list[int]:
    """Cuts from frame ``first`` to ``last`` (both may be one); those of held shots only where asked."""
    return [
        s.start
        for before, s in zip(edit.shots, edit.shots[1:], strict=False)
        if first <= s.start <= last and (held or not (s.held or before.held))
    ]


@dataclass(frozen=True)
class Push:
    """Move every cut from frame ``first`` to ``last`` by so many frames; those around them stay."""

    first: int
    last: int
    frames: int
    op: Literal["push"] = "push"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Push cuts by {self.frames:+d} f"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if abs(self.frames) > MOST_PUSH:
            raise BadInput(f"Cuts are pushed by at most {MOST_PUSH} frames at a time.")
        cuts = _cuts(edit, self.first, self.last, held=True)
        if not cuts:
            raise Refused("There is no cut in that passage.")
        return base.move_cuts(edit, {c: c + self.frames for c in cuts}, context.rate)


@dataclass(frozen=True)
class Loosen:
    """Spread the cuts from frame ``first`` to ``last`` off their places by up to ``frames``, never two alike in a row.

    The same seed spreads the same cuts the same way. Cuts of held shots stay, and none passes its neighbour.
    """

    first: int
    last: int
    frames: int = 3
    seed: int = 1
    op: Literal["loosen"] = "loosen"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Loosen cuts by up to {self.frames} f"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if not 1 <= self.frames <= MOST_LOOSE:
            raise BadInput(f"Cuts are loosened by 1 to {MOST_LOOSE} frames.")
        if self.seed < 0:
            raise BadInput("The seed is a number from 0.")
        cuts = _cuts(edit, self.first, self.last, held=False)
        if not cuts:
            raise Refused("There is no cut in that passage that may move.")
        rng = np.random.default_rng(self.seed)
        to: dict[int, int] = {}
        before = 0
        for cut in cuts:
            offsets = [o for o in range(-self.frames, self.frames + 1) if o not in (0, before)]
            before = int(rng.choice(offsets))
            to[cut] = cut + before
        return base.move_cuts(edit, _in_order(edit, to), context.rate)


@dataclass(frozen=True)
class Tighten:
    """Bring the cuts from frame ``first`` to ``last`` back to the nearest beat, less the lead. Held shots stay."""

    first: int
    last: int
    op: Literal["tighten"] = "tighten"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Tighten cuts to the beat"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        grid = context.need_grid()
        cuts = _cuts(edit, self.first, self.last, held=False)
        if not cuts:
            raise Refused("There is no cut in that passage that may move.")
        to = {}
        for cut in cuts:
            to[cut] = context.cuts.frame_of(context.cuts.nearest_point(cut, grid))
        return base.move_cuts(edit, _in_order(edit, to), context.rate)


def _in_order(edit: Edit, to: dict[int, int]) -> dict[int, int]:
    """Moves that keep the order of all cuts: one that would meet the cut before it, or the one after, stays."""
    starts = [s.start for s in edit.shots]
    out: dict[int, int] = {}
    for i, start in enumerate(starts):
        if start not in to:
            continue
        low = out.get(starts[i - 1], starts[i - 1])
        high = starts[i + 1] if i + 1 < len(starts) else edit.length
        if low < to[start] < high:
            out[start] = to[start]
    return out
