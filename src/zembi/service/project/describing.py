"""A project's own name, picture size and first timecode, changed after it was made."""

from zembi.core.errors import BadInput
from zembi.core.programme.size import checked_size
from zembi.core.timebase import parse_rate, timecode_to_frame
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables


@one_transaction
def describe(
    project: Project,
    *,
    name: str | None = None,
    size: tuple[int, int] | None = None,
    first_timecode: str | None = None,
) -> None:
    """Rename a project, or give its film another size or first timecode, as one step of undo. Cuts stay on their frames.

    Raises:
        BadInput: no name, a size that cannot be coded, or no timecode.
    """
    about = project.about
    values: dict[str, str | int] = {}
    if name is not None:
        if not name.strip():
            raise BadInput("Give the project a name.")
        values["name"] = name.strip()
    if size is not None:
        checked_size(*size)
        values |= {"width": size[0], "height": size[1]}
    if first_timecode is not None:
        values["first_frame"] = timecode_to_frame(first_timecode, parse_rate(about.rate))
    if values:
        with project.database.changing("Change the project") as change:
            change.update(tables.project, {"id": 1}, values)
