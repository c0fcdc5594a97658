"""Condition of a file that was added: there and the same, gone, replaced, or out of reach; in words."""

import os
import stat
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Literal

from zembi.core.errors import BadInput, NotAllowed
from zembi.core.lineup.grouping import camera_in_name
from zembi.media.probe import content_id
from zembi.service.project.workspace import Project
from zembi.store.entities import Media

State = Literal["ok", "offline", "changed", "unreadable"]


@dataclass(frozen=True)
class Condition:
    """Condition of a file; ``words`` is empty where all is well."""

    state: State
    words: str = ""


WELL = Condition("ok")
#: A file that is asked for is looked at again after so many seconds.
_AGAIN_S = 2.0


def camera_of(row: Media) -> str:
    """Name of a take's camera: by the editor, else from its file's name, "" where that says nothing."""
    return row.said.camera or (camera_in_name(Path(row.path).stem) if row.kind == "take" else "")


def inside(row: Media, in_s: float, out_s: float) -> tuple[float, float]:
    """In and out as far as they lie in the clip.

    Raises:
        BadInput: they leave nothing of it.
    """
    low, high = max(0.0, in_s), min(row.seconds, out_s)
    if high - low < 1e-3:
        raise BadInput(f"In and out of {row.name} leave nothing: the clip is {row.seconds:.2f} s long.")
    return low, high


@lru_cache(maxsize=4096)
def _content(path: Path, _size: int, _mtime_ns: int) -> str:
    return content_id(path)


def stamp(path: Path) -> dict[str, int]:
    """Size and time of change of a file, to see cheaply whether it is still the same."""
    found = path.stat()
    return {"size": found.st_size, "mtime_ns": found.st_mtime_ns}


class _Watch:
    """Conditions of files as they were last looked at, looked at again on a clock and apart from who asks.

    An operation's answer names every file that is gone; looking at each then would make a slow network drive slow each cut.
    """

    def __init__(self) -> None:
        self._known: dict[tuple[object, ...], tuple[float, Condition]] = {}
        self._looking: set[tuple[object, ...]] = set()
        self._one = ThreadPoolExecutor(1, thread_name_prefix="footage")

    def note(self, project: Project, row: Media, found: Condition) -> None:
        self._known[_key(project, row)] = time.monotonic(), found

    def last(self, project: Project, row: Media) -> Condition:
        key = _key(project, row)
        known = self._known.get(key)
        if known is None:
            return condition(project, row)
        if time.monotonic() - known[0] > _AGAIN_S and key not in self._looking:
            self._looking.add(key)
            self._one.submit(self._look, project, row, key)
        return known[1]

    def _look(self, project: Project, row: Media, key: tuple[object, ...]) -> None:
        try:
            condition(project, row)
        finally:
            self._looking.discard(key)


def _key(project: Project, row: Media) -> tuple[object, ...]:
    return project.folder, row.id, row.root, row.path, row.content


_WATCH = _Watch()


def last_condition(project: Project, row: Media) -> Condition:
    """The condition of a file as it was last looked at, some seconds ago at most while it is asked for."""
    return _WATCH.last(project, row)


def condition(project: Project, row: Media, *, closely: bool = False) -> Condition:
    """Look at a file now, and keep what was found; see :func:`_condition`."""
    found = _condition(project, row, closely=closely)
    _WATCH.note(project, row, found)
    return found


def _condition(project: Project, row: Media, *, closely: bool) -> Condition:
    """Look at a file: its real place, its size and time, and where those changed a few blocks of it.

    Args:
        project: The project.
        row: The media row.
        closely: Compare the blocks whatever size and time say, as before a render.
    """
    name = project.path_of(row).name
    try:
        path = project.file_of(row)
        found = path.stat()
        if not stat.S_ISREG(found.st_mode):
            return Condition("unreadable", f"{name} is not a file any more.")
        if not os.access(path, os.R_OK):
            return Condition("unreadable", f"{name} may not be read: permission denied.")
        same = (found.st_size, found.st_mtime_ns) == (row.facts.size, row.facts.mtime_ns)
        if not row.content or (same and not closely):
            return WELL
        now = content_id(path) if closely else _content(path, found.st_size, found.st_mtime_ns)
    except (FileNotFoundError, NotADirectoryError):
        return Condition("offline", f"{name} is offline. Put it back, or relink it.")
    except NotAllowed as fault:
        return Condition("unreadable", fault.message)
    except (OSError, RuntimeError) as fault:
        return Condition(
            "unreadable", f"{name} cannot be reached: {getattr(fault, 'strerror', None) or fault}."
        )
    if now == row.content:
        return WELL
    return Condition(
        "changed",
        f"{name} was replaced by another file since it was added. Put the old one back, relink it, or prepare it again.",
    )
