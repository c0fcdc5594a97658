"""A project as it was when a long work was asked for: its database, copied then, read once a worker is free.

Whatever is cut, corrected or lined up meanwhile, the film is the one that was asked for.
"""

import secrets
import sqlite3
from collections.abc import Collection, Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

from zembi.core.errors import Refused
from zembi.service.project.workspace import Project, open_folder
from zembi.store.database import Database

#: Where the copies lie in a project's folder.
FOLDER = "asked"


def keep_as_asked(project: Project) -> str:
    """Copy the project's database as it is kept now, without journal and jobs; returns the copy's name."""
    folder = project.folder / FOLDER
    folder.mkdir(exist_ok=True)
    name = f"{secrets.token_hex(6)}.db"
    part = folder / f".{name}"
    with closing(sqlite3.connect(project.database.path)) as now, closing(sqlite3.connect(part)) as copy:
        now.backup(copy)
        copy.executescript("DELETE FROM journal; DELETE FROM job;")
    part.replace(folder / name)
    return name


@contextmanager
def project_as_asked(folder: Path, name: str, allowed: Sequence[Path] | None) -> Iterator[Project]:
    """The project as it was when the work was asked for; the copy goes when the work has ended, however it did.

    A worker that is killed leaves it for the one that takes the work up again.

    Args:
        folder: The project's.
        name: From :func:`keep_as_asked`; "" for the project as it is now.
        allowed: Folders that may be read besides the project's own; None for those last served.

    Raises:
        Refused: the copy is gone.
    """
    project = open_folder(folder, allowed)
    if not name:
        try:
            yield project
        finally:
            project.database.close()
        return
    project.database.close()
    path = folder / FOLDER / Path(name).name
    if not path.is_file():
        raise Refused("The edit as it was asked for is gone. Ask for it again.")
    project.database = Database(path)
    try:
        yield project
    finally:
        project.database.close()
        forget(folder, name)


def forget(folder: Path, name: str) -> None:
    """Remove a copy that no work needs any more."""
    for ending in ("", "-wal", "-shm"):
        (folder / FOLDER / f"{Path(name).name}{ending}").unlink(missing_ok=True)


def clear_asked(folder: Path, needed: Collection[str]) -> None:
    """Remove copies that no open work needs."""
    for path in (folder / FOLDER).glob("*"):
        if path.name.split(".db")[0] + ".db" not in needed:
            path.unlink(missing_ok=True)
