"""Files: browsing, uploads, adding, and the bytes of what was made from them."""

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, JSONResponse

from zembi.api.context import BegunDep, ProjectDep, StudioDep
from zembi.api.schemas import (
    AddFiles,
    Describe,
    Dropped,
    FileKind,
    FitFile,
    GradeFile,
    LabelFiles,
    Ok,
    Relink,
    ReplaceFile,
    Started,
    TableOfFile,
)
from zembi.core.errors import NotFound
from zembi.core.footage.fit import Fit, Framing
from zembi.media.derive import SOUND_RATE, read_wave
from zembi.media.glance import Glance
from zembi.service.lineup.placing import queue_alignment
from zembi.service.media import labelling, library, moving
from zembi.service.media.labelling import Labels
from zembi.service.media.library import Below, FolderView
from zembi.service.media.moving import FoundAgain, Replaced

router = APIRouter(tags=["media"])

#: What can be fetched of a file, and its kind.
DERIVED = {
    "programme.h264": "application/octet-stream", "wall.h264": "application/octet-stream",
    "programme.json": "application/json", "wall.json": "application/json", "stills.jpg": "image/jpeg",
    "peaks.bin": "application/octet-stream", "sound.wav": "audio/wav", "song.flac": "audio/flac",
    "done.json": "application/json", "sound.json": "application/json",
}  # fmt: skip
#: Small, and replaced by what is exact once that is made: read in one go, so that no answer is half of each.
REPLACED = {"stills.jpg", "done.json", "sound.json"}
#: What the page adds to the content in addresses as long as the file is not prepared.
FIRST = "~"


@router.get("/folders")
def browse(studio: StudioDep, path: Annotated[str, Query(max_length=4096)] = "") -> FolderView:
    """List an allowed folder; without a path, the allowed folders. Whoever looks there will soon have work done."""
    studio.runner.wake()
    return library.browse(studio.workspace, path)


@router.get("/folders/below")
def files_below(studio: StudioDep, path: Annotated[str, Query(max_length=4096)]) -> Below:
    """Media files of an allowed folder and of all folders in it."""
    return library.below(studio.workspace, path)


@router.get("/folders/glances")
def glances(studio: StudioDep, path: Annotated[str, Query(max_length=4096)]) -> list[Glance]:
    """Length and a picture of the media files of an allowed folder."""
    return library.glances(studio.workspace, path)


@router.post("/folders/dropped")
def find(body: Dropped, studio: StudioDep) -> list[str]:
    """Paths in the media folders of files that were dropped on the page; "" for each that is not there."""
    return library.find(studio.workspace, [(f.name, f.size) for f in body.files])


@router.post("/projects/{project_id}/media", status_code=201)
def add_files(body: AddFiles, project: ProjectDep, studio: StudioDep) -> list[str]:
    """Add files by reference and start preparing them."""
    return library.add_files(studio.workspace, project, studio.runner, body.paths, body.kind, body.role)


@router.post("/projects/{project_id}/uploads", status_code=201)
async def upload(
    request: Request, project: ProjectDep, studio: StudioDep, name: Annotated[str, Query(max_length=255)],
    kind: FileKind, role: Literal["", "voice", "drums", "instrumental"] = "",
) -> list[str]:  # fmt: skip
    """Upload a file (the raw body) into the project and start preparing it."""
    declared = request.headers.get("content-length", "")
    size = int(declared) if declared.isascii() and declared.isdigit() and len(declared) < 19 else None
    path = await library.upload(project, name, size, request.stream())
    # Off the event loop: looking at a song, and the database, take their time.
    return await run_in_threadpool(
        library.keep_upload, studio.workspace, project, studio.runner, path, kind, role
    )


@router.patch("/projects/{project_id}/media")
def label(body: LabelFiles, project: ProjectDep, studio: StudioDep) -> Ok:
    """Name several files, say their camera, day and place, or make takes or B-roll of them."""
    labels = Labels(**body.model_dump(exclude={"ids"}))
    labelling.label(project, body.ids, labels)
    if labels.kind is not None:
        studio.settle(project, again=True)
    return Ok()


@router.patch("/projects/{project_id}/media/{media_id}")
def describe(media_id: str, body: Describe, project: ProjectDep) -> Ok:
    """Rename a file, name its camera, or set its in and out."""
    library.describe(
        project, media_id, name=body.name, camera=body.camera, select=body.select, slate=body.slate
    )
    return Ok()


@router.delete("/projects/{project_id}/media/{media_id}")
def remove(media_id: str, project: ProjectDep) -> Ok:
    """Take a file out of the project; the file itself is not touched."""
    library.remove(project, media_id)
    return Ok()


@router.put("/projects/{project_id}/media/{media_id}/path")
def relink(media_id: str, body: Relink, project: ProjectDep, studio: StudioDep) -> Ok:
    """Point a file at where it is now."""
    library.relink(studio.workspace, project, studio.runner, media_id, body.path)
    return Ok()


@router.post("/projects/{project_id}/media/{media_id}/replacements")
def replace(media_id: str, body: ReplaceFile, project: ProjectDep, studio: StudioDep) -> Replaced:
    """Put another file in a file's place, or only tell what differs."""
    return moving.replace(studio.workspace, project, studio.runner, media_id, body.path, accept=body.accept)


@router.put("/projects/{project_id}/media/{media_id}/fit")
def fit(media_id: str, body: FitFile, project: ProjectDep) -> Ok:
    """Fit a file into the film."""
    to = Framing(**body.to.model_dump()) if body.to else None
    library.fit(project, media_id, Fit(**body.model_dump(exclude={"to"}), to=to))
    return Ok()


@router.put("/projects/{project_id}/media/{media_id}/grade")
def grade(media_id: str, body: GradeFile, project: ProjectDep) -> Ok:
    """Give a file a grade, or none: every shot that shows it follows."""
    library.grade(project, media_id, body.values)
    return Ok()


@router.put("/projects/{project_id}/media/{media_id}/table")
def table(media_id: str, body: TableOfFile, project: ProjectDep) -> Ok:
    """Look a file's colours up in a table of the project before its grade, or in none: every shot that shows it follows."""
    library.colour_table(project, media_id, body.number, body.share)
    return Ok()


@router.post("/projects/{project_id}/files/searches")
def find_again(body: Relink, project: ProjectDep, studio: StudioDep) -> FoundAgain:
    """Look in a folder for every file that is gone, by content."""
    return moving.find_again(studio.workspace, project, studio.runner, body.path)


@router.delete("/projects/{project_id}/files/unused")
def throw_out_unused(project: ProjectDep) -> list[str]:
    """Take files out of the project that nothing uses."""
    return moving.throw_out_unused(project)


@router.post("/projects/{project_id}/media/{media_id}/preparations", status_code=202)
def prepare_again(media_id: str, project: ProjectDep, studio: StudioDep, begun: BegunDep) -> Started:
    """Prepare a file again, after it failed or was stopped."""
    return begun(library.prepare(project, studio.runner, media_id))


@router.post("/projects/{project_id}/media/{media_id}/alignments", status_code=202)
def align_again(media_id: str, project: ProjectDep, studio: StudioDep, begun: BegunDep) -> Started:
    """Line a take up again; passes settled by hand stay."""
    return begun(queue_alignment(project, studio.runner, media_id))


@router.get("/projects/{project_id}/media/{media_id}/{what}")
def derived_file(
    media_id: str, what: str, project: ProjectDep, studio: StudioDep,
    of: Annotated[str, Query(max_length=120)] = "",
) -> Response:  # fmt: skip
    """Bytes of something made from a file, ranges with 206; as "facts.json" what was noted meanwhile, as far as it is.

    The answer is cacheable only at an address that names in ``of`` the content it is made of: at the bare address
    another file may stand tomorrow. What is asked for before it is made is on screen: it is made before the others.
    """
    if what == "facts.json":
        return JSONResponse(library.known_facts(project, media_id), headers={"cache-control": "no-cache"})
    try:
        path = _derived(project, media_id, what)
    except NotFound:
        studio.runner.hurry(project.database, media_id)
        raise
    named = of.removesuffix(FIRST) == path.parent.name
    headers = {"cache-control": "private, max-age=31536000, immutable" if named else "no-cache"}
    if what in REPLACED:
        return Response(path.read_bytes(), media_type=DERIVED[what], headers=headers)
    return FileResponse(path, media_type=DERIVED[what], headers=headers)


@router.get("/projects/{project_id}/samples/{media_id}")
def samples(
    media_id: str,
    project: ProjectDep,
    start_s: Annotated[float, Query(ge=-36_000, le=36_000, allow_inf_nan=False)],
    seconds: Annotated[float, Query(gt=0, le=20, allow_inf_nan=False)],
) -> Response:
    """16-bit samples of a stretch of sound, zeros where there is none; the header gives the rate."""
    path = _derived(project, media_id, "sound.wav")
    first, count = round(start_s * SOUND_RATE), round(seconds * SOUND_RATE)
    sound, rate = read_wave(path, start=max(0, first), count=max(0, count + min(0, first)))
    head = bytes(2 * min(count, max(0, -first)))
    body = head + (sound * 32767).astype("<i2").tobytes()
    return Response(
        body.ljust(2 * count, b"\0"), media_type="application/octet-stream", headers={"x-rate": str(rate)}
    )


def _derived(project: ProjectDep, media_id: str, what: str) -> Path:
    if what not in DERIVED:
        raise NotFound(f"{what} is nothing that is made from a file.")
    return library.derived_path(project, media_id, what)
