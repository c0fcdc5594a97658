"""The kinds of lanes. To add one: its module here, its compile function in ``compiling``, and its name in both lists."""

from collections.abc import Iterable

from zembi.core.edit.lanes.base import BASE
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.lanes.ranges import RANGES
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import Edit, Empty, Item, Lane, LaneKind, checked
from zembi.core.errors import BadInput

KINDS: dict[str, LaneKind] = {kind.name: kind for kind in (BASE, OVER, RANGES, TITLES)}


def kind_of(name: str) -> LaneKind:
    """A kind of lane by its name.

    Raises:
        BadInput: there is none.
    """
    if name not in KINDS:
        raise BadInput(f"There is no kind of lane “{name}”; there are {', '.join(KINDS)}.")
    return KINDS[name]


def new_edit(
    length: int, shots: Iterable[Item] = (), over: Iterable[Item] = (), ranges: Iterable[Item] = ()
) -> Edit:
    """An edit with a lane of shots, of cutaways and of treated ranges; others come with what is first laid on them.

    Without shots it is uncut: one empty slot (black is what somebody chose).

    Raises:
        Refused: an item breaks a rule of its lane.
    """
    given = {
        BASE.name: tuple(shots) or (Item(0, Empty()),),
        OVER.name: tuple(over),
        RANGES.name: tuple(ranges),
    }
    return checked(Edit(length, tuple(Lane(KINDS[k], items, KINDS[k].title) for k, items in given.items())))
