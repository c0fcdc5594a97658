"""Files are looked at on a clock, not by each operation: a drive that is slow, or gone, slows no cut and is told of soon."""

import time
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tests.api.test_work import URL, edit, media, operate
from zembi.service.project.workspace import Project


def test_operations_look_at_no_file_and_one_that_goes_is_told_of_soon(
    client: TestClient, project: Project, monkeypatch: pytest.MonkeyPatch
) -> None:
    rope = media(client, "rope")
    operate(client, "lay over", working_s=1.0, end_s=2.0, media=rope["id"])
    looked: list[str] = []
    gone: set[str] = set()
    real = Project.file_of

    def counted(self: Project, row: object) -> Path:
        looked.append(row.id)  # type: ignore[attr-defined]
        if row.id in gone:  # type: ignore[attr-defined]
            raise FileNotFoundError(2, "No such file or directory")
        return real(self, row)  # type: ignore[arg-type]

    monkeypatch.setattr(Project, "file_of", counted)

    def slot(at: float) -> list[str]:
        answer = client.post(f"{URL}/edits/1", json={"op": "slot", "working_s": at, "unit": "free"})
        assert answer.status_code == 200, answer.text
        return [f["text"] for f in answer.json()["findings"]]

    for n in range(4):
        slot(4.0 + n)
    assert looked == []
    gone.add(rope["id"])
    end, at = time.monotonic() + 10, 20.0
    while not any("offline" in text for text in slot(at)):
        assert time.monotonic() < end
        at += 0.1
        time.sleep(0.2)
    gone.clear()
    assert not any("offline" in f["text"] for f in edit(client)["findings"]), "reading looks at once"
