"""Cutting: operations on an edit as journaled changes, and what cuts fall on."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace
from functools import cache
from typing import Any

from zembi.core.edit.falls import checked_lead
from zembi.core.edit.judging import Judgement, judge
from zembi.core.edit.limits import checked_limits, limits_from, limits_to_store
from zembi.core.edit.model import Edit
from zembi.core.edit.operations import FillByRules, LayAt, Operation, apply, arguments, planned
from zembi.core.edit.operations.context import AngleCoverage, Context, Footage, SectionContext
from zembi.core.edit.operations.placing import Placement
from zembi.core.edit.planning import NextBest, Pace, Shortfall, checked_pace, pace_of
from zembi.core.errors import BadInput, Refused
from zembi.core.lineup.angles import is_close
from zembi.core.song.grid import UNITS, Unit
from zembi.core.song.heard import (
    NO_ENERGY,
    SILENT_LUFS,
    Curves,
    Heard,
    energy_on_beats,
    hits_on_beats,
    sung_by_lines,
    sung_by_voice,
    working_hits,
)
from zembi.core.song.hits import HitKind
from zembi.core.song.listen import SongAnalysis
from zembi.core.song.spectrum import BANDS
from zembi.core.titles.card import Card
from zembi.service.broll.shotlist import planned_lines
from zembi.service.media.analyses import cuts_within, look_of, worths
from zembi.service.project.snapshot import Snapshot, edit_of, snapshot_of
from zembi.service.project.tags import check_tag
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.service.song.lyrics import lines_of, sung_lines
from zembi.service.titles.cards import check_font
from zembi.store import tables
from zembi.store.edits import save_edit
from zembi.store.entities import Angle as KeptAngle
from zembi.store.entities import Lyric, Section, Select, Version


def _unit(value: str) -> Unit:
    for unit in UNITS:
        if unit == value:
            return unit
    raise BadInput(f"Cuts fall on {', '.join(UNITS)}; “{value}” is none of them.")


@dataclass(frozen=True)
class Done:
    """An operation that was done: its name, the edit after it with what it was seen against, and whether that is kept."""

    name: str
    snapshot: Snapshot
    edit_id: int
    edit: Edit
    kept: bool = True


@one_transaction
def operate(project: Project, edit_id: int, operation: Operation) -> Done:
    """Do one operation on an edit, as one step of undo.

    Raises:
        BadInput: a value that cannot be meant.
        Refused: in plain words, why it cannot be done.
    """
    check_fonts(project, operation)
    edit, snapshot = edit_of(project, edit_id), snapshot_of(project)
    check_unlocked(project, edit_id)
    context = context_of(snapshot)
    after, name = apply(edit, operation, context), operation.named(context)
    with project.database.changing(name, {"op": operation.op, **arguments(operation)}, edit_id) as change:
        save_edit(change, edit_id, after, edit)
    return Done(name, snapshot, edit_id, after)


def check_unlocked(project: Project, edit_id: int) -> None:
    """Check that a version may be cut.

    Raises:
        Refused: it is locked.
        NotFound: there is no such version.
    """
    row = project.database.one(Version, id=edit_id)
    if row.locked:
        raise Refused(f"The version “{row.name}” is locked: unlock it, or make a new one of it.")


def check_fonts(project: Project, operation: Operation) -> None:
    """Check that the font file that an operation brings lies where files may be read.

    Raises:
        BadInput, NotAllowed: it does not.
    """
    card = getattr(operation, "card", None)
    if isinstance(card, Card):
        check_font(project, card)


@one_moment
def preview(project: Project, edit_id: int, operation: Operation) -> Done:
    """The edit that an operation would make of an edit; nothing is changed.

    Raises:
        BadInput, Refused: as :func:`operate`.
    """
    check_fonts(project, operation)
    edit, snapshot = edit_of(project, edit_id), snapshot_of(project)
    context = context_of(snapshot)
    return Done(operation.named(context), snapshot, edit_id, apply(edit, operation, context), False)


@one_transaction
def change_edit(
    project: Project, edit_id: int, name: str, said: dict[str, Any], changed: Callable[[Snapshot, Edit], Edit]
) -> Done:
    """Change an edit by what follows from another change, as one step of undo.

    Raises:
        Refused: the version is locked.
    """
    with project.database.changing(name, said, edit_id) as change:
        snapshot, edit = snapshot_of(project, change.connection), edit_of(project, edit_id)
        check_unlocked(project, edit_id)
        after = changed(snapshot, edit)
        save_edit(change, edit_id, after, edit)
    return Done(name, snapshot, edit_id, after)


@one_moment
def judged(project: Project, edit_id: int) -> Judgement:
    """Judge a cut as a whole.

    Raises:
        Refused: there is no song or grid yet.
    """
    return _judged(snapshot_of(project), edit_of(project, edit_id))


def _judged(snapshot: Snapshot, edit: Edit) -> Judgement:
    context = context_of(snapshot)
    return judge(edit, snapshot.need_grid(), context.cuts, [(p.name, p.level) for p in context.sections])


def context_of(snapshot: Snapshot) -> Context:
    """The context of operations on a project's edits."""
    numbers = {a.id: a.number for a in snapshot.angles}
    close = {a.id for a in snapshot.angles if is_close(a.name)}
    clips = {}
    for m in snapshot.media:
        if m.kind not in ("song", "stem"):
            fills = m.kind == "broll" and m.state == "ready"
            clips[m.id] = Footage(
                m.name, m.in_s, m.out_s, m.seconds > 0, fills, m.said.speed, m.id, m.said.tags, m.said.moment_s,
                m.seconds, m.facts.still,
            )  # fmt: skip
    selects = {
        s.id: Footage(
            s.name, s.in_s, s.out_s, speed=s.said.speed, media=s.media,
            tags=(*clips[s.media].tags, *s.said.tags),
            moment_s=clips[s.media].moment_s if s.said.moment_s is None else s.said.moment_s,
            seconds=clips[s.media].seconds,
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
        strong={kind: 1 - share for kind, share in snapshot.sensitivities.items()},
        angles={n: AngleCoverage(numbers[n], spans, n in close) for n, spans in snapshot.angle_spans.items()},
        clips=clips,
        selects=selects,
        heard=cache(lambda: heard_on(snapshot)),
        listed=cache(lambda: planned_lines(snapshot)),
        lyrics=cache(lambda: sung_lines(snapshot)),
        material=snapshot.material,
        look=lambda f: (
            look_of(snapshot.project.derived(m), f.in_s, f.out_s)
            if (m := snapshot.by_id[f.media]).content
            else None
        ),
        worth=lambda m: worths(snapshot.project.derived(snapshot.by_id[m])),
        cuts_in=lambda m: cuts_within(snapshot.project.derived(snapshot.by_id[m])),
    )


def _parts(snapshot: Snapshot) -> list[SectionContext]:
    """Sections of the working song with loudness and energy of what is kept of them, and what is planned for them."""
    found, sections, leads = snapshot.analysis, snapshot.sections, snapshot.falls.sections
    ends = [*[s.start_s for s in sections], snapshot.seconds][1:]
    out: list[SectionContext] = []
    for section, end, (_, lead) in zip(sections, ends, leads, strict=True):
        level, energy = (
            _curves(found).mean(snapshot.map, section.start_s, end) if found else (SILENT_LUFS, NO_ENERGY)
        )
        pace = Pace(**{**section.plan, "leads": tuple(section.plan["leads"])}) if section.plan else None
        out.append(SectionContext(section.start_s, level, section.name, energy, pace, lead))
    most = max([*(p.energy for p in out), 1e-9])
    return [replace(p, energy=min(1.0, p.energy / most)) for p in out]


def heard_on(snapshot: Snapshot) -> Heard:
    """Energy, hits and voice of the music, beat by beat."""
    found, grid, song = snapshot.analysis, snapshot.grid, snapshot.map
    if found is None or grid is None:
        return Heard()
    lines = lines_of(snapshot.project.database.all(Lyric))
    timed = [at for line in lines if (at := line.at_s) is not None]
    return Heard(
        energy_on_beats(grid, _curves(found), song, snapshot.seconds),
        hits_on_beats(grid, {band: snapshot.hits.get(band, []) for band in BANDS}, song, snapshot.seconds),
        sung_by_lines(lines, song, snapshot.song_seconds) if timed else sung_by_voice(snapshot.voice, song),
        working_hits(snapshot.hits, song),
        tuple(song.to_working(at) for at in timed if song.holds(at)),
    )


def _curves(found: SongAnalysis) -> Curves:
    return Curves(found.lufs, found.energy, found.lufs_hop_s)


@dataclass(frozen=True)
class PlannedSection:
    """The plan of a section: frames as cuts fall there, its energy, its pace, and whether that was set by hand."""

    section: int
    name: str
    first: int
    end: int
    energy: float
    pace: Pace
    by_hand: bool


@one_moment
def plan(project: Project) -> list[PlannedSection]:
    """The plan of each section of the working song.

    Raises:
        Refused: there is no grid yet.
    """
    snapshot = snapshot_of(project)
    snapshot.need_grid()
    clips = any(m.kind == "broll" and m.state == "ready" for m in snapshot.media)
    context = context_of(snapshot)
    parts = context.sections
    return [
        PlannedSection(
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
def judged_ahead(project: Project, edit_id: int, operation: Operation) -> Judgement:
    """Judge the cut that an operation would make.

    Raises:
        BadInput, Refused: as :func:`operate`.
    """
    snapshot, edit = snapshot_of(project), edit_of(project, edit_id)
    return _judged(snapshot, apply(edit, operation, context_of(snapshot)))


@one_moment
def placement(project: Project, edit_id: int, laid: LayAt) -> Placement:
    """Place that a clip would take, and the reason where it cannot.

    Raises:
        BadInput, Refused: no place can be told.
    """
    return laid.placement(edit_of(project, edit_id), context_of(snapshot_of(project)))


@one_moment
def next_bests(project: Project, edit_id: int, item: int, without: tuple[str, ...] = ()) -> list[NextBest]:
    """Clips that could take the place of what a shot shows, in the order of the rules.

    Raises:
        BadInput, Refused: as :func:`zembi.core.edit.operations.planned.next_bests`.
    """
    return planned.next_bests(edit_of(project, edit_id), item, context_of(snapshot_of(project)), without)


@one_moment
def left_empty(project: Project, edit_id: int, fill: FillByRules) -> list[Shortfall]:
    """Reasons for each slot that filling by the rules would leave empty.

    Raises:
        BadInput: a value that cannot be meant.
    """
    edit, context = edit_of(project, edit_id), context_of(snapshot_of(project))
    try:
        after = apply(edit, fill, context)
    except Refused:
        after = edit
    return fill.left_empty(after, context)


@one_transaction
def settings(
    project: Project,
    *,
    unit: str | None,
    lead: int | None,
    section: int | None = None,
    sensitivities: Mapping[HitKind, float] | None = None,
    limits: Mapping[str, float] | None = None,
    known: str | None = None,
) -> None:
    """Choose what cuts fall on and how many frames before it: everywhere, or in one section (as everywhere without a lead);
    or the sensitivity of some kinds of hits, 0 (none) to 1 (every one); or some limits of the checks.

    Raises:
        Changed: ``known`` is given, and is not the tag of the settings as they are.
    """
    values = dict(project.about.settings)
    check_tag(known, values, "What cuts fall on was")
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
    if sensitivities is not None:
        values["sensitivities"] = {**values.get("sensitivities", {}), **sensitivities}
    if limits is not None:
        now = limits_from(values.get("limits", {}))
        values["limits"] = limits_to_store(checked_limits(limits, now))
    with project.database.writing() as connection:
        connection.execute(tables.project.update().values(settings=values))
