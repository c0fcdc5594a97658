"""Coverage: angles and what feeds them."""

from typing import Annotated

from fastapi import APIRouter, Query

from zembi.api.context import ProjectDep
from zembi.api.schemas import (
    ChooseFeed,
    DescribeAngle,
    Frame,
    Id,
    JudgePass,
    MergeAngles,
    MovePass,
    NewAngle,
    Ok,
    Order,
    SplitAngle,
)
from zembi.service.answers.coverage import AlternateView, alternate_views
from zembi.service.lineup import coverage, grouping
from zembi.service.lineup.alternates import Filler
from zembi.service.lineup.alternates import fillers as found_fillers

router = APIRouter(prefix="/projects/{project_id}/coverage", tags=["coverage"])


@router.post("/angles", status_code=201)
def add_angle(body: NewAngle, project: ProjectDep) -> int:
    """Make an empty angle."""
    return coverage.add_angle(project, body.name)


@router.patch("/angles/{angle_id}")
def describe_angle(angle_id: Id, body: DescribeAngle, project: ProjectDep) -> Ok:
    """Rename or recolour an angle."""
    coverage.describe_angle(project, angle_id, name=body.name, hue=body.hue)
    return Ok()


@router.delete("/angles/{angle_id}")
def remove_angle(angle_id: Id, project: ProjectDep) -> Ok:
    """Remove an unused angle."""
    coverage.remove_angle(project, angle_id)
    return Ok()


@router.post("/angles/{angle_id}/merge")
def merge(angle_id: Id, body: MergeAngles, project: ProjectDep) -> Ok:
    """Make other angles part of this one."""
    coverage.merge_angles(project, angle_id, body.angles)
    return Ok()


@router.post("/angles/{angle_id}/split", status_code=201)
def split(angle_id: Id, body: SplitAngle, project: ProjectDep) -> int:
    """Make an angle of some passes of this one."""
    return coverage.split_angle(project, angle_id, body.passes, body.name)


@router.post("/groupings")
def group(project: ProjectDep) -> Ok:
    """Group all takes anew."""
    grouping.compare(project)
    grouping.group_again(project)
    return Ok()


@router.put("/order")
def reorder(body: Order, project: ProjectDep) -> Ok:
    """Number the angles anew."""
    coverage.reorder_angles(project, body.ids)
    return Ok()


@router.put("/passes/{pass_id}/angle")
def move_pass(pass_id: Id, body: MovePass, project: ProjectDep) -> Ok:
    """Give a pass to another angle."""
    coverage.move_pass(project, pass_id, body.angle)
    return Ok()


@router.patch("/passes/{pass_id}")
def judge(pass_id: Id, body: JudgePass, project: ProjectDep) -> Ok:
    """Circle or reject a pass, or write a word on it."""
    coverage.judge(project, pass_id, verdict=body.verdict, note=body.note)
    return Ok()


@router.post("/feeds")
def choose_feed(body: ChooseFeed, project: ProjectDep) -> Ok:
    """Choose which pass feeds an angle in a section."""
    coverage.choose_feed(project, body.angle, body.start_s, body.end_s, body.pass_id)
    return Ok()


@router.get("/alternates")
def alternates(
    project: ProjectDep,
    angle: Id,
    start_s: Annotated[float, Query(ge=-36_000, le=36_000, allow_inf_nan=False)],
    end_s: Annotated[float, Query(ge=-36_000, le=36_000, allow_inf_nan=False)],
) -> list[AlternateView]:
    """The passes of an angle in a part of the working song, with facts that help to choose."""
    return alternate_views(project, angle, start_s, end_s)


@router.get("/fillers")
def fillers(project: ProjectDep, start: Frame, end: Frame) -> list[Filler]:
    """Candidates to fill frames of the working song."""
    return found_fillers(project, start, end)
