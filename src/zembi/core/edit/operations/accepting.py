"""Accepting what a check points out, for the items that it is about and no others."""

from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.model import Edit, Item
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused

#: Checks of items that an editor can mean to be so.
Acceptable = Literal["too short", "source runs out", "out of sync", "treatment", "flashes", "title", "jump"]
#: Longest word of why.
LONGEST_WORD = 200
_MOST = 5000


@dataclass(frozen=True)
class Accept:
    """Accept what a check points out of items, with a word why; without one (None) it counts again."""

    items: tuple[int, ...]
    check: Acceptable
    word: str | None = None
    op: Literal["accept"] = "accept"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"{'Let count again' if self.word is None else 'Accept'}: {self.check}"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        if not 0 < len(self.items) <= _MOST:
            raise BadInput(f"Between 1 and {_MOST} items can be accepted at once.")
        if self.word is not None and len(self.word) > LONGEST_WORD:
            raise BadInput(f"A word why is at most {LONGEST_WORD} characters long.")
        asked = set(self.items)
        after, found = edit, 0
        for lane in edit.lanes:
            items = tuple(self._after(i) if i.id in asked else i for i in lane.items)
            found += sum(i.id in asked for i in items)
            if items != lane.items:
                after = after.with_lane(replace(lane, items=items))
        if found < len(asked):
            raise Refused("What was meant is not there any more.")
        return after

    def _after(self, item: Item) -> Item:
        others = [pair for pair in item.accepted if pair[0] != self.check]
        mine = [] if self.word is None else [(self.check, self.word.strip())]
        return replace(item, accepted=tuple(sorted([*others, *mine])))
