"""How tests start the application as a process of its own."""

import socket
import sys
from pathlib import Path


def serve_command(data: Path, *more: str | Path) -> list[str]:
    """The command that serves a folder of data; with the options after it."""
    return [sys.executable, "-m", "zembi.cli", "serve", "--data", str(data), *map(str, more)]


def free_port() -> int:
    """A port that nothing listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
