"""Operations on lanes themselves: added, named, switched, locked, ordered, taken away."""

from dataclasses import dataclass, replace
from typing import Literal

from zembi.core.edit.lanes import kind_of
from zembi.core.edit.model import Edit, Lane, LaneKind
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused

#: Most lanes of an edit, and longest name of one.
MOST_LANES, LONGEST_NAME = 32, 80


def with_new_lane(edit: Edit, kind: LaneKind, name: str = "") -> Edit:
    """The edit with an empty lane over the others of its kind.

    Raises:
        BadInput: a name that is too long.
        Refused: there may be no more.
    """
    alike = edit.of_kind(kind)
    if alike and not kind.several:
        raise Refused(f"An edit has one lane “{kind.title}”.")
    if len(edit.lanes) >= MOST_LANES:
        raise Refused(f"An edit has at most {MOST_LANES} lanes.")
    name = _checked_name(name or (f"{kind.title} {len(alike) + 1}" if alike else kind.title))
    place = _place_of(edit, alike[-1]) + 1 if alike else len(edit.lanes)
    return replace(edit, lanes=(*edit.lanes[:place], Lane(kind, name=name), *edit.lanes[place:]))


@dataclass(frozen=True)
class AddLane:
    """Add an empty lane of a kind over the others of its kind."""

    kind: str
    name: str = ""
    op: Literal["add lane"] = "add lane"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Add a lane"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        return with_new_lane(edit, kind_of(self.kind), self.name)


@dataclass(frozen=True)
class ChangeLane:
    """Rename a lane, switch it on or off, lock it or open it again; what is left out stays."""

    lane: int
    name: str | None = None
    on_screen: bool | None = None
    locked: bool | None = None
    op: Literal["change lane"] = "change lane"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        if self.locked is not None:
            return "Lock a lane" if self.locked else "Unlock a lane"
        if self.on_screen is not None:
            return "Switch a lane on" if self.on_screen else "Switch a lane off"
        return "Rename a lane"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        lane = edit.lane(self.lane)
        if self.on_screen is False and not lane.kind.gaps:
            raise Refused("The base lane is always seen.")
        return edit.with_lane(
            replace(
                lane,
                name=lane.name if self.name is None else _checked_name(self.name),
                on=lane.on if self.on_screen is None else self.on_screen,
                locked=lane.locked if self.locked is None else self.locked,
            )
        )


@dataclass(frozen=True)
class OrderLane:
    """Move a lane over (``by`` above 0) or under others; the base lane stays at the bottom."""

    lane: int
    by: int
    op: Literal["order lane"] = "order lane"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Order the lanes"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        lane = edit.lane(self.lane)
        now = _place_of(edit, lane)
        others = [one for one in edit.lanes if one is not lane]
        place = now + self.by
        if now == 0 or not 1 <= place <= len(others):
            raise Refused("The lane cannot go further that way: the base lane stays at the bottom.")
        return replace(edit, lanes=(*others[:place], lane, *others[place:]))


@dataclass(frozen=True)
class RemoveLane:
    """Take a lane away with what lies on it; one of each kind stays."""

    lane: int
    op: Literal["remove lane"] = "remove lane"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Remove a lane"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        lane = edit.lane(self.lane)
        if len(edit.of_kind(lane.kind)) < 2:
            raise Refused(f"“{lane.name}” is the only lane of its kind: switch it off instead.")
        return replace(edit, lanes=tuple(one for one in edit.lanes if one is not lane))


def _place_of(edit: Edit, lane: Lane) -> int:
    return [one.id for one in edit.lanes].index(lane.id)


def _checked_name(name: str) -> str:
    name = name.strip()
    if not 0 < len(name) <= LONGEST_NAME:
        raise BadInput(f"A lane's name is 1 to {LONGEST_NAME} characters long.")
    return name
