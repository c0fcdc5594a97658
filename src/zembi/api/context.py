"""Dependencies of every router: the studio, the project named in the path, and the answer to what starts a long work."""

from collections.abc import Callable
from typing import Annotated

from fastapi import Depends, Header, Request, Response

from zembi.api.schemas import Started
from zembi.service.application.studio import Studio
from zembi.service.project.workspace import Project

#: Where the interface begins; a change that others could not follow gets another number.
API = "/api/v1"


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


#: The tag of what a change was made of, as :mod:`zembi.service.project.tags` gives it; without one it is made in any case.
IfMatch = Annotated[str | None, Header(alias="if-match", max_length=200)]


def get_begun(project: ProjectDep, response: Response) -> Callable[[int], Started]:
    """The answer to a queued long work, by its number: 202 with its address, in the header too."""

    def begun(job: int) -> Started:
        address = f"{API}/projects/{project.id}/jobs/{job}"
        response.headers["location"] = address
        return Started(job=job, address=address)

    return begun


BegunDep = Annotated[Callable[[int], Started], Depends(get_begun)]
