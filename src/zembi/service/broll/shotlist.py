"""The shot list: what was planned, what takes and selects were ticked off it, and what was never shot."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from zembi.core.edit.operations.context import Line
from zembi.core.errors import BadInput
from zembi.core.footage.tags import section_of, tagged_for
from zembi.core.interchange.shotlist import ShotPlan, read_shot_list, template, write_shot_list
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import ListedShot, Media, Pass, Select, every


@dataclass(frozen=True)
class Listed:
    """A planned shot and the names of what was shot of it; ``by_tag`` names those that only a tag ticks off."""

    id: int
    section: str
    what: str
    camera: str
    note: str
    done: list[str]
    ticks: list[dict[str, Any]]
    by_tag: list[str]


@one_transaction
def take_in(project: Project, text: str) -> int:
    """Add the shots of a CSV to the list, as one step of undo; those already there are not added twice.

    Raises:
        BadInput: it is no shot list.
    """
    planned = read_shot_list(text)
    rows = project.database.all(ListedShot)
    there = {(r.section, r.what, r.camera) for r in rows}
    fresh = [p for p in planned if (p.section, p.what, p.camera) not in there]
    position = 1 + max((r.position for r in rows), default=0)
    with project.database.changing(f"Read a shot list of {len(planned)}") as change:
        change.insert_all(
            tables.listed_shot,
            [{**vars(p), "position": position + n, "done": []} for n, p in enumerate(fresh)],
        )
    return len(fresh)


@one_transaction
def add(project: Project, planned: ShotPlan) -> int:
    """Add one planned shot.

    Raises:
        BadInput: it does not say what is to be shot.
    """
    _need_what(planned.what)
    position = 1 + max((r.position for r in project.database.all(ListedShot)), default=0)
    with project.database.changing(f"Plan {planned.what}") as change:
        values = {**vars(planned), "position": position, "done": []}
        return int(change.insert(tables.listed_shot, values)["id"])


def _need_what(what: str) -> None:
    if not what.strip():
        raise BadInput("Say what is to be shot.")


@one_transaction
def change(project: Project, listed_id: int, values: dict[str, str]) -> None:
    """Change what is planned.

    Raises:
        BadInput: it no longer says what is to be shot.
    """
    row = project.database.one(ListedShot, id=listed_id)
    _need_what(values.get("what", row.what))
    with project.database.changing(f"Change {row.what} in the shot list") as changed:
        changed.update(tables.listed_shot, {"id": listed_id}, {k: v.strip() for k, v in values.items()})


@one_transaction
def drop(project: Project, listed_id: int) -> None:
    """Take a shot off the list."""
    row = project.database.one(ListedShot, id=listed_id)
    with project.database.changing(f"Take {row.what} off the shot list") as changed:
        changed.delete(tables.listed_shot, {"id": listed_id})


@one_transaction
def tick(project: Project, listed_id: int, what: dict[str, Any], *, on: bool) -> None:
    """Tick a pass, a file or a select off the list, or take the tick away.

    Raises:
        NotFound: there is no such thing.
    """
    row = project.database.one(ListedShot, id=listed_id)
    (kind, key), *_ = what.items()
    project.database.one({"pass": Pass, "media": Media, "select": Select}[kind], id=key)
    done = [d for d in row.done if d != what] + ([what] if on else [])
    with project.database.changing(f"{'Tick off' if on else 'Untick'} {row.what}") as changed:
        changed.update(tables.listed_shot, {"id": listed_id}, {"done": done})


@one_moment
def listed(project: Project) -> list[Listed]:
    """The shot list in order."""
    return listed_of(snapshot_of(project))


def listed_of(snapshot: Snapshot) -> list[Listed]:
    """The shot list in order, with what is ticked off: by hand, or by a tag that says what was planned."""
    with snapshot.project.database.reading() as connection:
        rows = sorted(every(connection, ListedShot), key=lambda r: (r.position, r.id))
        selects = {s.id: s for s in every(connection, Select)} if rows else {}
    passes = {p.id: p for p in snapshot.passes}
    out = []
    for row in rows:
        names, ticks = [], []
        for d in row.done:
            (kind, key), *_ = d.items()
            found: Media | Select | None = None
            if kind == "pass" and key in passes:
                found = snapshot.by_id.get(passes[key].media)
            elif kind == "media":
                found = snapshot.by_id.get(key)
            elif kind == "select":
                found = selects.get(key)
            if found is not None:
                names.append(found.name)
                ticks.append(d)
        by_tag = _tagged(row, snapshot.media, list(selects.values()))
        out.append(
            Listed(row.id, row.section, row.what, row.camera, row.note, names, ticks, [n for n in by_tag if n not in names])
        )  # fmt: skip
    return out


def planned_lines(snapshot: Snapshot) -> list[Line]:
    """The shot list as it is assembled: the first thing ticked off each line that can be shown, by hand before by tag."""
    with snapshot.project.database.reading() as connection:
        rows = sorted(every(connection, ListedShot), key=lambda r: (r.position, r.id))
        selects = every(connection, Select) if rows else []
    passes = {p.id: p for p in snapshot.passes}
    names = {s.id: s.media for s in selects}
    out = []
    for row in rows:
        line = Line(row.section, row.what)
        for tick in [*row.done, *_by_tag(row, snapshot.media, selects)]:
            (kind, key), *_ = tick.items()
            if kind == "pass" and key in passes and passes[key].angle is not None:
                line = replace(line, angle=passes[key].angle)
            elif kind == "media" and (found := snapshot.by_id.get(key)) and found.kind == "broll":
                line = replace(line, media=key)
            elif kind == "select" and key in names:
                line = replace(line, media=names[key], select=key)
            else:
                continue
            break
        out.append(line)
    return out


def _by_tag(row: ListedShot, media: Sequence[Media], selects: Sequence[Select]) -> list[dict[str, Any]]:
    """Clips and selects with a tag that says what was planned, as ticks."""
    things: list[Media | Select] = [*media, *selects]
    return [
        {"select" if isinstance(thing, Select) else "media": thing.id}
        for thing in things
        if _says(row, thing)
    ]


def _tagged(row: ListedShot, media: Sequence[Media], selects: Sequence[Select]) -> list[str]:
    """Names of clips and selects with a tag that says what was planned, and none for another section."""
    things: list[Media | Select] = [*media, *selects]
    return [thing.name for thing in things if _says(row, thing)]


def _says(row: ListedShot, thing: Media | Select) -> bool:
    """True if a tag says what was planned, and none is for another section."""
    tags = [t.strip().lower() for t in thing.said.tags]
    elsewhere = any(section_of(t) is not None for t in tags) and not tagged_for(row.section, tags)
    return row.what.strip().lower() in tags and not (row.section and elsewhere)


def as_csv(project: Project) -> str:
    """The list with what was shot of it, to take along."""
    shots = listed(project)
    planned = [ShotPlan(s.section, s.what, s.camera, s.note) for s in shots]
    return write_shot_list(planned, [", ".join([*s.done, *s.by_tag]) or "never shot" for s in shots])


def template_csv(project: Project) -> str:
    """A list to begin with, a row for each section."""
    return template([s.name for s in snapshot_of(project).section_spans])
