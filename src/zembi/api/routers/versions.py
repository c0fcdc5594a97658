"""Versions of the cut: what there is, what differs, and what one takes over from another."""

from typing import Annotated

from fastapi import APIRouter, Query, Response

from zembi.api.context import ProjectDep
from zembi.api.routers.sheet import EditId, edit_answer
from zembi.api.schemas import ChangeVersion, CurrentVersion, NewVersion, Ok, TakeOver
from zembi.core.programme.comparing import Comparison
from zembi.service.answers.edit import edit_view
from zembi.service.answers.views import EditView
from zembi.service.edit import versions
from zembi.service.edit.versions import ListedVersion

router = APIRouter(prefix="/projects/{project_id}", tags=["versions"])


@router.get("/edits")
def list_versions(project: ProjectDep) -> list[ListedVersion]:
    """The versions of the cut, in the order in which they were made; one of them is worked on."""
    return versions.versions_of(project)


@router.post("/edits", status_code=201)
def make_version(body: NewVersion, project: ProjectDep) -> ListedVersion:
    """Make a version of another, and go on in it."""
    made = versions.make_version(project, body.of, body.name, body.note)
    return next(v for v in versions.versions_of(project) if v.id == made)


@router.patch("/edits/{edit_id}")
def change_version(edit_id: EditId, body: ChangeVersion, project: ProjectDep) -> Ok:
    """Rename a version, write its note, lock it or unlock it."""
    versions.change_version(project, edit_id, name=body.name, note=body.note, locked=body.locked)
    return Ok()


@router.delete("/edits/{edit_id}")
def throw_version_away(edit_id: EditId, project: ProjectDep) -> Ok:
    """Throw a version away that is not worked on; undo brings it back."""
    versions.throw_away(project, edit_id)
    return Ok()


@router.put("/current")
def work_on_version(body: CurrentVersion, project: ProjectDep) -> Ok:
    """Work on another version."""
    versions.switch_to(project, body.edit)
    return Ok()


@router.get("/edits/{edit_id}/differences")
def differences_of_versions(
    edit_id: EditId, project: ProjectDep, other: Annotated[int, Query(ge=0, lt=2**63)]
) -> Comparison:
    """Differences of a version and another one, and cuts that moved."""
    return versions.compare_versions(project, edit_id, other)


@router.post("/edits/{edit_id}/taken", response_model=EditView)
def take_over(edit_id: EditId, body: TakeOver, project: ProjectDep) -> Response:
    """Take a passage over from another version; the answer is the edit after it."""
    done = versions.take_over(project, edit_id, body.other, body.first, body.end)
    return edit_answer(project, edit_view(project, edit_id, done))
