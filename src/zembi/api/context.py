"""Dependencies of every router: the studio, and the project named in the path."""

from typing import Annotated

from fastapi import Depends, Request

from zembi.service.application.studio import Studio
from zembi.service.project.workspace import Project


def get_studio(request: Request) -> Studio:
    """The running application's studio."""
    studio: Studio = request.app.state.studio
    return studio


StudioDep = Annotated[Studio, Depends(get_studio)]


def get_project(project_id: str, studio: StudioDep) -> Project:
    """The project named in the path.

    Raises:
        NotFound: no such project.
    """
    return studio.workspace.open(project_id)


ProjectDep = Annotated[Project, Depends(get_project)]
