"""Hand-off: rendering and exports."""

from typing import Literal

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse

from zembi.api.context import ProjectDep, StudioDep
from zembi.api.download import download
from zembi.api.schemas import Id, Ok, Relink, RenderRange, SendShot, Started
from zembi.service.handoff import collecting, films, roundtrip

router = APIRouter(prefix="/api/projects/{project_id}/handoff", tags=["handoff"])


@router.post("/render")
def render(body: RenderRange, project: ProjectDep, studio: StudioDep) -> Started:
    """Queue rendering the current edit, or a range of it."""
    return Started(job=films.queue_render(project, studio.runner, body.first, body.end))


@router.get("/renders/{job_id}")
def download_film(job_id: Id, project: ProjectDep) -> FileResponse:
    """The finished film."""
    path = films.rendered_file(project, job_id)
    return FileResponse(path, media_type="video/mp4", filename=path.name)


@router.post("/collect")
def collect(body: Relink, project: ProjectDep, studio: StudioDep) -> Started:
    """Queue copying all that the project uses into a folder, with the project."""
    return Started(job=collecting.queue_collecting(studio.workspace, project, studio.runner, body.path))


@router.post("/send")
def send(body: SendShot, project: ProjectDep, studio: StudioDep) -> Started:
    """Queue writing a shot with handles for work in another program."""
    return Started(
        job=roundtrip.queue_sending(project, studio.runner, body.start, body.over, body.handles, body.form)
    )


@router.post("/bring")
def bring(body: Relink, project: ProjectDep, studio: StudioDep) -> Ok:
    """Lay what came back over the shot that it was made of."""
    return Ok(note=roundtrip.bring_back(studio.workspace, project, studio.runner, body.path))


@router.get("/used.csv")
def used(project: ProjectDep) -> Response:
    """The files that the project needs, as a table."""
    return download(collecting.used_table(project))


@router.get("/export/{kind}")
def export(kind: Literal["otio", "edl", "csv", "vtt", "midi"], project: ProjectDep) -> Response:
    """A file of the current edit for another program."""
    return download(films.export(project, kind))


@router.get("/export/{kind}/report")
def report(kind: Literal["otio", "edl", "csv", "vtt", "midi"], project: ProjectDep) -> list[str]:
    """What of the edit that file does not tell other programs, in words."""
    return films.report(project, kind)
