"""Checks over the API: those of pictures, their limits, and what is accepted."""

from typing import Any

from fastapi.testclient import TestClient

from tests.api.test_titles import URL
from tests.api.test_work import edit


def pictures(client: TestClient) -> list[dict[str, Any]]:
    answer = client.get(f"{URL}/edits/1/findings/pictures")
    assert answer.status_code == 200, answer.text
    return [f for f in answer.json() if f["kind"] == "jump"]


def limit(client: TestClient, **limits: float) -> int:
    return client.patch(f"{URL}/settings", json={"limits": limits}).status_code


def test_cuts_that_jump_beyond_the_limit_are_pointed_out_until_they_are_meant_to(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    assert limit(client, jump=100.0) == 200
    assert pictures(client) == []
    assert limit(client, jump=1.0) == 200
    assert client.get(URL).json()["limits"]["jump"] == 1.0
    found = pictures(client)
    jumps = {j["frame"]: j for j in client.get(f"{URL}/edits/1/colour/jumps").json()}
    assert [f["start"] for f in found] == [at for at, j in jumps.items() if j["jump"] > 1.0]
    one = found[0]
    body = {"op": "accept", "items": one["items"], "check": "jump", "word": "a flash"}
    assert client.post(f"{URL}/edits/1", json=body).status_code == 200
    assert next(f["accepted"] for f in pictures(client) if f["start"] == one["start"]) == "a flash"
    again = {j["frame"]: j["meant"] for j in client.get(f"{URL}/edits/1/colour/jumps").json()}
    assert [at for at, meant in again.items() if meant is not None] == [
        f["start"] for f in found if f["items"] == one["items"]
    ]
    client.post(f"{URL}/undo")
    assert all(f["accepted"] is None for f in pictures(client))


def test_what_is_accepted_counts_no_more_on_the_tab(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    assert limit(client, shortest_shot_s=10.0) == 200
    short = [f for f in edit(client)["findings"] if f["kind"] == "too short"]
    assert short
    items = sorted({i for f in short for i in f["items"]})
    before = edit(client)["badges"]["handoff"]
    answer = client.post(
        f"{URL}/edits/1", json={"op": "accept", "items": items, "check": "too short", "word": ""}
    )
    after = answer.json()
    assert all(f["accepted"] == "" for f in after["findings"] if f["kind"] == "too short")
    assert after["badges"]["handoff"] != before
    assert limit(client, shortest_shot_s=0.2) == 200


def test_limits_and_words_that_cannot_be_are_refused(client: TestClient) -> None:
    assert limit(client, jump=0.0) == 400
    assert limit(client, loudest=3.0) == 422
    body = {"op": "accept", "items": [1], "check": "offline", "word": ""}
    assert client.post(f"{URL}/edits/1", json=body).status_code == 422
