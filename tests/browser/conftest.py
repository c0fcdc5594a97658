"""The demo project served by a real server process, and headless Chromium before it."""

import json
import os
import shutil
import signal
import sqlite3
import subprocess
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from selenium.common.exceptions import StaleElementReferenceException

from tests.browser.chromium import Driver, chromium
from tests.copies import copied
from tests.serving import free_port, serve_command
from zembi.demo.project import PROJECT_ID, make_demo

#: The demo's database as it was made.
TREATED = "as-made.db"


@dataclass
class Server:
    """A running `zembi serve`, which can be killed and started again."""

    data: Path
    port: int
    process: subprocess.Popen[str] | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = serve_command(self.data, "--port", str(self.port))
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        line = self.process.stdout.readline()
        assert f"ready at {self.url}" in line, line

    def kill(self) -> None:
        """End it as a power cut would."""
        assert self.process is not None
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()
        if self.process.stdout:
            self.process.stdout.close()

    def get(self, path: str = "") -> Any:
        """What the server says of the demo project."""
        with urllib.request.urlopen(f"{self.url}/api/v1/projects/{PROJECT_ID}{path}") as answer:
            return json.loads(answer.read())

    def send(self, path: str, body: Any, method: str = "POST") -> Any:
        """Change something of the demo project past the page; the server's answer."""
        url = f"{self.url}/api/v1/projects/{PROJECT_ID}{path}"
        head = {"Content-Type": "application/json"}
        request = urllib.request.Request(url, json.dumps(body).encode(), head, method=method)
        with urllib.request.urlopen(request) as answer:
            return json.loads(answer.read())


@contextmanager
def serving(data: Path) -> Iterator[Server]:
    """A server of a folder of data, on a free port, while it is needed."""
    server = Server(data, free_port())
    server.start()
    try:
        yield server
    finally:
        server.kill()


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    data = tmp_path_factory.mktemp("demo") / "data"
    made = os.environ.get("ZEMBI_TEST_DEMO")
    if made:
        copied(Path(made), data)
    folder = make_demo(data)
    shutil.copy(folder / "project.db", folder / TREATED)
    # What is treated moves the counts by which pictures are told: and titles lie over them: only tests of treatments have it.
    with sqlite3.connect(folder / "project.db") as connection:
        connection.execute("DELETE FROM item WHERE json_extract(source, '$.kind') IN ('beneath', 'card')")
        connection.execute("DELETE FROM lane WHERE kind = 'titles'")
        connection.execute("UPDATE item SET treated = NULL")
    connection.close()
    with serving(data) as server:
        yield server


@pytest.fixture(scope="module")
def treated(server: Server, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server with a demo project of its own, treated as it was made."""
    data = tmp_path_factory.mktemp("treated") / "data"
    copied(server.data, data)
    folder = data / "projects" / PROJECT_ID
    for left in folder.glob("project.db*"):
        left.unlink()
    shutil.copy(folder / TREATED, folder / "project.db")
    with serving(data) as own:
        yield own


@pytest.fixture(scope="module")
def own(server: Server, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server with a demo project of its own, so that the other tests find theirs as it was."""
    data = tmp_path_factory.mktemp("own") / "data"
    copied(server.data, data)
    with serving(data) as own:
        yield own


@pytest.fixture(scope="session")
def page(server: Server, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Driver]:
    downloads = tmp_path_factory.mktemp("downloads")
    driver = chromium(tmp_path_factory.mktemp("profile"), downloads)
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
    )
    driver.implicitly_wait(0)
    driver.downloads = downloads  # type: ignore[attr-defined]
    yield driver
    driver.quit()


def until(condition: Any, what: str, seconds: float = 30.0) -> Any:
    """Wait for something to become true; returns it. What is drawn anew while it is read is read again."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        try:
            value = condition()
        except StaleElementReferenceException:
            value = None
        if value:
            return value
        time.sleep(0.05)
    raise AssertionError(f"not within {seconds} s: {what}")
