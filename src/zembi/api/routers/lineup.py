"""Line-up: settling passes by hand."""

from fastapi import APIRouter

from zembi.api.context import ProjectDep
from zembi.api.schemas import LockByHand, Ok, PlacePass
from zembi.core.errors import BadInput
from zembi.service import lineup
from zembi.service.work import match_curve

router = APIRouter(prefix="/api/projects/{project_id}/lineup", tags=["lineup"])


@router.post("/passes/{pass_id}")
def place_pass(pass_id: int, body: PlacePass, project: ProjectDep) -> Ok:
    """Choose a place, lock, nudge, revert or unlock."""
    if body.action == "choose":
        if body.song_start_s is None:
            raise BadInput("Say at which place to lock.")
        lineup.choose_place(project, pass_id, body.song_start_s)
    elif body.action == "nudge":
        if body.seconds is None:
            raise BadInput("Say how far to nudge.")
        lineup.nudge(project, pass_id, body.seconds)
    else:
        {"accept": lineup.accept, "revert": lineup.revert, "unlock": lineup.unlock}[body.action](
            project, pass_id
        )
    return Ok()


@router.get("/passes/{pass_id}/match")
def match(pass_id: int, project: ProjectDep) -> list[float]:
    """How well a pass fits at every place in the song."""
    return match_curve(project, pass_id)


@router.post("/takes/{media_id}/lock")
def lock_by_hand(media_id: str, body: LockByHand, project: ProjectDep) -> int:
    """Lock a take by one or two pairs of the same moment; returns the pass."""
    return lineup.lock_by_hand(project, media_id, body.pairs)
