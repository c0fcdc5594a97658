"""Coverage: angles and what feeds them."""

from fastapi import APIRouter

from zembi.api.context import ProjectDep
from zembi.api.schemas import ChooseFeed, DescribeAngle, Id, MovePass, NewAngle, Ok, Order
from zembi.service.lineup import coverage

router = APIRouter(prefix="/api/projects/{project_id}/coverage", tags=["coverage"])


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


@router.post("/feeds")
def choose_feed(body: ChooseFeed, project: ProjectDep) -> Ok:
    """Choose which pass feeds an angle in a section."""
    coverage.choose_feed(project, body.angle, body.start_s, body.end_s, body.pass_id)
    return Ok()
