"""Edits in tests, whose items are named by the frame at which they begin."""

from dataclasses import replace
from typing import Any

from zembi.core.edit import operations
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.lanes.ranges import RANGES
from zembi.core.edit.model import Edit, Item
from zembi.core.edit.operations import Context, Operation

#: Operations on what is laid over the base lane.
_OVER = (operations.MoveItem, operations.TakeOff, operations.Split, operations.Drop)
#: An id that nothing has.
NOWHERE = 10**6


def over_of(edit: Edit) -> tuple[Item, ...]:
    """What is laid over, from the lowest lane up."""
    return tuple(item for lane in edit.of_kind(OVER) for item in lane.items)


def ranges_of(edit: Edit) -> tuple[Item, ...]:
    """Treated ranges."""
    return tuple(item for lane in edit.of_kind(RANGES) for item in lane.items)


def id_at(edit: Edit, frame: int, *, over: bool = False) -> int:
    """The id of the item that begins at a frame: of the base lane before those over it, or the other way round."""
    items = (*over_of(edit), *edit.shots) if over else (*edit.shots, *over_of(edit))
    return next((i.id for i in items if i.start == frame), NOWHERE + frame)


def by_ids(edit: Edit, operation: Operation) -> Operation:
    """An operation that names items by their first frames, naming them by id."""
    over = isinstance(operation, _OVER)
    named: dict[str, Any] = {}
    for name in ("item", "other", *(("to",) if isinstance(operation, operations.Bring) else ())):
        frame = getattr(operation, name, None)
        if frame is not None and not isinstance(operation, operations.TreatRange):
            named[name] = id_at(edit, frame, over=over)
    if isinstance(operation, operations.Treat | operations.GradeItems | operations.Accept):
        named["items"] = tuple(id_at(edit, frame) for frame in operation.items)
    return replace(operation, **named)


def apply(edit: Edit, operation: Operation, context: Context) -> Edit:
    """Apply an operation that names items by their first frames."""
    return operations.apply(edit, by_ids(edit, operation), context)


def told(view: dict[str, Any]) -> dict[str, Any]:
    """An answered edit, with the items of each kind of lane by name: "shots", "cutaways", "treated" and "titles"."""
    if "lanes" not in view:
        return view
    named = {"base": "shots", "over": "cutaways", "ranges": "treated", "titles": "titles"}
    items: dict[str, Any] = {name: [] for name in named.values()}
    for lane in view["lanes"]:
        items[named[lane["kind"]]] += lane["items"]
    return {**view, **items}


def asked(view: dict[str, Any], operation: dict[str, Any]) -> dict[str, Any]:
    """An operation whose ``start``, ``starts`` and ``other`` are first frames, as the server is asked: by id."""
    known = told(view)
    first_over = operation["op"] in ("take off", "move item", "split", "drop") or operation.pop("over", False)
    items = [*known["shots"], *known["cutaways"]]
    # Of two that begin at one frame the later in this list is meant.
    ids = {i["start"]: i["id"] for i in (items if first_over else reversed(items))}
    out = dict(operation)
    if "start" in out:
        frame = out.pop("start")
        out["item"] = ids.get(frame, NOWHERE) if frame is not None else None
    if "starts" in out:
        out["items"] = [ids.get(frame, NOWHERE) for frame in out.pop("starts")]
    if "other" in out:
        out["other"] = ids.get(out["other"], NOWHERE)
    return out
