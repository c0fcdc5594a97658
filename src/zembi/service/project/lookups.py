"""Tables of colours that a project brings: ``.cube`` files in its folder, by their numbers."""

from dataclasses import dataclass

from zembi.core.colour.tables import code_of, is_known, know, number_of
from zembi.core.errors import BadInput, NotFound
from zembi.service.project.workspace import Project

#: Where they lie in a project's folder.
FOLDER = "tables"


@dataclass(frozen=True)
class TableFile:
    """A table of a project.

    Attributes:
        number: By its content.
        name: The file's as it was brought, without its ending.
        code: Its number as treatments name it.
    """

    number: int
    name: str
    code: str


def tables_of(project: Project) -> list[TableFile]:
    """Tables of a project by name."""
    found = []
    for path in (project.folder / FOLDER).glob("*.cube"):
        stem, _, name = path.stem.partition(" ")
        if len(stem) == 12 and all(c in "0123456789abcdef" for c in stem):
            found.append(TableFile(int(stem, 16), name or stem, stem))
    return sorted(found, key=lambda t: (t.name.casefold(), t.number))


def keep_table(project: Project, name: str, text: str) -> TableFile:
    """Keep a ``.cube`` with the project; one that is there already stays as it is called.

    Raises:
        BadInput: damaged, with the line; too large; or no more files fit in the project's folder.
    """
    number = number_of(text)
    know(number, text, name)
    known = next((t for t in tables_of(project) if t.number == number), None)
    if known is None:
        called = "".join(c for c in name.removesuffix(".cube") if c.isalnum() or c in " -_.")[:60].strip()
        known = TableFile(number, called or code_of(number), code_of(number))
        folder = project.folder / FOLDER
        part = folder / f".{code_of(number)}.part"
        try:
            folder.mkdir(exist_ok=True)
            part.write_text(text)
            part.replace(folder / f"{code_of(number)} {known.name}.cube")
        except OSError as fault:
            raise BadInput(f"{name} cannot be kept with the project ({fault.strerror}).") from fault
    return known


def bring_table(project: Project, number: int) -> None:
    """Have a table of a project at hand.

    Raises:
        NotFound: the project has none of that number.
        BadInput: its file was damaged.
    """
    if is_known(number):
        return
    path = next((project.folder / FOLDER).glob(f"{code_of(number)}*.cube"), None)
    if path is None:
        raise NotFound("That table of colours is not in the project's folder. Choose its file again.")
    know(number, path.read_text())
