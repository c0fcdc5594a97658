"""A project before its song is there or heard: whatever is asked of the edit is refused as reading it is."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.abuse.support import Later
from tests.conftest import add, open_studio
from zembi.api.app import create_app

OPERATIONS: list[dict[str, Any]] = [
    {"op": "cut", "working_s": 1.0}, {"op": "cut", "working_s": 1.0, "unit": "free"}, {"op": "rough cut"},
    {"op": "make slots", "first": 0, "end": 10}, {"op": "tighten", "first": 1, "last": 9}, {"op": "join", "item": 3},
    {"op": "treat range", "first": 0, "end": 9, "treatments": [{"kind": "mirror"}]},
]  # fmt: skip


@pytest.fixture(params=["no song", "takes only", "not looked at", "listening"])
def url(request: pytest.FixtureRequest, tmp_path: Path, footage: Path) -> Iterator[tuple[TestClient, str]]:
    later = Later()
    studio = open_studio(tmp_path / "data", footage, lambda: later)
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.post("/api/v1/projects", json={"name": "early", "rate": "24", "width": 320, "height": 180})
        url = "/api/v1/projects/early"
        if request.param == "takes only":
            add(client, url, footage, "take", "GAL_01.mp4")
            add(client, url, footage, "broll", "rope.mp4")
        if request.param in ("not looked at", "listening"):
            add(client, url, footage, "song", "song.flac")
        yield client, url


def test_the_edit_is_refused_in_the_words_that_reading_it_gives(url: tuple[TestClient, str]) -> None:
    client, address = url
    read = client.get(f"{address}/edits/1")
    assert read.status_code == 409
    for body in OPERATIONS:
        for path in ("edits/1", "edits/1/preview", "edits/1/judged"):
            answer = client.post(f"{address}/{path}", json=body)
            assert (answer.status_code, answer.json()) == (409, read.json()), (path, body)
