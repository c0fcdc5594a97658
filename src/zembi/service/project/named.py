"""Named things that are kept for all projects of a workspace: one file of a kind beside the projects."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Generic, Protocol, TypeVar

from zembi.core.errors import BadInput, NotFound
from zembi.core.interchange.limits import at_most

#: Most things of a kind, and longest name of one.
MOST, LONGEST_NAME = 500, 120
#: One process serves a workspace; its threads write one after the other.
_WRITING = Lock()


class HasName(Protocol):
    """Anything that is known by its name."""

    @property
    def name(self) -> str: ...


T = TypeVar("T", bound=HasName)


@dataclass(frozen=True)
class NamedFile(Generic[T]):
    """Things of a kind in a file, whose form is that in which they are taken along.

    Attributes:
        path: The file; there are none where it is missing.
        many, one: What they are called.
        read: The things of a document; raises BadInput where it is none, or damaged.
        write: The document of things.
        checked: A thing as it is kept; raises BadInput where it cannot be.
    """

    path: Path
    many: str
    one: str
    read: Callable[[str], Sequence[T]]
    write: Callable[[Sequence[T]], str]
    checked: Callable[[T], T]

    def all(self) -> list[T]:
        """All of them by name.

        Raises:
            BadInput: the file is damaged; it is left as it is.
        """
        if not self.path.exists():
            return []
        try:
            return sorted(self.read(self.path.read_text()), key=lambda r: r.name.casefold())
        except (BadInput, UnicodeDecodeError) as fault:
            raise BadInput(
                f"The {self.many} for all projects in {self.path.name} cannot be read: {fault} Mend or move that file."
            ) from fault

    def keep(self, things: Sequence[T]) -> None:
        """Keep things; each takes the place of the one of its name.

        Raises:
            BadInput: one cannot be kept, there are too many, or the file is damaged.
        """
        with _WRITING:
            known = {r.name: r for r in self.all()} | {r.name: r for r in map(self.checked, things)}
            at_most(len(known), f"The list of {self.many}", MOST)
            self._write(list(known.values()))

    def drop(self, name: str) -> None:
        """Take one away.

        Raises:
            NotFound: there is none of that name.
        """
        with _WRITING:
            known = self.all()
            left = [r for r in known if r.name != name]
            if len(left) == len(known):
                raise NotFound(f"There is no {self.one} “{name}” for all projects.")
            self._write(left)

    def written(self) -> str:
        """All of them as a document."""
        return self.write(self.all())

    def _write(self, things: Sequence[T]) -> None:
        part = self.path.with_name(f".{self.path.name}.part")
        part.write_text(self.write(things))
        part.replace(self.path)


def checked_name(name: object, one: str) -> str:
    """A name as it is kept.

    Raises:
        BadInput: it is none, or too long.
    """
    if not isinstance(name, str) or not 0 < len(name.strip()) <= LONGEST_NAME:
        raise BadInput(f"A {one} has a name of 1 to {LONGEST_NAME} letters.")
    return name.strip()
