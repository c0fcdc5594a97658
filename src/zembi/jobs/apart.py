"""Reading a foreign file in a process of its own, which may die, hang or grow without harm to this one."""

import multiprocessing
import os
import resource
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import ParamSpec, TypeVar

from zembi.core.errors import BadInput, ZembiError
from zembi.jobs.pool import die_with_parent

P = ParamSpec("P")
T = TypeVar("T")

#: Seconds and bytes that reading may take.
LONGEST_S, MOST_BYTES = 30.0, 4 << 30


def _read(
    out: Connection, function: Callable[..., object], args: tuple[object, ...], kwargs: dict[str, object]
) -> None:
    die_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        out.send((function(*args, **kwargs), None))
    except ZembiError as fault:
        out.send((None, fault))
    except BaseException:
        # The one who asked says that it is damaged; a trace here would tell nobody anything.
        os._exit(1)


def apart(name: str, function: Callable[P, T], /, *args: P.args, **kwargs: P.kwargs) -> T:
    """Call a reader in a new process.

    Args:
        name: The file, for messages.
        function: A function of a module, whose arguments and result can be sent.
        args: Its arguments.
        kwargs: Its named arguments.

    Raises:
        ZembiError: the reader's own.
        BadInput: it died, or took too long.
    """
    context = multiprocessing.get_context("spawn")
    here, there = context.Pipe(duplex=False)
    process = context.Process(target=_read, args=(there, function, args, kwargs), daemon=True)
    process.start()
    there.close()
    try:
        if not here.poll(LONGEST_S):
            raise BadInput(
                f"{name} takes longer than {LONGEST_S:g} s to read; it is damaged, or far too large."
            )
        result, refused = here.recv()
    except EOFError:
        raise BadInput(f"{name} cannot be read: it is damaged, or takes more memory than there is.") from None
    finally:
        here.close()
        if process.is_alive():
            process.kill()
        process.join()
    if refused is not None:
        raise refused
    return result  # type: ignore[no-any-return]
