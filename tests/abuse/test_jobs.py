"""Workers that die, servers that are killed: no job waits for ever, none is done twice, nothing half made stays."""

import json
import os
import signal
import subprocess
import threading
import time
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from tests.abuse.support import Later
from tests.conftest import open_studio
from tests.media.films import film
from tests.serving import serve_command
from zembi.jobs.pool import SeparateWorkers
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Reporter
from zembi.service.media.library import clear_half_made
from zembi.service.project.workspace import Project, Workspace
from zembi.store import tables
from zembi.store.entities import Job, Lineup, Media


def until(condition: Callable[[], Any], what: str, seconds: float = 30.0) -> Any:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if value := condition():
            return value
        time.sleep(0.05)
    raise AssertionError(f"not within {seconds} s: {what}")


def kill_self(note: str) -> None:
    with open(note, "a") as out:
        out.write("x")
    os.kill(os.getpid(), signal.SIGKILL)


def wait(seconds: float) -> int:
    time.sleep(seconds)
    return os.getpid()


def test_a_worker_that_dies_takes_its_own_work_only_with_it(tmp_path: Path) -> None:
    workers = SeparateWorkers(2)
    try:
        slow = workers.submit(wait, 3.0)
        dies = workers.submit(kill_self, str(tmp_path / "note"))
        after = workers.submit(wait, 0.0)
        with pytest.raises(BrokenProcessPool):
            dies.result(20)
        assert after.result(20) != slow.result(20)
    finally:
        workers.shutdown()
    with pytest.raises(RuntimeError):
        workers.submit(wait, 0.0)


def _dies(folder: Path, arguments: dict[str, Any], report: Any) -> dict[str, Any]:
    kill_self(str(folder / "deaths"))
    return {}


def _waits(folder: Path, arguments: dict[str, Any], report: Any) -> dict[str, Any]:
    with (folder / "begun").open("a") as out:
        out.write("x")
    for _ in range(600):
        if (folder / "go on").exists():
            return {"done": True}
        time.sleep(0.05)
    return {}


@pytest.fixture
def fresh(tmp_path: Path) -> Project:
    return Workspace(tmp_path).create("X", "24", 320, 180)


def states(project: Project) -> list[str]:
    return [j.state for j in project.database.all(Job)]


def test_a_work_that_ends_its_worker_is_tried_once_more_and_then_fails_in_words(fresh: Project) -> None:
    runner = JobRunner({"dies": _dies}, lambda: SeparateWorkers(1))
    ended = threading.Event()
    runner.ended = lambda _f, _j, _s: ended.set()
    try:
        runner.add(fresh.database, "dies", "Dying", {})
        assert ended.wait(30)
    finally:
        runner.stop()
    (job,) = fresh.database.all(Job)
    assert job.state == "failed"
    assert "ended from outside, twice" in job.error
    assert (fresh.folder / "deaths").read_text() == "xx"


def test_workers_are_awake_before_the_first_job_and_take_it(fresh: Project) -> None:
    workers = SeparateWorkers(2)
    runner = JobRunner({"waits": _waits}, lambda: workers)
    try:
        runner.wake()
        until(lambda: len(processes(workers)) == 2, "both awake")
        before = processes(workers)
        runner.wake()
        (fresh.folder / "go on").touch()
        runner.add(fresh.database, "waits", "Waiting", {})
        until(lambda: states(fresh) == ["done"], "the job")
        assert processes(workers) == before
    finally:
        runner.stop()
    runner.wake()
    assert processes(workers) == set()


def processes(workers: SeparateWorkers) -> set[int]:
    return {pid for pool in list(workers._pools.values()) for pid in list(pool._processes or {})}


def test_a_new_step_is_told_at_once_and_numbers_in_it_a_few_times_a_second(fresh: Project) -> None:
    runner = JobRunner({"x": _waits}, Later)
    report = Reporter(fresh.database, runner.add(fresh.database, "x", "Work", {}))
    told = []
    for share, words in [(0.1, "Reading"), (0.2, "Frame 1 of 9"), (0.3, "Frame 2 of 9"), (0.4, "Drawing")]:
        report(share, words)
        (job,) = fresh.database.all(Job)
        told.append((job.progress, job.message))
    assert told == [(0.1, "Reading"), (0.2, "Frame 1 of 9"), (0.2, "Frame 1 of 9"), (0.4, "Drawing")]


def test_killing_every_worker_leaves_three_jobs_that_are_taken_up_again(fresh: Project) -> None:
    workers = SeparateWorkers(3)
    runner = JobRunner({"waits": _waits}, lambda: workers)
    try:
        for n in range(3):
            runner.add(fresh.database, "waits", f"Waiting {n}", {"n": n})
        begun = fresh.folder / "begun"
        until(lambda: begun.exists() and len(begun.read_text()) == 3, "three at work")
        for pool in list(workers._pools.values()):
            for pid in list(pool._processes or {}):
                os.kill(pid, signal.SIGKILL)
        (fresh.folder / "go on").touch()
        until(lambda: states(fresh) == ["done"] * 3, "all done")
        assert len(begun.read_text()) == 6
    finally:
        runner.stop()


def test_the_end_of_a_job_that_the_disk_does_not_take_is_noted_later(
    fresh: Project, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    import sqlite3

    from sqlalchemy.exc import OperationalError

    from zembi.jobs import runner as module

    real, faults = (
        module.set_job,
        [OperationalError("x", {}, sqlite3.OperationalError("database or disk is full"))],
    )

    def sometimes(*args: Any, **values: Any) -> None:
        if faults:
            raise faults.pop()
        real(*args, **values)

    monkeypatch.setattr(module, "set_job", sometimes)
    monkeypatch.setattr(module, "_AGAIN_S", 0.1)
    later = Later()
    runner = JobRunner({"waits": _waits}, lambda: later)
    runner.add(fresh.database, "waits", "Waiting", {})
    future, _, _ = later.waiting.popleft()
    future.set_running_or_notify_cancel()
    future.set_exception(ValueError("odd"))
    until(lambda: states(fresh) == ["failed"], "noted")
    assert "odd" in fresh.database.one(Job, id=1).error


def test_a_work_that_this_version_does_not_know_fails_in_words(fresh: Project) -> None:
    runner = JobRunner({}, Later)
    runner.add(fresh.database, "paint", "Painting", {})
    (job,) = fresh.database.all(Job)
    assert (job.state, "paint" in job.error) == ("failed", True)


@contextmanager
def serving(data: Path, media: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    command = serve_command(data, "--media", media, "--port", "0")
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert server.stdout is not None
    url = server.stdout.readline().split()[-1]
    try:
        yield server, url
    finally:
        server.kill()
        server.communicate()


def ask(url: str, body: Any = None) -> Any:
    data = json.dumps(body).encode() if body is not None else None
    with urllib.request.urlopen(
        urllib.request.Request(url, data, {"content-type": "application/json"})
    ) as answer:
        return json.loads(answer.read())


def children(pid: int) -> list[int]:
    try:
        return [
            int(c) for t in Path(f"/proc/{pid}/task").iterdir() for c in (t / "children").read_text().split()
        ]
    except OSError:
        return []


def alive(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def test_workers_end_with_a_killed_server_and_its_work_is_done_once_after_a_restart(tmp_path: Path) -> None:
    card, data = tmp_path / "card", tmp_path / "data"
    card.mkdir()
    for n in range(3):
        film(card / f"C{n:04d}.mp4", Fraction(25), 300, size=(640, 360))
    with serving(data, card) as (server, url):
        ask(f"{url}/api/v1/projects", {"name": "P", "rate": "25", "width": 320, "height": 180})
        ask(f"{url}/api/v1/projects/p/media", {"paths": [str(p) for p in card.iterdir()], "kind": "broll"})
        until(
            lambda: any(j["state"] == "running" for j in ask(f"{url}/api/v1/projects/p/jobs")),
            "work has begun",
        )
        workers = until(lambda: children(server.pid), "workers")
        os.kill(server.pid, signal.SIGKILL)
        server.wait()
        until(lambda: not any(alive(p) for p in workers), "the workers ended too", 10)
    folder = data / "projects" / "p"
    (folder / "cache").mkdir(exist_ok=True)
    (folder / "cache" / "old.making-1").mkdir(exist_ok=True)
    with serving(data, card) as (_, url):
        assert not list((folder / "cache").glob("old.making-*")), "what was half made is cleared"
        until(
            lambda: all(m["prepared"] for m in ask(f"{url}/api/v1/projects/p")["media"]), "all prepared", 90
        )
        until(lambda: {j["state"] for j in ask(f"{url}/api/v1/projects/p/jobs")} == {"done"}, "all done", 60)
        jobs = ask(f"{url}/api/v1/projects/p/jobs")
        pictures = [j["title"] for j in jobs if j["kind"] == "picture"]
        assert len(pictures) == len(set(pictures)) == 3, "none is done twice"


def test_a_second_server_of_the_same_folder_is_refused(tmp_path: Path) -> None:
    (tmp_path / "card").mkdir()
    with serving(tmp_path / "data", tmp_path / "card"):
        command = serve_command(tmp_path / "data", "--port", "0")
        second = subprocess.run(command, capture_output=True, text=True, timeout=60)
        assert second.returncode == 2
        assert "Another Zembi serves" in second.stderr
        assert len(second.stderr.strip().splitlines()) == 1


def test_a_kill_between_prepared_and_lined_up_is_taken_up_at_start(
    prepared: Path, footage: Path, data: Path
) -> None:
    workspace = Workspace(data, [footage])
    project = workspace.open("small")
    with project.database.writing() as connection:
        (take,) = (m.id for m in project.database.all(Media) if m.name == "GAL_01")
        connection.execute(tables.pass_.delete().where(tables.pass_.c.media == take))
        connection.execute(tables.lineup.delete().where(tables.lineup.c.media == take))
        connection.execute(tables.job.delete().where(tables.job.c.kind == "align"))
    project.database.close()
    studio = open_studio(data, footage)
    try:
        studio.start()
        assert take in {r.media for r in studio.workspace.open("small").database.all(Lineup)}
    finally:
        studio.stop()


def test_everything_half_made_is_cleared_and_nothing_else(fresh: Project) -> None:
    half = [
        "media/.ab12.part",
        "renders/.film.rendering-1.mp4",
        "exports/zembi-x/a.wav",
        "cache/c-2.making-9/x",
        "cache/scratch-1/x",
        "cache/c-2/.listen-9.json.77",
    ]
    whole = ["media/take.mp4", "renders/film.mp4", "exports/a.zip", "cache/c-2/done.json"]
    for name in half + whole:
        path = fresh.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("x")
    clear_half_made(fresh)
    left = {
        str(p.relative_to(fresh.folder))
        for p in fresh.folder.rglob("*")
        if p.is_file() and not p.name.startswith("project.db")
    }
    assert left == set(whole)
