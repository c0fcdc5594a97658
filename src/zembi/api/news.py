"""Jobs as they change, told to any number of pages. A stream holds nothing: it looks at the database's files."""

import asyncio
import dataclasses
import json
from collections.abc import AsyncIterator
from pathlib import Path

from zembi.core.errors import ZembiError
from zembi.service.answers import project as state
from zembi.service.project.workspace import Project

#: Seconds between looks for news.
LOOK_EVERY_S = 0.25

#: What changes whenever something is committed: size and time of the database and of its log.
Stamp = tuple[int, ...]


def stamp(path: Path) -> Stamp:
    """Stamp of the database's files."""
    out: list[int] = []
    for file in (path, path.with_name(f"{path.name}-wal")):
        try:
            found = file.stat()
            out += [found.st_size, found.st_mtime_ns]
        except OSError:
            out += [0, 0]
    return tuple(out)


class Newsroom:
    """The last news of each project, read once however many pages listen."""

    def __init__(self) -> None:
        self._told: dict[str, tuple[Stamp, str]] = {}
        self._reading: dict[str, asyncio.Lock] = {}

    async def jobs(self, project: Project) -> str:
        """The project's jobs as JSON, as of now."""
        async with self._reading.setdefault(project.id, asyncio.Lock()):
            now = stamp(project.database.path)
            kept = self._told.get(project.id)
            if kept is None or kept[0] != now:
                jobs = await asyncio.to_thread(state.jobs, project)
                kept = self._told[project.id] = (now, json.dumps([dataclasses.asdict(j) for j in jobs]))
            return kept[1]

    async def follow(self, project: Project) -> AsyncIterator[dict[str, str]]:
        """An event whenever the project's jobs have changed."""
        seen: Stamp = ()
        told = ""
        while True:
            now = stamp(project.database.path)
            if now != seen:
                seen = now
                try:
                    data = await self.jobs(project)
                except (ZembiError, OSError):
                    return
                if data != told:
                    told = data
                    yield {"event": "jobs", "data": data}
            await asyncio.sleep(LOOK_EVERY_S)
