"""Routes that need no project: the rates that one can have, and making the demo project from the page."""

from fastapi import APIRouter

from zembi.api.context import StudioDep
from zembi.core.timebase import RATES
from zembi.service.application.showcase import Making

router = APIRouter(tags=["projects"])


@router.get("/rates")
def list_rates() -> list[str]:
    """Frame rates a project can have."""
    return list(RATES)


@router.get("/demo")
def demo_progress(studio: StudioDep) -> Making:
    """Progress of making the demo project."""
    return studio.showcase.now()


@router.post("/demo", status_code=202)
def make_demo(studio: StudioDep) -> Making:
    """Begin to make the demo project; it appears among the projects when it is complete."""
    return studio.showcase.start()
