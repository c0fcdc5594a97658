"""The application: routers, guard, and the built page, served by one process."""

import gc
from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles

from zembi import __version__
from zembi.api import faults
from zembi.api.context import API
from zembi.api.document import describe
from zembi.api.guard import Guard
from zembi.api.listening import LOOPBACK
from zembi.api.routers import (
    broll,
    colour,
    coverage,
    handoff,
    lineup,
    media,
    notes,
    projects,
    sheet,
    showcase,
    song,
    titles,
    treatments,
    versions,
)
from zembi.core.errors import NotFound
from zembi.service.application.studio import Studio

#: Where the build puts the page.
PAGE = Path(__file__).parent / "static"


def _name(route: APIRoute) -> str:
    return route.name


def create_app(studio: Studio | None, *, hosts: Iterable[str] = LOOPBACK, token: str = "") -> FastAPI:
    """Make the application.

    Args:
        studio: What it works on; None only to read its OpenAPI document.
        hosts: Names it answers to.
        token: What every request must bring; "" where only this machine can ask.
    """

    @asynccontextmanager
    async def life(_app: FastAPI) -> AsyncIterator[None]:
        if studio is not None:
            studio.start()
        # What is loaded by now stays: looking through it again and again held up every tenth edit by 200 ms.
        gc.collect()
        gc.freeze()
        gc.set_threshold(20_000, 20, 20)
        yield
        if studio is not None:
            studio.stop()

    app = FastAPI(
        title="Zembi",
        version=__version__,
        lifespan=life,
        generate_unique_id_function=_name,
        docs_url=None,
        redoc_url=None,
    )
    app.state.studio = studio
    faults.install(app)
    for module in (
        showcase,
        projects,
        media,
        song,
        lineup,
        coverage,
        broll,
        sheet,
        handoff,
        notes,
        treatments,
        versions,
        titles,
        colour,
    ):
        app.include_router(module.router, prefix=API)
    describe(app)
    _serve_page(app)
    app.add_middleware(Guard, hosts=list(hosts), token=token)
    return app


def _serve_page(app: FastAPI) -> None:
    if (PAGE / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=PAGE / "assets"), name="assets")

    @app.get("/api", include_in_schema=False)
    @app.api_route(
        "/api/{path:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False
    )
    def nothing(path: str = "") -> None:
        raise NotFound(f"/api/{path[:80]} is nothing here.")

    @app.get("/{path:path}", include_in_schema=False, response_model=None)
    def page(path: str) -> FileResponse | HTMLResponse:
        if (PAGE / "index.html").is_file():
            return FileResponse(PAGE / "index.html", headers={"cache-control": "no-cache"})
        return HTMLResponse("<p>The page is not built yet: run <code>make build</code>.</p>", status_code=503)
