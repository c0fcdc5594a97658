"""What the page is told about a project, put together from one snapshot."""

import dataclasses
from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache
from math import isnan, nan
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from zembi.core.edit.checks import Finding, of_treatments, on_purpose
from zembi.core.edit.compile import Material, range_time, time_of, trouble_of
from zembi.core.edit.model import AngleSource, ClipSource, Cutaway, Edit, Empty, Shot, Source
from zembi.core.errors import ZembiError
from zembi.core.footage.fit import Fit, look_of
from zembi.core.lineup.coverage import PassOnAngle, pass_frames, pass_span, uncovered
from zembi.core.memory import by_identity
from zembi.core.programme.curves import PLAIN
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import Colour, Content, Hole, Programme, Span, Title
from zembi.core.song.corrections import Corrections
from zembi.core.song.grid import Relation, nearest_bar, relations
from zembi.core.song.listen import SongAnalysis
from zembi.core.song.loudness import FLOOR_LUFS, integrated_loudness
from zembi.core.song.lyrics import line_ends
from zembi.core.timebase import rate_label, seconds_to_frame
from zembi.core.timemap import TimeMap
from zembi.core.treatments.model import TIME, Blend, Treatment, treatment_from_dict
from zembi.core.treatments.timing import Ground
from zembi.core.treatments.words import said
from zembi.jobs.runner import OPEN_STATES
from zembi.media.derive import derived_name, is_derived
from zembi.service.answers import views
from zembi.service.broll.shotlist import listed_of
from zembi.service.edit.cutting import Done
from zembi.service.lineup.evidence import Spot, reasons
from zembi.service.media.analyses import derived_facts, light_and_motion, take_moments
from zembi.service.media.footage import camera_of, condition, fit_of
from zembi.service.project.snapshot import Snapshot, current_edit, look
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project, Workspace
from zembi.service.song.lyrics import in_order, lines_of
from zembi.store import tables
from zembi.store.entities import Job, Lyric, Mark, MarkSet, Media, Pass, Recipe, Select

#: Jobs of the past that the page is still told about.
_KEPT_JOBS = 40


def project_cards(workspace: Workspace) -> list[views.ProjectCard]:
    """The list of projects."""
    return [_card(workspace, project_id) for project_id in workspace.ids()]


def _card(workspace: Workspace, project_id: str) -> views.ProjectCard:
    """A project's card; of one that cannot be opened, what is wrong with it and what to do."""
    try:
        project = workspace.open(project_id)
        return _whole_card(project)
    except (ZembiError, SQLAlchemyError, OSError) as fault:
        words = fault.message if isinstance(fault, ZembiError) else f"{project_id} cannot be read ({fault})."
        return views.ProjectCard(project_id, project_id, "", 0, 0, "", 0, 0, None, None, None, words)


@one_moment
def _whole_card(project: Project) -> views.ProjectCard:
    snapshot = look(project)
    rows, row, takes = snapshot.media, snapshot.about, _takes(snapshot)
    shown = next((m for k in ("take", "broll") for m in rows if m.kind == k and _stills(project, m)), None)
    return views.ProjectCard(
        project.id, row.name, rate_label(snapshot.rate), row.width, row.height,
        song=next((m.name for m in rows if m.id == row.song), ""),
        takes=sum(m.kind == "take" for m in rows), clips=sum(m.kind == "broll" for m in rows),
        poster=media_view(project, shown, (row.width, row.height)) if shown else None,
        steps=_badges(snapshot, takes, _holes(snapshot)), film=_last_film(project), trouble="",
    )  # fmt: skip


def _last_film(project: Project) -> views.FilmView | None:
    """The last film that was rendered and is still there."""
    jobs = project.database.all(Job, kind="render", state="done")
    for job in sorted(jobs, key=lambda j: -j.id):
        name = str(job.result.get("file", ""))
        if name and (project.folder / "renders" / name).is_file():
            return views.FilmView(job.id, name)
    return None


def _holes(snapshot: Snapshot) -> list[list[int]]:
    """Frames of the working song that no angle covers."""
    if not snapshot.length or not snapshot.angles:
        return []
    every = [s for spans in snapshot.angle_spans.values() for s in spans]
    return [list(h) for h in uncovered(every, snapshot.length)]


def _fit_view(fit: Fit) -> views.FitView:
    to = views.FramingView(**vars(fit.to)) if fit.to else None
    return views.FitView(fit.how, fit.x, fit.y, fit.scale, fit.turn, to)


def _stills(project: Project, row: Media) -> int:
    facts = derived_facts(project.derived(row)) if row.content else None
    return int(facts.get("stills", 0)) if facts else 0


def media_view(project: Project, row: Media, film: tuple[int, int]) -> views.MediaView:
    """A file as the page sees it."""
    facts, tags = row.facts, row.tags
    made = derived_facts(project.derived(row)) if row.content else None
    seconds = float(facts.get("duration_s", 0.0))
    path, now = project.path_of(row), condition(project, row)
    rate = facts.get("rate", "")
    return views.MediaView(
        id=row.id, kind=row.kind, name=row.name, file=path.name, folder=str(path.parent), state=row.state,
        error=row.error, condition=now.state, trouble=now.words, prepared=bool(row.content) and is_derived(project.cache, row.content),
        made_of=derived_name(row.content) if row.content else "", seconds=seconds,
        width=facts.get("width", 0), height=facts.get("height", 0),
        rate=rate_label(Fraction(rate)) if rate else "",
        variable=bool(facts.get("variable", False)), rotation=facts.get("rotation", 0),
        timecode=facts.get("timecode", ""), has_sound=bool(facts.get("has_sound", False)),
        codec=facts.get("video_codec", "") or facts.get("sound_codec", ""),
        stills=int(made.get("stills", 0)) if made else 0, camera=camera_of(row),
        select_in_s=float(tags.get("in_s", 0.0)), select_out_s=float(tags.get("out_s", seconds)),
        created=facts.get("created", ""), still=bool(facts.get("still", False)), fit=_fit_view(fit_of(row)),
        look=views.LookView(**vars(look_of(fit_of(row), (facts.get("width", 0), facts.get("height", 0)), film))),
        said=_said(project, row, tags, float(tags.get("in_s", 0.0)), float(tags.get("out_s", seconds))),
    )  # fmt: skip


def _said(project: Project, row: Media, said: Mapping[str, Any], in_s: float, out_s: float) -> views.SaidView:
    """What is said of a clip or select, and what was measured of that range of its file."""
    seen = row.content and row.kind in ("broll", "take")
    means = light_and_motion(project.derived(row), in_s, out_s) if seen else (nan, nan)
    light, motion = (None if isnan(m) else round(m, 3) for m in means)
    return views.SaidView(
        int(said.get("rating", 0)), list(said.get("tags", [])), int(said.get("hue", 0)), str(said.get("note", "")),
        float(said.get("speed", 1.0)), light, motion, said.get("moment_s"),
    )  # fmt: skip


def _selects(snapshot: Snapshot) -> list[views.SelectView]:
    return [
        views.SelectView(
            s.id, s.media, s.name, s.in_s, s.out_s,
            _said(snapshot.project, snapshot.by_id[s.media], s.said, s.in_s, s.out_s),
        )
        for s in snapshot.project.database.all(Select)
    ]  # fmt: skip


def _song_view(snapshot: Snapshot) -> views.SongView | None:
    found, grid = snapshot.analysis, snapshot.grid
    if snapshot.song is None or found is None or grid is None:
        return None
    ordered = sorted(snapshot.sections, key=lambda r: r.start_s)
    ends = [*[r.start_s for r in ordered], snapshot.seconds][1:]
    sections = []
    frames = snapshot.falls.section_frames(snapshot.length)
    for row, end, (first_frame, end_frame) in zip(ordered, ends, frames, strict=True):
        first, last = nearest_bar(grid, row.start_s), nearest_bar(grid, end)
        sections.append(
            views.SectionView(
                row.id,
                row.name,
                row.start_s,
                end,
                first,
                max(1, last - first),
                row.phrase_bars,
                row.repeat_group,
                snapshot.about.settings.get("leads", {}).get(str(row.id)),
                first_frame,
                end_frame,
            )
        )
    lyrics = _lyrics(snapshot)
    phrases = [
        views.PhraseView(
            p.section, p.number, p.start_s, p.end_s, p.first_bar, p.bars, seconds_to_frame(p.start_s, snapshot.rate),
            min(snapshot.length, seconds_to_frame(p.end_s, snapshot.rate)) if p is not snapshot.phrases[-1] else snapshot.length,
            " / ".join(x.text for x in lyrics if x.timed and p.start_s - 0.3 <= x.at_s < p.end_s - 0.3),
        )
        for p in snapshot.phrases
    ]  # fmt: skip
    sets, marks = _marks(snapshot)
    corrections = snapshot.corrections
    plain = not (corrections.read_beats or corrections.bpm)
    return views.SongView(
        snapshot.song.id, snapshot.seconds, grid.bpm, (found.tempo_steady and plain) or corrections.bpm is not None,
        [views.TempoView(t.start_s, t.end_s, t.bpm, t.steady) for t in found.tempo] if plain else [],
        grid.metre, found.division, found.confidence, found.doubt,
        _doubtful(found, corrections) if plain else [],
        [views.TappedView(start, end, bpm) for start, end, bpm, _ in corrections.passages],
        [views.ReadingView(r.tempo_bpm, r.shift_beats, r.score, r.reason) for r in found.readings],
        corrections.factor, corrections.half_shift, corrections.bpm is not None, bool(corrections.read_beats), corrections == Corrections(),
        [to for _, to in corrections.pins],
        list(grid.beats), [seconds_to_frame(b, snapshot.rate) for b in grid.beats], list(grid.bars), grid.first_bar, sections, phrases, sets, marks, lyrics, list(snapshot.map.joins),
    )  # fmt: skip


def _doubtful(found: SongAnalysis, corrections: Corrections) -> list[views.DoubtfulView]:
    """Passages in doubt that were not tapped since."""
    return [
        views.DoubtfulView(d.start_s, d.end_s, d.reason)
        for d in found.doubtful
        if not any(start < d.end_s and end > d.start_s for start, end, *_ in corrections.passages)
    ]


def _lyrics(snapshot: Snapshot) -> list[views.LyricView]:
    """Lines of the working song in order; those not timed stay."""
    rows = in_order(snapshot.project.database.all(Lyric))
    ends = line_ends(lines_of(rows), snapshot.song_seconds)
    to = snapshot.map.to_working
    return [
        views.LyricView(
            r.id,
            to(r.at_s) if r.timed else 0.0,
            to(end) if end is not None else 0.0,
            r.text,
            r.timed,
            [views.WordView(to(t), w) for t, w in r.words],
        )
        for r, end in zip(rows, ends, strict=True)
        if not r.timed or snapshot.map.holds(r.at_s)
    ]


def _marks(snapshot: Snapshot) -> tuple[list[views.MarkSetView], list[views.MarkView]]:
    database = snapshot.project.database
    sets = [views.MarkSetView(s.id, s.name, s.shown, s.hue) for s in database.all(MarkSet)]
    marks = [
        views.MarkView(m.id, m.set_id, snapshot.map.to_working(m.at_s), m.name, m.hue)
        for m in sorted(database.all(Mark), key=lambda m: (m.at_s, m.id))
        if snapshot.map.holds(m.at_s) or m.at_s >= snapshot.song_seconds - 1e-6
    ]
    return sets, marks


def _level(snapshot: Snapshot) -> views.LevelView:
    """The song's level in the film, with the true peak and loudness of what is kept."""
    level, found = snapshot.level, snapshot.analysis
    peak, loud = -120.0, FLOOR_LUFS
    if found is not None and snapshot.song_seconds:
        hops = [
            i
            for a, b in snapshot.map.kept
            for i in range(int(a / found.lufs_hop_s), min(len(found.lufs), -int(-b // found.lufs_hop_s)))
        ]
        peak = max((found.true_peaks[i] for i in hops if i < len(found.true_peaks)), default=-120.0)
        loud = integrated_loudness(np.array([found.lufs[i] for i in hops]))
    return views.LevelView(
        level.gain_db,
        level.fade_in_s,
        level.fade_out_s,
        level.shape,
        peak + level.gain_db,
        loud + level.gain_db,
    )


def _section_name(snapshot: Snapshot, at_s: float) -> str:
    """The section at a song time, whatever is left out."""
    name = ""
    for s in snapshot.whole.section_spans:
        if s.start_s <= at_s + 0.1:
            name = s.name
    return name


def _pass_view(snapshot: Snapshot, row: Pass) -> views.PassView:
    found = row.found
    seconds = row.take_end_s - row.take_start_s
    moved = row.song_start_s - found["song_start_s"] if "song_start_s" in found else 0.0
    rivals = found.get("rivals", [])
    starts = [float(p["song_start_s"]) for p in rivals]
    spots = [Spot(at, _section_name(snapshot, at + 0.25 * seconds)) for at in starts]
    said = reasons(row, spots, snapshot.passes, snapshot.by_id) if len(spots) > 1 else [[] for _ in spots]
    places = [
        views.PlaceView(spot.song_start_s, p["score"], spot.section, why)
        for spot, p, why in zip(spots, rivals, said, strict=True)
    ]
    proposed = f"{found['beside']} ran at the same time by {found['by']}" if "beside" in found else ""
    return views.PassView(
        row.id, row.media, row.take_start_s, row.take_end_s, row.song_start_s,
        row.song_start_s + row.rate * seconds, row.rate, (row.rate - 1) * 1e6, row.status,
        row.confidence, row.origin, row.angle, moved * 1000, found.get("residuals", []), places,
        bool(found.get("pitch_kept")), proposed if row.status == "choose" else "",
        _span_of(snapshot.whole, row), row.verdict, row.note,
    )  # fmt: skip


def _span_of(whole: Snapshot, row: Pass) -> views.SpanView | None:
    """A pass's frames on the whole song."""
    placed = PassOnAngle(
        str(row.id),
        row.media,
        0,
        row.take_start_s,
        row.take_end_s,
        row.song_start_s,
        row.rate,
    )
    first, last = pass_frames(placed, whole.rate, whole.length)
    return span_view(pass_span(placed, first, last, whole.rate)) if last > first else None


def _takes(snapshot: Snapshot) -> list[views.TakeView]:
    out = []
    for m in snapshot.media:
        if m.kind != "take":
            continue
        kept = snapshot.lineup.get(m.id)
        passes = [_pass_view(snapshot, p) for p in snapshot.passes if p.media == m.id]
        status = "failed" if m.state == "failed" else kept.status if kept else "waiting"
        moments = (
            [] if status in ("locked", "failed", "waiting") else take_moments(snapshot.project.derived(m))
        )
        out.append(
            views.TakeView(
                m.id, status, kept.confidence if kept else 0.0, passes, m.tags.get("slate", ""),
                [views.MomentView(t["at_s"], t["kind"], t["strength"]) for t in moments],
            )
        )  # fmt: skip
    return out


def _findings(snapshot: Snapshot, shown: Programme, edit: Edit) -> list[Finding]:
    """Checks of a programme, and what was planned but never shot, at its section."""
    starts = {s.name: seconds_to_frame(s.start_s, snapshot.rate) for s in reversed(snapshot.section_spans)}
    never = [
        Finding(
            "never shot", at := min(starts.get(s.section, 0), max(0, snapshot.length - 1)), at + 1,
            f"{s.section + ': ' if s.section else ''}{s.what} is on the shot list and was never shot.",
        )
        for s in listed_of(snapshot) if not (s.done or s.by_tag)
    ]  # fmt: skip
    names = {a.id: f"Angle {a.number}, {a.name}," for a in snapshot.angles}
    slipped = [*on_purpose(edit, names, snapshot.rate), *of_treatments(edit, snapshot.material, names)]
    return sorted([*snapshot.findings(shown), *slipped, *never], key=lambda f: (f.start, f.kind))


def _being_heard(project: Project, song: Media) -> bool:
    works = project.database.all(Job, kind="prepare")
    return any(j.state in OPEN_STATES and j.arguments.get("media") == song.id for j in works)


def _badges(snapshot: Snapshot, takes: list[views.TakeView], holes: list[list[int]]) -> views.Badges:
    grid = snapshot.grid
    song = (
        f"{grid.bpm:.2f} BPM · {sum(s.bars for s in snapshot.phrases)} bars"
        if grid
        else "add the song"
        if not snapshot.song
        else "listening…"
        if _being_heard(snapshot.project, snapshot.song)
        else "not listened to"
    )
    locked = sum(t.status == "locked" for t in takes)
    lineup = f"{locked} of {len(takes)} locked" if takes else "no takes"
    coverage = (
        "no angles"
        if not snapshot.angles
        else f"{len(holes)} hole{'s' if len(holes) != 1 else ''}"
        if holes
        else "all covered"
    )
    unshot = sum(not (s.done or s.by_tag) for s in listed_of(snapshot))
    coverage += f" · {unshot} not shot" if unshot else ""
    sheet, handoff = "not cut", "nothing to hand off"
    if snapshot.about.edit is not None and snapshot.length:
        _, edit = current_edit(snapshot.project)
        shown = snapshot.programme(edit)
        seen = on_screen(shown, snapshot.rate)
        share = sum(s.frames for s in seen if s.media) / max(1, snapshot.length)
        sheet = f"{int(100 * share + 1e-9)} % cut" if share else "not cut"
        count = len(_findings(snapshot, shown, edit))
        handoff = f"{count} check{'s' if count != 1 else ''}" if count else "all clear"
    return views.Badges(song, lineup, coverage, sheet, handoff)


@one_moment
def project_state(project: Project) -> views.ProjectState:
    """Everything about a project but its edit."""
    snapshot = look(project)
    takes = _takes(snapshot)
    holes = _holes(snapshot)
    undo, redo = project.database.undo_names()
    row = snapshot.about
    return views.ProjectState(
        id=project.id, name=row.name, rate=str(snapshot.rate), rate_label=rate_label(snapshot.rate),
        rate_num=snapshot.rate.numerator, rate_den=snapshot.rate.denominator, width=row.width, height=row.height,
        length=snapshot.length, unit=row.settings.get("unit", "beat"), lead=row.settings.get("lead", 0),
        song=_song_view(snapshot), whole=_song_view(snapshot.whole) if snapshot.left_out else None,
        left_out=[views.PassageView(r.id, r.start_s, r.end_s) for r in snapshot.left_out],
        kept=[list(k) for k in snapshot.map.kept] if snapshot.song_seconds else [], level=_level(snapshot), media=[media_view(project, m, (row.width, row.height)) for m in snapshot.media],
        selects=_selects(snapshot), shot_list=listed_of(snapshot), takes=takes,
        recipes=[
            views.RecipeView(r.id, r.name, tuple(treatment_from_dict(t) for t in r.treatments))
            for r in project.database.all(Recipe)
        ],
        angles=[
            views.AngleView(
                a.id, a.number, a.name, a.hue, a.because, [span_view(s) for s in snapshot.angle_spans[a.id]],
                [list(h) for h in uncovered(snapshot.angle_spans[a.id], snapshot.length)],
            )
            for a in sorted(snapshot.angles, key=lambda a: a.number)
        ],
        keys=snapshot.keys,
        feeds=[
            views.FeedView(f.id, f.angle, at, at + b - a, f.pass_id)
            for f in snapshot.feeds
            for a, b, at in (snapshot.map.pieces(f.start_s, f.end_s) if snapshot.song_seconds else ())
        ],
        holes=holes, badges=_badges(snapshot, takes, holes), undo=undo, redo=redo,
    )  # fmt: skip


@lru_cache(maxsize=1 << 14)
def source_view(source: Source) -> views.SourceView:
    """A source as the page sees it."""
    if isinstance(source, AngleSource):
        return views.SourceView("angle", source.angle, None, 0.0, 1.0, source.slip)
    if isinstance(source, ClipSource):
        return views.SourceView("clip", None, source.media, source.in_s, source.speed, 0)
    return views.SourceView("empty" if isinstance(source, Empty) else "black", None, None, 0.0, 1.0, 0)


def _words_of(content: Content) -> str:
    """A hole's reason, a title's words or a colour's code."""
    if isinstance(content, Hole):
        return content.reason
    if isinstance(content, Colour):
        return content.code
    return content.text if isinstance(content, Title) else ""


@by_identity(1 << 14)
def span_view(span: Span) -> views.SpanView:
    """A span as the page sees it."""
    content = span.content
    curves = None
    if span.curves != PLAIN:
        curves = [{n: c.keys for n, c in one.named().items()} for one in span.curves.chain()]
    return views.SpanView(
        span.start, span.end, type(content).__name__.lower(), span.media, _words_of(content),
        span.time.pieces, bool(span.blend), curves,
    )  # fmt: skip


def _programme_view(shown: Programme) -> views.ProgrammeView:
    level = shown.sound.level
    return views.ProgrammeView(
        [[span_view(s) for s in layer.spans] for layer in shown.layers],
        views.SoundView(shown.sound.pieces, level.gain_db, level.fade_in_s, level.fade_out_s, level.shape),
    )


@one_moment
def edit_view(project: Project, done: Done | None = None) -> views.EditView:
    """The current edit and what it puts on screen; just after an operation, from what that left."""
    with project.database.reading() as connection:
        if done is None:
            snapshot = look(project, connection)
            edit_id, edit = current_edit(project, connection)
        else:
            snapshot, edit_id, edit = done.snapshot, done.edit_id, done.edit
        name = (
            connection.execute(select(tables.edit.c.name).where(tables.edit.c.id == edit_id)).scalar() or ""
        )
    shown = snapshot.programme(edit)
    undo, redo = project.database.undo_names()
    return views.EditView(
        edit_id, str(name), edit.length, _shot_views(snapshot, edit),
        [
            views.CutawayView(c.start, c.end, source_view(c.source), _treatments_view(c, c.end, snapshot.material))
            for c in edit.cutaways
        ],
        _programme_view(shown),
        [views.FindingView(f.kind, f.start, f.end, f.text) for f in _findings(snapshot, shown, edit)],
        undo, redo, done.name if done else "", _treated_views(edit, snapshot.material), 0, None,
    )  # fmt: skip


@one_moment
def edit_after_turning(project: Project, note: str) -> views.EditView | None:
    """The edit after something was undone or redone; None while there is none."""
    row = project.about
    if row.edit is None or row.song is None:
        return None
    return replace(edit_view(project), note=note)


def _shot_views(snapshot: Snapshot, edit: Edit) -> list[views.ShotView]:
    starts = [s.start for s in edit.shots]
    if snapshot.grid is None:
        places = [Relation(0, 1.0, 0, "")] * len(starts)
    else:
        places = relations(snapshot.grid, starts, snapshot.rate)
        places[0] = replace(places[0], label="start")
    return [
        _shot_view(s, end, r, snapshot.material if s.treatments else None)
        for s, end, r in zip(edit.shots, [*starts[1:], edit.length], places, strict=True)
    ]


@by_identity(1 << 14)
def _shot_view(shot: Shot, end: int, place: Relation, material: Material | None) -> views.ShotView:
    return views.ShotView(
        shot.start,
        end,
        source_view(shot.source),
        shot.held,
        place.bar,
        place.beat,
        place.off_frames,
        place.label,
        _treatments_view(shot, end, material) if material else None,
    )


def _treatments_view(item: Shot | Cutaway, end: int, material: Material) -> views.TreatmentsView | None:
    """Treatments of a shot or cutaway that lasts to ``end``."""
    if not item.treatments:
        return None
    whole = item.whole or (item.start, end)
    media = item.source.media if isinstance(item.source, ClipSource) else ""
    ground = material.ground(*whole, item.source)
    said, wrong = _said_of(item.treatments, ground, material, media)
    timed = any(
        isinstance(t, TIME) and not t.off and not w for t, w in zip(item.treatments, wrong, strict=True)
    )
    seen = time_of(item, end, material) if timed and not any(wrong) else None
    said = [
        f"{words} ({_making(item.source, seen, material, media)})"
        if isinstance(t, Blend) and t.how == "moved" and not t.off
        else words
        for t, words in zip(item.treatments, said, strict=True)
    ]
    return views.TreatmentsView(item.treatments, said, wrong, seen.pieces if seen else None, list(whole))


def _making(source: Source, seen: TimeMap | None, material: Material, media: str) -> str:
    """How many frames of a slowed shot the film makes in between, and about how long that takes."""
    own = source.speed if isinstance(source, ClipSource) else 1.0
    step = own * float(material.rates.get(media, material.rate) / material.rate)
    steps = [(p.frames, abs(p.speed + p.end_speed) / 2 * step) for p in (seen.pieces if seen else ())]
    count = sum(frames for frames, v in steps if 0 < v < 1)
    if not count:
        return "nothing is slowed here"
    if material.making is None:
        return f"{count} frames made"
    long = material.making(count)
    about = f"{long:.0f} s" if long < 90 else f"{long / 60:.0f} min"
    return f"{count} frames made, about {about} more for the film"


def _treated_views(edit: Edit, material: Material) -> list[views.TreatedView]:
    out = []
    for t in edit.treated:
        said, wrong = _said_of(t.treatments, material.ground(t.first, t.end), material, "")
        seen = range_time(t, material) if not any(wrong) else None
        view = views.TreatmentsView(
            t.treatments, said, wrong, seen.pieces if seen else None, [t.first, t.end]
        )
        out.append(views.TreatedView(t.first, t.end, view))
    return out


def _said_of(
    treatments: tuple[Treatment, ...], ground: Ground, material: Material, media: str
) -> tuple[list[str], list[str]]:
    wrong = [trouble_of(t, ground, material.aspect) or "" for t in treatments]
    words = [
        "" if trouble else said(t, ground, material.rates.get(media))
        for t, trouble in zip(treatments, wrong, strict=True)
    ]
    return words, wrong


@one_moment
def song_detail(project: Project) -> views.SongDetail:
    """Hits, loudness, energy and voice of the whole song."""
    snapshot = look(project)
    found = snapshot.analysis
    if found is None:
        return views.SongDetail({}, 0.1, [], [], [], [], [])
    hits = {
        band: [views.HitView(round(h.at_s, 4), round(h.strength, 3)) for h in hs]
        for band, hs in snapshot.hits.items()
    }
    return views.SongDetail(
        hits, found.lufs_hop_s, [round(v, 1) for v in found.lufs], [round(v, 1) for v in found.short_term],
        [round(v, 3) for v in found.energy], [round(v, 2) for v in snapshot.voice], sorted(snapshot.stems),
    )  # fmt: skip


@one_moment
def jobs(project: Project) -> list[views.JobView]:
    """Jobs under way and the latest that ended, newest first."""
    log = tables.job
    with project.database.reading() as connection:
        rows = (
            connection.execute(select(log).order_by(log.c.id.desc()).limit(_KEPT_JOBS + 200)).mappings().all()
        )
    active = [r for r in rows if r.state in ("waiting", "running")]
    past = [r for r in rows if r.state not in ("waiting", "running")][:_KEPT_JOBS]
    return [
        views.JobView(**{f.name: r[f.name] for f in dataclasses.fields(views.JobView)})
        for r in [*active, *past]
    ]
