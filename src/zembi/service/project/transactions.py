"""A use case is one transaction: what it reads decides what it writes, and a refusal leaves all as it was."""

from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from zembi.service.project.workspace import Project

P = ParamSpec("P")
T = TypeVar("T")


def _project_of(arguments: tuple[object, ...]) -> Project:
    return next(a for a in arguments if isinstance(a, Project))


def one_transaction(function: Callable[P, T]) -> Callable[P, T]:
    """Make all that the function reads and writes of its project one transaction; an exception undoes all of it."""

    @wraps(function)
    def whole(*args: P.args, **kwargs: P.kwargs) -> T:
        with _project_of(args).database.writing():
            return function(*args, **kwargs)

    return whole


def one_moment(function: Callable[P, T]) -> Callable[P, T]:
    """All that the function reads of its project is of one moment."""

    @wraps(function)
    def whole(*args: P.args, **kwargs: P.kwargs) -> T:
        with _project_of(args).database.reading():
            return function(*args, **kwargs)

    return whole
