"""Hand-off: rendering and exports."""

from typing import Literal

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse

from zembi.api.context import BegunDep, ProjectDep, StudioDep
from zembi.api.download import download
from zembi.api.routers.sheet import EditId
from zembi.api.schemas import BringBack, Id, Ok, Relink, RenderRange, SendShot, Started
from zembi.service.handoff import collecting, films, roundtrip

router = APIRouter(prefix="/projects/{project_id}", tags=["handoff"])

Kind = Literal["otio", "edl", "csv", "cubes", "vtt", "midi", "titles.srt", "titles.vtt", "titles.lrc"]


@router.post("/edits/{edit_id}/renders", status_code=202)
def render(
    edit_id: EditId, body: RenderRange, project: ProjectDep, studio: StudioDep, begun: BegunDep
) -> Started:
    """Queue rendering an edit, or a range of it."""
    return begun(films.queue_render(project, edit_id, studio.runner, body.first, body.end))


@router.get("/handoff/renders/{job_id}")
def download_film(job_id: Id, project: ProjectDep) -> FileResponse:
    """The finished film."""
    path = films.rendered_file(project, job_id)
    return FileResponse(path, media_type="video/mp4", filename=path.name)


@router.post("/handoff/collections", status_code=202)
def collect(body: Relink, project: ProjectDep, studio: StudioDep, begun: BegunDep) -> Started:
    """Queue copying all that the project uses into a folder, with the project."""
    return begun(collecting.queue_collecting(studio.workspace, project, studio.runner, body.path))


@router.post("/edits/{edit_id}/excerpts", status_code=202)
def send(edit_id: EditId, body: SendShot, project: ProjectDep, studio: StudioDep, begun: BegunDep) -> Started:
    """Queue writing a shot or passage with handles for work in another program."""
    sent = roundtrip.Sent(**body.model_dump())
    return begun(roundtrip.queue_sending(project, edit_id, studio.runner, sent))


@router.post("/edits/{edit_id}/returns")
def bring(edit_id: EditId, body: BringBack, project: ProjectDep, studio: StudioDep) -> Ok:
    """Lay what came back over the shot or passage that it was made of."""
    note = roundtrip.bring_back(
        studio.workspace, project, edit_id, studio.runner, body.path, own_lane=body.own_lane
    )
    return Ok(note=note)


@router.get("/handoff/used.csv")
def used(project: ProjectDep) -> Response:
    """The files that the project needs, as a table."""
    return download(collecting.used_table(project))


@router.get("/edits/{edit_id}/export/{kind}")
def export(edit_id: EditId, kind: Kind, project: ProjectDep) -> Response:
    """A file of an edit for another program."""
    return download(films.export(project, edit_id, kind))


@router.get("/edits/{edit_id}/export/{kind}/report")
def report(edit_id: EditId, kind: Kind, project: ProjectDep) -> list[str]:
    """List in words what of the edit that file does not tell other programs."""
    return films.report(project, edit_id, kind)
