"""The OpenAPI document: FastAPI's own, with every refusal that a route can answer, as it is sent."""

from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi

_REFUSAL = {
    "type": "object",
    "title": "Refusal",
    "description": "Why something was not done: a stable code for programs, and words for people.",
    "required": ["code", "detail"],
    "properties": {"code": {"type": "string"}, "detail": {"type": "string"}},
}

#: What each status of a refusal says.
WORDS = {
    400: "The request or a file it names cannot be used",
    401: "The server asks for its token",
    403: "A page of another site, another name, or a path outside the media folders",
    404: "Nothing has this name or number",
    409: "Refused as things are, or the project is damaged or being written",
    412: "What the change was made of has changed since",
    422: "A value is missing, of another kind or out of range",
    507: "The disk has too little room",
}


def describe(app: FastAPI) -> None:
    """Give the application the document that holds its refusals."""

    def document() -> dict[str, Any]:
        if not app.openapi_schema:
            made = get_openapi(title=app.title, version=app.version, routes=app.routes)
            schemas = made["components"]["schemas"]
            schemas["Refusal"] = _REFUSAL
            for method, operation in ((m, o) for ways in made["paths"].values() for m, o in ways.items()):
                _add_refusals(method, operation)
            for unused in ("HTTPValidationError", "ValidationError"):
                schemas.pop(unused, None)
            app.openapi_schema = made
        return app.openapi_schema

    app.openapi = document  # type: ignore[method-assign]


def _add_refusals(method: str, operation: dict[str, Any]) -> None:
    """Declare the refusals of one route: those of the guard, and those that its parameters and its method let happen."""
    parameters = operation.get("parameters", [])
    project = any(p["name"] == "project_id" for p in parameters)
    possible = {400, 401, 403}
    if any(p["in"] == "path" for p in parameters):
        possible.add(404)
    if project:
        possible.add(409)
    if any(p["name"] == "if-match" for p in parameters):
        possible.add(412)
    if "requestBody" in operation or any(_can_be_wrong(p) for p in parameters):
        possible.add(422)
    if method != "get":
        possible.add(507)
    operation["responses"].pop("422", None)
    for status in sorted(possible):
        operation["responses"][str(status)] = {
            "description": WORDS[status],
            "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Refusal"}}},
        }


def _can_be_wrong(parameter: dict[str, Any]) -> bool:
    """True if some text is no value of a parameter, or it may be missing."""
    if parameter.get("required") and parameter["in"] == "query":
        return True
    schema = parameter["schema"]
    return bool(schema != {"type": "string", "title": schema.get("title")})
