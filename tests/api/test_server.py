"""The server itself: who may talk to it, what it reads, uploads, errors, jobs over a restart."""

import shutil
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.conftest import add, open_studio
from tests.media.films import film
from zembi.api.app import create_app
from zembi.api.faults import STATUS, status_of
from zembi.core import errors
from zembi.core.errors import Cancelled
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Report
from zembi.service.application.studio import Studio
from zembi.service.media import library
from zembi.service.project.workspace import Project, Workspace
from zembi.store import tables
from zembi.store.entities import Job

URL = "/api/v1/projects/small"


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "169.254.0.1:8765", ""])
def test_only_its_own_names_are_answered(client: TestClient, host: str) -> None:
    assert client.get("/api/v1/projects", headers={"host": host}).status_code == 403


@pytest.mark.parametrize("host", ["127.0.0.1:8765", "localhost:8765", "[::1]:8765"])
def test_loopback_names_are_answered(client: TestClient, host: str) -> None:
    assert client.get("/api/v1/projects", headers={"host": host}).status_code == 200


@pytest.mark.parametrize("headers", [
    {"origin": "http://evil.example"}, {"origin": "null"}, {"sec-fetch-site": "cross-site"}, {"origin": "http://127.0.0.1:9999"},
    {"sec-fetch-site": "same-site"},
])  # fmt: skip
def test_no_page_of_another_origin_changes_anything(client: TestClient, headers: dict[str, str]) -> None:
    answer = client.post(f"{URL}/edits/1", json={"op": "rough cut"}, headers=headers)
    assert (answer.status_code, answer.json()["code"]) == (403, "not_allowed")
    assert client.delete(URL, headers=headers).status_code == 403
    assert client.get(URL).status_code == 200


def test_its_own_page_may(client: TestClient) -> None:
    headers = {"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}
    assert client.post(f"{URL}/edits/1", json={"op": "rough cut"}, headers=headers).status_code == 200


def test_every_kind_of_refusal_has_an_answer() -> None:
    def below(kind: type[errors.ZembiError]) -> list[type[errors.ZembiError]]:
        return [k for child in kind.__subclasses__() for k in [child, *below(child)]]

    assert set(below(errors.ZembiError)) == set(STATUS)
    assert status_of(errors.UnreadableMedia("x", code="offline")) == 422


@pytest.mark.parametrize(("body", "words"), [
    ({"name": "", "rate": "24", "width": 1920, "height": 1080}, "name"),
    ({"name": "x", "rate": "fast", "width": 1920, "height": 1080}, "not a frame rate"),
    ({"name": "x", "rate": "24", "width": 1921, "height": 1080}, "even"),
    ({"name": "x", "rate": "24", "width": 2, "height": 2}, "16"),
    ({"name": "x", "rate": "24", "width": 1920}, "height"),
    ({"name": "x", "rate": "24", "width": 1920, "height": 1080, "extra": 1}, "extra"),
])  # fmt: skip
def test_a_project_that_cannot_be_made_says_why(client: TestClient, body: dict[str, Any], words: str) -> None:
    answer = client.post("/api/v1/projects", json=body)
    assert answer.status_code in (400, 422)
    assert words in answer.json()["detail"]


def test_projects_of_one_name_live_beside_each_other(client: TestClient) -> None:
    body = {"name": "Lamp Room: take two!", "rate": "29.97", "width": 1080, "height": 1920}
    made = [client.post("/api/v1/projects", json=body).json() for _ in range(2)]
    assert [m["id"] for m in made] == ["lamp-room-take-two", "lamp-room-take-two-2"]
    assert (made[0]["rate"], made[0]["rate_num"], made[0]["rate_den"]) == ("30000/1001", 30000, 1001)
    assert made[0]["song"] is None
    assert client.get("/api/v1/projects/lamp-room-take-two/edits/1").status_code == 409
    assert client.delete("/api/v1/projects/lamp-room-take-two").status_code == 200
    assert client.get("/api/v1/projects/lamp-room-take-two").status_code == 404
    assert client.get("/api/v1/projects/..%2f..%2fetc").status_code == 404


def test_only_allowed_folders_are_shown_and_read(client: TestClient, footage: Path, tmp_path: Path) -> None:
    roots = client.get("/api/v1/folders").json()
    assert [e["path"] for e in roots["entries"]] == [str(footage)]
    view = client.get("/api/v1/folders", params={"path": str(footage)}).json()
    fits = {e["name"]: e["fits"] for e in view["entries"]}
    assert (fits["song.flac"], fits["GAL_01.mp4"]) == ("song", "video")
    outside = film(tmp_path / "outside.mp4", frames=3)
    (footage / "link.mp4").unlink(missing_ok=True)
    (footage / "link.mp4").symlink_to(outside)
    try:
        for path in (str(tmp_path), str(footage / ".." / ".."), "/etc"):
            answer = client.get("/api/v1/folders", params={"path": path})
            assert (answer.status_code, answer.json()["code"]) == (403, "not_allowed")
        before = len(client.get(URL).json()["media"])
        for path in (str(outside), str(footage / "link.mp4")):
            answer = client.post(
                f"{URL}/media", json={"paths": [str(footage / "rope.mp4"), path], "kind": "take"}
            )
            assert answer.status_code == 403
            assert "outside the allowed media folders" in answer.json()["detail"]
        assert len(client.get(URL).json()["media"]) == before
    finally:
        (footage / "link.mp4").unlink()


def test_files_are_added_once_and_a_song_is_one(client: TestClient, footage: Path) -> None:
    first = add(client, URL, footage, "broll", "rope.mp4")
    assert add(client, URL, footage, "broll", "rope.mp4") == first
    paths = [str(footage / "song.flac"), str(footage / "rope.mp4")]
    assert client.post(f"{URL}/media", json={"paths": paths, "kind": "song"}).status_code == 400
    used = client.get(URL).json()["song"]["media"]
    assert client.delete(f"{URL}/media/{used}").status_code == 409
    assert client.delete(f"{URL}/media/{first[0]}").status_code == 200


def test_uploads_arrive_whole_or_not_at_all(
    client: TestClient, footage: Path, project: Project, monkeypatch: pytest.MonkeyPatch
) -> None:
    data = (footage / "rope.mp4").read_bytes()
    url = f"{URL}/uploads"
    for _ in range(2):
        answer = client.post(url, params={"name": "../we?ird.mp4", "kind": "broll"}, content=data)
        assert answer.status_code == 201, answer.text
    assert sorted(p.name for p in (project.folder / "media").iterdir()) == ["we_ird-2.mp4", "we_ird.mp4"]
    assert (project.folder / "media" / "we_ird.mp4").read_bytes() == data
    assert client.post(url, params={"name": "empty.mp4", "kind": "take"}, content=b"").status_code == 400
    monkeypatch.setattr(library, "free_bytes", lambda _folder: (256 << 20) + len(data) // 2)
    answer = client.post(url, params={"name": "big.mp4", "kind": "take"}, content=data)
    assert (answer.status_code, answer.json()["code"]) == (507, "no_room")
    assert "big.mp4 needs" in answer.json()["detail"]
    unsized = client.post(
        url, params={"name": "stream.mp4", "kind": "take"}, content=iter([data[:3000], data[3000:]])
    )
    assert unsized.status_code == 507
    assert len(list((project.folder / "media").iterdir())) == 2


def test_the_page_is_served_for_every_view(client: TestClient) -> None:
    assert client.get("/api/nothing").status_code == 404
    assert client.get("/p/small/sheet").status_code in (200, 503)


def slow(started: threading.Event) -> Any:
    def work(_folder: Path, _arguments: dict[str, Any], report: Report) -> dict[str, Any]:
        started.set()
        for step in range(400):
            time.sleep(0.02)
            report(step / 400, "Working")
        return {}

    return work


def wait_for(project: Project, job: int, *states: str) -> str:
    for _ in range(300):
        state = str(project.database.one(Job, id=job).state)
        if state in states:
            return state
        time.sleep(0.02)
    raise AssertionError(f"job stays {state}")


def test_jobs_wait_run_stop_and_are_taken_up_again(tmp_path: Path) -> None:
    started = threading.Event()
    done: list[str] = []

    def quick(_folder: Path, arguments: dict[str, Any], _report: Report) -> dict[str, Any]:
        done.append(arguments["name"])
        return {"name": arguments["name"]}

    def broken(_folder: Path, _arguments: dict[str, Any], _report: Report) -> dict[str, Any]:
        raise errors.UnreadableMedia("GAL_01.mp4 is cut off.")

    works = {"slow": slow(started), "quick": quick, "broken": broken}
    pool = ThreadPoolExecutor(1)
    runner = JobRunner(works, lambda: pool)
    project = Workspace(tmp_path).create("Jobs", "24", 320, 180)
    first = runner.add(project.database, "slow", "Slow", {})
    second = runner.add(project.database, "quick", "Quick", {"name": "a"})
    assert runner.add(project.database, "quick", "Quick", {"name": "a"}) == second, (
        "an equal waiting job is one"
    )
    third = runner.add(project.database, "quick", "Quick", {"name": "b"})
    assert started.wait(5)
    runner.cancel(project.database, third)
    assert wait_for(project, third, "cancelled") == "cancelled"
    for _ in range(200):
        if project.database.one(Job, id=first).progress > 0:
            break
        time.sleep(0.02)
    runner.cancel(project.database, first)
    assert wait_for(project, first, "cancelled", "done") == "cancelled"
    assert wait_for(project, second, "done") == "done"
    assert project.database.one(Job, id=second).result == {"name": "a"}
    fails = runner.add(project.database, "broken", "Broken", {})
    assert wait_for(project, fails, "failed") == "failed"
    assert project.database.one(Job, id=fails).error == "GAL_01.mp4 is cut off."
    # A stop in the middle leaves a row that says "running"; the next start takes it up.
    with project.database.writing() as connection:
        connection.execute(
            tables.job.insert().values(
                kind="quick", title="Left over", arguments={"name": "c"}, state="running"
            )
        )
    assert runner.resume(project.database) == 1
    for _ in range(200):
        if "c" in done:
            break
        time.sleep(0.02)
    assert done == ["a", "c"]
    pool.shutdown()


def test_a_real_render_is_stopped_by_a_person(data: Path, footage: Path) -> None:
    studio = open_studio(data, footage, lambda: ThreadPoolExecutor(1))
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.post(f"{URL}/edits/1", json={"op": "rough cut"})
        job = client.post(f"{URL}/edits/1/renders", json={}).json()["job"]
        project = studio.workspace.open("small")
        wait_for(project, job, "running")
        client.delete(f"{URL}/jobs/{job}")
        assert wait_for(project, job, "cancelled", "done") == "cancelled"
        assert list((project.folder / "renders").iterdir()) == []
        assert client.get(f"{URL}/handoff/renders/{job}").status_code == 409


def test_a_cancelled_preparation_can_be_started_again(data: Path, footage: Path) -> None:
    calls: list[int] = []

    def stopped(_folder: Path, _arguments: dict[str, Any], _report: Report) -> dict[str, Any]:
        calls.append(1)
        raise Cancelled("Stopped.")

    studio = Studio(
        Workspace(data, [footage]),
        JobRunner({"prepare": stopped, "align": stopped, "render": stopped}, lambda: ThreadPoolExecutor(1)),
    )
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        gal = next(m["id"] for m in client.get(URL).json()["media"] if m["name"] == "GAL_01")
        job = client.post(f"{URL}/media/{gal}/preparations").json()["job"]
        assert wait_for(studio.workspace.open("small"), job, "cancelled") == "cancelled"
        assert client.post(f"{URL}/media/{gal}/alignments").status_code == 202
    assert calls


def test_a_folder_with_all_below_it_is_told_at_once(
    client: TestClient, footage: Path, tmp_path: Path
) -> None:
    shoot = footage / "a shoot"
    for name in (
        "day 1/cam A/C0001.mp4",
        "day 1/cam A/C0002.mp4",
        "day 2/still.png",
        ".trash/C0003.mp4",
        "notes.txt",
        "day 2/A001_C002.R3D",
    ):
        (shoot / name).parent.mkdir(parents=True, exist_ok=True)
        (shoot / name).write_bytes(b"x" * 1000)
    away = tmp_path / "away"
    away.mkdir()
    (away / "C0009.mp4").write_bytes(b"x")
    (shoot / "day 2" / "round").symlink_to(shoot)
    (shoot / "day 2" / "out").symlink_to(away)
    try:
        told = client.get("/api/v1/folders/below", params={"path": str(shoot)}).json()
        names = [str(Path(f["path"]).relative_to(shoot)) for f in told["files"]]
        fits = {name: f["fits"] for name, f in zip(names, told["files"], strict=True)}
        # A raw recording is told of, so that it can be said why it is not taken.
        assert fits.pop("day 2/A001_C002.R3D") == "raw"
        assert list(fits) == ["day 1/cam A/C0001.mp4", "day 1/cam A/C0002.mp4", "day 2/still.png"]
        assert {f["size"] for f in told["files"]} == {1000}
        assert told["cut_off"] is False
        assert client.get("/api/v1/folders/below", params={"path": str(tmp_path)}).status_code == 403
        assert client.get("/api/v1/folders/below", params={"path": str(shoot / "none")}).status_code == 404
    finally:
        shutil.rmtree(shoot)


def test_a_project_is_renamed_and_its_film_gets_another_size(client: TestClient) -> None:
    made = client.post(
        "/api/v1/projects", json={"name": "Pier", "rate": "24", "width": 1920, "height": 1080}
    ).json()
    url = f"/api/v1/projects/{made['id']}"
    changed = {"name": "Pier nights", "size": [1080, 1920], "first_timecode": "10:00:00:12"}
    assert client.patch(url, json=changed).status_code == 200

    def told() -> list[object]:
        return [client.get(url).json()[k] for k in ("name", "width", "height", "first_timecode")]

    assert told() == ["Pier nights", 1080, 1920, "10:00:00:12"]
    for wrong, said in (
        ({"name": "  "}, "Give the project a name"),
        ({"size": [1081, 1920]}, "cannot be coded"),
        ({"first_timecode": "10:00:00:24"}, "does not exist at 24"),
        ({"first_timecode": "soon"}, "is not a timecode"),
    ):
        answer = client.patch(url, json={"name": "Not this", **wrong})
        assert answer.status_code == 400, wrong
        assert said in answer.json()["detail"]
    assert told()[0] == "Pier nights"
    assert client.post(f"{url}/undo").status_code == 200
    assert told() == ["Pier", 1920, 1080, "00:00:00:00"]
