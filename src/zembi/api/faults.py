"""Turning refusals into answers: one status for each kind."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse

from zembi.core import errors

STATUS: dict[type[errors.ZembiError], int] = {
    errors.BadInput: 400,
    errors.UnreadableMedia: 422,
    errors.NotAllowed: 403,
    errors.NotFound: 404,
    errors.Refused: 409,
    errors.NoRoom: 507,
    errors.Cancelled: 409,
}


def status_of(fault: errors.ZembiError) -> int:
    """The HTTP status of a refusal, by its class or the nearest class above it."""
    return next((STATUS[c] for c in type(fault).__mro__ if c in STATUS), 400)


def install(app: FastAPI) -> None:
    """Answer refusals with their words and code."""

    @app.exception_handler(errors.ZembiError)
    async def refused(_request: Request, fault: errors.ZembiError) -> JSONResponse:
        return JSONResponse({"code": fault.code, "detail": fault.message}, status_code=status_of(fault))

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, fault: RequestValidationError) -> JSONResponse:
        first = fault.errors()[0]
        where = ".".join(str(p) for p in first["loc"] if p != "body")
        return JSONResponse({"code": "bad_input", "detail": f"{where}: {first['msg']}"}, status_code=422)
