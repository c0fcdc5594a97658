"""The workspace of projects and footage: the data folder, the allowed media folders, and opening a project."""

import errno
import fcntl
import json
import os
import re
import secrets
import shutil
import sqlite3
import time
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from threading import RLock, get_ident
from typing import Any, BinaryIO

import platformdirs
from sqlalchemy import insert

from zembi.core.errors import BadInput, Damaged, NotAllowed, NotFound
from zembi.core.programme.size import checked_size
from zembi.core.timebase import parse_rate
from zembi.media.derive import derived_folder
from zembi.store import tables
from zembi.store.database import Database
from zembi.store.entities import About, Media

#: Root name of files that lie inside the project's own folder.
INSIDE = "project"
#: What the folder of a project that is being made, or deleted, begins with; left-overs are cleared at start.
_MAKING, _GOING = ".making-", ".going-"
_ID = re.compile(r"[a-z0-9][a-z0-9-]*")
_LONGEST_ID = 80
#: Where the folders that the person allowed last are noted, for commands that have no --media.
_ALLOWED = "media-folders.json"


def default_data_folder() -> Path:
    """The platform's own folder for this person's data."""
    return Path(platformdirs.user_data_dir("zembi", appauthor=False))


def default_media_folders(data: Path) -> list[Path]:
    """Folders that footage may be read from unless told otherwise."""
    found = [data / "media"]
    for folder in (platformdirs.user_videos_dir(), platformdirs.user_music_dir()):
        if Path(folder).is_dir():
            found.append(Path(folder))
    return found


@dataclass
class Project:
    """An open project: one folder that can be copied."""

    id: str
    folder: Path
    database: Database
    media_folders: tuple[Path, ...] = ()

    @property
    def cache(self) -> Path:
        """Folder of everything derived from footage; it can be deleted at any time."""
        return self.folder / "cache"

    @property
    def rate(self) -> Fraction:
        """The project's frame rate."""
        return parse_rate(self.about.rate)

    @property
    def about(self) -> About:
        """The project's own row."""
        return self.database.one(About, id=1)

    def path_of(self, media: Media) -> Path:
        """Recorded path of a media row's file, for showing it; :meth:`file_of` is for reading."""
        root = self.folder if media.root == INSIDE else Path(media.root)
        return root / str(media.path)

    def file_of(self, media: Media) -> Path:
        """A media row's file, to be opened now.

        Raises:
            NotAllowed: its real place, after all links, is outside the project's own and the allowed folders.
            OSError: it is not there, or may not be reached.
        """
        path = self.path_of(media)
        real = path.resolve(strict=True)
        if not any(real.is_relative_to(f) for f in (self.folder.resolve(), *self.media_folders)):
            raise NotAllowed(
                f"{path.name} lies in {real.parent}, outside the allowed media folders. Start zembi serve with "
                "--media to allow that folder, or relink the file."
            )
        return real

    def derived(self, media: Media) -> Path:
        """Folder of what was made from a media row's content."""
        return derived_folder(self.cache, media.content)


def _opened(project_id: str, folder: Path, media_folders: Sequence[Path]) -> Project:
    """Open a project's database.

    Raises:
        Damaged: missing, empty, damaged, of a newer version, or without a project in it.
    """
    path = folder / "project.db"
    try:
        size = path.stat().st_size
        known = not size or _is_database(path)
    except FileNotFoundError:
        raise Damaged(
            f"{project_id} has lost its project.db. Put a copy back, or delete the project."
        ) from None
    except OSError as fault:
        raise Damaged(f"{project_id} cannot be opened: {fault.strerror}.") from None
    if not size:
        raise Damaged(f"{project_id}/project.db is empty (0 bytes). Put a copy back, or delete the project.")
    if not known:
        raise Damaged(f"{project_id}/project.db is not a database. Put a copy back, or delete the project.")
    database = Database(path)
    if not database.all(About):
        database.close()
        raise Damaged(f"{project_id}/project.db holds no project. Put a copy back, or delete the project.")
    return Project(project_id, folder, database, tuple(f.resolve() for f in media_folders))


def _is_database(path: Path) -> bool:
    """True if a file begins as a database does.

    Asked of SQLite, not read here: closing a file lets go of every lock that the process has on it (POSIX), also those of
    its other connections, and the next to close in another process would take itself for the last.
    """
    try:
        with closing(sqlite3.connect(path, timeout=30)) as connection:
            connection.execute("PRAGMA schema_version").fetchone()
    except sqlite3.DatabaseError as fault:
        if fault.sqlite_errorcode == sqlite3.SQLITE_NOTADB:
            return False
        if path.is_dir():
            raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR)) from None
        if fault.sqlite_errorcode == sqlite3.SQLITE_CANTOPEN:
            raise PermissionError(errno.EACCES, os.strerror(errno.EACCES)) from None
    return True


def project_name(name: str) -> str:
    """Name of a project's folder, before it is numbered."""
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:_LONGEST_ID].strip("-") or "project"


@dataclass
class Workspace:
    """All projects under one data folder."""

    data: Path
    media_folders: list[Path] = field(default_factory=list)
    _open: dict[str, Project] = field(default_factory=dict)
    _opening: RLock = field(default_factory=RLock)

    def __post_init__(self) -> None:
        try:
            self.projects_folder.mkdir(parents=True, exist_ok=True)
            (self.data / "media").mkdir(exist_ok=True)
        except OSError as fault:
            raise BadInput(
                f"{self.data} cannot be used as the data folder: {fault.strerror.lower() if fault.strerror else fault}."
            ) from fault
        if not self.media_folders:
            self.media_folders = default_media_folders(self.data)
        self.media_folders = [f.resolve() for f in self.media_folders]

    @property
    def projects_folder(self) -> Path:
        """Folder that holds one folder for each project."""
        return self.data / "projects"

    def serve_alone(self, wait_s: float = 5.0) -> BinaryIO:
        """Take the data folder for one serving process, note its media folders, and clear what a stop left half made.

        Returns:
            A file that holds the lock; it is let go of when that is closed, or the process ends however it does.

        Raises:
            BadInput: another process serves this folder.
        """
        lock = (self.data / ".serving").open("ab")
        end = time.monotonic() + wait_s
        while True:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError:
                if time.monotonic() > end:
                    lock.close()
                    raise BadInput(
                        f"Another Zembi serves {self.data} already. Use that one, stop it, or choose another "
                        "folder with --data."
                    ) from None
                time.sleep(0.1)
        write_json(self.data / _ALLOWED, [str(f) for f in self.media_folders])
        for prefix in (_MAKING, _GOING):
            for left in self.projects_folder.glob(f"{prefix}*"):
                shutil.rmtree(left, ignore_errors=True)
        return lock

    def ids(self) -> list[str]:
        """Projects that exist, by name of their folder; also those that cannot be opened."""
        return sorted(p.name for p in self.projects_folder.iterdir() if _ID.fullmatch(p.name) and p.is_dir())

    def open(self, project_id: str) -> Project:
        """Open a project (or return it if it is open).

        Raises:
            NotFound: no project of that name.
            Damaged: its database cannot be opened.
        """
        with self._opening:
            folder = self._folder(project_id)
            if project_id not in self._open:
                self._open[project_id] = _opened(project_id, folder, self.media_folders)
            elif not (folder / "project.db").exists():
                self._open.pop(project_id).database.close()
                return self.open(project_id)
            return self._open[project_id]

    def _folder(self, project_id: str) -> Path:
        folder = self.projects_folder / project_id
        if len(project_id) > 255 or not _ID.fullmatch(project_id) or not folder.is_dir():
            raise NotFound(f"There is no project “{project_id[:_LONGEST_ID]}”.")
        return folder

    def create(self, name: str, rate: str, width: int, height: int) -> Project:
        """Make a new project; it appears under its name only when it is complete.

        Raises:
            BadInput: no name, an unknown rate, or a picture size that cannot be coded.
        """
        name = name.strip()
        if not name:
            raise BadInput("Give the project a name.")
        checked_size(width, height)
        exact = parse_rate(rate)
        making = self.projects_folder / f"{_MAKING}{secrets.token_hex(6)}"
        try:
            making.mkdir(parents=True)
            database = Database(making / "project.db")
            with database.writing() as connection:
                values = {
                    "id": 1, "name": name, "rate": str(exact), "width": width, "height": height, "first_frame": 0,
                    "settings": {"unit": "beat", "lead": 0}, "level": {},
                }  # fmt: skip
                connection.execute(insert(tables.project).values(**values))
                connection.execute(insert(tables.corrections).values(id=1, data={}))
            database.close()
            return self.open(self._give_name(making, project_name(name)))
        except BaseException:
            shutil.rmtree(making, ignore_errors=True)
            raise

    def _give_name(self, making: Path, base: str) -> str:
        """Move a folder to the first name that is free; two at once get one each."""
        with self._opening:
            number = 1
            while True:
                project_id = base if number == 1 else f"{base}-{number}"
                target = self.projects_folder / project_id
                number += 1
                if target.exists():
                    continue
                try:
                    making.rename(target)
                except OSError:
                    if target.exists():
                        continue
                    raise
                return project_id

    def remove(self, project_id: str) -> None:
        """Delete a project's folder, also one that cannot be opened. Footage outside it is not touched.

        Raises:
            NotFound: no project of that name.
        """
        with self._opening:
            folder = self._folder(project_id)
            if project_id in self._open:
                self._open.pop(project_id).database.close()
            going = self.projects_folder / f"{_GOING}{secrets.token_hex(6)}"
            folder.rename(going)
        shutil.rmtree(going, ignore_errors=True)

    def inside(self, path: str) -> tuple[Path, Path]:
        """Check that a path lies in an allowed media folder.

        Returns:
            (folder, resolved path).

        Raises:
            NotAllowed: outside all of them, also by way of a link.
            BadInput: nothing that a file can be called.
        """
        try:
            resolved = Path(path).expanduser().resolve()
        except (OSError, RuntimeError, ValueError) as fault:
            raise BadInput(f"“{path[:80]}” is not a path that can be followed ({fault}).") from None
        for folder in self.media_folders:
            if resolved.is_relative_to(folder):
                return folder, resolved
        allowed = ", ".join(str(f) for f in self.media_folders)
        raise NotAllowed(
            f"{path} is outside the allowed media folders ({allowed}). Start zembi serve with --media to allow another."
        )


def open_folder(folder: Path, media_folders: Sequence[Path] | None = None) -> Project:
    """Open a project by its folder, without a workspace: for a command, or in a worker.

    Args:
        folder: The project's.
        media_folders: What it may read besides its own folder; None for what the data folder it lies in was
            last served with.

    Raises:
        BadInput: not a project folder.
        Damaged: its database cannot be opened.
    """
    if not folder.is_dir() or not (folder / "project.db").exists():
        raise BadInput(f"{folder} is not a Zembi project: it has no project.db.")
    if media_folders is None:
        media_folders = _remembered(folder.resolve().parent.parent)
    return _opened(folder.name, folder, media_folders)


def _remembered(data: Path) -> list[Path]:
    try:
        kept = [Path(str(f)) for f in json.loads((data / _ALLOWED).read_text())]
    except (OSError, ValueError, TypeError):
        kept = []
    return kept or default_media_folders(data)


def free_bytes(folder: Path) -> int:
    """Space left on the disk that holds a folder."""
    return shutil.disk_usage(folder).free


def write_json(path: Path, data: Any) -> None:
    """Write JSON so that the file is either the old or the new one, never half, whoever else writes it at once."""
    part = path.with_name(f".{path.name}.{os.getpid()}.{get_ident()}")
    part.write_text(json.dumps(data, separators=(",", ":")))
    os.replace(part, path)
