"""Every change that an editor makes to an edit, as data. To add one: its class, and its name in the union here."""

import dataclasses
import math
from typing import Any

from zembi.core.edit.model import Edit, checked
from zembi.core.edit.operations.accepting import Accept
from zembi.core.edit.operations.around import Surround
from zembi.core.edit.operations.arranging import Bring, CutAs, Slip, Swap, TakeOut
from zembi.core.edit.operations.assembling import Assemble
from zembi.core.edit.operations.context import Context
from zembi.core.edit.operations.cutting import Cut, Hold, Join, Move, SetAngle, SetBlack, Switch
from zembi.core.edit.operations.grading import GradeItems
from zembi.core.edit.operations.lanes import AddLane, ChangeLane, OrderLane, RemoveLane
from zembi.core.edit.operations.laying import Drop, Lay, LayOver, Lift, MoveItem, Split, TakeOff
from zembi.core.edit.operations.placing import LayAt
from zembi.core.edit.operations.planned import FillByRules, RoughCut
from zembi.core.edit.operations.slots import Chosen, Clear, Fill, MakeSlots, Slot
from zembi.core.edit.operations.timing import Loosen, Push, Tighten
from zembi.core.edit.operations.titles import FollowLine, LayCard, LayCues, LayLyrics, SetCard
from zembi.core.edit.operations.treating import Treat, TreatRange
from zembi.core.errors import BadInput, Refused

__all__ = [
    "Accept",
    "AddLane",
    "Assemble",
    "Bring",
    "ChangeLane",
    "Chosen",
    "Clear",
    "Context",
    "Cut",
    "CutAs",
    "Drop",
    "Fill",
    "FillByRules",
    "FollowLine",
    "GradeItems",
    "Hold",
    "Join",
    "Lay",
    "LayAt",
    "LayCard",
    "LayCues",
    "LayLyrics",
    "LayOver",
    "Lift",
    "Loosen",
    "MakeSlots",
    "Move",
    "MoveItem",
    "Operation",
    "OrderLane",
    "Push",
    "RemoveLane",
    "RoughCut",
    "SetAngle",
    "SetBlack",
    "SetCard",
    "Slip",
    "Slot",
    "Split",
    "Surround",
    "Swap",
    "Switch",
    "TakeOff",
    "TakeOut",
    "Tighten",
    "Treat",
    "TreatRange",
    "apply",
    "arguments",
]  # fmt: skip

Operation = (
    Cut | Switch | Join | Move | SetAngle | SetBlack | Hold  # cuts
    | Slip | Swap | Bring | TakeOut | CutAs | Push | Loosen | Tighten  # arranging and timing
    | Lay | LayAt | LayOver | TakeOff | MoveItem | Split | Lift | Drop  # laying
    | MakeSlots | Slot | Clear | Fill | FillByRules | RoughCut | Assemble  # filling
    | Treat | TreatRange | GradeItems  # treatments
    | Surround  # before and after the song
    | LayCard | SetCard | LayLyrics | LayCues | FollowLine  # titles
    | AddLane | ChangeLane | OrderLane | RemoveLane  # lanes
    | Accept  # checks
)  # fmt: skip

#: No number of an operation is larger: seconds of a day at the highest rate.
_LARGEST = 86_400 * 1000


def apply(edit: Edit, operation: Operation, context: Context) -> Edit:
    """The edit after an operation: the only way an edit is changed by hand.

    Raises:
        BadInput: a value that cannot be meant.
        Refused: in plain words, why it cannot be done; also where it would change a locked lane.
    """
    for name, value in arguments(operation).items():
        if isinstance(value, int | float) and not (math.isfinite(value) and abs(value) <= _LARGEST):
            raise BadInput(f"“{name}” is {value}, which is no place in a song.")
    after = checked(operation.on(edit, context))
    for lane in edit.lanes:
        if lane.locked and not any(lane.id == one.id and lane.items == one.items for one in after.lanes):
            raise Refused(f"The lane “{lane.name}” is locked: unlock it first.")
    return after


def arguments(operation: Operation) -> dict[str, Any]:
    """An operation's own values by name, for the journal."""
    return {name: value for name, value in dataclasses.asdict(operation).items() if name != "op"}
