"""A small song with a few takes, prepared once, and an application over a copy of it."""

import fcntl
import os
import shutil
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import hypothesis  # before anything the application loads is frozen for the collector
import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.copies import copied
from tests.media.films import film
from zembi.api.app import create_app
from zembi.demo.camera import Room, chatter, record
from zembi.demo.song import PLAN
from zembi.demo.synth import Performance, SongPlan, play
from zembi.jobs.runner import JobRunner
from zembi.media.derive import write_flac
from zembi.service.application.studio import Studio
from zembi.service.application.work import BACKGROUND, ORDER, works
from zembi.service.project.workspace import Project, Workspace

# The same examples each time, so that a run speaks of the code alone; "make abuse" tries others, with seeds of its own.
# No example is timed: how long it takes says how busy the machine is.
hypothesis.settings.register_profile("others", deadline=None)
hypothesis.settings.register_profile("same", derandomize=True, database=None, deadline=None)
hypothesis.settings.load_profile("others" if "ZEMBI_ABUSE" in os.environ else "same")

SMALL = SongPlan(bpm=120.0, parts=(PLAN.parts[1], PLAN.parts[2], PLAN.parts[3], PLAN.parts[4]), head_s=0.5)


class Inline(Executor):
    """Does the work at once, in this process: the same jobs without the wait for processes."""

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> "Future[Any]":
        future: Future[Any] = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except BaseException as fault:
            future.set_exception(fault)
        return future


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What needs no project comes early: one worker makes the project meanwhile, for all of them. What is long, too."""
    first = items[0].path if items else None
    early = ("core", "test_cli.py", "media")

    def place(item: pytest.Item) -> tuple[bool, int]:
        return item.path != first, next((n for n, e in enumerate(early) if e in item.path.parts), len(early))

    items.sort(key=place)


def made_once(factory: pytest.TempPathFactory, name: str, make: Callable[[Path], None]) -> Path:
    """A folder that the first worker to need it makes, and all share."""
    base = factory.getbasetemp().parent if "PYTEST_XDIST_WORKER" in os.environ else factory.getbasetemp()
    folder, made = base / name, base / f"{name}.made"
    with (base / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            shutil.rmtree(folder, ignore_errors=True)
            folder.mkdir()
            make(folder)
            made.touch()
    return folder


@pytest.fixture(scope="session")
def performance() -> Performance:
    return play(SMALL)


@pytest.fixture(scope="session")
def footage(tmp_path_factory: pytest.TempPathFactory, performance: Performance) -> Path:
    """A folder of files: the song, a full take, a take of the chorus only, one without sound, talk, and B-roll."""
    return made_once(tmp_path_factory, "footage", lambda folder: make_footage(folder, performance))


def make_footage(folder: Path, performance: Performance) -> None:
    rate, song = performance.sample_rate, performance.audio.mean(axis=1)
    write_flac(folder / "song.flac", performance.audio, rate)

    def take(name: str, heard: np.ndarray, fps: Fraction, seed: int) -> None:
        sound = record(heard, rate, Room(0.4, -20.0), seed)[:, None]
        film(folder / name, fps, int(len(heard) / rate * fps), sound=sound)

    def talk(seconds: float) -> np.ndarray:
        return 0.2 * chatter(seconds, rate, 9)

    take("GAL_01.mp4", np.concatenate([talk(2.0), song, talk(1.0)]), Fraction(24), 1)
    take("DECK_02.mp4", np.concatenate([talk(1.0), song[: 30 * rate]]), Fraction(30000, 1001), 2)
    chorus = next(int((s + 2.0) * rate) for s, _, name in performance.sections if name == "Chorus 1")
    take(
        "LAMP_03.mp4",
        np.concatenate([talk(1.0), song[chorus : chorus + 11 * rate], talk(1.0)]),
        Fraction(24),
        3,
    )
    take("LOFT_08.mp4", talk(12.0), Fraction(24), 4)
    film(folder / "HIGH_02.mp4", Fraction(60), 200)
    film(folder / "rope.mp4", Fraction(25), 125)
    film(folder / "gulls.mp4", Fraction(60), 400)
    alone = replace(SMALL, parts=tuple(replace(p, drums="none", bass=False, pad=0.0) for p in SMALL.parts))
    write_flac(folder / "voice.flac", play(alone).audio, rate)
    drums = replace(SMALL, parts=tuple(replace(p, bass=False, pad=0.0, lead=()) for p in SMALL.parts))
    # As a stem is often given: with silence cut off its head.
    write_flac(folder / "drums.flac", play(drums).audio[int(0.4 * rate) :], rate)
    other = replace(
        SMALL,
        bpm=97.0,
        parts=tuple(replace(p, seed=p.seed + 50, chords=("Dm", "Em")) for p in SMALL.parts[:2]),
    )
    write_flac(folder / "other.flac", play(other).audio, rate)
    (folder / "notes.mp4").write_text("these are words, not pictures " * 100)


def open_studio(data: Path, footage: Path, executor: Callable[[], Executor] = Inline) -> Studio:
    workspace = Workspace(data, [footage])
    return Studio(workspace, JobRunner(works(workspace), executor, order=ORDER, background=BACKGROUND))


@pytest.fixture(scope="session")
def prepared(tmp_path_factory: pytest.TempPathFactory, footage: Path) -> Path:
    """A data folder with a project that holds all of the footage, prepared and lined up."""
    return made_once(tmp_path_factory, "prepared", lambda data: prepare_project(data, footage))


def prepare_project(data: Path, footage: Path) -> None:
    studio = open_studio(data, footage)
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        made = client.post(
            "/api/v1/projects", json={"name": "Small", "rate": "24", "width": 320, "height": 180}
        )
        assert made.status_code == 201, made.text
        url = "/api/v1/projects/small"
        add(client, url, footage, "song", "song.flac")
        add(
            client,
            url,
            footage,
            "take",
            "GAL_01.mp4",
            "DECK_02.mp4",
            "LAMP_03.mp4",
            "LOFT_08.mp4",
            "HIGH_02.mp4",
            "notes.mp4",
        )
        add(client, url, footage, "broll", "rope.mp4", "gulls.mp4")
    for project_id in studio.workspace.ids():
        studio.workspace.open(project_id).database.close()


def add(client: TestClient, url: str, footage: Path, kind: str, *names: str) -> list[str]:
    answer = client.post(f"{url}/media", json={"paths": [str(footage / n) for n in names], "kind": kind})
    assert answer.status_code == 201, answer.text
    return list(answer.json())


@pytest.fixture
def data(tmp_path: Path, prepared: Path) -> Path:
    """A copy of the prepared data folder."""
    return copied(prepared, tmp_path / "data")


@pytest.fixture
def client(data: Path, footage: Path) -> Iterator[TestClient]:
    with TestClient(create_app(open_studio(data, footage)), base_url="http://127.0.0.1") as client:
        yield client


@pytest.fixture
def project(client: TestClient) -> Project:
    """The project behind the client, for looking at what is stored."""
    studio: Studio = client.app.state.studio  # type: ignore[attr-defined]
    return studio.workspace.open("small")
