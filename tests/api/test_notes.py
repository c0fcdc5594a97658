"""Notes over the API: pasted, kept at their music, answered, handed out and undone."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_edits import URL, edit, operate
from zembi.core.timebase import frame_to_seconds
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.workspace import Project


def listed(client: TestClient) -> list[dict[str, Any]]:
    return list(client.get(f"{URL}/notes").json())


def paste(client: TestClient, text: str, what: str = "taken", edit_id: int = 1, who: str = "") -> Any:
    answer = client.post(f"{URL}/edits/{edit_id}/notes/{what}", json={"text": text, "who": who})
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_pasted_list_is_shown_before_it_is_taken_and_taken_in_one_step(client: TestClient) -> None:
    text = "lovely\n0:02 more of the guitar\nOrrin: bar 2 - lips?"
    shown = paste(client, text, "understood")
    assert [(n["text"], n["who"], n["time"]) for n in shown] == [
        ("lovely", "", ""), ("more of the guitar", "", "0:02"), ("lips?", "Orrin", "bar 2"),
    ]  # fmt: skip
    assert listed(client) == []
    assert paste(client, text, who="Juno")["note"] == "3 notes"
    rate = 24
    found = {n["text"]: n for n in listed(client)}
    assert (found["more of the guitar"]["first"], found["more of the guitar"]["end"]) == (
        2 * rate,
        2 * rate + 1,
    )
    assert found["more of the guitar"]["who"] == "Juno"
    assert found["lips?"]["who"] == "Orrin"
    assert found["lips?"]["end"] - found["lips?"]["first"] > 20, "a bar is a range"
    client.post(f"{URL}/undo")
    assert listed(client) == []
    client.post(f"{URL}/redo")
    assert len(listed(client)) == 3


def test_a_note_is_answered_with_a_word_corrected_and_thrown_away(client: TestClient) -> None:
    body = {"first": 10, "end": 34, "text": " too dark ", "who": "Orrin"}
    made = client.post(f"{URL}/edits/1/notes", json=body)
    assert made.status_code == 201, made.text
    note = made.json()
    assert (note["text"], note["state"], note["first"], note["end"]) == ("too dark", "open", 10, 34)
    url = f"{URL}/notes/{note['id']}"
    client.patch(url, json={"state": "will not do", "why": "it is night"})
    client.patch(url, json={"text": "too dark here"})
    (now,) = listed(client)
    assert (now["state"], now["why"], now["text"]) == ("will not do", "it is night", "too dark here")
    client.delete(url)
    assert listed(client) == []
    for _ in range(3):
        client.post(f"{URL}/undo")
    assert [(n["state"], n["text"]) for n in listed(client)] == [("open", "too dark")]


def test_a_note_stays_at_its_music_when_the_song_is_cut_and_says_when_that_is_left_out(
    client: TestClient, project: Project
) -> None:
    operate(client, 1, "rough cut", beats=4, broll=0.0)
    snapshot = snapshot_of(project)
    grid = snapshot.need_grid()
    bars = [t for t in grid.bar_times if 0 < t < snapshot.song_seconds - 2]
    before, after = round(bars[1] * 24), round(bars[3] * 24)
    for frame, text in ((before, "in it"), (after, "behind it")):
        client.post(f"{URL}/edits/1/notes", json={"first": frame, "end": frame + 1, "text": text})
    body = {"action": "leave out", "start_s": bars[1] - 0.05, "end_s": bars[2]}
    left = client.post(f"{URL}/song/cutdown", json=body)
    assert left.status_code == 200, left.text
    found = {n["text"]: n for n in listed(client)}
    assert found["in it"]["left_out"] is True
    assert found["behind it"]["left_out"] is False
    moved = found["behind it"]["first"]
    assert moved < after
    there = snapshot_of(project).map.to_song(float(frame_to_seconds(moved, project.rate)))
    assert there == pytest.approx(bars[3], abs=0.03)


def test_notes_go_out_and_come_back_on_another_version(client: TestClient) -> None:
    paste(client, "0:01 here\n0:02-0:03 and there", who="Orrin")
    client.patch(f"{URL}/notes/{listed(client)[0]['id']}", json={"state": "done", "why": "mended"})
    before = [(n["first"], n["end"], n["text"], n["who"], n["state"], n["why"]) for n in listed(client)]
    table = client.get(f"{URL}/edits/1/notes.csv")
    assert "attachment" in table.headers["content-disposition"]
    timed = client.get(f"{URL}/edits/1/notes.vtt").text
    assert timed.startswith("WEBVTT")
    made = client.post(f"{URL}/edits", json={"of": 1, "name": "second"}).json()["id"]
    paste(client, table.text, edit_id=made)
    after = [
        (n["first"], n["end"], n["text"], n["who"], n["state"], n["why"])
        for n in listed(client)
        if n["edit"] == made
    ]
    assert after == before
    client.put(f"{URL}/current", json={"edit": 1})
    client.delete(f"{URL}/edits/{made}")
    assert {n["edit"] for n in listed(client)} == {1}, "they go with their version"
    client.post(f"{URL}/undo")
    assert len(listed(client)) == 4, "and come back with it"
    assert [n["text"] for n in paste(client, timed, "understood")] == ["here", "and there"]


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"first": 5, "end": 5, "text": "x"}, "frames of the film"),
        ({"first": -5, "end": 5, "text": "x"}, "frames of the film"),
        ({"first": 0, "end": 10**7, "text": "x"}, "frames of the film"),
        ({"first": 0, "end": 5, "text": "  "}, "says something"),
        ({"first": 0, "end": 5, "text": "x" * 3000}, "2000"),
        ({"first": 0, "end": 5, "text": "x", "who": "y" * 99}, "60"),
    ],
)
def test_what_is_no_note_is_refused_in_words(client: TestClient, body: dict[str, Any], words: str) -> None:
    answer = client.post(f"{URL}/edits/1/notes", json=body)
    assert answer.status_code == 400
    assert words in answer.json()["detail"]
    assert client.post(f"{URL}/edits/1/notes/taken", json={"text": " "}).status_code == 400
    assert client.patch(f"{URL}/notes/7", json={"state": "done"}).status_code == 404
    assert listed(client) == []
    assert edit(client, 1)["id"] == 1
