"""What happens inside a worker process: one job, its progress, and how it ended."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from sqlalchemy import select, update

from zembi.core.errors import Cancelled, ZembiError
from zembi.store import tables
from zembi.store.database import Database

#: A job's work: (project folder, arguments, report) -> result. ``report`` raises Cancelled when asked to stop.
Report = Callable[[float, str], None]
Work = Callable[[Path, dict[str, Any], Report], dict[str, Any]]

#: Seconds between looks at the database while working.
_EVERY_S = 0.25


def set_job(database: Database, job_id: int, **values: Any) -> None:
    """Write a job's columns."""
    with database.writing() as connection:
        connection.execute(update(tables.job).where(tables.job.c.id == job_id).values(**values))


class Reporter:
    """Writes progress to the job's row at most a few times a second, and stops the work when asked to."""

    def __init__(self, database: Database, job_id: int) -> None:
        self._database, self._job = database, job_id
        self._last = 0.0
        self._shown = 0.0

    def __call__(self, share: float, message: str) -> None:
        now = time.monotonic()
        if now - self._last < _EVERY_S:
            return
        self._last = now
        self._shown = max(self._shown, min(1.0, share))
        log = tables.job
        with self._database.writing() as connection:
            connection.execute(
                update(log).where(log.c.id == self._job).values(progress=self._shown, message=message)
            )
            if connection.execute(select(log.c.cancel).where(log.c.id == self._job)).scalar():
                raise Cancelled("Stopped.")


def run_job(folder: str, job_id: int, work: Work) -> str:
    """Run one job to its end; returns the state it ended in. Never raises for a fault of the work itself."""
    project = Path(folder)
    database = Database(project / "project.db")
    try:
        row = database.one(tables.job, id=job_id)
        if row["cancel"]:
            set_job(database, job_id, state="cancelled")
            return "cancelled"
        set_job(database, job_id, state="running", progress=0.0, error="", message="Starting")
        try:
            result = work(project, dict(row["arguments"]), Reporter(database, job_id))
        except Cancelled:
            set_job(database, job_id, state="cancelled", message="Stopped")
            return "cancelled"
        except ZembiError as fault:
            set_job(database, job_id, state="failed", error=fault.message)
            return "failed"
        except MemoryError:
            set_job(database, job_id, state="failed", error="There is not enough memory for this work.")
            return "failed"
        except Exception as fault:
            set_job(
                database, job_id, state="failed", error=f"Unexpected fault: {type(fault).__name__}: {fault}"
            )
            return "failed"
        set_job(database, job_id, state="done", progress=1.0, message="", result=result)
        return "done"
    finally:
        database.close()
