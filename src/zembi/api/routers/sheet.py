"""Sheet: the edit and every operation on it."""

from collections.abc import Callable
from typing import TypeVar

from fastapi import APIRouter, Response
from pydantic import TypeAdapter

from zembi.api.context import ProjectDep
from zembi.api.schemas import Operation
from zembi.core.errors import BadInput
from zembi.service import cutting
from zembi.service.cutting import Done
from zembi.service.state import edit_view
from zembi.service.views import EditView
from zembi.service.workspace import Project

router = APIRouter(prefix="/api/projects/{project_id}/edit", tags=["sheet"])

T = TypeVar("T")
_EDIT = TypeAdapter(EditView)


@router.get("", response_model=EditView)
def get_edit(project: ProjectDep) -> Response:
    """The current edit and what it puts on screen."""
    return _answer(edit_view(project))


@router.post("", response_model=EditView)
def operate(body: Operation, project: ProjectDep) -> Response:
    """Do one operation; the answer is the edit after it."""
    return _answer(edit_view(project, _OPERATIONS[body.op](project, body)))


def _answer(view: EditView) -> Response:
    """The view as JSON at once: it is our own, and checking it again takes longer than making it."""
    return Response(_EDIT.dump_json(view), media_type="application/json")


def _need(value: T | None, what: str) -> T:
    if value is None:
        raise BadInput(f"This operation needs {what}.")
    return value


_OPERATIONS: dict[str, Callable[[Project, Operation], Done]] = {
    "switch": lambda p, b: cutting.switch(p, _need(b.at_s, "at_s"), _need(b.angle, "angle"), b.unit, b.lead),
    "cut": lambda p, b: cutting.cut(p, _need(b.at_s, "at_s"), b.unit, b.lead),
    "join": lambda p, b: cutting.join(p, _need(b.start, "start")),
    "move": lambda p, b: cutting.move_cut(p, _need(b.start, "start"), to=b.to, beats=b.beats),
    "angle": lambda p, b: cutting.set_angle(p, _need(b.start, "start"), _need(b.angle, "angle")),
    "black": lambda p, b: cutting.set_black(p, _need(b.start, "start")),
    "hold": lambda p, b: cutting.hold(p, _need(b.start, "start"), b.held),
    "lay": lambda p, b: cutting.lay_into_shot(p, _need(b.start, "start"), _need(b.media, "media"), b.speed),
    "lay over": lambda p, b: cutting.lay_cutaway(
        p, _need(b.at_s, "at_s"), _need(b.media, "media"), b.unit, b.lead, end_s=b.end_s, speed=b.speed
    ),
    "take off": lambda p, b: cutting.remove_cutaway(p, _need(b.start, "start")),
    "rough cut": lambda p, _b: cutting.fill(p),
}
