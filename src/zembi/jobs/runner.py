"""Handing jobs to an executor and taking up again what a stop interrupted."""

import multiprocessing
import os
from collections.abc import Callable, Mapping
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from threading import Lock
from typing import Any

from sqlalchemy import insert, select, update

from zembi.jobs.worker import Work, run_job, set_job
from zembi.store import tables
from zembi.store.database import Database

OPEN_STATES = ("waiting", "running")

#: Told (project folder, job id, state) in the serving process when a job has ended.
Ended = Callable[[Path, int, str], None]


def process_pool(workers: int | None = None) -> Executor:
    """Worker processes, as many as there are processors, started fresh (no state is shared)."""
    count = workers or max(1, os.cpu_count() or 1)
    return ProcessPoolExecutor(count, mp_context=multiprocessing.get_context("spawn"))


class JobRunner:
    """The queue. Any ``concurrent.futures.Executor`` can do the work."""

    def __init__(
        self, works: Mapping[str, Work], make_executor: Callable[[], Executor] = process_pool
    ) -> None:
        self._works = works
        self._make_executor = make_executor
        self._executor: Executor | None = None
        self._futures: dict[tuple[str, int], Future[str]] = {}
        self._lock = Lock()
        self.ended: Ended = lambda _folder, _job, _state: None

    def add(self, database: Database, kind: str, title: str, arguments: dict[str, Any]) -> int:
        """Queue a job and start it when a worker is free; an equal waiting job is not queued twice."""
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
        self._start(database, job_id, kind)
        return job_id

    def resume(self, database: Database) -> int:
        """Start again every job that a stop interrupted; returns how many."""
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
        if future is not None and future.cancel():
            set_job(database, job_id, state="cancelled")

    def stop(self) -> None:
        """Stop taking work and end the workers."""
        with self._lock:
            executor, self._executor = self._executor, None
        if executor is None:
            return
        processes = list(getattr(executor, "_processes", {}).values())
        executor.shutdown(wait=False, cancel_futures=True)
        for process in processes:
            process.terminate()

    def _start(self, database: Database, job_id: int, kind: str) -> None:
        folder = database.path.parent
        with self._lock:
            self._executor = self._executor or self._make_executor()
            try:
                future = self._executor.submit(run_job, str(folder), job_id, self._works[kind])
            except BrokenProcessPool:
                self._executor = self._make_executor()
                future = self._executor.submit(run_job, str(folder), job_id, self._works[kind])
        key = (str(database.path), job_id)
        self._futures[key] = future
        future.add_done_callback(lambda f: self._finished(f, database, job_id, key))

    def _finished(self, future: "Future[str]", database: Database, job_id: int, key: tuple[str, int]) -> None:
        self._futures.pop(key, None)
        if future.cancelled():
            return
        fault = future.exception()
        if fault is not None:
            with self._lock:
                stopping = self._executor is None
                if isinstance(fault, BrokenProcessPool):
                    self._executor = None
            if stopping:
                return
            set_job(
                database, job_id, state="failed", error="The worker was ended from outside. Start it again."
            )
        self.ended(database.path.parent, job_id, "failed" if fault is not None else future.result())
