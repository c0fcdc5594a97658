"""Sound before picture: what is wanted soonest is done first, and each part is told as it comes."""

import threading
from collections.abc import Callable
from concurrent.futures import Executor, Future
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.conftest import add
from tests.media.films import film, tone
from zembi.api.app import create_app
from zembi.core.programme.flatten import on_screen
from zembi.jobs.runner import JobRunner
from zembi.media.derive import (
    ALL,
    SOUND,
    derive_picture,
    derive_sound,
    derive_stills,
    facts_of,
    is_derived,
    is_heard,
    write_flac,
)
from zembi.service.application.studio import Studio
from zembi.service.application.work import BACKGROUND, ORDER, works
from zembi.service.project.workspace import Project, Workspace
from zembi.store import tables
from zembi.store.entities import Job, Media

URL = "/api/v1/projects/p"


class Counted(Executor):
    """So many workers, whose work is done when it is told to; it remembers what was begun."""

    def __init__(self, workers: int) -> None:
        self.workers = workers
        self.begun: list[tuple[int, Future[Any], Callable[..., Any], tuple[Any, ...]]] = []
        self.order: list[int] = []

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> "Future[Any]":
        future: Future[Any] = Future()
        self.begun.append((args[1], future, fn, args))
        self.order.append(args[1])
        return future

    def end(self, at: int = 0) -> int:
        job, future, fn, args = self.begun.pop(at)
        future.set_running_or_notify_cancel()
        future.set_result(fn(*args))
        return job


@pytest.fixture
def card(tmp_path: Path) -> Path:
    folder = tmp_path / "card"
    folder.mkdir()
    for n in range(3):
        film(folder / f"C{n:04d}.mp4", Fraction(25), 60, sound=tone(2.4, seed=n))
    return folder


def studio_of(tmp_path: Path, card: Path, executor: Executor) -> Studio:
    workspace = Workspace(tmp_path / "data", [card])
    runner = JobRunner(works(workspace), lambda: executor, order=ORDER, background=BACKGROUND)
    return Studio(workspace, runner)


def kinds(studio: Studio, jobs: list[int]) -> list[str]:
    rows = {j.id: j.kind for j in studio.workspace.open("p").database.all(Job)}
    return [rows[j] for j in jobs]


def test_no_picture_is_begun_while_a_sound_waits_and_one_worker_is_kept_free(
    tmp_path: Path, card: Path
) -> None:
    executor = Counted(2)
    studio = studio_of(tmp_path, card, executor)
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.post("/api/v1/projects", json={"name": "P", "rate": "25", "width": 320, "height": 180})
        add(client, URL, card, "broll", *(p.name for p in sorted(card.iterdir())))
        assert kinds(studio, executor.order) == ["hear", "hear"], "no more is begun than there are workers"
        for _ in range(3):
            executor.end()
        assert kinds(studio, executor.order)[:3] == ["hear"] * 3
        while len(executor.begun) > 1 or kinds(studio, [executor.begun[0][0]]) != ["picture"]:
            running = kinds(studio, [b[0] for b in executor.begun])
            assert running.count("picture") <= 1
            executor.end(next(i for i, kind in enumerate(running) if kind != "picture" or len(running) == 1))
        while executor.begun:
            executor.end()
        assert sorted(kinds(studio, executor.order)) == ["hear"] * 3 + ["picture"] * 3 + ["stills"] * 3
        assert all(m["prepared"] for m in client.get(URL).json()["media"])


def test_what_is_on_screen_is_made_before_what_was_added_before_it(tmp_path: Path, card: Path) -> None:
    executor = Counted(1)
    studio = studio_of(tmp_path, card, executor)
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.post("/api/v1/projects", json={"name": "P", "rate": "25", "width": 320, "height": 180})
        ids = add(client, URL, card, "broll", *(p.name for p in sorted(card.iterdir())))
        while kinds(studio, [executor.begun[0][0]]) != ["picture"]:
            executor.end()
        database = studio.workspace.open("p").database

        def subject(job: int) -> str:
            return str(database.one(Job, id=job).arguments["media"])

        first = subject(executor.begun[0][0])
        wanted = [i for i in ids if i != first][-1]
        assert client.get(f"{URL}/media/{wanted}/programme.h264").status_code == 404
        executor.end()
        assert subject(executor.begun[0][0]) == wanted


def test_a_stopped_job_that_waits_is_never_begun(tmp_path: Path, card: Path) -> None:
    executor = Counted(1)
    studio = studio_of(tmp_path, card, executor)
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.post("/api/v1/projects", json={"name": "P", "rate": "25", "width": 320, "height": 180})
        add(client, URL, card, "broll", *(p.name for p in sorted(card.iterdir())))
        waiting = [j["id"] for j in client.get(f"{URL}/jobs").json() if j["state"] == "waiting"]
        last = max(waiting)
        assert client.delete(f"{URL}/jobs/{last}").status_code == 200
        while executor.begun:
            executor.end()
        assert last not in executor.order
        assert next(j for j in client.get(f"{URL}/jobs").json() if j["id"] == last)["state"] == "cancelled"


def test_workers_are_woken_by_what_comes_before_their_first_work(
    tmp_path: Path, card: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    studio = studio_of(tmp_path, card, Counted(1))
    woken: list[str] = []
    monkeypatch.setattr(studio.runner, "wake", lambda: woken.append("x"))
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.get("/api/v1/projects")
        assert woken == [], "a page that is only looked at is not held up"
        client.post("/api/v1/projects", json={"name": "P", "rate": "25", "width": 320, "height": 180})
        client.get("/api/v1/folders", params={"path": str(card)})
    assert woken == ["x", "x"]


def test_a_song_says_whether_it_is_listened_to_or_was_stopped(tmp_path: Path, card: Path) -> None:
    write_flac(card / "song.flac", tone(8.0, 44_100, channels=2), 44_100)
    executor = Counted(1)
    with TestClient(create_app(studio_of(tmp_path, card, executor)), base_url="http://127.0.0.1") as client:
        client.post("/api/v1/projects", json={"name": "P", "rate": "25", "width": 320, "height": 180})

        def badge() -> str:
            return str(client.get(URL).json()["badges"]["song"])

        (song,) = add(client, URL, card, "song", "song.flac")
        assert badge() == "listening…"
        client.delete(f"{URL}/jobs/{executor.begun.pop(0)[0]}")
        assert badge() == "not listened to"
        client.post(f"{URL}/media/{song}/preparations")
        assert badge() == "listening…"
        executor.end()
        assert "BPM" in badge()


def test_sound_read_alone_is_the_sound_read_with_the_picture(tmp_path: Path) -> None:
    """Also where it begins later than the picture: the take's clock is the picture's."""
    path = film(tmp_path / "take.mp4", Fraction(25), 75, sound=tone(2.5, seed=3), late_s=0.24)
    alone = derive_sound(path, tmp_path / "a", "c", lambda _s, _w: None)
    assert is_heard(tmp_path / "a", "c")
    assert not is_derived(tmp_path / "a", "c")
    both = derive_picture(path, tmp_path / "b", "c", lambda _s, _w: None)
    for name in ("sync.wav", "sound.wav", "peaks.bin"):
        assert (alone / name).read_bytes() == (both / name).read_bytes(), name
    derive_picture(path, tmp_path / "a", "c", lambda _s, _w: None)
    assert facts_of(alone) == facts_of(both)
    assert (alone / ALL).exists()
    assert (alone / SOUND).exists()
    assert not list((tmp_path / "a").glob("*.making-*"))


def test_first_stills_come_from_frames_that_stand_alone_and_give_way(tmp_path: Path) -> None:
    path = film(tmp_path / "take.mp4", Fraction(25), 100, gop=12)
    told: list[float] = []
    folder = derive_stills(path, tmp_path / "a", "c", lambda s, _w: told.append(s))
    assert facts_of(folder)["stills"] == pytest.approx(8, abs=1)
    assert told == sorted(told)
    assert not is_derived(tmp_path / "a", "c")
    derive_picture(path, tmp_path / "a", "c", lambda _s, _w: None)
    final = (folder / "stills.jpg").read_bytes()
    derive_stills(path, tmp_path / "a", "c", lambda _s, _w: None)
    assert (folder / "stills.jpg").read_bytes() == final, "what is exact is not replaced by what is not"


def test_stills_that_are_replaced_while_they_are_asked_for_come_whole(
    client: TestClient, project: Project
) -> None:
    take = project.database.one(Media, name="GAL_01")
    path = project.derived(take) / "stills.jpg"
    versions = (b"first" * 200, b"exact" * 40_000)
    over = threading.Event()

    def put(content: bytes) -> None:
        aside = path.with_suffix(".aside")
        aside.write_bytes(content)
        aside.replace(path)

    def replace_again_and_again() -> None:
        while not over.is_set():
            for content in versions:
                put(content)

    put(versions[0])
    replacing = threading.Thread(target=replace_again_and_again)
    replacing.start()
    try:
        url = f"/api/v1/projects/small/media/{take.id}/stills.jpg"
        answers = [client.get(url) for _ in range(150)]
    finally:
        over.set()
        replacing.join()
    assert {a.content for a in answers} <= set(versions)
    assert all(len(a.content) == int(a.headers["content-length"]) for a in answers)


def test_a_take_without_sound_is_heard_too(tmp_path: Path) -> None:
    path = film(tmp_path / "take.mp4", Fraction(25), 20)
    folder = derive_sound(path, tmp_path / "a", "c", lambda _s, _w: None)
    assert facts_of(folder) == {}
    assert is_heard(tmp_path / "a", "c")


def test_files_are_seen_with_length_and_picture_before_they_are_added(tmp_path: Path, card: Path) -> None:
    (card / "words.mp4").write_text("words")
    (card / "deep").mkdir()
    other = tmp_path / "b" / "card"
    other.mkdir(parents=True)
    workspace = Workspace(tmp_path / "data", [card, other])
    with TestClient(create_app(Studio(workspace)), base_url="http://127.0.0.1") as client:
        names = [e["name"] for e in client.get("/api/v1/folders").json()["entries"]]
        assert len(set(names)) == len(names) == 2
        assert all(name.endswith("card") and "/" in name for name in names), (
            "folders of one name are told apart"
        )
        seen = {
            g["name"]: g for g in client.get("/api/v1/folders/glances", params={"path": str(card)}).json()
        }
        assert set(seen) == {"C0000.mp4", "C0001.mp4", "C0002.mp4"}
        assert seen["C0000.mp4"]["seconds"] == pytest.approx(2.4, abs=0.1)
        assert (seen["C0000.mp4"]["width"], seen["C0000.mp4"]["picture"][:22]) == (
            320,
            "data:image/jpeg;base64",
        )
        assert client.get("/api/v1/folders/glances", params={"path": "/etc"}).status_code == 403


def test_a_list_of_cuts_is_written_for_a_clip_that_could_not_be_prepared(
    client: TestClient, project: Any
) -> None:
    clip = project.database.all(Media, kind="broll")[0].id
    laid = client.post(
        "/api/v1/projects/small/edits/1", json={"op": "lay over", "working_s": 4.0, "media": clip}
    )
    assert laid.status_code == 200
    with project.database.writing() as connection:
        connection.execute(tables.media.update().where(tables.media.c.id == clip).values(state="failed"))
    answer = client.get("/api/v1/projects/small/edits/1/export/edl")
    assert answer.status_code == 200
    assert "FROM CLIP NAME" in answer.text


def test_zembis_own_line_up_is_rendered_where_it_lies() -> None:
    """A source range counts on the file's timecode where the file has one: one convention for every reader."""
    from zembi.core.interchange.lineup import PassRow, TakeRef, read_lineup, write_lineup
    from zembi.core.interchange.timeline import MediaRef, read_timeline

    rate = Fraction(24)
    row = PassRow(
        "GAL_01", "file:///x/GAL_01.mp4", 1.0, 9.0, 2.0, 10.0, 1.0, "locked", 1.0, "found", "01:00:00:00"
    )
    take = TakeRef(MediaRef("file:///x/GAL_01.mp4", "GAL_01", 20.0), rate, 24 * 3600)
    text = write_lineup("x", [row], [take], MediaRef("file:///x/song.wav", "song", 20.0), rate, 480)
    timeline = read_timeline(text)
    shown = next(s for s in on_screen(timeline.programme, timeline.rate) if s.media)
    assert (shown.start, shown.time.start_s) == (48, pytest.approx(1.0, abs=1e-6))
    assert read_lineup(text) == [row]
