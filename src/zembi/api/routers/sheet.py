"""Sheet: the edit and every operation on it."""

from fastapi import APIRouter, Response
from pydantic import TypeAdapter

from zembi.api.context import ProjectDep
from zembi.api.schemas import Operation
from zembi.core.edit.judging import Judgement
from zembi.service.answers.state import edit_view
from zembi.service.answers.views import EditView
from zembi.service.edit import cutting

router = APIRouter(prefix="/api/projects/{project_id}/edit", tags=["sheet"])

_EDIT = TypeAdapter(EditView)


@router.get("", response_model=EditView)
def get_edit(project: ProjectDep) -> Response:
    """The current edit and what it puts on screen."""
    return edit_answer(edit_view(project))


@router.post("", response_model=EditView)
def operate(body: Operation, project: ProjectDep) -> Response:
    """Do one operation; the answer is the edit after it."""
    return edit_answer(edit_view(project, cutting.operate(project, body.root)))


@router.post("/look", response_model=EditView)
def look_ahead(body: Operation, project: ProjectDep) -> Response:
    """What an operation would make of the edit; nothing is changed."""
    return edit_answer(edit_view(project, cutting.look_ahead(project, body.root)))


@router.get("/judged")
def judged(project: ProjectDep) -> Judgement:
    """What can be said of the current cut as a whole."""
    return cutting.judged(project)


def edit_answer(view: EditView) -> Response:
    """The view as JSON at once: it is our own, and checking it again takes longer than making it."""
    return Response(_EDIT.dump_json(view), media_type="application/json")
