"""The examples of the documentation do what they say, as they stand there."""

import re
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import opentimelineio
import pytest
import uvicorn

from tests.conftest import open_studio
from tests.serving import free_port
from zembi.api.app import create_app
from zembi.media.probe import probe

DOCS = Path(__file__).parents[1] / "docs"


@pytest.fixture
def address(tmp_path: Path, footage: Path) -> Iterator[str]:
    """Where a server answers, whose long works are done when they are asked for."""
    studio = open_studio(tmp_path / "data", footage)
    server = uvicorn.Server(uvicorn.Config(create_app(studio), port=free_port(), log_level="error"))
    thread = threading.Thread(target=server.run)
    thread.start()
    end = time.monotonic() + 30
    while not server.started and time.monotonic() < end:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{server.config.port}"
    server.should_exit = True
    thread.join()


def test_the_examples_of_scripting(
    address: str,
    footage: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    monkeypatch.chdir(tmp_path)
    examples = re.findall(r"```python\n(.*?)```", (DOCS / "scripting.md").read_text(), re.DOTALL)
    assert len(examples) == 3
    names = {"SERVER": address, "FOOTAGE": str(footage)}
    for example in examples:
        exec(compile(example, "scripting.md", "exec"), names)
    said = capsys.readouterr().out
    assert "100% sure" in said or "99% sure" in said
    assert "the last operation was “Cut" in said
    film = probe(tmp_path / "film.mp4")
    assert (film.width, film.height) == (640, 360)
    timeline = opentimelineio.adapters.read_from_file(str(tmp_path / "edit.otio"))
    assert timeline.video_tracks()
