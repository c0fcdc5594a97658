"""The running application: the workspace, the job runner, and what follows when a job ends or an undo changes it."""

import sys
from collections.abc import Mapping
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import BinaryIO

from sqlalchemy.exc import SQLAlchemyError

from zembi.core.errors import Damaged, NotFound, ZembiError
from zembi.jobs.runner import OPEN_STATES, JobRunner, jobs_of
from zembi.media.derive import is_derived, is_heard
from zembi.service.application.showcase import Showcase
from zembi.service.application.work import BACKGROUND, ORDER, works
from zembi.service.lineup.placing import queue_alignment
from zembi.service.media.analyses import load_analysis, load_stem
from zembi.service.media.library import clear_half_made, prepare, prepare_all
from zembi.service.project.asked import clear_asked
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project, Workspace
from zembi.service.song.choice import begin
from zembi.store.edits import turn
from zembi.store.entities import Job, Lineup, Media


class Studio:
    """One serving process's workspace and workers."""

    def __init__(self, workspace: Workspace, runner: JobRunner | None = None) -> None:
        self.workspace = workspace
        self.runner = runner or JobRunner(works(workspace), order=ORDER, background=BACKGROUND)
        self.runner.ended = self._ended
        self.showcase = Showcase(workspace.data)
        self._lock: BinaryIO | None = None

    def start(self) -> int:
        """Take the data folder, clear what a stop left half made, and take up interrupted work; returns how much.

        A project that cannot be opened says so on its card and hides no other.

        Raises:
            BadInput: another process serves this folder.
        """
        if self._lock is not None:
            return 0
        self._lock = self.workspace.serve_alone()
        count = 0
        for project_id in self.workspace.ids():
            try:
                project = self.workspace.open(project_id)
                clear_half_made(project)
                clear_asked(project.folder, _asked_by_open_jobs(project))
                count += self.runner.resume(project.database)
                self.settle(project)
            except (ZembiError, SQLAlchemyError, OSError) as fault:
                print(f"zembi: {project_id}: {fault}", file=sys.stderr, flush=True)
        return count

    def remove(self, project_id: str) -> None:
        """Delete a project's folder, and first stop what works in it. Footage outside it is not touched.

        Raises:
            NotFound: no project of that name.
        """
        with suppress(Damaged):
            self.runner.forget(self.workspace.open(project_id).database)
        self.workspace.remove(project_id)

    def stop(self) -> None:
        """End the workers; their jobs are taken up at the next start."""
        self.showcase.stop()
        self.runner.stop()
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    def _ended(self, folder: Path, job_id: int, state: str) -> None:
        if state != "done" or folder.parent != self.workspace.projects_folder:
            return
        try:
            project = self.workspace.open(folder.name)
            job = project.database.one(Job, id=job_id)
        except NotFound:
            return
        if job.kind in ("prepare", "hear"):
            subject = str(job.arguments.get("media", ""))
            if any(m.kind in ("take", "broll") for m in project.database.all(Media, id=subject)):
                # What follows for one file is found without looking through all the others.
                _settle(project, self.runner, False, subject)
            else:
                self.settle(project)

    def turn(self, project: Project, *, back: bool) -> str:
        """Undo or redo, and begin whatever long work that asks for; returns the operation's name."""
        name = turn(project.database, back=back)
        self.settle(project, again=True)
        return name

    def settle(self, project: Project, *, again: bool = False) -> None:
        """Bring what is derived up to what is stored: prepare what is new, begin the edit, line takes up.

        What was tried before and failed, or was stopped, is left alone unless ``again``.
        """
        begin(project)
        _settle(project, self.runner, again)


def _asked_by_open_jobs(project: Project) -> set[str]:
    jobs = project.database.all(Job)
    return {str(j.arguments.get("asked", "")) for j in jobs if j.state in OPEN_STATES}


@one_transaction
def _settle(project: Project, runner: JobRunner, again: bool, only: str = "") -> None:
    """Queue what files need next: all of them, or ``only`` one."""
    media = {m.id: m for m in project.database.all(Media, **({"id": only} if only else {}))}
    busy: dict[str, set[str]] = {kind: set() for kind in ("prepare", "hear", "stills", "picture", "align")}
    jobs = jobs_of(project.database, only) if only else project.database.all(Job)
    gone = []
    for job in jobs:
        subject, is_open = job.arguments.get("media"), job.state in OPEN_STATES
        if subject is not None and subject not in media and is_open:
            gone.append(job.id)
        elif subject is not None and job.kind in busy and (is_open or not (again or job.state == "done")):
            busy[job.kind].add(subject)
    if gone:
        project.database.when_kept(partial(runner.cancel_all, project.database, gone))
    # Places in the song are wanted sooner than pictures.
    _align_next(project, runner, media, busy)
    wanted: dict[str, list[Media]] = {}
    for m in media.values():
        for kind in _next_works(project, m, busy):
            wanted.setdefault(kind, []).append(m)
    for kind, rows in wanted.items():
        prepare_all(project, runner, rows, kind)


def _align_next(
    project: Project, runner: JobRunner, media: Mapping[str, Media], busy: dict[str, set[str]]
) -> None:
    """Queue lining up of takes, and fitting of stems, that are heard and have not been compared with the song."""
    song = next(iter(project.database.all(Media, id=project.about.song or "")), None)
    if song is None or not _heard(project, song):
        return
    done = {r.media for r in project.database.all(Lineup) if r.song == song.id}
    for m in media.values():
        if not _heard(project, m):
            continue
        if m.kind == "take" and m.id not in done | busy["align"]:
            queue_alignment(project, runner, m.id)
        fits = m.kind != "stem" or load_stem(project.derived(m), song.id) is not None
        if not fits and m.state == "ready" and m.id not in busy["prepare"]:
            prepare(project, runner, m.id)


def _next_works(project: Project, row: Media, busy: dict[str, set[str]]) -> list[str]:
    """The works that a file needs next: its sound first, then stills and proxies."""
    media_id, whole = row.id, row.kind in ("song", "stem")
    if any(media_id in busy[kind] for kind in ("prepare", "hear")):
        return []
    if row.state == "new":
        return ["prepare" if whole else "hear"]
    if row.kind == "song" and row.state == "ready" and load_analysis(project.derived(row)) is None:
        # Heard by an older version, or not to the end.
        return ["prepare"]
    if row.state == "ready" and row.content and not whole and not is_derived(project.cache, row.content):
        return [kind for kind in ("stills", "picture") if media_id not in busy[kind]]
    return []


def _heard(project: Project, row: Media) -> bool:
    return bool(row.content) and is_heard(project.cache, row.content)
