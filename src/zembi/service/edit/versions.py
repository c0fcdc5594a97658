"""Versions of the cut: made of one another, named, locked, switched between, compared, and taken over in part."""

from dataclasses import dataclass
from datetime import UTC, datetime

from zembi.core.edit.taking import taken_over
from zembi.core.errors import BadInput, Refused
from zembi.core.programme.comparing import Comparison, compare
from zembi.service.edit.cutting import Done, change_edit, check_unlocked
from zembi.service.project.snapshot import edit_of, snapshot_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.edits import insert_edit
from zembi.store.entities import Version

#: Longest name and note of a version, and how many a project holds.
LONGEST_NAME, LONGEST_NOTE, MOST_VERSIONS = 80, 2000, 200


@dataclass(frozen=True)
class ListedVersion:
    """A version of the cut.

    Attributes:
        parent: The one that it was made from; None where there is none, or not any more.
        made: When it was made (ISO 8601); "" for the first one.
        locked: Whether it is kept from being cut.
        current: Whether it is the one that is worked on.
        shots: How many shots its base lane has.
    """

    id: int
    name: str
    note: str
    length: int
    parent: int | None
    made: str
    locked: bool
    current: bool
    shots: int


@one_moment
def versions_of(project: Project) -> list[ListedVersion]:
    """Versions of a project, in the order in which they were made."""
    current = project.about.edit
    return [
        ListedVersion(
            v.id, v.name, v.note, v.length, v.parent, v.made, v.locked, v.id == current,
            len(edit_of(project, v.id).shots) if project.about.song else 0,
        )
        for v in project.database.all(Version)
    ]  # fmt: skip


@one_transaction
def make_version(project: Project, of: int, name: str, note: str = "") -> int:
    """Make a version of another, which stays as it is, and go on in the new one; returns its id.

    Raises:
        BadInput: no name, or a name or note that is too long.
        Refused: another version has the name, or there are too many.
        NotFound: there is no such version.
    """
    edit = edit_of(project, of)
    known = project.database.all(Version)
    if len(known) >= MOST_VERSIONS:
        raise Refused(f"A project holds at most {MOST_VERSIONS} versions: throw some away.")
    name, note = _named(name, known), _noted(note)
    with project.database.changing(f"New version: {name}") as change:
        made = insert_edit(change, name, edit, of)
        when = datetime.now(UTC).isoformat(timespec="seconds")
        change.update(tables.edit, {"id": made}, {"note": note, "made": when})
        change.update(tables.project, {"id": 1}, {"edit": made})
    return made


@one_transaction
def change_version(
    project: Project,
    edit_id: int,
    *,
    name: str | None = None,
    note: str | None = None,
    locked: bool | None = None,
) -> None:
    """Rename a version, write its note, lock it or unlock it, as one step of undo.

    Raises:
        BadInput: no name, or a name or note that is too long.
        Refused: another version has the name.
        NotFound: there is no such version.
    """
    row = project.database.one(Version, id=edit_id)
    others = [v for v in project.database.all(Version) if v.id != edit_id]
    values: dict[str, str | bool] = {}
    if name is not None:
        values["name"] = _named(name, others)
    if note is not None:
        values["note"] = _noted(note)
    if locked is not None:
        values["locked"] = locked
    what = "Rename" if name is not None else "Note on" if note is not None else "Lock" if locked else "Unlock"
    with project.database.changing(f"{what} {row.name}") as change:
        change.update(tables.edit, {"id": edit_id}, values)


@one_transaction
def throw_away(project: Project, edit_id: int) -> None:
    """Throw a version away; undo brings it back.

    Raises:
        Refused: it is worked on, or locked.
        NotFound: there is no such version.
    """
    row = project.database.one(Version, id=edit_id)
    if project.about.edit == edit_id:
        raise Refused("This version is worked on: go to another one, then throw it away.")
    check_unlocked(project, edit_id)
    with project.database.changing(f"Throw away {row.name}") as change:
        for child in project.database.all(Version):
            if child.parent == edit_id:
                change.update(tables.edit, {"id": child.id}, {"parent": row.parent})
        change.delete(tables.edit, {"id": edit_id})


@one_transaction
def switch_to(project: Project, edit_id: int) -> None:
    """Work on another version. That is no step of undo.

    Raises:
        NotFound: there is no such version.
    """
    project.database.one(Version, id=edit_id)
    with project.database.writing() as connection:
        connection.execute(tables.project.update().values(edit=edit_id))


@one_moment
def compare_versions(project: Project, here: int, there: int) -> Comparison:
    """Compare two versions.

    Raises:
        NotFound: there is no such version.
    """
    snapshot = snapshot_of(project)
    mine, theirs = (snapshot.programme(edit_of(project, e)) for e in (here, there))
    return compare(mine, theirs, project.rate)


def take_over(project: Project, edit_id: int, other: int, first: int, end: int) -> Done:
    """Bring frames ``first`` to ``end`` (exclusive) of another version into one, as one step of undo.

    Raises:
        BadInput: the passage is empty, or it is the version itself.
        Refused: the version is locked, or a lane of it is.
        NotFound: there is no such version.
    """
    if other == edit_id:
        raise BadInput("A version has its own shots already: choose another.")
    name = project.database.one(Version, id=other).name
    theirs = edit_of(project, other)
    locked = [lane.name for lane in edit_of(project, edit_id).lanes if lane.locked]
    if locked:
        raise Refused(f"The lane “{locked[0]}” is locked: unlock it first.")
    said = {"from": other, "first": first, "end": end}
    return change_edit(
        project,
        edit_id,
        f"Take over from {name}",
        said,
        lambda _snapshot, mine: taken_over(mine, theirs, first, end, project.rate),
    )


def version_named(project: Project, name: str) -> int:
    """The id of a version by its name.

    Raises:
        BadInput: there is none, with the names that there are.
    """
    known = {v.name: v.id for v in project.database.all(Version)}
    if name not in known:
        raise BadInput(f"There is no version “{name[:60]}”; there are {', '.join(known)}.")
    return known[name]


def _named(name: str, others: list[Version]) -> str:
    name = " ".join(name.split())
    if not 0 < len(name) <= LONGEST_NAME:
        raise BadInput(f"A version has a name of at most {LONGEST_NAME} letters.")
    if any(v.name == name for v in others):
        raise Refused(f"There is a version “{name}” already: choose another name.")
    return name


def _noted(note: str) -> str:
    note = note.strip()
    if len(note) > LONGEST_NOTE:
        raise BadInput(f"A note is at most {LONGEST_NOTE} letters long.")
    return note
