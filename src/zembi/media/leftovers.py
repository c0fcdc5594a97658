"""Files that a killed process left half made: named by its process, cleared once that is gone."""

import os
import re
import shutil
from pathlib import Path


def clear_dead(folder: Path, prefix: str) -> None:
    """Remove what lies in a folder under a prefix and the number of a process that is no more.

    Args:
        folder: Where it was being made.
        prefix: Of its name, up to the number.
    """
    named = re.compile(re.escape(prefix) + r"(\d+)(\..*)?")
    for left in folder.glob("*") if folder.is_dir() else ():
        found = named.fullmatch(left.name)
        if found and not _alive(int(found[1])):
            shutil.rmtree(left, ignore_errors=True) if left.is_dir() else left.unlink(missing_ok=True)


def _alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
