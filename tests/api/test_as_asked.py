"""Films are those that were asked for: of the edit as it was then, in the shape that was named."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.abuse.support import Later
from tests.api.test_coverage import frames_of
from tests.api.test_work import URL, edit, operate
from tests.conftest import open_studio
from tests.test_cli import zembi
from zembi.api.app import create_app
from zembi.core.footage.fit import Fit
from zembi.media.render import render
from zembi.service.handoff.films import film_of
from zembi.service.media.library import fit
from zembi.service.project.asked import FOLDER
from zembi.service.project.workspace import Project, open_folder
from zembi.store.entities import Media


@pytest.fixture
def later() -> Later:
    return Later()


@pytest.fixture
def waiting(data: Path, footage: Path, later: Later) -> Iterator[TestClient]:
    """An application whose long work is done only when it is told to."""
    with TestClient(
        create_app(open_studio(data, footage, lambda: later)), base_url="http://127.0.0.1"
    ) as client:
        yield client


def project_of(client: TestClient) -> Project:
    return client.app.state.studio.workspace.open("small")  # type: ignore[attr-defined,no-any-return]


def film(client: TestClient, job: int, folder: Path) -> list[np.ndarray]:
    (folder / "film.mp4").write_bytes(client.get(f"{URL}/handoff/renders/{job}").content)
    return frames_of(folder / "film.mp4")


def test_a_film_is_of_the_edit_as_it_was_when_it_was_asked_for(
    waiting: TestClient, later: Later, tmp_path: Path
) -> None:
    while later.step():
        pass
    operate(waiting, "rough cut", beats=4, broll=0.0)
    render(film_of(project_of(waiting), 1, 0, 48), tmp_path / "wanted.mp4")
    wanted = frames_of(tmp_path / "wanted.mp4")
    first = waiting.post(f"{URL}/edits/1/renders", json={"first": 0, "end": 48}).json()["job"]
    operate(waiting, "black", start=0)
    second = waiting.post(f"{URL}/edits/1/renders", json={"first": 0, "end": 48}).json()["job"]
    kept = project_of(waiting).folder / FOLDER
    assert len(list(kept.glob("*.db"))) == 2
    while later.step():
        pass
    as_asked, black = film(waiting, first, tmp_path), film(waiting, second, tmp_path)
    assert max(np.abs(a.astype(int) - b).mean() for a, b in zip(as_asked, wanted, strict=True)) < 1
    assert max(f.mean() for f in black) < 4
    assert list(kept.glob("*")) == [], "no work needs the copies any more"
    assert edit(waiting)["shots"][0]["source"]["kind"] == "black"


def test_what_was_asked_for_outlives_a_restart_and_what_nobody_waits_for_goes(
    data: Path, footage: Path, later: Later, tmp_path: Path
) -> None:
    with TestClient(
        create_app(open_studio(data, footage, lambda: later)), base_url="http://127.0.0.1"
    ) as client:
        operate(client, "rough cut", beats=4, broll=0.0)
        job = client.post(f"{URL}/edits/1/renders", json={"first": 0, "end": 12}).json()["job"]
        stopped = client.post(f"{URL}/edits/1/renders", json={"first": 0, "end": 24}).json()["job"]
        client.delete(f"{URL}/jobs/{stopped}")
        operate(client, "black", start=0)
        folder = project_of(client).folder
    assert len(list((folder / FOLDER).glob("*.db"))) == 2
    with TestClient(create_app(open_studio(data, footage)), base_url="http://127.0.0.1") as again:
        assert max(f.mean() for f in film(again, job, tmp_path)) > 20
    assert list((folder / FOLDER).glob("*")) == []


@pytest.mark.parametrize("size", ["180x320", "320x180", "240x240"])
def test_a_film_of_another_shape_is_framed_in_that_shape(
    client: TestClient, project: Project, footage: Path, tmp_path: Path, size: str
) -> None:
    """From the command line as from a project that has this shape."""
    rope = project.database.one(Media, name="rope")
    fit(project, rope.id, Fit("fill", 0.2, 0.5))
    operate(client, "lay over", working_s=1.0, end_s=2.0, media=rope.id)
    start = edit(client)["cutaways"][0]["start"]
    treated = {"kind": "punch in", "scale": 1.5, "x": 0.3, "y": 0.4}
    operate(client, "treat", starts=[start], over=True, treatments=[treated, {"kind": "bars", "shape": 1.0}])
    place = ["--from", "1:2", "--to", "1:4"]
    zembi("render", project.folder, "--out", tmp_path / "a" / "sized.mp4", "--size", size, *place)
    width, height = map(int, size.split("x"))
    other = tmp_path / "other" / "projects" / "small"
    shutil.copytree(project.folder, other)
    (other.parent.parent / "media-folders.json").write_text(f'["{footage}"]')
    shaped = open_folder(other, [footage])
    with shaped.database.writing() as connection:
        connection.exec_driver_sql("UPDATE project SET width = ?, height = ?", (width, height))
    shaped.database.close()
    zembi("render", other, "--out", tmp_path / "own.mp4", *place)
    found, wanted = frames_of(tmp_path / "a" / "sized.mp4"), frames_of(tmp_path / "own.mp4")
    assert found[0].shape == wanted[0].shape == (height, width, 3)
    assert all(np.array_equal(a, b) for a, b in zip(found, wanted, strict=True))
    assert len({f.tobytes() for f in found}) > 1
