"""Line-up: settling passes by hand, several takes at once, and the line-up as open files."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse

from zembi.api.context import BegunDep, ProjectDep, StudioDep
from zembi.api.schemas import AsItIs, BySeconds, Id, LockByHand, Ok, PlacePass, Started, TakesBatch, ToPlace
from zembi.core.errors import BadInput
from zembi.service.lineup import bench
from zembi.service.lineup import files as lineup_files
from zembi.service.lineup.aligning import match_curve

router = APIRouter(prefix="/projects/{project_id}/lineup", tags=["lineup"])


@router.patch("/passes/{pass_id}")
def place_pass(pass_id: Id, body: PlacePass, project: ProjectDep) -> Ok:
    """Choose a place, lock, nudge, place exactly, revert, unlock, split, join, or move the joint with the next."""
    match body.root:
        case ToPlace(action="choose", song_start_s=at):
            bench.choose_place(project, pass_id, at)
        case ToPlace(song_start_s=at):
            bench.place_exactly(project, pass_id, at)
        case BySeconds(action="nudge", seconds=seconds):
            bench.nudge(project, pass_id, seconds)
        case BySeconds(action="split", seconds=take_s):
            bench.split(project, pass_id, take_s)
        case BySeconds(seconds=take_s):
            bench.move_joint(project, pass_id, take_s)
        case AsItIs(action=action):
            {"accept": bench.accept, "revert": bench.revert, "unlock": bench.unlock, "join": bench.join}[
                action
            ](project, pass_id)
    return Ok()


@router.get("/passes/{pass_id}/match")
def match(pass_id: Id, project: ProjectDep) -> list[float]:
    """Correlation of a pass with the song at every place."""
    return match_curve(project, pass_id)


@router.post("/takes/{media_id}/passes", status_code=201)
def lock_by_hand(media_id: str, body: LockByHand, project: ProjectDep) -> int:
    """Lock a take by one or two pairs of the same moment; returns the pass."""
    return bench.lock_by_hand(project, media_id, body.pairs)


@router.patch("/takes")
def batch(body: TakesBatch, project: ProjectDep, studio: StudioDep) -> Ok:
    """Lock, unlock, clear or look again at several takes."""
    return Ok(note=bench.batch(project, studio.runner, body.action, body.takes))


@router.post("/exports", status_code=202)
def export_lineup(project: ProjectDep, studio: StudioDep, begun: BegunDep) -> Started:
    """Queue writing every pass, a timeline and the takes' sound in song time."""
    return begun(lineup_files.queue_export(project, studio.runner))


@router.get("/exports/{job_id}")
def download_lineup(job_id: Id, project: ProjectDep) -> FileResponse:
    """The finished folder, packed."""
    path = lineup_files.exported_file(project, job_id)
    return FileResponse(path, media_type="application/zip", filename=path.name)


@router.post("/timeline")
async def read_lineup(
    request: Request, project: ProjectDep, name: Annotated[str, Query(max_length=255)] = "file"
) -> Ok:
    """Place takes as an OpenTimelineIO timeline, sent as the body, has them."""
    data = bytearray()
    async for block in request.stream():
        data += block
        if len(data) > lineup_files.MOST_BYTES:
            raise BadInput(f"{name} is too large for a timeline.")
    # Off the event loop: reading and writing the database waits.
    return Ok(note=await run_in_threadpool(lineup_files.import_timeline, project, name, bytes(data)))
