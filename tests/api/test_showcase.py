"""The first page: making the demo project, what a card says of its project, and files dropped on the page."""

import shutil
import sys
import time
from pathlib import Path

from fastapi.testclient import TestClient

from tests.api.test_work import URL, operate
from zembi.service.application.showcase import MAKING_DEMO, Making, Showcase

TELLS = """
import pathlib, sys, time
data = pathlib.Path(sys.argv[sys.argv.index("--data") + 1])
print("a line that is not told", flush=True)
print('{"share": 0.25, "words": "Filming"}', flush=True)
aside = data / "%sx"
aside.mkdir()
while not (data / "go on").exists():
    time.sleep(0.01)
aside.rmdir()
%s
"""


def until(showcase: Showcase, state: str) -> Making:
    end = time.monotonic() + 20
    while showcase.now().state != state:
        assert time.monotonic() < end, showcase.now()
        time.sleep(0.01)
    return showcase.now()


def told(showcase: Showcase) -> None:
    end = time.monotonic() + 20
    while showcase.now().share != 0.25:
        assert time.monotonic() < end, showcase.now()
        time.sleep(0.01)


def maker(data: Path, end: str) -> Showcase:
    return Showcase(data, (sys.executable, "-c", TELLS % (MAKING_DEMO, end)))


def test_the_demo_is_made_once_at_a_time_and_tells_how_far_it_is(tmp_path: Path) -> None:
    showcase = maker(tmp_path, "")
    assert showcase.now() == Making("idle", 0.0, "")
    showcase.start()
    told(showcase)
    assert showcase.start() == Making("making", 0.25, "Filming")
    (tmp_path / "go on").touch()
    assert until(showcase, "done").share == 1.0
    showcase.stop()


def test_a_demo_that_fails_says_why_and_can_be_tried_again(tmp_path: Path) -> None:
    showcase = maker(tmp_path, "sys.exit('The disk is full.')")
    (tmp_path / "go on").touch()
    showcase.start()
    assert until(showcase, "failed").words == "The demo project could not be made: The disk is full."
    assert showcase.start().state == "making"
    until(showcase, "failed")


def test_stopping_the_server_ends_it_and_leaves_nothing_half_made(tmp_path: Path) -> None:
    showcase = maker(tmp_path, "")
    showcase.start()
    told(showcase)
    showcase.stop()
    assert until(showcase, "failed").words.startswith("The demo project could not be made")
    assert list(tmp_path.iterdir()) == []


def test_the_page_can_ask_for_it(client: TestClient) -> None:
    assert client.get("/api/v1/demo").json() == {"state": "idle", "share": 0.0, "words": ""}


def test_a_card_says_how_far_each_step_is_and_gives_the_last_film(client: TestClient) -> None:
    (card,) = client.get("/api/v1/projects").json()
    assert card["steps"] == client.get(URL).json()["badges"]
    assert card["film"] is None
    operate(client, "rough cut")
    job = client.post(f"{URL}/edits/1/renders", json={"first": 0, "end": 24}).json()["job"]
    (card,) = client.get("/api/v1/projects").json()
    assert card["film"]["job"] == job
    assert card["film"]["name"].endswith(".mp4")
    assert card["steps"]["sheet"] == "100 % cut"


def test_dropped_files_are_found_in_the_media_folders_by_name_and_size(
    client: TestClient, footage: Path, tmp_path: Path
) -> None:
    rope, size = footage / "rope.mp4", (footage / "rope.mp4").stat().st_size
    inner = footage / "day 2"
    inner.mkdir(exist_ok=True)
    shutil.copy(footage / "gulls.mp4", inner / "more gulls.mp4")
    try:
        files = [
            {"name": "rope.mp4", "size": size}, {"name": "rope.mp4", "size": size + 1}, {"name": "no.mp4", "size": 5},
            {"name": "more gulls.mp4", "size": (inner / "more gulls.mp4").stat().st_size},
        ]  # fmt: skip
        found = client.post("/api/v1/folders/dropped", json={"files": files}).json()
        assert found == [str(rope), "", "", str(inner / "more gulls.mp4")]
    finally:
        shutil.rmtree(inner)
    assert client.post("/api/v1/folders/dropped", json={"files": []}).status_code == 422


def test_undo_and_redo_answer_with_the_edit_as_operations_do(client: TestClient) -> None:
    before = client.get(f"{URL}/edits/1").json()
    done = operate(client, "cut", working_s=4.5)
    undone = client.post(f"{URL}/undo", params={"edit": 1}).json()
    assert undone["note"] == "Cut"
    assert {**undone, "note": ""} == {**client.get(f"{URL}/edits/1").json(), "note": ""}
    assert undone["lanes"] == before["lanes"]
    again = client.post(f"{URL}/redo", params={"edit": 1}).json()
    assert again["lanes"] == done["lanes"]
    made = client.post(
        "/api/v1/projects", json={"name": "Bare", "rate": "25", "width": 320, "height": 180}
    ).json()
    assert client.post(f"/api/v1/projects/{made['id']}/undo").status_code == 409
