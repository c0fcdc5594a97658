"""Handing jobs to an executor and taking up again what a stop interrupted."""

import json
import sys
from bisect import insort
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Executor, Future, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from threading import RLock, Timer
from typing import Any

from sqlalchemy import func, insert, select, update
from sqlalchemy.exc import SQLAlchemyError

from zembi.jobs.pool import SeparateWorkers
from zembi.jobs.worker import Work, run_job, set_job
from zembi.store import tables
from zembi.store.database import Database
from zembi.store.entities import Job, from_row

OPEN_STATES = ("waiting", "running")
#: How often a job is begun again after its worker was ended from outside.
_SECOND_CHANCES = 1
#: Rows that one statement names.
_AT_ONCE = 500
#: Seconds after which the end of a job is written again where the disk did not take it.
_AGAIN_S = 5.0


def _loaded(_works: Mapping[str, Work]) -> None:
    """Nothing; but a worker that is handed the works has their modules."""


#: Told (project folder, job id, state) in the serving process when a job has ended.
Ended = Callable[[Path, int, str], None]


def jobs_of(database: Database, media_id: str) -> list[Job]:
    """The jobs on a file, found by the database."""
    log = tables.job
    with database.reading() as connection:
        about = select(log).where(func.json_extract(log.c.arguments, "$.media") == media_id)
        return [from_row(Job, row) for row in connection.execute(about.order_by(log.c.id)).mappings()]


def _set_open(database: Database, job_ids: Sequence[int], **values: Any) -> None:
    """Write columns of those jobs that have not ended."""
    log = tables.job
    with database.writing() as connection:
        for first in range(0, len(job_ids), _AT_ONCE):
            some = log.c.id.in_(job_ids[first : first + _AT_ONCE])
            connection.execute(update(log).where(some, log.c.state.in_(OPEN_STATES)).values(**values))


@dataclass(order=True)
class _Waiting:
    """A job that has not been given to the executor yet; the least is next."""

    rank: int
    number: int
    kind: str = field(compare=False)
    subject: str = field(compare=False)
    job_id: int = field(compare=False)
    database: Database = field(compare=False)

    @property
    def key(self) -> tuple[str, int]:
        return str(self.database.path), self.job_id


class JobRunner:
    """The queue: what is wanted soonest first. Any ``concurrent.futures.Executor`` can do the work.

    An executor that says how many ``workers`` it has is given no more than those can begin, so that what is added
    later and wanted sooner does not stand behind long work; and background work leaves one of them free.
    """

    def __init__(
        self,
        works: Mapping[str, Work],
        make_executor: Callable[[], Executor] = SeparateWorkers,
        *,
        order: Sequence[str] = (),
        background: Sequence[str] = (),
    ) -> None:
        self._works = works
        self._make_executor = make_executor
        self._order, self._background = tuple(order), frozenset(background)
        self._waiting: list[_Waiting] = []
        self._running: dict[tuple[str, int], str] = {}
        self._count = 0
        self._executor: Executor | None = None
        self._stopped = False
        self._futures: dict[tuple[str, int], Future[str]] = {}
        self._deaths: Counter[tuple[str, int]] = Counter()
        self._lock = RLock()
        self.ended: Ended = lambda _folder, _job, _state: None

    def add(
        self, database: Database, kind: str, title: str, arguments: dict[str, Any], edit: int | None = None
    ) -> int:
        """Queue a job; see :meth:`add_all`."""
        return self.add_all(database, kind, [(title, arguments)], edit)[0]

    def add_all(
        self,
        database: Database,
        kind: str,
        jobs: Sequence[tuple[str, dict[str, Any]]],
        edit: int | None = None,
    ) -> list[int]:
        """Queue jobs of a kind, each with its title and arguments; an equal waiting job is not queued twice.

        They are started when a worker is free, but not before what the caller is writing is kept. Those of an ``edit``
        keep how many operations had been done to it. Returns their ids.
        """
        log = tables.job
        ids: list[int] = []
        new: list[tuple[int, str]] = []
        of_edit = {} if edit is None else {"edit": edit, "operations": database.operations_of(edit)}
        with database.writing() as connection:
            waiting = connection.execute(
                select(log.c.id, log.c.arguments).where(
                    log.c.kind == kind, log.c.state == "waiting", log.c.cancel.is_(False)
                )
            ).all()
            known = {json.dumps(kept, sort_keys=True): int(job_id) for job_id, kept in waiting}
            for title, arguments in jobs:
                key = json.dumps(arguments, sort_keys=True)
                if key not in known:
                    values = {"kind": kind, "title": title, "arguments": arguments, **of_edit}
                    made = connection.execute(insert(log).values(**values)).inserted_primary_key
                    known[key] = int(made[0]) if made else 0
                    new.append((known[key], str(arguments.get("media", ""))))
                ids.append(known[key])
            database.when_kept(lambda: self._start_all(database, kind, new))
        return ids

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
            rows = connection.execute(
                select(log.c.id, log.c.kind, log.c.arguments).where(log.c.state.in_(OPEN_STATES))
            ).all()
            connection.execute(
                update(log).where(log.c.state == "running").values(state="waiting", progress=0.0)
            )
        for job_id, kind, arguments in rows:
            self._start(database, int(job_id), kind, str(arguments.get("media", "")))
        return len(rows)

    def wake(self) -> None:
        """Start the workers ahead of the first job: each needs a second or two to load what it works with."""
        with self._lock:
            if self._stopped or self._executor is not None:
                return
            executor = self._executor = self._make_executor()
        if isinstance(executor, SeparateWorkers):
            for _ in range(executor.workers):
                executor.submit(_loaded, self._works)

    def hurry(self, database: Database, subject: str) -> None:
        """Bring the background work on a file that is on screen to the head of that work."""
        with self._lock:
            for entry in self._waiting:
                if entry.subject == subject and entry.database.path == database.path:
                    entry.number = -abs(entry.number)
            self._waiting.sort()

    def cancel(self, database: Database, job_id: int) -> None:
        """Stop a job: at once if it waits, at its next report if it runs.

        Raises:
            NotFound: there is no such job.
        """
        database.one(Job, id=job_id)
        self.cancel_all(database, [job_id])

    def cancel_all(self, database: Database, job_ids: Sequence[int]) -> None:
        """Stop several jobs in one go; those that have ended stay as they are."""
        path, wanted = str(database.path), set(job_ids)
        _set_open(database, sorted(wanted), cancel=True)
        with self._lock:
            self._waiting = [w for w in self._waiting if w.key[0] != path or w.job_id not in wanted]
            futures = {job_id: self._futures.get((path, job_id)) for job_id in wanted}
        ended = [job_id for job_id, future in futures.items() if future is None or future.cancel()]
        _set_open(database, sorted(ended), state="cancelled")

    def forget(self, database: Database, wait_s: float = 3.0) -> None:
        """Stop all work of a project that goes: what waits at once, what runs at its next report, waited for a while."""
        path = str(database.path)
        with self._lock:
            self._waiting = [w for w in self._waiting if w.key[0] != path]
            running = [f for key, f in self._futures.items() if key[0] == path]
        log = tables.job
        with database.writing() as connection:
            connection.execute(update(log).where(log.c.state.in_(OPEN_STATES)).values(cancel=True))
        wait([f for f in running if not f.cancel()], timeout=wait_s)

    def stop(self) -> None:
        """Stop taking work and end the workers."""
        with self._lock:
            self._stopped = True
            self._waiting.clear()
            self._running.clear()
            executor, self._executor = self._executor, None
        if executor is not None:
            executor.shutdown(wait=False, cancel_futures=True)

    def _start(self, database: Database, job_id: int, kind: str, subject: str) -> None:
        self._start_all(database, kind, [(job_id, subject)])

    def _start_all(self, database: Database, kind: str, jobs: Sequence[tuple[int, str]]) -> None:
        if kind not in self._works:
            for job_id, _ in jobs:
                set_job(
                    database, job_id, state="failed", error=f"“{kind}” is not a work this version can do."
                )
            return
        rank = self._order.index(kind) if kind in self._order else len(self._order)
        with self._lock:
            for job_id, subject in jobs:
                self._count += 1
                insort(self._waiting, _Waiting(rank, self._count, kind, subject, job_id, database))
        self._feed()

    def _feed(self) -> None:
        """Give the executor what it has room for."""
        while (entry := self._next()) is not None:
            with self._lock:
                if self._executor is None:
                    return
                executor = self._executor
            future = executor.submit(
                run_job, str(entry.database.path.parent), entry.job_id, self._works[entry.kind]
            )
            self._futures[entry.key] = future
            future.add_done_callback(partial(self._finished, entry))

    def _next(self) -> _Waiting | None:
        with self._lock:
            if self._stopped:
                return None
            self._executor = self._executor or self._make_executor()
            room = getattr(self._executor, "workers", None)
            behind = sum(kind in self._background for kind in self._running.values())
            if room is not None and len(self._running) >= room:
                return None
            for at, entry in enumerate(self._waiting):
                if room is None or entry.kind not in self._background or behind < max(1, room - 1):
                    self._running[entry.key] = entry.kind
                    return self._waiting.pop(at)
            return None

    def _finished(self, entry: _Waiting, future: "Future[str]") -> None:
        with self._lock:
            self._futures.pop(entry.key, None)
            self._running.pop(entry.key, None)
        if self._stopped:
            return
        try:
            if not future.cancelled():
                self._end(entry, future)
        finally:
            self._feed()

    def _end(self, entry: _Waiting, future: "Future[str]") -> None:
        fault = future.exception()
        if fault is None:
            self._deaths.pop(entry.key, None)
            self._tell(entry.database, entry.job_id, future.result())
            return
        self._deaths[entry.key] += 1
        died = isinstance(fault, BrokenProcessPool)
        if died and self._deaths[entry.key] <= _SECOND_CHANCES:
            self._start(entry.database, entry.job_id, entry.kind, entry.subject)
            return
        reason = "The worker was ended from outside, twice" if died else f"{type(fault).__name__}: {fault}"
        self._fail(entry.database, entry.job_id, f"{reason}. Start it again, or leave the file out.")

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
