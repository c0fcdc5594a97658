"""Cutting: operations on the current edit as journaled changes, and what cuts fall on."""

from bisect import bisect_left
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from math import isnan
from typing import Any

from zembi.core.edit.falls import checked_lead
from zembi.core.edit.judging import Judgement, judge
from zembi.core.edit.model import Edit
from zembi.core.edit.operations import Operation, apply, arguments
from zembi.core.edit.operations.context import Angle, Context, Footage, Heard, Part
from zembi.core.edit.planning import Pace, checked_pace, pace_of
from zembi.core.errors import BadInput
from zembi.core.song.grid import UNITS, Unit
from zembi.service.media.analyses import light_and_motion
from zembi.service.project.snapshot import Snapshot, current_edit, look
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.edits import save_edit
from zembi.store.entities import Angle as KeptAngle
from zembi.store.entities import Lyric, Media, Section, Select

#: How near a beat a hit lies that is on it, and how long a line of the lyrics is sung at most, in seconds.
_ON_BEAT_S, _LINE_S = 0.06, 4.0
#: From which value on a voice is heard, and the seconds between two values.
_VOICE, _VOICE_HOP_S = 0.5, 0.1


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
    edit_id, edit = current_edit(project)
    snapshot = look(project)
    context = context_of(snapshot)
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
    edit_id, edit = current_edit(project)
    snapshot = look(project)
    context = context_of(snapshot)
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
    return _judged(look(project), current_edit(project)[1])


def _judged(snapshot: Snapshot, edit: Edit) -> Judgement:
    context = context_of(snapshot)
    return judge(edit, snapshot.need_grid(), context.cuts, [(p.name, p.level) for p in context.sections])


def context_of(snapshot: Snapshot) -> Context:
    """What operations need to know of a project."""
    numbers = {a.id: a.number for a in snapshot.angles}
    close = {a.id for a in snapshot.angles if "close" in a.name.lower()}
    clips = {}
    for m in snapshot.media:
        if m.kind not in ("song", "stem"):
            seconds, tags = float(m.facts.get("duration_s", 0.0)), m.tags
            in_s, out_s = float(tags.get("in_s", 0.0)), float(tags.get("out_s", seconds))
            fills = m.kind == "broll" and m.state == "ready"
            clips[m.id] = Footage(
                m.name, in_s, out_s, seconds > 0, fills, float(tags.get("speed", 1.0)), m.id,
                tuple(tags.get("tags", ())), tags.get("moment_s"), seconds,
            )  # fmt: skip
    selects = {
        s.id: Footage(
            s.name, s.in_s, s.out_s, speed=float(s.said.get("speed", 1.0)), media=s.media,
            tags=(*clips[s.media].tags, *s.said.get("tags", ())),
            moment_s=s.said.get("moment_s", clips[s.media].moment_s), seconds=clips[s.media].seconds,
        )
        for s in snapshot.project.database.all(Select)
    }  # fmt: skip
    return Context(
        rate=snapshot.rate,
        grid=snapshot.grid,
        phrases=tuple(p.start_s for p in snapshot.phrases),
        marks=snapshot.mark_times,
        sections=tuple(_parts(snapshot)),
        lead=snapshot.falls.lead,
        angles={n: Angle(numbers[n], spans, n in close) for n, spans in snapshot.angle_spans.items()},
        clips=clips,
        selects=selects,
        heard=lambda: heard_on(snapshot),
        material=snapshot.material,
        moves=lambda f: _moves(snapshot, snapshot.by_id[f.media], f.in_s, f.out_s),
    )


def _moves(snapshot: Snapshot, media: Media, in_s: float, out_s: float) -> float | None:
    """How much moves in a stretch of a file; None where nothing was measured."""
    if not media.content:
        return None
    moves = light_and_motion(snapshot.project.derived(media), in_s, out_s)[1]
    return None if isnan(moves) else moves


def _parts(snapshot: Snapshot) -> list[Part]:
    """Sections of the working song with loudness and energy of what is kept of them, and what is planned for them."""
    found, sections, leads = snapshot.analysis, snapshot.sections, snapshot.falls.sections
    ends = [*[s.start_s for s in sections], snapshot.seconds][1:]
    out: list[Part] = []
    energies: list[float] = []
    for section, end in zip(sections, ends, strict=True):
        loud: list[float] = []
        energy: list[float] = []
        if found is not None:
            song = snapshot.map
            for a, b, _at in song.pieces(song.to_song(section.start_s), song.to_song(end - 1e-6)):
                inside = slice(int(a / found.lufs_hop_s), int(b / found.lufs_hop_s))
                loud += found.lufs[inside]
                energy += found.energy[inside]
        energies.append(sum(energy) / len(energy) if energy else 0.5)
        pace = Pace(**{**section.plan, "leads": tuple(section.plan["leads"])}) if section.plan else None
        out.append(
            Part(
                section.start_s,
                sum(loud) / len(loud) if loud else -70.0,
                section.name,
                energies[-1],
                pace,
                leads[len(out)][1],
            )
        )  # fmt: skip
    most = max([*energies, 1e-9])
    return [replace(p, energy=min(1.0, e / most)) for p, e in zip(out, energies, strict=True)]


def heard_on(snapshot: Snapshot) -> Heard:
    """What was heard of the music, beat by beat."""
    found, grid = snapshot.analysis, snapshot.grid
    if found is None or grid is None:
        return Heard()
    song, hop = snapshot.map, found.lufs_hop_s
    usual = sorted(found.energy) or [0.5]
    low, high = usual[len(usual) // 10], usual[-1 - len(usual) // 20]
    strongest = sorted((h.at_s, h.strength) for hits in snapshot.hits.values() for h in hits)
    times = [h[0] for h in strongest]
    energy, hits = [], []
    for at, following in zip(grid.beats, [*grid.beats[1:], grid.beats[-1] + 60 / grid.bpm], strict=True):
        here = song.to_song(min(max(0.0, at), max(0.0, snapshot.seconds - 1e-6)))
        heard = found.energy[int(here / hop) : max(int(here / hop) + 1, int((here + following - at) / hop))]
        mean = sum(heard) / len(heard) if heard else low
        energy.append(min(1.0, max(0.0, (mean - low) / max(1e-9, high - low))))
        near = strongest[bisect_left(times, here - _ON_BEAT_S) : bisect_left(times, here + _ON_BEAT_S)]
        hits.append(max((s for _, s in near), default=0.0))
    bands = {
        band: tuple((song.to_working(h.at_s), h.strength) for h in found_ if song.holds(h.at_s))
        for band, found_ in snapshot.hits.items()
    }
    lines = tuple(song.to_working(a) for a in _lines(snapshot) if song.holds(a))
    return Heard(tuple(energy), tuple(hits), _sung(snapshot), bands, lines)


def _lines(snapshot: Snapshot) -> list[float]:
    """Song times at which timed lines of the lyrics begin."""
    return sorted(r.at_s for r in snapshot.project.database.all(Lyric) if r.timed)


def _sung(snapshot: Snapshot) -> tuple[tuple[float, float], ...]:
    """Working times that are sung: by the lines of the lyrics, else where a voice is heard."""
    song = snapshot.map
    lines = _lines(snapshot)
    if lines:
        ends = [min(b, a + _LINE_S) for a, b in zip(lines, [*lines[1:], lines[-1] + _LINE_S], strict=True)]
        kept = [(song.to_working(a), b - a) for a, b in zip(lines, ends, strict=True) if song.holds(a)]
        return tuple((a, a + length) for a, length in kept)
    out, since = [], None
    for n, voice in enumerate([*snapshot.voice, 0.0]):
        if voice >= _VOICE and since is None:
            since = n * _VOICE_HOP_S
        elif voice < _VOICE and since is not None:
            out += [(at, at + b - a) for a, b, at in song.pieces(since, n * _VOICE_HOP_S)]
            since = None
    return tuple(out)


@dataclass(frozen=True)
class Planned:
    """What is planned for a section: frames as cuts fall there, its energy, its pace, and whether that was set by hand."""

    section: int
    name: str
    first: int
    end: int
    energy: float
    pace: Pace
    by_hand: bool


@one_moment
def plan(project: Project) -> list[Planned]:
    """What is planned for each section of the working song.

    Raises:
        Refused: there is no grid yet.
    """
    snapshot = look(project)
    snapshot.need_grid()
    clips = any(m.kind == "broll" and m.state == "ready" for m in snapshot.media)
    context = context_of(snapshot)
    parts = context.sections
    return [
        Planned(
            section.id,
            section.name,
            first,
            end,
            part.energy,
            part.pace or pace_of(part.energy, clips),
            part.pace is not None,
        )
        for section, part, (first, end) in zip(
            snapshot.sections, parts, context.cuts.section_frames(snapshot.length), strict=True
        )
    ]


@one_transaction
def set_plan(project: Project, section_id: int, pace: Pace | None) -> None:
    """Plan a section by hand, or by the energy of its music again, as one step of undo.

    Raises:
        BadInput: a value out of range, or an angle that is not there.
        NotFound: there is no such section.
    """
    row = project.database.one(Section, id=section_id)
    if pace is not None:
        checked_pace(pace)
        known = {a.id for a in project.database.all(KeptAngle)}
        if not set(pace.leads) <= known:
            raise BadInput("An angle that should lead is not there any more.")
    with project.database.changing(f"Plan {row.name}") as change:
        change.update(tables.section, {"id": section_id}, {"plan": asdict(pace) if pace else None})


@one_moment
def judged_ahead(project: Project, operation: Operation) -> Judgement:
    """What can be said of the cut that an operation would make.

    Raises:
        BadInput, Refused: as :func:`operate`.
    """
    snapshot = look(project)
    _, edit = current_edit(project)
    return _judged(snapshot, apply(edit, operation, context_of(snapshot)))


@one_transaction
def settings(project: Project, *, unit: str | None, lead: int | None, section: int | None = None) -> None:
    """Choose what cuts fall on and how many frames before it: everywhere, or in one section (as everywhere without a lead)."""
    values = dict(project.about.settings)
    if unit is not None:
        values["unit"] = _unit(unit)
    if lead is not None:
        checked_lead(lead)
    if section is not None:
        project.database.one(Section, id=section)
        own = {k: v for k, v in values.get("leads", {}).items() if k != str(section)}
        values["leads"] = own if lead is None else {**own, str(section): lead}
    elif lead is not None:
        values["lead"] = lead
    with project.database.writing() as connection:
        connection.execute(tables.project.update().values(settings=values))
