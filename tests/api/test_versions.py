"""Versions of the cut over the API: made, named, locked, compared, taken over, thrown away, undone."""

import json
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from tests.api.test_edits import URL, edit, operate
from zembi.cli.shared import app
from zembi.service.project.workspace import Project


@pytest.fixture
def cut(client: TestClient) -> TestClient:
    operate(client, 1, "rough cut", beats=4, broll=0.0)
    return client


def listed(client: TestClient) -> list[dict[str, Any]]:
    return list(client.get(f"{URL}/edits").json())


def make(client: TestClient, name: str = "for the band", of: int = 1) -> dict[str, Any]:
    answer = client.post(f"{URL}/edits", json={"of": of, "name": name, "note": "first idea"})
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def same(client: TestClient, a: int, b: int) -> dict[str, Any]:
    return dict(client.get(f"{URL}/edits/{a}/differences", params={"other": b}).json())


def test_a_version_is_made_of_another_worked_on_and_taken_back(cut: TestClient) -> None:
    made = make(cut)
    assert (made["name"], made["note"], made["parent"], made["current"]) == (
        "for the band",
        "first idea",
        1,
        True,
    )
    assert made["made"].startswith("20")
    assert cut.get(URL).json()["edit"] == made["id"]
    assert same(cut, 1, made["id"])["differ"] == []
    assert edit(cut, made["id"])["shots"] == edit(cut, 1)["shots"], "items keep their ids"
    cut.post(f"{URL}/undo")
    assert [v["id"] for v in listed(cut)] == [1]
    assert cut.get(URL).json()["edit"] == 1
    cut.post(f"{URL}/redo")
    assert cut.get(URL).json()["edit"] == made["id"]
    assert [(v["note"], v["current"]) for v in listed(cut)] == [("", False), ("first idea", True)]


def test_a_locked_version_is_not_cut_and_says_so(cut: TestClient) -> None:
    made = make(cut)
    shot = edit(cut, 1)["shots"][0]
    assert cut.patch(f"{URL}/edits/1", json={"locked": True, "name": "sent to the band"}).status_code == 200
    refused = cut.post(f"{URL}/edits/1", json={"op": "black", "item": shot["id"]})
    assert refused.status_code == 409
    assert "“sent to the band” is locked" in refused.json()["detail"]
    taken = cut.post(f"{URL}/edits/1/taken", json={"other": made["id"], "first": 0, "end": 10})
    assert taken.status_code == 409
    assert cut.delete(f"{URL}/edits/1").status_code == 409
    operate(cut, made["id"], "black", item=shot["id"])
    cut.patch(f"{URL}/edits/1", json={"locked": False})
    operate(cut, 1, "black", item=shot["id"])


def test_what_differs_is_told_and_taken_over_in_one_step_each(cut: TestClient) -> None:
    made = make(cut)["id"]
    shots = edit(cut, made)["shots"]
    first, second = shots[1], shots[3]
    operate(cut, made, "black", item=first["id"])
    operate(cut, made, "treat", items=[second["id"]], treatments=[{"kind": "mirror"}])
    found = same(cut, 1, made)
    assert [(d["first"], d["what"], d["here"]) for d in found["differ"]] == [
        (first["start"], "source", first["id"]), (second["start"], "treatment", second["id"]),
    ]  # fmt: skip
    body = {"other": made, "first": first["start"], "end": shots[2]["start"]}
    answer = cut.post(f"{URL}/edits/1/taken", json=body)
    assert answer.status_code == 200, answer.text
    assert answer.json()["undo"] == "Take over from for the band"
    assert [d["first"] for d in same(cut, 1, made)["differ"]] == [second["start"]]
    body = {"other": made, "first": -1000, "end": 10**6}
    cut.post(f"{URL}/edits/1/taken", json=body)
    assert same(cut, 1, made)["differ"] == []
    cut.post(f"{URL}/undo")
    assert [d["first"] for d in same(cut, 1, made)["differ"]] == [second["start"]]
    cut.post(f"{URL}/undo")
    assert len(same(cut, 1, made)["differ"]) == 2
    assert edit(cut, 1)["shots"] == shots


def test_a_version_is_thrown_away_and_comes_back_whole(cut: TestClient) -> None:
    made = make(cut)["id"]
    other = make(cut, "another", of=made)["id"]
    before = edit(cut, made)["shots"]
    assert "worked on" in cut.delete(f"{URL}/edits/{other}").json()["detail"]
    assert cut.delete(f"{URL}/edits/{made}").status_code == 200
    assert [(v["id"], v["parent"]) for v in listed(cut)] == [(1, None), (other, 1)]
    assert cut.get(f"{URL}/edits/{made}").status_code == 404
    cut.post(f"{URL}/undo")
    assert [(v["id"], v["parent"]) for v in listed(cut)] == [(1, None), (made, 1), (other, made)]
    assert edit(cut, made)["shots"] == before
    assert cut.put(f"{URL}/current", json={"edit": made}).status_code == 200
    assert cut.get(URL).json()["edit"] == made
    assert cut.put(f"{URL}/current", json={"edit": 99}).status_code == 404


@pytest.mark.parametrize(
    ("body", "status", "words"),
    [
        ({"of": 1, "name": " "}, 400, "a name"),
        ({"of": 1, "name": "x" * 90}, 400, "80"),
        ({"of": 1, "name": "new", "note": "x" * 3000}, 400, "2000"),
        ({"of": 1, "name": "Edit 1"}, 409, "already"),
        ({"of": 7, "name": "new"}, 404, ""),
    ],
)
def test_what_is_no_version_is_refused_in_words(
    cut: TestClient, body: dict[str, Any], status: int, words: str
) -> None:
    answer = cut.post(f"{URL}/edits", json=body)
    assert answer.status_code == status
    assert words in answer.json()["detail"]
    assert len(listed(cut)) == 1


def test_versions_and_timelines_are_compared_on_the_command_line(
    cut: TestClient, project: Project, tmp_path: Path
) -> None:
    made = make(cut)["id"]
    shots = edit(cut, made)["shots"]
    operate(cut, made, "black", item=shots[1]["id"])
    folder = str(project.folder)

    def compared(a: str, b: str) -> dict[str, Any]:
        done = CliRunner().invoke(app, ["compare", a, b, "--json"])
        assert done.exit_code == 0, done.output
        return dict(json.loads(done.stdout))

    wanted = {"first": shots[1]["start"], "end": shots[2]["start"], "what": "source", "lane": "base"}
    found = compared(f"{folder}#Edit 1", f"{folder}#for the band")
    assert found["differ"] == [wanted]
    assert found["cuts"] == [len(shots) - 1] * 2
    assert compared(folder, f"{folder}#for the band")["differ"] == []
    timelines = []
    for edit_id in (1, made):
        timelines.append(tmp_path / f"{edit_id}.otio")
        timelines[-1].write_bytes(cut.get(f"{URL}/edits/{edit_id}/export/otio").content)
    assert compared(str(timelines[0]), str(timelines[1]))["differ"] == [wanted]
    assert (
        compared(str(timelines[0]), str(timelines[0]))["same"]
        == found["same"] + wanted["end"] - wanted["first"]
    )
    blank = CliRunner().invoke(
        app, ["render", folder, "--out", str(tmp_path / "a.mp4"), "--version", "nothing"]
    )
    assert "There is no version" in str(blank.exception)
    gone = CliRunner().invoke(app, ["compare", f"{folder}#nothing", folder])
    assert "There is no version" in str(gone.exception)
