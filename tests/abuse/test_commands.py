"""The command line used wrongly: exit 2, and one true line."""

import socket
import subprocess
import sys
from pathlib import Path

import pytest

from tests.serving import serve_command
from zembi.cli import main
from zembi.cli.films import _size
from zembi.core.errors import BadInput
from zembi.service.project.workspace import Workspace

TIMELINE = '{"OTIO_SCHEMA": "Timeline.1", "tracks": null}'


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("commands")
    (folder / "file").touch()
    (folder / "words.otio").write_text("words")
    (folder / "deep.otio").write_text("[" * 500_000)
    (folder / "null.otio").write_text(TIMELINE)
    (folder / "words.wav").write_text("words")
    for name in ("torn", "blank", "empty"):
        (folder / name).mkdir()
    (folder / "torn" / "project.db").write_bytes(b"SQLite format 3\0" + b"x" * 5000)
    (folder / "empty" / "project.db").touch()
    project = Workspace(folder / "data").create("P", "24", 320, 180)
    project.database.close()
    return folder


WRONG = [
    "serve --data {}/d --port 99999", "serve --data {}/d --port -1", "serve --data {}/d --port x", "serve --data {}/file", "serve --data /proc/x",
    "serve --data {}/d --host no.such.invalid", "serve --data {}/d --host 203.0.113.9", "serve --data {}/d --media {}/file", "serve --data {}/d --allow-host a/b --host 0.0.0.0",
    "serve --data {}/file/d", "demo --prepare-only --data {}/file", "export {}/torn --format otio --out {}/x", "export {}/blank --format otio --out {}/x",
    "export {}/empty --format otio --out {}/x", "export {}/file --format otio --out {}/x", "export {}/data/projects/p --format nonsense --out {}/x",
    "render {}/torn --out {}/x.mp4", "render {}/nothing --out {}/x.mp4", "render {}/words.otio --out {}/x.mp4", "render {}/deep.otio --out {}/x.mp4",
    "render {}/null.otio --out {}/x.mp4", "render {}/words.otio --out {}/x.avi", "render {}/data/projects/p --out {}/x.mp4 --rate 0", "listen {}/words.wav",
    "listen {}/nothing", "listen {}", "align {}/words.wav {}/words.wav", "nonsense", "listen", "render {}/file",
]  # fmt: skip
SIZES = ["0x0", "-2x-2", "100000x100000", "1x1", "17x17", "axb", "1920", "1e3x1e3", "9" * 400 + "x2"]


def check(said: str, printed: str, code: object) -> None:
    assert code == 2, said
    assert printed == ""
    lines = said.strip().splitlines()
    assert len(lines) == 1, said
    assert lines[0].startswith("zembi: ")
    assert "Error" not in lines[0].split(":")[1]


def run(command: str, place: Path, monkeypatch: pytest.MonkeyPatch) -> object:
    """Run a command in this process; its exit code."""
    monkeypatch.setattr(sys, "argv", ["zembi", *command.replace("{}", str(place)).split()])
    with pytest.raises(SystemExit) as ended:
        main()
    return ended.value.code


@pytest.mark.parametrize("command", WRONG)
def test_wrong_use_is_one_line_and_exit_2(
    place: Path, command: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    code = run(command, place, monkeypatch)
    said = capsys.readouterr()
    check(said.err, said.out, code)


@pytest.mark.parametrize("size", SIZES)
def test_a_size_that_is_none_is_refused(place: Path, size: str) -> None:
    with pytest.raises(BadInput):
        _size(size)


def test_a_taken_port_is_said_to_be_taken(place: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        command = serve_command(place / "d", "--port", port)
        done = subprocess.run(command, capture_output=True, text=True, timeout=60)
    check(done.stderr, done.stdout, done.returncode)
    assert "is not free" in done.stderr
