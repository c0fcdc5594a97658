"""Turning refusals into answers: one status for each kind, and a reason in words for every fault."""

import sys
import traceback
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from zembi.core import errors
from zembi.jobs.disk import disk_fault

STATUS: dict[type[errors.ZembiError], int] = {
    errors.BadInput: 400,
    errors.UnreadableMedia: 422,
    errors.Damaged: 409,
    errors.NotAllowed: 403,
    errors.NotFound: 404,
    errors.Refused: 409,
    errors.Changed: 412,
    errors.NoRoom: 507,
    errors.Cancelled: 409,
}


def status_of(fault: errors.ZembiError) -> int:
    """The HTTP status of a refusal, by its class or the nearest class above it."""
    return next((STATUS[c] for c in type(fault).__mro__ if c in STATUS), 400)


def _answer(status: int, code: str, words: str) -> JSONResponse:
    plain = words.encode("utf-8", "replace").decode()
    return JSONResponse({"code": code, "detail": plain}, status_code=status)


def _refusal(fault: errors.ZembiError) -> JSONResponse:
    return _answer(status_of(fault), fault.code, fault.message)


def install(app: FastAPI) -> None:
    """Answer refusals with their words and code, and faults of disk and database in words too."""

    @app.exception_handler(errors.ZembiError)
    async def refused(_request: Request, fault: errors.ZembiError) -> JSONResponse:
        return _refusal(fault)

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, fault: RequestValidationError) -> JSONResponse:
        first = fault.errors()[0]
        where = ".".join(str(p) for p in first["loc"] if p != "body")
        return _answer(422, "bad_input", f"{where}: {first['msg']}" if where else str(first["msg"]))

    @app.exception_handler(HTTPException)
    async def unknown(request: Request, fault: HTTPException) -> JSONResponse:
        words = f"{request.url.path} is nothing here." if fault.status_code == 404 else str(fault.detail)
        return JSONResponse(
            {"code": "not_found" if fault.status_code == 404 else "bad_input", "detail": words},
            status_code=fault.status_code, headers=fault.headers,
        )  # fmt: skip

    @app.exception_handler(OSError)
    async def disk(request: Request, fault: OSError) -> JSONResponse:
        return _refusal(disk_fault(fault, _data(request)))

    @app.exception_handler(DBAPIError)
    async def database(request: Request, fault: DBAPIError) -> JSONResponse:
        words = str(fault.orig)
        if "full" in words:
            return _refusal(disk_fault(OSError(28, "full"), _data(request)))
        if "locked" in words or "busy" in words:
            return _answer(
                409, "busy", "The project is being written by something else. Nothing was changed; try again."
            )
        if any(w in words for w in ("malformed", "not a database", "disk I/O", "readonly", "unable to open")):
            return _refusal(
                errors.Damaged(f"The project's database cannot be used ({words}). Nothing was changed.")
            )
        return _unexpected(fault)

    app.add_middleware(Unexpected)


class Unexpected:
    """Answers what nobody foresaw, inside of what marks every answer with the headers that all have."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        begun = False

        async def noted(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            await self._app(scope, receive, noted)
        except Exception as fault:
            if begun or scope["type"] != "http":
                raise
            await _unexpected(fault)(scope, receive, send)


def _unexpected(fault: Exception) -> JSONResponse:
    traceback.print_exception(fault, file=sys.stderr)
    return _answer(
        500, "fault", f"Zembi made a mistake here ({type(fault).__name__}: {fault}). Nothing was changed."
    )


def _data(request: Request) -> Path:
    studio = request.app.state.studio
    return Path(studio.workspace.data) if studio is not None else Path()
