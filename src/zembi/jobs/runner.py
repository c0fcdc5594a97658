"""Handing jobs to an executor and taking up again what a stop interrupted."""

import sys
from collections import Counter
from collections.abc import Callable, Mapping
from concurrent.futures import Executor, Future
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from threading import RLock, Timer
from typing import Any

from sqlalchemy import insert, select, update
from sqlalchemy.exc import SQLAlchemyError

from zembi.jobs.pool import SeparateWorkers
from zembi.jobs.worker import Work, run_job, set_job
from zembi.store import tables
from zembi.store.database import Database

OPEN_STATES = ("waiting", "running")
#: How often a job is begun again after its worker was ended from outside.
_SECOND_CHANCES = 1
#: Seconds after which the end of a job is written again where the disk did not take it.
_AGAIN_S = 5.0

#: Told (project folder, job id, state) in the serving process when a job has ended.
Ended = Callable[[Path, int, str], None]


class JobRunner:
    """The queue. Any ``concurrent.futures.Executor`` can do the work."""

    def __init__(
        self, works: Mapping[str, Work], make_executor: Callable[[], Executor] = SeparateWorkers
    ) -> None:
        self._works = works
        self._make_executor = make_executor
        self._executor: Executor | None = None
        self._stopped = False
        self._futures: dict[tuple[str, int], Future[str]] = {}
        self._deaths: Counter[tuple[str, int]] = Counter()
        self._lock = RLock()
        self.ended: Ended = lambda _folder, _job, _state: None

    def add(self, database: Database, kind: str, title: str, arguments: dict[str, Any]) -> int:
        """Queue a job; an equal waiting job is not queued twice.

        It is started when a worker is free, but not before what the caller is writing is kept.
        """
        log = tables.job
        with database.writing() as connection:
            same = connection.execute(
                select(log.c.id, log.c.arguments).where(
                    log.c.kind == kind, log.c.state == "waiting", log.c.cancel.is_(False)
                )
            ).all()
            for job_id, kept in same:
                if kept == arguments:
                    return int(job_id)
            values = {"kind": kind, "title": title, "arguments": arguments}
            key = connection.execute(insert(log).values(**values)).inserted_primary_key
            job_id = int(key[0]) if key else 0
            database.when_kept(lambda: self._start(database, job_id, kind))
        return job_id

    def resume(self, database: Database) -> int:
        """Start again every job that a stop interrupted; returns how many."""
        self._stopped = False
        log = tables.job
        with database.writing() as connection:
            connection.execute(
                update(log)
                .where(log.c.state.in_(OPEN_STATES), log.c.cancel.is_(True))
                .values(state="cancelled")
            )
            rows = connection.execute(select(log.c.id, log.c.kind).where(log.c.state.in_(OPEN_STATES))).all()
            connection.execute(
                update(log).where(log.c.state == "running").values(state="waiting", progress=0.0)
            )
        for job_id, kind in rows:
            self._start(database, int(job_id), kind)
        return len(rows)

    def cancel(self, database: Database, job_id: int) -> None:
        """Stop a job: at once if it waits, at its next report if it runs."""
        row = database.one(tables.job, id=job_id)
        if row["state"] not in OPEN_STATES:
            return
        set_job(database, job_id, cancel=True)
        future = self._futures.get((str(database.path), job_id))
        if future is None or future.cancel():
            set_job(database, job_id, state="cancelled")

    def stop(self) -> None:
        """Stop taking work and end the workers."""
        with self._lock:
            self._stopped = True
            executor, self._executor = self._executor, None
        if executor is not None:
            executor.shutdown(wait=False, cancel_futures=True)

    def _start(self, database: Database, job_id: int, kind: str) -> None:
        work = self._works.get(kind)
        if work is None:
            set_job(database, job_id, state="failed", error=f"“{kind}” is not a work this version can do.")
            return
        with self._lock:
            if self._stopped:
                return
            self._executor = self._executor or self._make_executor()
            future = self._executor.submit(run_job, str(database.path.parent), job_id, work)
        key = (str(database.path), job_id)
        self._futures[key] = future
        future.add_done_callback(lambda f: self._finished(f, database, job_id, kind))

    def _finished(self, future: "Future[str]", database: Database, job_id: int, kind: str) -> None:
        key = (str(database.path), job_id)
        self._futures.pop(key, None)
        if future.cancelled() or self._stopped:
            return
        fault = future.exception()
        if fault is None:
            self._deaths.pop(key, None)
            self._tell(database, job_id, future.result())
            return
        self._deaths[key] += 1
        if isinstance(fault, BrokenProcessPool) and self._deaths[key] <= _SECOND_CHANCES:
            self._start(database, job_id, kind)
            return
        died = isinstance(fault, BrokenProcessPool)
        reason = "The worker was ended from outside, twice" if died else f"{type(fault).__name__}: {fault}"
        self._fail(database, job_id, f"{reason}. Start it again, or leave the file out.")

    def _fail(self, database: Database, job_id: int, reason: str) -> None:
        """Note that a job failed; later, where the disk does not take it now."""
        if self._stopped or not database.path.exists():
            return
        try:
            set_job(database, job_id, state="failed", error=reason)
        except SQLAlchemyError as fault:
            print(f"zembi: job {job_id} could not be noted as failed ({fault}).", file=sys.stderr, flush=True)
            again = Timer(_AGAIN_S, self._fail, (database, job_id, reason))
            again.daemon = True
            again.start()
            return
        self._tell(database, job_id, "failed")

    def _tell(self, database: Database, job_id: int, state: str) -> None:
        try:
            self.ended(database.path.parent, job_id, state)
        except Exception as fault:
            # The work itself is done; what follows is taken up at the next start.
            print(f"zembi: after job {job_id}: {type(fault).__name__}: {fault}", file=sys.stderr, flush=True)
