"""Making the demo project while serving: a process of its own, so that nobody waits for it."""

import json
import os
import shutil
import signal
import subprocess
import sys
import threading
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

#: How a folder begins in which a demo project is made before it is complete.
MAKING_DEMO = ".making-demo-"
_DEMO = (sys.executable, "-m", "zembi.cli", "demo", "--prepare-only", "--report")


@dataclass(frozen=True)
class Making:
    """Progress: "idle", "making", "done" or "failed"; the share done and what is going on, in words."""

    state: str
    share: float
    words: str


class Showcase:
    """Makes the demo project in a data folder, one at a time."""

    def __init__(self, data: Path, command: tuple[str, ...] = _DEMO) -> None:
        self._data, self._command = data, command
        self._now = Making("idle", 0.0, "")
        self._process: subprocess.Popen[str] | None = None
        self._lock = threading.Lock()

    def now(self) -> Making:
        """Its progress."""
        return self._now

    def start(self) -> Making:
        """Begin to make it, unless that is under way."""
        with self._lock:
            if self._now.state != "making":
                self._now = Making("making", 0.0, "Starting")
                self._process = subprocess.Popen(
                    [*self._command, "--data", str(self._data)],
                    stdout=subprocess.PIPE,
                    stderr=subprocess.PIPE,
                    text=True,
                    start_new_session=True,
                )
                threading.Thread(target=self._follow, args=(self._process,), daemon=True).start()
            return self._now

    def _follow(self, process: "subprocess.Popen[str]") -> None:
        assert process.stdout is not None
        for line in process.stdout:
            if line.startswith("{"):
                told = json.loads(line)
                self._now = Making("making", float(told["share"]), str(told["words"]))
        _, errors = process.communicate()
        if process.returncode == 0:
            self._now = Making("done", 1.0, "The demo project is there.")
        else:
            said = errors.strip().splitlines()[-1:] or ["it ended by itself"]
            self._now = Making("failed", 0.0, f"The demo project could not be made: {said[0]}")

    def stop(self) -> None:
        """End what is under way; it leaves no project behind."""
        process = self._process
        if process is not None and process.poll() is None:
            with suppress(ProcessLookupError):
                # It has workers of its own: the whole group goes.
                os.killpg(process.pid, signal.SIGKILL)
            process.wait(timeout=20)
            for left in self._data.glob(f"{MAKING_DEMO}*"):
                shutil.rmtree(left, ignore_errors=True)
