"""The routes themselves: no fixed address beside one by name, and what every answer carries."""

import itertools

import pytest
from fastapi.testclient import TestClient

from tests.conftest import open_studio
from zembi.api.app import create_app

URL = "/api/v1/projects/small"


def addresses() -> list[tuple[str, tuple[str, ...]]]:
    """Method and parts of the path of every route; a name in braces for each part that is given."""
    paths = create_app(None).openapi()["paths"]
    return [
        (method, tuple(path.strip("/").split("/"))) for path, methods in paths.items() for method in methods
    ]


def by_name(part: str) -> bool:
    return part.startswith("{")


def test_no_fixed_address_can_be_meant_by_a_name() -> None:
    """A project called "Rates" was not to be opened: what is given by name lies beside nothing that is fixed."""
    found = addresses()
    assert len(found) > 90
    for (method, one), (other_method, other) in itertools.combinations(found, 2):
        if method != other_method or len(one) != len(other) or one == other:
            continue
        alike = all(a == b or by_name(a) or by_name(b) for a, b in zip(one, other, strict=True))
        assert not alike, f"{method} /{'/'.join(one)} and /{'/'.join(other)} can be the same address"


@pytest.mark.parametrize("name", ["Rates", "Demo", "Jobs", "Events", "New"])
def test_a_project_of_any_name_is_opened(client: TestClient, name: str) -> None:
    made = client.post("/api/v1/projects", json={"name": name, "rate": "24", "width": 320, "height": 180})
    assert client.get(f"/api/v1/projects/{made.json()['id']}").json()["name"] == name
    assert "23.976" in str(client.get("/api/v1/rates").json()) or client.get("/api/v1/rates").json()


def test_what_is_made_from_a_file_is_cached_only_under_its_content(client: TestClient) -> None:
    file = next(m for m in client.get(URL).json()["media"] if m["name"] == "rope")
    address = f"{URL}/media/{file['id']}/stills.jpg"
    assert file["made_of"]
    assert "immutable" in client.get(address, params={"of": file["made_of"]}).headers["cache-control"]
    assert "immutable" in client.get(address, params={"of": file["made_of"] + "~"}).headers["cache-control"]
    for other in ("", "another-2"):
        assert client.get(address, params={"of": other}).headers["cache-control"] == "no-cache"


def test_a_fault_that_nobody_foresaw_carries_the_headers_of_every_answer(
    data: object, footage: object, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def broken(*_args: object) -> None:
        raise ZeroDivisionError("by accident")

    monkeypatch.setattr("zembi.api.routers.projects.state.project_cards", broken)
    app = create_app(open_studio(data, footage))  # type: ignore[arg-type]
    with TestClient(app, base_url="http://127.0.0.1") as client:
        answer = client.get("/api/v1/projects")
    assert (answer.status_code, answer.json()["code"]) == (500, "fault")
    assert "by accident" in answer.json()["detail"]
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert "default-src 'none'" in answer.headers["content-security-policy"]
    assert "ZeroDivisionError" in capsys.readouterr().err
