"""What the document declares is what is sent: every refusal of every route can happen, and comes with a code and words."""

from collections.abc import Callable, Iterator
from inspect import signature
from pathlib import Path
from typing import Any

import httpx2 as httpx
import pytest
from fastapi.testclient import TestClient

from tests.conftest import open_studio
from zembi.api.app import create_app
from zembi.api.context import get_studio
from zembi.service.song.grid import ACTIONS

URL = "/api/v1/projects/small"
DOCUMENT = create_app(None).openapi()
TOKEN = "a-token-of-the-tests"

Route = tuple[str, str, dict[str, Any]]
ROUTES: list[Route] = [
    (method.upper(), path, what)
    for path, ways in sorted(DOCUMENT["paths"].items())
    for method, what in sorted(ways.items())
]
Ask = Callable[..., httpx.Response]


def declaring(status: int) -> list[Route]:
    return [route for route in ROUTES if str(status) in route[2]["responses"]]


def address(path: str, **names: object) -> str:
    """The path with a name in each of its gaps; what is not given is nothing that is there."""
    gone = {"item": 10**9, "kind": "otio", "what": "nothing"}
    for part in path.split("/"):
        for name in [p.split("}")[0] for p in part.split("{")[1:]]:
            usual = gone.get(
                name, 10**9 if name.endswith("_id") and name not in ("project_id", "media_id") else "gone"
            )
            path = path.replace(f"{{{name}}}", str(names.get(name, usual)))
    return path


@pytest.fixture(scope="module")
def ask(tmp_path_factory: pytest.TempPathFactory, footage: Path) -> Iterator[Ask]:
    studio = open_studio(tmp_path_factory.mktemp("declared"), footage)
    app = create_app(studio, token=TOKEN)
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        client.headers["authorization"] = f"Bearer {TOKEN}"
        made = client.post(
            "/api/v1/projects", json={"name": "Small", "rate": "24", "width": 320, "height": 180}
        )
        assert made.status_code == 201
        yield client.request


def refused(answer: httpx.Response, status: int, route: Route) -> None:
    assert answer.status_code == status, f"{route[0]} {route[1]}: {answer.status_code} {answer.text[:200]}"
    said = answer.json()
    assert set(said) == {"code", "detail"}
    assert said["code"]
    assert said["detail"]


def test_every_refusal_is_declared_in_one_form() -> None:
    for method, path, what in ROUTES:
        for status, answer in what["responses"].items():
            if int(status) >= 400:
                (kind,) = answer["content"].values()
                assert kind["schema"] == {"$ref": "#/components/schemas/Refusal"}, f"{method} {path} {status}"
    assert "HTTPValidationError" not in DOCUMENT["components"]["schemas"]


def test_what_the_guard_refuses_it_refuses_at_every_route(ask: Ask) -> None:
    for route in ROUTES:
        method, path, what = route
        assert {"400", "401", "403"} <= set(what["responses"])
        refused(ask(method, address(path) + "?x=%00"), 400, route)
        refused(ask(method, address(path), headers={"authorization": "Bearer other"}), 401, route)
        refused(ask(method, address(path), headers={"origin": "https://elsewhere.example"}), 403, route)


def valid(schema: dict[str, Any]) -> Any:
    """The plainest value that a schema allows."""
    if "$ref" in schema:
        return valid(DOCUMENT["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]])
    for several in ("anyOf", "oneOf"):
        if several in schema:
            return valid(schema[several][0])
    if "enum" in schema:
        return schema["enum"][0]
    match schema.get("type"):
        case "object":
            return {k: valid(schema["properties"][k]) for k in schema.get("required", [])}
        case "array":
            several = [valid(s) for s in schema.get("prefixItems", [])]
            return several or [valid(schema["items"])] * schema.get("minItems", 0)
        case "string":
            return schema.get("const", "x" * max(1, schema.get("minLength", 0)))
        case "integer" | "number":
            return max(1, schema.get("minimum", 1))
        case "boolean":
            return False
    return schema.get("const")


def rest_of(what: dict[str, Any]) -> dict[str, Any]:
    """Query and body of a route's plainest valid request."""
    query = {
        p["name"]: valid(p["schema"])
        for p in what.get("parameters", [])
        if p["in"] == "query" and p.get("required")
    }
    body = what.get("requestBody", {}).get("content", {}).get("application/json")
    return {"params": query, "json": valid(body["schema"])} if body else {"params": query}


def test_what_is_not_there_is_said_to_be_not_there(ask: Ask) -> None:
    routes = declaring(404)
    assert len(routes) > 80
    for route in routes:
        method, path, what = route
        refused(ask(method, address(path), **rest_of(what)), 404, route)


def test_values_that_are_none_are_refused(ask: Ask) -> None:
    routes = declaring(422)
    assert len(routes) > 60
    for route in routes:
        method, path, what = route
        if "requestBody" in what:
            answer = ask(
                method,
                address(path, project_id="small"),
                content=b"[",
                headers={"content-type": "application/json"},
            )
        else:
            wrong = {
                p["name"]: "x" * 5000
                for p in what["parameters"]
                if p["in"] == "path" and p["name"] != "project_id"
            }
            query = {
                p["name"]: "x" * (p["schema"].get("maxLength", 4999) + 1)
                for p in what["parameters"]
                if p["in"] == "query"
            }
            answer = ask(method, address(path, project_id="small", **wrong), params=query)
        refused(answer, 422, route)


def test_a_damaged_project_is_said_to_be_damaged(data: Path, footage: Path) -> None:
    database = data / "projects/small/project.db"
    database.write_bytes(b"no database at all " * 500)
    routes = declaring(409)
    with TestClient(create_app(open_studio(data, footage)), base_url="http://127.0.0.1") as client:
        for route in routes:
            method, path, what = route
            if (method, path) == ("DELETE", "/api/v1/projects/{project_id}"):
                continue  # a damaged project can be thrown out
            refused(client.request(method, address(path, project_id="small"), **rest_of(what)), 409, route)
    assert database.read_bytes().startswith(b"no database"), "nothing was changed"


def test_a_full_disk_is_said_by_every_route_that_writes(tmp_path: Path, footage: Path) -> None:
    def full() -> None:
        raise OSError(28, "No space left on device")

    app = create_app(open_studio(tmp_path, footage))
    app.dependency_overrides[get_studio] = full
    with TestClient(app, base_url="http://127.0.0.1") as client:
        for route in declaring(507):
            method, path, what = route
            refused(client.request(method, address(path, project_id="small"), **rest_of(what)), 507, route)


@pytest.mark.parametrize(("path", "what", "body"), [
    ("settings", "settings", {"unit": "bar"}),
    ("song/lyrics", "lyrics", {"text": "the lamp is lit\nthe rope is long"}),
])  # fmt: skip
def test_a_change_made_of_what_has_changed_since_is_refused(
    client: TestClient, path: str, what: str, body: dict[str, Any]
) -> None:
    method = "PATCH" if what == "settings" else "PUT"
    known = client.get(URL).json()["tags"][what]
    assert (
        client.request(method, f"{URL}/{path}", json=body, headers={"if-match": f'"{known}"'}).status_code
        == 200
    )
    after = client.get(URL).json()
    answer = client.request(method, f"{URL}/{path}", json=body, headers={"if-match": known})
    assert (answer.status_code, answer.json()["code"]) == (412, "changed")
    assert "somebody else" in answer.json()["detail"]
    now = client.get(URL).json()
    assert (now["unit"], now["song"]["lyrics"]) == (after["unit"], after["song"]["lyrics"])
    for given in ({"if-match": now["tags"][what]}, {"if-match": "*"}, {}):
        assert client.request(method, f"{URL}/{path}", json=body, headers=given).status_code == 200


def test_settings_of_two_people_are_both_kept(client: TestClient) -> None:
    for body in (
        {"unit": "bar"},
        {"lead": 2},
        {"sensitivities": {"snare": 0.4}},
        {"sensitivities": {"kick": 0.3}},
    ):
        assert client.patch(f"{URL}/settings", json=body).status_code == 200
    now = client.get(URL).json()
    assert (now["unit"], now["lead"]) == ("bar", 2)
    assert (now["sensitivities"]["snare"], now["sensitivities"]["kick"]) == (0.4, 0.3)


def test_long_work_answers_with_the_address_at_which_it_is_followed(client: TestClient) -> None:
    media = next(m["id"] for m in client.get(URL).json()["media"] if m["name"] == "rope")
    answer = client.post(f"{URL}/media/{media}/preparations")
    assert answer.status_code == 202
    told = answer.json()
    assert answer.headers["location"] == told["address"]
    job = client.get(told["address"]).json()
    assert (job["id"], job["kind"]) == (told["job"], "prepare")
    assert job in client.get(f"{URL}/jobs").json()
    assert client.get(f"{URL}/jobs/999999").status_code == 404


def test_every_correction_of_the_grid_can_be_asked_for_with_the_values_that_it_needs() -> None:
    schemas = DOCUMENT["components"]["schemas"]
    asked = {}
    for kind in schemas["CorrectGrid"]["oneOf"]:
        fields = schemas[kind["$ref"].rsplit("/", 1)[1]]["properties"]
        action = fields.pop("action")
        for one in action.get("enum", [action.get("const")]):
            asked[one] = set(fields)
    needed = {name: set(list(signature(change).parameters)[1:]) for name, (_, change) in ACTIONS.items()}
    assert asked == needed
