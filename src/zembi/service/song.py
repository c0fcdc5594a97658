"""Correcting the grid, sections and marks."""

import dataclasses
from typing import Any

from zembi.core.errors import BadInput, Refused
from zembi.core.song import grid as grids
from zembi.core.song.grid import Corrections
from zembi.core.song.marks import tidy
from zembi.service.snapshot import look
from zembi.service.workspace import Project
from zembi.store import tables
from zembi.store.database import Change


def _correct(project: Project, name: str, corrections: Corrections) -> None:
    with project.database.changing(name, dataclasses.asdict(corrections)) as change:
        change.update(tables.corrections, {"id": 1}, {"data": dataclasses.asdict(corrections)})


def correct_grid(
    project: Project,
    action: str,
    *,
    at_s: float | None = None,
    metre: int | None = None,
    seconds: float | None = None,
) -> None:
    """Change the grid by one action; no cut moves.

    Args:
        project: The project.
        action: "halve", "double", "half beat", "the one" (needs ``at_s``), "metre" (needs ``metre``), "nudge"
            (needs ``seconds``) or "as found".
        at_s: Song time of the beat meant.
        metre: Beats in a bar.
        seconds: How far to move the whole grid.

    Raises:
        Refused: it cannot go further that way.
        BadInput: an unknown action or a missing value.
    """
    snapshot = look(project)
    found = snapshot.need_grid()
    now = snapshot.corrections
    if action == "halve":
        _correct(project, "Count half as fast", grids.halve(now))
    elif action == "double":
        _correct(project, "Count twice as fast", grids.double(now))
    elif action == "half beat":
        _correct(project, "Shift the beat by half", dataclasses.replace(now, half_shift=not now.half_shift))
    elif action == "the one" and at_s is not None:
        one = found.nearest(at_s, "beat")
        _correct(project, "Set the one", dataclasses.replace(now, one_s=one))
    elif action == "metre" and metre is not None:
        if not 2 <= metre <= 12:
            raise BadInput(f"A bar of {metre} beats is outside 2 to 12.")
        _correct(project, f"Count in {metre}", dataclasses.replace(now, metre=metre))
    elif action == "nudge" and seconds is not None:
        _correct(project, "Nudge the grid", dataclasses.replace(now, nudge_s=now.nudge_s + seconds))
    elif action == "as found":
        _correct(project, "Grid as found", Corrections())
    else:
        raise BadInput(f"“{action}” is not something to do to the grid, or a value is missing.")


def rename_section(project: Project, section_id: int, name: str) -> None:
    """Give a section another name."""
    cleaned = name.strip()
    if not cleaned:
        raise BadInput("Give the section a name.")
    row = project.database.one(tables.section, id=section_id)
    with project.database.changing(f"Rename {row['name']}") as change:
        change.update(tables.section, {"id": section_id}, {"name": cleaned})


def move_section(project: Project, section_id: int, start_s: float, *, snap: bool = True) -> None:
    """Move a section's border, to the nearest bar line unless ``snap`` is off.

    Raises:
        Refused: it would pass its neighbour, or it is the first.
    """
    snapshot = look(project)
    ordered = sorted(snapshot.sections, key=lambda r: r["start_s"])
    index = next((i for i, r in enumerate(ordered) if r["id"] == section_id), None)
    if index is None:
        raise BadInput("There is no such section any more.")
    if index == 0:
        raise Refused("The first section starts with the song.")
    grid = snapshot.need_grid()
    at = grid.nearest(start_s, "bar") if snap else start_s
    after = ordered[index + 1]["start_s"] if index + 1 < len(ordered) else snapshot.seconds
    if not ordered[index - 1]["start_s"] + 0.1 < at < after - 0.1:
        raise Refused(f"“{ordered[index]['name']}” has to start between its neighbours.")
    with project.database.changing(f"Move the border of {ordered[index]['name']}") as change:
        change.update(tables.section, {"id": section_id}, {"start_s": at})


def split_section(project: Project, at_s: float) -> None:
    """Start a new section at the bar line nearest to a song time.

    Raises:
        Refused: a section starts there already.
    """
    snapshot = look(project)
    at = snapshot.need_grid().nearest(at_s, "bar")
    if any(abs(r["start_s"] - at) < 0.1 for r in snapshot.sections):
        raise Refused("A section starts at this bar already.")
    before = max(
        (r for r in snapshot.sections if r["start_s"] < at), key=lambda r: r["start_s"], default=None
    )
    values = {
        "start_s": at, "name": f"{before['name']} b" if before else "Section",
        "phrase_bars": before["phrase_bars"] if before else 4,
        "repeat_group": 1 + max((r["repeat_group"] for r in snapshot.sections), default=-1),
    }  # fmt: skip
    with project.database.changing("Split a section") as change:
        change.insert(tables.section, values)


def join_section(project: Project, section_id: int) -> None:
    """Join a section to the one before it.

    Raises:
        Refused: it is the first.
    """
    ordered = sorted(project.database.all(tables.section), key=lambda r: r["start_s"])
    if ordered and ordered[0]["id"] == section_id:
        raise Refused("The first section has none before it.")
    row = project.database.one(tables.section, id=section_id)
    with project.database.changing(f"Join {row['name']} to the section before") as change:
        change.delete(tables.section, {"id": section_id})


def set_phrase_bars(project: Project, section_id: int, bars: int) -> None:
    """Set how many bars make a phrase (a row of the sheet) in a section."""
    if not 1 <= bars <= 16:
        raise BadInput(f"A phrase of {bars} bars is outside 1 to 16.")
    row = project.database.one(tables.section, id=section_id)
    with project.database.changing(f"Phrases of {bars} bars in {row['name']}") as change:
        change.update(tables.section, {"id": section_id}, {"phrase_bars": bars})


def add_marks(project: Project, times_s: list[float], *, set_id: int | None = None) -> list[int]:
    """Tap marks: add them to a set (the first one, made if there is none)."""
    seconds = look(project).seconds
    inside = [t for t in times_s if 0 <= t <= seconds]
    if not inside:
        raise BadInput("A mark has to lie inside the song.")
    name = "Tap a mark" if len(inside) == 1 else f"Add {len(inside)} marks"
    with project.database.changing(name) as change:
        chosen = set_id if set_id is not None else _first_set(project, change)
        return [change.insert(tables.mark, {"set_id": chosen, "at_s": t, "name": ""})["id"] for t in inside]


def _first_set(project: Project, change: Change) -> int:
    sets = project.database.all(tables.mark_set)
    return int(
        sets[0]["id"] if sets else change.insert(tables.mark_set, {"name": "tapped", "shown": True})["id"]
    )


def move_mark(project: Project, mark_id: int, at_s: float) -> None:
    """Move a mark."""
    if not 0 <= at_s <= look(project).seconds:
        raise BadInput("A mark has to lie inside the song.")
    with project.database.changing("Move a mark") as change:
        change.update(tables.mark, {"id": mark_id}, {"at_s": at_s})


def delete_marks(project: Project, mark_ids: list[int]) -> None:
    """Delete marks."""
    with project.database.changing(
        "Delete a mark" if len(mark_ids) == 1 else f"Delete {len(mark_ids)} marks"
    ) as change:
        for mark_id in mark_ids:
            change.delete(tables.mark, {"id": mark_id})


def tidy_marks(project: Project, to: str, reach_s: float) -> int:
    """Move all marks to the nearest beat, half-beat or hit within reach; returns how many moved."""
    snapshot = look(project)
    grid, found = snapshot.need_grid(), snapshot.analysis
    if to in ("beat", "half"):
        targets = grid.points("beat" if to == "beat" else "half")
    elif to == "hit" and found is not None:
        targets = sorted(h.at_s for hits in found.hits.values() for h in hits if h.strength >= 0.3)
    else:
        raise BadInput(f"Marks can be tidied to beat, half or hit, not “{to}”.")
    rows = project.database.all(tables.mark)
    moved = tidy([r["at_s"] for r in rows], list(targets), reach_s)
    with project.database.changing(f"Tidy {len(rows)} marks") as change:
        return sum(_moved(change, row, at) for row, at in zip(rows, moved, strict=True))


def _moved(change: Change, row: Any, at_s: float) -> bool:
    if abs(row["at_s"] - at_s) < 1e-9:
        return False
    change.update(tables.mark, {"id": row["id"]}, {"at_s": at_s})
    return True
