"""Remembering what was worked out of parts that never change, by which part it is."""

from collections.abc import Callable, Iterator, Sequence
from functools import wraps
from operator import eq, is_
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


def same_ends(parts: Sequence[object], before: Sequence[object], *, equal: bool = False) -> tuple[int, int]:
    """Number of parts at the head and at the tail of two sequences that are the same, or equal; no part is in both."""
    most = min(len(parts), len(before))
    head = _run(parts, before, equal)
    tail = 0 if head == most else _run(parts[::-1], before[::-1], equal)
    return head, min(tail, most - head)


def _run(parts: Sequence[object], before: Sequence[object], equal: bool) -> int:
    same = [*_same(parts, before, equal)]
    return same.index(False) if False in same else len(same)


def _same(column: Sequence[object], before: Sequence[object], equal: bool) -> Iterator[bool]:
    # In tuples of one the very same object is equal without its ``__eq__`` being called.
    return map(eq, zip(column), zip(before)) if equal else map(is_, column, before)


def _differing(columns: Sequence[Sequence[Any]], before: Sequence[Sequence[Any]]) -> list[int]:
    """Rows that differ from those before: by identity in the first column, by value in the others."""
    same = [_same(now, then, n > 0) for n, (now, then) in enumerate(zip(columns, before, strict=True))]
    return [n for n, row in enumerate(zip(*same, strict=True)) if False in row]


def _shifted(
    columns: Sequence[Sequence[Any]],
    before: Sequence[Sequence[Any]],
    results: list[Result],
    function: Callable[..., Result],
) -> list[Result]:
    """Results where rows came or went: those at head and tail are taken over, those between found again one by one."""
    pairs = [*zip(columns, before, strict=True)]
    most = min(len(columns[0]), len(results))
    head = min(_run(now, then, n > 0) for n, (now, then) in enumerate(pairs))
    tail = min(_run(now[::-1], then[::-1], n > 0) for n, (now, then) in enumerate(pairs))
    tail = min(tail, most - head)
    made = dict(zip(_keys(before, head, tail), results[head : len(results) - tail], strict=True))
    rows = zip(*(column[head : len(column) - tail] for column in columns), strict=True)
    middle = [
        made[key] if key in made else function(*row)
        for key, row in zip(_keys(columns, head, tail), rows, strict=True)
    ]
    return [*results[:head], *middle, *results[len(results) - tail :]]


def _keys(columns: Sequence[Sequence[Any]], head: int, tail: int) -> list[tuple[Any, ...]]:
    rows = zip(*(c[head : len(c) - tail] for c in columns), strict=True)
    return [(id(part), *beside) for part, *beside in rows]


def each_by_identity(size: int) -> Callable[[Callable[..., Result]], Callable[..., list[Result]]]:
    """Make a function of one frozen part a function of many, which asks again only for what is new since the last call.

    The results of parts that are the same objects as in the last call with the same arguments are taken over: of
    thousands of shots an operation changes a few. Calls with ``size`` sets of arguments are remembered.

    The function is called with a part, its value in each of the sequences ``beside`` (compared by value), and the
    arguments.
    """

    def remembering(function: Callable[..., Result]) -> Callable[..., list[Result]]:
        known: dict[tuple[Any, ...], tuple[tuple[Sequence[Any], ...], list[Result]]] = {}
        one_writer = Lock()

        @wraps(function)
        def of_each(parts: Sequence[Any], *args: Any, beside: Sequence[Sequence[Any]] = ()) -> list[Result]:
            columns = parts, *beside
            before, results = known.get(args, (((),) * len(columns), []))
            if len(parts) == len(results):
                results = [*results]
                for n in _differing(columns, before):
                    results[n] = function(*(column[n] for column in columns), *args)
            else:
                results = _shifted(columns, before, results, lambda *row: function(*row, *args))
            with one_writer:
                known.pop(args, None)
                while len(known) >= size:
                    del known[next(iter(known))]
                known[args] = columns, results
            return results

        return of_each

    return remembering
