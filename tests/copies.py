"""Copies of data folders, for tests that change what is in them."""

import os
import shutil
from contextlib import suppress
from pathlib import Path

#: What is written in where it lies; other files are written aside and put into their places whole.
_CHANGES = {".db", ".db-wal", ".db-shm", ".json", ".serving"}


def copied(source: Path, target: Path) -> Path:
    """A copy of a data folder that shares the original's media and what was derived from them."""

    def copy(of: str, to: str) -> None:
        if Path(of).suffix not in _CHANGES and Path(of).name not in _CHANGES:
            with suppress(OSError):  # not on one disk
                return os.link(of, to)
        shutil.copy2(of, to)

    shutil.copytree(source, target, copy_function=copy, dirs_exist_ok=True)
    return target
