"""Where projects and footage live: the data folder, the allowed media folders, and opening a project."""

import json
import os
import re
import shutil
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import platformdirs
from sqlalchemy import insert

from zembi.core.errors import BadInput, NotAllowed, NotFound
from zembi.core.timebase import parse_rate
from zembi.media.derive import derived_folder
from zembi.store import tables
from zembi.store.database import Database

#: Root name of files that lie inside the project's own folder.
INSIDE = "project"


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

    @property
    def cache(self) -> Path:
        """Where everything derived from footage lies; it can be deleted at any time."""
        return self.folder / "cache"

    @property
    def rate(self) -> Fraction:
        """The project's frame rate."""
        return parse_rate(self.row["rate"])

    @property
    def row(self) -> Any:
        """The project's own row."""
        return self.database.one(tables.project, id=1)

    def path_of(self, media: Any) -> Path:
        """Where a media row's file is (whether or not it is there now)."""
        root = self.folder if media["root"] == INSIDE else Path(media["root"])
        return root / str(media["path"])

    def derived(self, media: Any) -> Path:
        """Folder of what was made from a media row's content."""
        return derived_folder(self.cache, media["content"])


@dataclass
class Workspace:
    """All projects under one data folder."""

    data: Path
    media_folders: list[Path] = field(default_factory=list)
    _open: dict[str, Project] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.projects_folder.mkdir(parents=True, exist_ok=True)
        (self.data / "media").mkdir(exist_ok=True)
        if not self.media_folders:
            self.media_folders = default_media_folders(self.data)
        self.media_folders = [f.resolve() for f in self.media_folders]

    @property
    def projects_folder(self) -> Path:
        """Folder that holds one folder for each project."""
        return self.data / "projects"

    def ids(self) -> list[str]:
        """Projects that exist, by name of their folder."""
        return sorted(p.parent.name for p in self.projects_folder.glob("*/project.db"))

    def open(self, project_id: str) -> Project:
        """Open a project (or return it if it is open).

        Raises:
            NotFound: no project of that name.
        """
        if project_id not in self._open:
            folder = self.projects_folder / project_id
            if not re.fullmatch(r"[a-z0-9][a-z0-9-]*", project_id) or not (folder / "project.db").exists():
                raise NotFound(f"There is no project “{project_id}”.")
            self._open[project_id] = Project(project_id, folder, Database(folder / "project.db"))
        return self._open[project_id]

    def create(self, name: str, rate: str, width: int, height: int) -> Project:
        """Make a new project.

        Raises:
            BadInput: no name, an unknown rate, or a picture size that cannot be coded.
        """
        name = name.strip()
        if not name:
            raise BadInput("Give the project a name.")
        if width % 2 or height % 2 or not (16 <= width <= 8192 and 16 <= height <= 8192):
            raise BadInput(f"A picture of {width}×{height} cannot be coded: sides are even, from 16 to 8192.")
        exact = parse_rate(rate)
        base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "project"
        project_id, number = base, 2
        while (self.projects_folder / project_id).exists():
            project_id, number = f"{base}-{number}", number + 1
        folder = self.projects_folder / project_id
        folder.mkdir(parents=True)
        database = Database(folder / "project.db")
        with database.writing() as connection:
            values = {
                "id": 1, "name": name, "rate": str(exact), "width": width, "height": height, "first_frame": 0,
                "settings": {"unit": "beat", "lead": 0},
            }  # fmt: skip
            connection.execute(insert(tables.project).values(**values))
            connection.execute(insert(tables.corrections).values(id=1, data={}))
        self._open[project_id] = Project(project_id, folder, database)
        return self._open[project_id]

    def remove(self, project_id: str) -> None:
        """Delete a project's folder. Footage outside it is not touched.

        Raises:
            NotFound: no project of that name.
        """
        project = self.open(project_id)
        project.database.close()
        del self._open[project_id]
        shutil.rmtree(project.folder)

    def inside(self, path: str) -> tuple[Path, Path]:
        """Check that a path lies in an allowed media folder.

        Returns:
            (folder, resolved path).

        Raises:
            NotAllowed: outside all of them, also by way of a link.
        """
        resolved = Path(path).expanduser().resolve()
        for folder in self.media_folders:
            if resolved == folder or folder in resolved.parents:
                return folder, resolved
        allowed = ", ".join(str(f) for f in self.media_folders)
        raise NotAllowed(
            f"{path} is outside the allowed media folders ({allowed}). Start zembi serve with --media to allow another."
        )


def open_folder(folder: Path) -> Project:
    """Open a project by its folder, without a workspace (for the command line).

    Raises:
        BadInput: not a project folder.
    """
    if not (folder / "project.db").exists():
        raise BadInput(f"{folder} is not a Zembi project: it has no project.db.")
    return Project(folder.name, folder, Database(folder / "project.db"))


def free_bytes(folder: Path) -> int:
    """Space left on the disk that holds a folder."""
    return shutil.disk_usage(folder).free


def write_json(path: Path, data: Any) -> None:
    """Write JSON so that the file is either the old or the new one, never half."""
    part = path.with_name(f".{path.name}.{os.getpid()}")
    part.write_text(json.dumps(data, separators=(",", ":")))
    os.replace(part, path)
