"""Executors that do their work when told, projects with shared derived files, and how much is tried."""

import os
from collections import deque
from collections.abc import Callable
from concurrent.futures import Executor, Future
from typing import Any

from hypothesis import HealthCheck, Phase, settings

from tests.rows import NOT_MADE, content, rows
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Database

#: "make abuse" sets this to try so many times more, with a seed of its own.
LONGER = int(os.environ.get("ZEMBI_ABUSE", "1"))


def tried(examples: int, **more: Any) -> settings:
    """Settings for a property that is tried so often, or longer under ``make abuse``."""
    return settings(
        max_examples=examples * LONGER,
        deadline=None,
        derandomize=LONGER == 1,
        database=None,
        print_blob=True,
        phases=[Phase.explicit, Phase.generate, Phase.shrink],
        suppress_health_check=list(HealthCheck),
        **more,
    )


class Idle(Executor):
    """Takes work and never does it."""

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> "Future[Any]":
        return Future()


class Later(Executor):
    """Does the work in this process, one piece whenever it is told to."""

    def __init__(self) -> None:
        self.waiting: deque[tuple[Future[Any], Callable[..., Any], tuple[Any, ...]]] = deque()

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> "Future[Any]":
        future: Future[Any] = Future()
        self.waiting.append((future, fn, args))
        return future

    def step(self, number: int = 0) -> bool:
        """Do one waiting piece; whether there was one."""
        while self.waiting:
            index = number % len(self.waiting)
            future, fn, args = self.waiting[index]
            del self.waiting[index]
            if not future.set_running_or_notify_cancel():
                continue
            try:
                result = fn(*args)
            except BaseException as fault:
                future.set_exception(fault)
            else:
                future.set_result(result)
            return True
        return False


def everything(database: Database) -> dict[str, list[dict[str, Any]]]:
    """All rows but the journal's and the jobs'."""
    with database.reading():
        return {
            t.name: [content(r) for r in rows(database, t)]
            for t in tables.metadata.sorted_tables
            if t.name not in NOT_MADE
        }


def sound(project: Project) -> None:
    """The database holds together."""
    with project.database.reading() as connection:
        assert connection.exec_driver_sql("PRAGMA integrity_check").scalar() == "ok"
        assert connection.exec_driver_sql("PRAGMA foreign_key_check").all() == []
