"""Making, opening and deleting projects, at once, killed in the middle, damaged."""

import os
import shutil
import signal
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tests.abuse.support import Idle
from tests.conftest import open_studio
from zembi.api.app import create_app
from zembi.core.errors import Damaged
from zembi.service.project.workspace import Workspace

NEW = {"name": "Lamp Room", "rate": "24", "width": 320, "height": 180}


@pytest.fixture
def client(tmp_path: Path) -> TestClient:
    return TestClient(create_app(open_studio(tmp_path, tmp_path / "card", Idle)), base_url="http://127.0.0.1")


def test_a_double_click_makes_two_projects_and_both_open(client: TestClient, tmp_path: Path) -> None:
    with client, ThreadPoolExecutor(8) as pool:
        answers = list(pool.map(lambda _n: client.post("/api/v1/projects", json=NEW), range(8)))
        assert {a.status_code for a in answers} == {201}
        ids = {a.json()["id"] for a in answers}
        assert len(ids) == 8
        for project_id in ids:
            assert client.get(f"/api/v1/projects/{project_id}").status_code == 200
    assert [p.name for p in (tmp_path / "projects").iterdir() if p.name.startswith(".")] == []


MAKER = """
import sys
from pathlib import Path
from zembi.service.project.workspace import Workspace
workspace = Workspace(Path(sys.argv[1]))
print("go", flush=True)
for n in range(200):
    workspace.create("Lamp Room", "24", 320, 180)
"""


def test_a_kill_in_the_middle_of_making_leaves_nothing_behind(tmp_path: Path) -> None:
    for wait in (0.02, 0.07, 0.15, 0.31):
        maker = subprocess.Popen([sys.executable, "-c", MAKER, str(tmp_path)], stdout=subprocess.PIPE)
        assert maker.stdout is not None
        maker.stdout.readline()
        time.sleep(wait)
        os.kill(maker.pid, signal.SIGKILL)
        maker.communicate()
    workspace = Workspace(tmp_path)
    lock = workspace.serve_alone()
    assert not [p for p in workspace.projects_folder.iterdir() if p.name.startswith(".")]
    for project_id in workspace.ids():
        assert workspace.open(project_id).about.name == "Lamp Room"
    lock.close()


def test_two_processes_making_at_once_both_succeed(tmp_path: Path) -> None:
    makers = [
        subprocess.Popen(
            [sys.executable, "-c", MAKER.replace("200", "12"), str(tmp_path)], stdout=subprocess.DEVNULL
        )
        for _ in range(3)
    ]
    assert [m.wait(120) for m in makers] == [0, 0, 0]
    assert len(Workspace(tmp_path).ids()) == 36


def damage(folder: Path, how: str) -> None:
    database = folder / "project.db"
    match how:
        case "empty":
            database.write_bytes(b"")
        case "missing":
            database.unlink()
        case "words":
            database.write_text("these are words, not a database, and there are many of them")
        case "torn":
            database.write_bytes(database.read_bytes()[:100] + os.urandom(9000))
        case "cut":
            database.write_bytes(database.read_bytes()[:5000])
        case "a folder":
            database.unlink()
            database.mkdir()
        case "newer":
            import sqlite3

            with sqlite3.connect(database) as connection:
                connection.execute("UPDATE alembic_version SET version_num = '9999'")
            connection.close()
        case "blank":
            import sqlite3

            with sqlite3.connect(database) as connection:
                connection.execute("DELETE FROM project")
            connection.close()


@pytest.mark.parametrize("how", ["empty", "missing", "words", "torn", "cut", "a folder", "newer", "blank"])
def test_one_bad_project_says_what_is_wrong_and_hides_no_other(tmp_path: Path, how: str) -> None:
    workspace = Workspace(tmp_path)
    for name in ("Good", "Bad", "Worse"):
        workspace.create(name, "24", 320, 180).database.close()
    damage(workspace.projects_folder / "bad", how)
    before = sorted(
        p.name for p in (workspace.projects_folder / "bad").iterdir() if not p.name.startswith("project.db-")
    )
    app = create_app(open_studio(tmp_path, tmp_path / "card", Idle))
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        cards = {c["id"]: c for c in client.get("/api/v1/projects").json()}
        assert set(cards) == {"good", "bad", "worse"}
        assert cards["good"]["trouble"] == cards["worse"]["trouble"] == ""
        assert "bad" in cards["bad"]["trouble"]
        for path in ("", "/edits/1", "/jobs", "/events", "/song/detail"):
            answer = client.get(f"/api/v1/projects/bad{path}")
            assert (answer.status_code, answer.json()["code"]) == (409, "damaged")
        assert client.post("/api/v1/projects/bad/undo").status_code == 409
        now = sorted(
            p.name
            for p in (workspace.projects_folder / "bad").iterdir()
            if not p.name.startswith("project.db-")
        )
        assert now == before
        assert client.get("/api/v1/projects/good").status_code == 200
        assert client.delete("/api/v1/projects/bad").status_code == 200
        assert {c["id"] for c in client.get("/api/v1/projects").json()} == {"good", "worse"}


def test_a_project_whose_folder_vanishes_while_it_is_open(client: TestClient, tmp_path: Path) -> None:
    with client:
        client.post("/api/v1/projects", json=NEW)
        shutil.rmtree(tmp_path / "projects" / "lamp-room")
        assert client.get("/api/v1/projects/lamp-room").status_code == 404
        assert client.get("/api/v1/projects").json() == []
        assert client.post("/api/v1/projects", json=NEW).json()["id"] == "lamp-room"


@pytest.mark.parametrize(
    "name", ["x" * 200, "../../etc", "é" * 200, ".", "con", "a/b", "\u202e", "💥", "-", "Project.db", " x "]
)
def test_a_project_of_any_name_is_made_in_a_folder_of_its_own(
    client: TestClient, tmp_path: Path, name: str
) -> None:
    with client:
        made = client.post("/api/v1/projects", json={**NEW, "name": name})
        assert made.status_code == 201, made.text
        assert made.json()["name"] == name.strip()
        assert [p.name for p in (tmp_path / "projects").iterdir()] == [made.json()["id"]]
        assert client.get(f"/api/v1/projects/{made.json()['id']}/song/marks.csv").status_code == 200


@pytest.mark.parametrize("project_id", ["..", ".making-x", "A", "x" * 300, "a b", "a%2fb", "é"])
def test_no_other_folder_is_a_project(tmp_path: Path, project_id: str) -> None:
    from zembi.core.errors import NotFound

    workspace = Workspace(tmp_path)
    (workspace.projects_folder / ".making-x").mkdir()
    with pytest.raises(NotFound):
        workspace.open(project_id)


def test_a_blank_folder_is_a_damaged_project(tmp_path: Path) -> None:
    workspace = Workspace(tmp_path)
    (workspace.projects_folder / "blank").mkdir()
    with pytest.raises(Damaged, match=r"lost its project\.db"):
        workspace.open("blank")
