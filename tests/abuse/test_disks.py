"""Full and failing disks: what is said, and that nothing is lost."""

import errno
import shutil
from collections import namedtuple
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.abuse.support import everything, sound
from tests.conftest import add
from zembi.core.errors import BadInput, NoRoom
from zembi.jobs.disk import disk_fault, need_room, said
from zembi.service.project.workspace import Project
from zembi.store.entities import Media

URL = "/api/v1/projects/small"
Usage = namedtuple("Usage", "total used free")


def left(monkeypatch: pytest.MonkeyPatch, free: int) -> None:
    """A disk with so much room left."""
    monkeypatch.setattr(shutil, "disk_usage", lambda _p: Usage(10**12, 10**12 - free, free))


def test_work_that_will_not_fit_is_refused_before_it_begins_with_disk_and_need(
    client: TestClient, project: Project, footage: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    left(monkeypatch, 60 << 20)
    (media,) = add(client, URL, footage, "take", "DECK_02.mp4")
    shutil.rmtree(project.derived(project.database.one(Media, id=media)))
    client.post(f"{URL}/media/{media}/preparations")
    job = client.get(f"{URL}/jobs").json()[0]
    assert job["state"] == "failed"
    assert "DECK_02.mp4 needs about" in job["error"]
    assert "the disk at /" in job["error"]
    row = project.database.one(Media, id=media)
    assert row.state != "failed", "the file is not to blame"
    answer = client.post(f"{URL}/edits/1/renders", json={})
    assert (answer.status_code, answer.json()["code"]) == (507, "no_room")
    monkeypatch.undo()
    client.post(f"{URL}/media/{media}/preparations")
    assert next(m for m in client.get(URL).json()["media"] if m["id"] == media)["prepared"]


@pytest.mark.parametrize("number", [errno.ENOSPC, errno.EDQUOT])
def test_a_disk_that_fills_up_in_the_middle_says_so_and_leaves_nothing_half_made(
    client: TestClient, project: Project, monkeypatch: pytest.MonkeyPatch, number: int
) -> None:
    clip = next(m for m in project.database.all(Media) if m.name == "rope")
    shutil.rmtree(project.derived(clip))
    others = sorted(project.cache.iterdir())

    def full(*_args: Any) -> None:
        raise OSError(number, "No space left on device")

    monkeypatch.setattr("zembi.media.derive.StillSheet.save", full)
    client.post(f"{URL}/media/{clip.id}/preparations")
    job = client.get(f"{URL}/jobs").json()[0]
    assert (job["state"], "is full" in job["error"]) == ("failed", True)
    assert sorted(project.cache.iterdir()) == others
    monkeypatch.undo()
    client.post(f"{URL}/media/{clip.id}/preparations")
    assert next(m for m in client.get(URL).json()["media"] if m["id"] == clip.id)["prepared"]


def test_an_edit_on_a_full_disk_is_refused_in_words_and_nothing_is_lost(
    client: TestClient, project: Project
) -> None:
    before = everything(project.database)
    with project.database.writing() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
    # SQLite's own limit gives its own "database or disk is full".
    project.database.engine.dispose()
    from sqlalchemy import event

    @event.listens_for(project.database.engine, "connect")
    def limit(connection: Any, _record: Any) -> None:
        connection.execute(f"PRAGMA max_page_count={pages}")

    try:
        answer = client.put(
            f"{URL}/song/lyrics", json={"text": "\n".join(f"line {n} " + "x" * 90 for n in range(5000))}
        )
        assert (answer.status_code, answer.json()["code"]) == (507, "no_room"), answer.text
        assert "is full" in answer.json()["detail"]
        assert everything(project.database) == before
    finally:
        event.remove(project.database.engine, "connect", limit)
        project.database.engine.dispose()
    assert client.put(f"{URL}/song/lyrics", json={"text": "a line"}).status_code == 200
    sound(project)


def test_an_upload_to_a_full_disk_is_refused_and_leaves_nothing(
    client: TestClient, project: Project, monkeypatch: pytest.MonkeyPatch
) -> None:
    left(monkeypatch, 10 << 20)
    answer = client.post(f"{URL}/uploads", params={"name": "x.mp4", "kind": "take"}, content=b"x" * 1000)
    assert answer.status_code == 507
    assert "Make room" in answer.json()["detail"]
    assert not [p for p in (project.folder / "media").glob("*") if p.name != ""]


def test_a_disk_is_named_and_counted(tmp_path: Path) -> None:
    assert (said(3_000_000), said(2.5e9), said(1)) == ("3 MB", "2.50 GB", "1 MB")
    need_room(tmp_path, 1, "This")
    with pytest.raises(NoRoom, match="This needs about"):
        need_room(tmp_path, 1e18, "This")
    assert isinstance(disk_fault(OSError(errno.ENOSPC, "full"), tmp_path), NoRoom)
    other = disk_fault(OSError(errno.EROFS, "Read-only file system", str(tmp_path / "x.mp4")), tmp_path)
    assert isinstance(other, BadInput)
    assert other.message == "x.mp4 cannot be used (Read-only file system)."


@pytest.mark.parametrize(
    "words",
    [
        "disk I/O error",
        "attempt to write a readonly database",
        "database disk image is malformed",
        "unable to open database file",
    ],
)
def test_a_failing_disk_is_answered_in_words(
    client: TestClient, project: Project, monkeypatch: pytest.MonkeyPatch, words: str
) -> None:
    import sqlite3

    from sqlalchemy.exc import OperationalError

    def fail(*_args: Any, **_more: Any) -> Any:
        raise OperationalError("SELECT", {}, sqlite3.OperationalError(words))

    monkeypatch.setattr(project.database, "reading", fail)
    answer = client.get(URL)
    assert (answer.status_code, answer.json()["code"]) == (409, "damaged")
    assert words in answer.json()["detail"]
