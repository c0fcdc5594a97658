"""Remembering what was worked out of parts that never change, by which part it is."""

from collections.abc import Callable
from functools import wraps
from threading import Lock
from typing import Any, Concatenate, ParamSpec, TypeVar

Part = TypeVar("Part")
Rest = ParamSpec("Rest")
Result = TypeVar("Result")
_Function = Callable[Concatenate[Part, Rest], Result]


def by_identity(size: int) -> Callable[[_Function[Part, Rest, Result]], _Function[Part, Rest, Result]]:
    """Remember the last ``size`` results of a function of a frozen part and of things that can be compared.

    The part is known by its identity, which takes no time however large it is; it is kept as long as its result.
    """

    def remembering(function: _Function[Part, Rest, Result]) -> _Function[Part, Rest, Result]:
        known: dict[tuple[Any, ...], tuple[Part, Result]] = {}
        one_writer = Lock()

        @wraps(function)
        def remembered(part: Part, /, *args: Rest.args, **kwargs: Rest.kwargs) -> Result:
            assert not kwargs, "by place only"
            key = (id(part), *args)
            found = known.get(key)
            if found is None:
                found = part, function(part, *args, **kwargs)
                with one_writer:
                    while len(known) >= size:
                        del known[next(iter(known))]
                    known[key] = found
            return found[1]

        return remembered

    return remembering
