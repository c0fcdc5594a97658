"""Projects: list, make, open, undo."""

from typing import Annotated

from fastapi import APIRouter, Query, Response
from sse_starlette import EventSourceResponse

from zembi.api.context import IfMatch, ProjectDep, StudioDep
from zembi.api.news import Newsroom
from zembi.api.routers.sheet import Since, edit_answer
from zembi.api.schemas import DescribeProject, Id, NewProject, Ok, Settings
from zembi.service.answers import project as state
from zembi.service.answers.edit import edit_after_turning
from zembi.service.answers.views import EditView, JobView, ProjectCard, ProjectState
from zembi.service.edit import cutting
from zembi.service.project import describing
from zembi.service.project.workspace import Project

router = APIRouter(prefix="/projects", tags=["projects"])

#: The edit that is answered.
Asked = Annotated[int | None, Query(ge=0, lt=2**63)]

_NEWS = Newsroom()


@router.get("")
def list_projects(studio: StudioDep) -> list[ProjectCard]:
    """All projects."""
    return state.project_cards(studio.workspace)


@router.post("", status_code=201)
def make_project(body: NewProject, studio: StudioDep) -> ProjectState:
    """Make a project."""
    studio.runner.wake()
    project = studio.workspace.create(body.name, body.rate, body.width, body.height)
    return state.project_state(project)


@router.get("/{project_id}")
def get_state(project: ProjectDep) -> ProjectState:
    """Everything about a project but its edit."""
    return state.project_state(project)


@router.patch("/{project_id}")
def describe_project(body: DescribeProject, project: ProjectDep) -> Ok:
    """Rename a project, or give its film another size, rate or first timecode."""
    describing.describe(project, **body.model_dump())
    return Ok()


@router.get("/{project_id}/rate-change")
def rate_change(project: ProjectDep, rate: Annotated[str, Query(max_length=40)]) -> describing.RateChange:
    """Tell what another frame rate would do to the cuts."""
    return describing.rate_change(project, rate)


@router.delete("/{project_id}")
def delete_project(project_id: str, studio: StudioDep) -> Ok:
    """Delete a project's folder; footage outside it is not touched."""
    studio.remove(project_id)
    return Ok()


@router.post("/{project_id}/undo", response_model=EditView | Ok)
def undo(project: ProjectDep, studio: StudioDep, edit: Asked = None, since: Since = None) -> Response | Ok:
    """Undo the last operation; the answer is the edit that is asked for after it, where there is one, and what was undone."""
    return _turned(project, studio.turn(project, back=True), edit, since)


@router.post("/{project_id}/redo", response_model=EditView | Ok)
def redo(project: ProjectDep, studio: StudioDep, edit: Asked = None, since: Since = None) -> Response | Ok:
    """Redo what was undone; answers like undo."""
    return _turned(project, studio.turn(project, back=False), edit, since)


def _turned(project: Project, note: str, edit: int | None, since: int | None) -> Response | Ok:
    view = edit_after_turning(project, edit, note)
    return Ok(note=note) if view is None else edit_answer(project, view, since)


@router.patch("/{project_id}/settings")
def change_settings(body: Settings, project: ProjectDep, if_match: IfMatch = None) -> Ok:
    """Choose what cuts fall on; what is not named stays."""
    cutting.settings(project, **body.model_dump(), known=if_match)
    return Ok()


@router.get("/{project_id}/jobs")
def list_jobs(project: ProjectDep) -> list[JobView]:
    """Long works under way and lately ended."""
    return state.jobs(project)


@router.get("/{project_id}/jobs/{job_id}")
def get_job(job_id: Id, project: ProjectDep) -> JobView:
    """A long work as it is now."""
    return state.job(project, job_id)


@router.delete("/{project_id}/jobs/{job_id}")
def cancel_job(job_id: Id, project: ProjectDep, studio: StudioDep) -> Ok:
    """Stop a long work."""
    studio.runner.cancel(project.database, job_id)
    return Ok()


@router.get("/{project_id}/events")
async def events(project: ProjectDep) -> EventSourceResponse:
    """Jobs as they change, as server-sent events."""
    return EventSourceResponse(_NEWS.follow(project), ping=15)
