"""A worker process: running one job, writing its progress and how it ended."""

import errno
import re
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import IntEnum
from pathlib import Path
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.exc import SQLAlchemyError

from zembi.core.errors import Cancelled, ZembiError
from zembi.jobs.disk import disk_fault
from zembi.store import tables
from zembi.store.database import Database
from zembi.store.entities import Job

#: A job's work: (project folder, arguments, report) -> result. ``report`` raises Cancelled when asked to stop.
Report = Callable[[float, str], None]
Work = Callable[[Path, dict[str, Any], Report], dict[str, Any]]

#: Folders that a work may read besides the project's own; None for those last served.
Folders = Sequence[Path] | None


class Urgency(IntEnum):
    """Urgency of a work: songs, then places in the song, the sound that they follow from, what was asked for,
    pictures last.
    """

    SONG = 0
    PLACES = 1
    SOUND = 2
    ASKED = 3
    STILLS = 4
    PICTURES = 5


@dataclass(frozen=True)
class LongWork:
    """A kind of job, as the topic that it belongs to declares it.

    Attributes:
        kind: Name of it in the table of jobs.
        work: Called with the project's folder, arguments, a report, and ``allowed``: folders that it may read.
        urgency: How soon it is wanted against others.
        background: Whether it leaves a worker free for what is wanted sooner.
    """

    kind: str
    work: Callable[..., dict[str, Any]]
    urgency: Urgency
    background: bool = False


#: Seconds between looks at the database while working.
_EVERY_S = 0.25
#: What may change in a message while it is about the same step.
_NUMBERS = re.compile(r"\d+")


def set_job(database: Database, job_id: int, **values: Any) -> None:
    """Write a job's columns."""
    with database.writing() as connection:
        connection.execute(update(tables.job).where(tables.job.c.id == job_id).values(**values))


class Reporter:
    """Writes progress to the job's row, a new step at once and else a few times a second, and stops when asked to."""

    def __init__(self, database: Database, job_id: int) -> None:
        self._database, self._job = database, job_id
        self._last = 0.0
        self._shown = 0.0
        self._step = ""

    def __call__(self, share: float, message: str) -> None:
        now, step = time.monotonic(), _NUMBERS.sub("", message)
        if step == self._step and now - self._last < _EVERY_S:
            return
        self._last, self._step = now, step
        self._shown = max(self._shown, min(1.0, share))
        log = tables.job
        with self._database.writing() as connection:
            connection.execute(
                update(log).where(log.c.id == self._job).values(progress=self._shown, message=message)
            )
            if connection.execute(select(log.c.cancel).where(log.c.id == self._job)).scalar():
                raise Cancelled("Stopped.")


def _reason(fault: BaseException, project: Path) -> str:
    """Why a work failed, in words."""
    if isinstance(fault, ZembiError):
        return fault.message
    if isinstance(fault, MemoryError):
        return "There is not enough memory for this work. End other programs, or use a shorter file."
    if isinstance(fault, OSError):
        return disk_fault(fault, project).message
    if isinstance(fault, SQLAlchemyError) and "full" in str(fault):
        return disk_fault(OSError(errno.ENOSPC, "full"), project).message
    return f"Unexpected fault: {type(fault).__name__}: {fault}"


def run_job(folder: str, job_id: int, work: Work) -> str:
    """Run one job to its end; returns the state it ended in. Never raises for a fault of the work itself."""
    project = Path(folder)
    database = Database(project / "project.db")
    try:
        row = database.one(Job, id=job_id)
        if row.state not in ("waiting", "running"):
            return str(row.state)
        if row.cancel:
            set_job(database, job_id, state="cancelled")
            return "cancelled"
        set_job(database, job_id, state="running", progress=0.0, error="", message="Starting")
        try:
            result = work(project, dict(row.arguments), Reporter(database, job_id))
        except Cancelled as fault:
            set_job(database, job_id, state="cancelled", message=fault.message)
            return "cancelled"
        except (MemoryError, Exception) as fault:
            set_job(database, job_id, state="failed", error=_reason(fault, project))
            return "failed"
        set_job(database, job_id, state="done", progress=1.0, message="", result=result)
        return "done"
    finally:
        database.close()
