"""Worker processes that die alone: one that is killed takes its own job with it, and no other."""

import multiprocessing
import os
from collections.abc import Callable
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from queue import SimpleQueue
from threading import Lock, Thread
from typing import Any

_Task = tuple["Future[Any]", Callable[..., Any], tuple[Any, ...], dict[str, Any]]


def die_with_parent() -> None:
    """End this process as soon as the one that started it is gone, however that went."""
    parent = multiprocessing.parent_process()
    if parent is None:
        return

    def watch() -> None:
        parent.join()
        os._exit(1)

    Thread(target=watch, daemon=True, name="watch parent").start()


class SeparateWorkers(Executor):
    """An executor of several pools of one process each, started fresh (no state is shared).

    A pool whose process died is made anew for the next job; the one it worked on gets ``BrokenProcessPool``.
    """

    def __init__(self, workers: int | None = None) -> None:
        self._tasks: SimpleQueue[_Task | None] = SimpleQueue()
        self.workers = workers or max(1, os.cpu_count() or 1)
        self._lock = Lock()
        self._pools: dict[int, ProcessPoolExecutor] = {}
        self._closed = False
        for number in range(self.workers):
            Thread(target=self._serve, args=(number,), daemon=True, name=f"worker {number}").start()

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> "Future[Any]":
        """Queue a call.

        Raises:
            RuntimeError: after shutdown.
        """
        if self._closed:
            raise RuntimeError("the workers have been stopped")
        future: Future[Any] = Future()
        self._tasks.put((future, fn, args, kwargs))
        return future

    def _serve(self, number: int) -> None:
        while (task := self._tasks.get()) is not None:
            future, fn, args, kwargs = task
            if not future.set_running_or_notify_cancel():
                continue
            try:
                with self._lock:
                    if self._closed:
                        raise RuntimeError("the workers have been stopped")
                    pool = self._pools.get(number) or self._start(number)
                result = pool.submit(fn, *args, **kwargs).result()
            except BaseException as fault:
                with self._lock:
                    broken = self._pools.get(number)
                    if broken is not None and getattr(broken, "_broken", False):
                        broken.shutdown(wait=False)
                        del self._pools[number]
                future.set_exception(fault)
            else:
                future.set_result(result)

    def _start(self, number: int) -> ProcessPoolExecutor:
        context = multiprocessing.get_context("spawn")
        self._pools[number] = ProcessPoolExecutor(1, mp_context=context, initializer=die_with_parent)
        return self._pools[number]

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """End the workers at once; what they were doing ends with them."""
        with self._lock:
            self._closed = True
            pools, self._pools = list(self._pools.values()), {}
        for _ in range(self.workers):
            self._tasks.put(None)
        for pool in pools:
            processes = list((getattr(pool, "_processes", None) or {}).values())
            pool.shutdown(wait=False, cancel_futures=True)
            for process in processes:
                process.terminate()
