"""Making the demo project from the page."""

from fastapi import APIRouter

from zembi.api.context import StudioDep
from zembi.service.application.showcase import Making

router = APIRouter(prefix="/api/demo", tags=["projects"])


@router.get("")
def demo_progress(studio: StudioDep) -> Making:
    """How far the making of the demo project is."""
    return studio.showcase.now()


@router.post("", status_code=202)
def make_demo(studio: StudioDep) -> Making:
    """Begin to make the demo project; it appears among the projects when it is complete."""
    return studio.showcase.start()
