"""Cutting: operations on the current edit as journaled changes, and what cuts fall on."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from zembi.core.edit.judging import Judgement, judge
from zembi.core.edit.model import Edit
from zembi.core.edit.operations import Operation, apply, arguments
from zembi.core.edit.operations.context import MOST_LEAD, Angle, Context, Footage, Part
from zembi.core.errors import BadInput
from zembi.core.song.grid import UNITS, Unit
from zembi.core.timebase import seconds_to_frame
from zembi.service.project.snapshot import Snapshot, current_edit, look
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.edits import save_edit
from zembi.store.entities import Select


def _unit(value: str) -> Unit:
    for unit in UNITS:
        if unit == value:
            return unit
    raise BadInput(f"Cuts fall on {', '.join(UNITS)}; “{value}” is none of them.")


@dataclass(frozen=True)
class Done:
    """An operation that was done: its name, and the edit after it with what it was seen against."""

    name: str
    snapshot: Snapshot
    edit_id: int
    edit: Edit


@one_transaction
def operate(project: Project, operation: Operation) -> Done:
    """Do one operation on the current edit, as one step of undo.

    Raises:
        BadInput: a value that cannot be meant.
        Refused: in plain words, why it cannot be done.
    """
    snapshot = look(project)
    context = context_of(snapshot)
    edit_id, edit = current_edit(project)
    after, name = apply(edit, operation, context), operation.named(context)
    with project.database.changing(name, {"op": operation.op, **arguments(operation)}) as change:
        save_edit(change, edit_id, after, edit)
    return Done(name, snapshot, edit_id, after)


@one_moment
def look_ahead(project: Project, operation: Operation) -> Done:
    """What an operation would make of the current edit; nothing is changed.

    Raises:
        BadInput, Refused: as :func:`operate`.
    """
    snapshot = look(project)
    context = context_of(snapshot)
    edit_id, edit = current_edit(project)
    return Done(operation.named(context), snapshot, edit_id, apply(edit, operation, context))


@one_transaction
def change_edit(
    project: Project, name: str, said: dict[str, Any], changed: Callable[[Snapshot, Edit], Edit]
) -> Done:
    """Change the current edit by what follows from another change, as one step of undo."""
    with project.database.changing(name, said) as change:
        snapshot = look(project, change.connection)
        edit_id, edit = current_edit(project, change.connection)
        after = changed(snapshot, edit)
        save_edit(change, edit_id, after, edit)
    return Done(name, snapshot, edit_id, after)


@one_moment
def judged(project: Project) -> Judgement:
    """What can be said of the current cut as a whole.

    Raises:
        Refused: there is no song or grid yet.
    """
    snapshot = look(project)
    _, edit = current_edit(project)
    starts = [seconds_to_frame(s.start_s, snapshot.rate) for s in snapshot.section_spans]
    ends = [*starts[1:], snapshot.length]
    sections = [
        (s.name, start, end, part.level)
        for s, start, end, part in zip(snapshot.section_spans, starts, ends, _parts(snapshot), strict=True)
    ]
    lead = int(snapshot.about.settings.get("lead", 0))
    return judge(edit, snapshot.need_grid(), snapshot.rate, sections, lead)


def context_of(snapshot: Snapshot) -> Context:
    """What operations need to know of a project."""
    numbers = {a.id: a.number for a in snapshot.angles}
    clips = {}
    for m in snapshot.media:
        if m.kind not in ("song", "stem"):
            seconds, tags = float(m.facts.get("duration_s", 0.0)), m.tags
            clips[m.id] = Footage(
                m.name, float(tags.get("in_s", 0.0)), float(tags.get("out_s", seconds)), seconds > 0,
                m.kind == "broll" and m.state == "ready", float(tags.get("speed", 1.0)), m.id,
            )  # fmt: skip
    selects = {
        s.id: Footage(s.name, s.in_s, s.out_s, speed=float(s.said.get("speed", 1.0)), media=s.media)
        for s in snapshot.project.database.all(Select)
    }
    return Context(
        rate=snapshot.rate,
        grid=snapshot.grid,
        phrases=tuple(p.start_s for p in snapshot.phrases),
        marks=snapshot.mark_times,
        sections=tuple(_parts(snapshot)),
        lead=int(snapshot.about.settings.get("lead", 0)),
        angles={n: Angle(numbers[n], spans) for n, spans in snapshot.angle_spans.items()},
        clips=clips,
        selects=selects,
    )


def _parts(snapshot: Snapshot) -> list[Part]:
    """Sections of the working song with the loudness of what is kept of them."""
    found, spans = snapshot.analysis, snapshot.section_spans
    ends = [*[s.start_s for s in spans[1:]], snapshot.seconds]
    out = []
    for section, end in zip(spans, ends, strict=True):
        heard: list[float] = []
        if found is not None:
            song = snapshot.map
            for a, b, _at in song.pieces(song.to_song(section.start_s), song.to_song(end - 1e-6)):
                heard += found.lufs[int(a / found.lufs_hop_s) : int(b / found.lufs_hop_s)]
        out.append(Part(section.start_s, sum(heard) / len(heard) if heard else -70.0))
    return out


@one_transaction
def settings(project: Project, *, unit: str | None, lead: int | None) -> None:
    """Choose what cuts fall on and how many frames before it."""
    values = dict(project.about.settings)
    if unit is not None:
        values["unit"] = _unit(unit)
    if lead is not None:
        if not 0 <= lead <= MOST_LEAD:
            raise BadInput(f"A lead of {lead} frames is outside 0 to {MOST_LEAD}.")
        values["lead"] = lead
    with project.database.writing() as connection:
        connection.execute(tables.project.update().values(settings=values))
