"""One look at a project: its rows and what follows from them, read in a single transaction."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import Connection

from zembi.core.colour.evening import Evening
from zembi.core.colour.tables import is_known, number_of_code
from zembi.core.edit.checks import Finding, check
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.falls import Falls
from zembi.core.edit.limits import CheckLimits, limits_from
from zembi.core.edit.model import Edit
from zembi.core.edit.operations.context import STRONG
from zembi.core.errors import BadInput, NotFound, Refused
from zembi.core.footage.files import SaidOfFile
from zembi.core.footage.fit import AS_IT_LIES, WHOLE, Lie, lie_of
from zembi.core.lineup.coverage import Feed, PassOnAngle, Run, angle_runs, angle_spans
from zembi.core.lineup.keys import KEYS, keys_by_section
from zembi.core.memory import by_identity
from zembi.core.picture.chain import Chain
from zembi.core.picture.step import Step
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.model import Picture, Programme, Span
from zembi.core.programme.sound import Sound, song_sound
from zembi.core.song.corrections import Corrections, build_grid, corrections_from_dict
from zembi.core.song.cutdown import SongLevel, SongMap, song_map
from zembi.core.song.grid import Grid, Phrase, SectionSpan, needed_grid, phrases, through_map
from zembi.core.song.hits import HIT_KINDS, Hit, HitKind
from zembi.core.song.listen import SongAnalysis
from zembi.core.timebase import frames_for_length, parse_rate, seconds_to_frame
from zembi.core.treatments.model import Table
from zembi.core.treatments.music import Music
from zembi.media.between import seconds_for
from zembi.service.media.analyses import (
    StemAnalysis,
    listen_file,
    load_analysis,
    load_stem,
    movements,
    read_analysis,
)
from zembi.service.media.footage import condition, last_condition
from zembi.service.project.lookups import bring_table
from zembi.service.project.workspace import Project
from zembi.store.edits import load_edit
from zembi.store.entities import (
    About,
    Angle,
    KeptCorrections,
    KeptFeed,
    LeftOut,
    Lineup,
    Lyric,
    Mark,
    MarkSet,
    Media,
    Pass,
    Section,
    Version,
    every,
)

#: Of a song that has not been listened to.
_NO_HITS: dict[str, list[Hit]] = {}


@dataclass(frozen=True)
class Snapshot:
    """A project's rows, and lazily everything derived from them."""

    project: Project
    about: About
    media: list[Media]
    corrections: Corrections
    left_out: list[LeftOut]
    song_sections: list[Section]
    lineup: dict[str, Lineup]
    passes: list[Pass]
    angles: list[Angle]
    feeds: list[KeptFeed]

    @cached_property
    def rate(self) -> Fraction:
        """The project's frame rate."""
        return parse_rate(self.about.rate)

    @cached_property
    def by_id(self) -> dict[str, Any]:
        """Media rows by id."""
        return {m.id: m for m in self.media}

    @cached_property
    def song(self) -> Media | None:
        """The song's media row."""
        return self.by_id.get(self.about.song or "")

    @cached_property
    def song_seconds(self) -> float:
        """Length of the whole song; 0 while there is none."""
        return self.song.seconds if self.song else 0.0

    @cached_property
    def map(self) -> SongMap:
        """The cutdown's map between song time and working time."""
        try:
            return song_map([(r.start_s, r.end_s) for r in self.left_out], self.song_seconds)
        except Refused:
            # There is no song, or what is left out was meant for another one: all of it is kept.
            return song_map([], max(1.0, self.song_seconds))

    @cached_property
    def seconds(self) -> float:
        """Length of the working song; 0 while there is none."""
        return self.map.seconds if self.song_seconds else 0.0

    @cached_property
    def length(self) -> int:
        """Frames of the working song."""
        return frames_for_length(self.seconds, self.rate) if self.seconds else 0

    @cached_property
    def whole(self) -> "Snapshot":
        """The same project with nothing of the song left out: its working time is song time."""
        return replace(self, left_out=[]) if self.left_out else self

    @cached_property
    def level(self) -> SongLevel:
        """Level and fades of the song in the film."""
        return SongLevel(**self.about.level)

    @cached_property
    def analysis(self) -> SongAnalysis | None:
        """Analysis of the song, once there is one."""
        return load_analysis(self.project.derived(self.song)) if self.song else None

    @cached_property
    def stems(self) -> dict[str, StemAnalysis]:
        """Analyses of the stems that fit the song, by role: "voice", "drums" or "instrumental"."""
        out = {}
        for m in self.media:
            if m.kind == "stem" and m.state == "ready":
                kept = load_stem(self.project.derived(m), self.about.song or "")
                if kept is not None:
                    out[kept.role] = kept
        return out

    @cached_property
    def hits(self) -> dict[str, list[Hit]]:
        """Hits by kind, of the drums from their stem where there is one; song time."""
        if self.analysis is None:
            return _NO_HITS
        return self.analysis.hits | self.stems["drums"].hits if "drums" in self.stems else self.analysis.hits

    @cached_property
    def voice(self) -> list[float]:
        """Probability of lead voice, from the voice stem where there is one; a value every 0.1 s of the song."""
        if "voice" in self.stems:
            return self.stems["voice"].voice
        return self.analysis.voice if self.analysis else []

    @cached_property
    def song_grid(self) -> Grid | None:
        """The corrected grid of the whole song, in song time."""
        found = self.analysis
        if found is None or (len(found.beats) < 2 and self.corrections.bpm is None):
            return None
        assert self.song is not None
        kept = listen_file(self.project.derived(self.song))
        return _grid(kept, kept.stat().st_mtime_ns, self.corrections)

    @cached_property
    def grid(self) -> Grid | None:
        """The corrected grid of the working song."""
        if not self.left_out or self.song_grid is None:
            return self.song_grid
        return _working_grid(self.song_grid, self.map)

    def need_grid(self) -> Grid:
        """The grid.

        Raises:
            Refused: the song has not been listened to yet.
        """
        return needed_grid(self.grid)

    @cached_property
    def sensitivities(self) -> dict[HitKind, float]:
        """Sensitivity of each kind of hits: those at least as strong as 1 less it count."""
        settings = self.about.settings
        # Projects of earlier versions keep one for all kinds.
        usual = float(settings.get("sensitivity", 1 - STRONG))
        return {kind: float(settings.get("sensitivities", {}).get(kind, usual)) for kind in HIT_KINDS}

    @cached_property
    def sections(self) -> list[Section]:
        """Section rows in working time: those with something kept, from where it starts."""
        ordered = sorted(self.song_sections, key=lambda r: r.start_s)
        if not self.left_out:
            return ordered
        ends = [*[r.start_s for r in ordered], self.song_seconds][1:]
        kept = [(r, self.map.pieces(r.start_s, e)) for r, e in zip(ordered, ends, strict=True)]
        return [replace(r, start_s=p[0][2]) for r, p in kept if p]

    @cached_property
    def section_spans(self) -> list[SectionSpan]:
        """Sections of the working song in order."""
        return [SectionSpan(r.start_s, r.name, r.phrase_bars, r.repeat_group) for r in self.sections]

    @cached_property
    def falls(self) -> Falls:
        """Rule of where cuts fall: the lead of the project and of each section."""
        settings = self.about.settings
        own: Mapping[str, int] = settings.get("leads", {})
        sections = tuple((r.start_s, own.get(str(r.id))) for r in self.sections)
        return Falls(self.rate, int(settings.get("lead", 0)), sections)

    @cached_property
    def phrases(self) -> list[Phrase]:
        """Rows of the sheet."""
        return phrases(self.section_spans, self.grid, self.seconds) if self.grid else []

    @cached_property
    def mark_times(self) -> tuple[float, ...]:
        """Working times of the marks in sets that are shown."""
        database = self.project.database
        shown = {s.id for s in database.all(MarkSet) if s.shown}
        times = [m.at_s for m in database.all(Mark) if m.set_id in shown]
        return tuple(sorted(self.map.to_working(t) for t in times if self.map.holds(t)))

    @cached_property
    def passes_on_angles(self) -> list[PassOnAngle]:
        """Parts of locked passes that may feed their angle, in order of preference; working time."""
        return self.on_angles()

    def on_angles(self, *, rejected: bool = False) -> list[PassOnAngle]:
        """The same, with rejected ones too where asked."""
        whole = [
            PassOnAngle(str(p.id), p.media, p.angle, p.take_start_s, p.take_end_s, p.song_start_s, p.rate)
            for p in sorted(self.passes, key=lambda p: (p.verdict != "circled", p.position, p.id))
            if p.status == "locked" and p.angle is not None and (rejected or p.verdict != "rejected")
        ]
        if not self.left_out:
            return whole
        return [
            replace(p, take_start_s=p.take_time(a), take_end_s=p.take_time(b), song_start_s=at)
            for p in whole
            for a, b, at in self.map.open_ended().pieces(p.song_start_s, p.song_end_s)
        ]

    @cached_property
    def angle_spans(self) -> Mapping[int, Sequence[Span]]:
        """Spans of each angle, by angle id in order of number."""
        return self.material.angles

    @cached_property
    def working_feeds(self) -> tuple[Feed, ...]:
        """Feeds in what is kept of the song; working time."""
        return tuple(
            Feed(f.angle, at, at + b - a, str(f.pass_id))
            for f in self.feeds
            for a, b, at in (self.map.pieces(f.start_s, f.end_s) if self.song_seconds else ())
        )

    def runs(self, angle: int) -> list[Run]:
        """Passes that an angle shows, with where."""
        return angle_runs(angle, self.passes_on_angles, self.working_feeds, self.rate, self.length)

    @cached_property
    def keys(self) -> list[list[int | None]]:
        """The ids of the angles behind the keys 1 to 9, for each section in order; one list while there are none."""
        ordered = sorted(self.angles, key=lambda a: a.number)
        starts = [seconds_to_frame(s.start_s, self.rate) for s in self.section_spans] or [0]
        ranges = list(zip([0, *starts[1:]], [*starts[1:], self.length], strict=True))
        present = [
            [any(s.start < end and start < s.end for s in self.angle_spans[a.id]) for start, end in ranges]
            for a in ordered
        ]
        if not ordered:
            return [[None] * KEYS for _ in ranges]
        return [[None if k is None else ordered[k].id for k in keys] for keys in keys_by_section(present)]

    @cached_property
    def material(self) -> Material:
        """Material of the edit; the same object as long as nothing of it changes."""
        ordered = sorted(self.angles, key=lambda a: a.number)
        names = tuple((a.id, f"angle {a.number}, {a.name},") for a in ordered)
        film = (self.about.width, self.about.height)
        return _material(
            names,
            tuple(self.passes_on_angles),
            self.working_feeds,
            self.rate,
            self.length,
            self.fits,
            self.grades,
            self.evened,
            self.music,
            film if all(film) else (1920, 1080),
            self.contents,
            self.rates,
        )

    @cached_property
    def contents(self) -> tuple[tuple[str, Path], ...]:
        """Folder of what was derived of each file with a picture, by its id."""
        return tuple(
            (m.id, self.project.derived(m)) for m in self.media if m.content and m.kind in ("take", "broll")
        )

    @cached_property
    def rates(self) -> tuple[tuple[str, Fraction], ...]:
        """Frames a second of the files that keep one rate."""
        even = [(m.id, m.facts.rate) for m in self.media if not m.facts.variable]
        return tuple((media, rate) for media, rate in even if rate)

    @cached_property
    def music(self) -> Music:
        """Music that treatments follow; the same object as long as nothing of it changes."""
        phrases = tuple(p.start_s for p in self.phrases)
        return _music(self.hits, self.rate, self.grid, phrases, self.mark_times, self.map, self.sung)

    @cached_property
    def sung(self) -> tuple[tuple[int, tuple[tuple[float, str], ...]], ...]:
        """Timed lines of the lyrics in order: the id of each, and its words that have times, in working time."""
        rows = sorted(self.project.database.all(Lyric), key=lambda r: (r.position, r.at_s, r.id))
        kept = self.map
        return tuple(
            (r.id, tuple((kept.to_working(t), w) for t, w in r.words if kept.holds(t)))
            for r in rows
            if r.timed
        )

    @cached_property
    def fits(self) -> tuple[tuple[str, Lie], ...]:
        """Placements of the files that do not lie whole, upright and opaque."""
        film = (self.about.width, self.about.height)
        lies = [
            (m.id, replace(lie_of(m.said.fit, (m.facts.width, m.facts.height), film), alpha=m.facts.alpha))
            for m in self.media
            if m.said.fit != WHOLE or m.facts.alpha
        ]
        return tuple((media, lie) for media, lie in lies if lie != AS_IT_LIES)

    @cached_property
    def grades(self) -> tuple[tuple[str, Chain], ...]:
        """Steps of colour of the files that have their own: a table first, then a grade."""
        found = [(m.id, _colours_of(self.project, m.said)) for m in self.media]
        return tuple((media, chain) for media, chain in found if chain)

    @cached_property
    def evened(self) -> tuple[tuple[str, Evening], ...]:
        """Corrections of the light of the files that are evened along their length."""
        return tuple((m.id, m.said.evened) for m in self.media if m.said.evened)

    @cached_property
    def sound(self) -> Sound:
        """Sound of the song in the film."""
        if self.song is None or not self.song_seconds:
            return Sound(level=self.level)
        return song_sound(self.song.id, self.map, self.level)

    @cached_property
    def limits(self) -> CheckLimits:
        """Limits of the checks."""
        return limits_from(self.about.settings.get("limits", {}))

    def programme(self, edit: Edit) -> Programme:
        """The programme of an edit."""
        for number in _tables_named(edit):
            # One that is gone does nothing, which a check tells.
            with suppress(NotFound, BadInput):
                bring_table(self.project, number)
        return compiled(edit, self.material, self.sound)

    def findings(self, shown: Programme, *, watched: bool = False) -> list[Finding]:
        """Checks of a programme; ``watched``: with files as they were last looked at, not looked at now."""
        look_at = last_condition if watched else condition
        ends = {m.id: m.seconds for m in self.media}
        names = {m.id: m.name for m in self.media}
        used = {
            s.content.media for layer in shown.layers for s in layer.spans if isinstance(s.content, Picture)
        }
        wrong = {
            m.id: now.words
            for m in self.media
            if m.id in used and (now := look_at(self.project, m)).state != "ok"
        }
        for m in self.media:
            if m.id in used and m.said.table and not is_known(m.said.table):
                gone = f"The table of colours of “{m.name}” is not in the project's folder: it is seen without. Choose its file again."
                wrong.setdefault(m.id, gone)
        return check(shown, ends, wrong, names, self.rate, self.limits)


@lru_cache(maxsize=16)
def _grid(kept: Path, stamp: int, corrections: Corrections) -> Grid:
    """The corrected grid of an analysis; made once for each state of the corrections, since every operation asks."""
    found = read_analysis(kept, stamp)
    return build_grid(found.beats, found.downbeats, found.metre, found.duration_s, corrections)


@lru_cache(maxsize=16)
def _working_grid(grid: Grid, song: SongMap) -> Grid:
    return through_map(grid, song)


def _tables_named(edit: Edit) -> set[int]:
    """Numbers of the tables of colours that treatments of an edit name."""
    treated = (i for lane in edit.lanes for i in lane.items if i.treatments)
    return {number_of_code(t.code) for i in treated for t in i.treatments if isinstance(t, Table) and t.code}


def _colours_of(project: Project, said: SaidOfFile) -> Chain:
    """Steps of colour of a file; a table that is gone does nothing, which a check tells."""
    steps: list[Step] = []
    if said.table:
        with suppress(NotFound, BadInput):
            bring_table(project, said.table)
        steps.append(TABLE(number=float(said.table), share=said.table_share))
    if said.grade:
        steps.append(GRADE(**dict(said.grade)))
    return tuple(steps)


@lru_cache(maxsize=16)
def _material(
    names: tuple[tuple[int, str], ...],
    passes: tuple[PassOnAngle, ...],
    feeds: tuple[Feed, ...],
    rate: Fraction,
    length: int,
    fits: tuple[tuple[str, Lie], ...],
    grades: tuple[tuple[str, Chain], ...],
    evened: tuple[tuple[str, Evening], ...],
    music: Music,
    film: tuple[int, int],
    contents: tuple[tuple[str, Path], ...],
    rates: tuple[tuple[str, Fraction], ...],
) -> Material:
    derived = dict(contents)
    own = Material({}, {}, rate, dict(fits), dict(grades))

    def seen(span: Span) -> Span:
        if span.media is None or (span.media not in own.fits and span.media not in own.grades):
            return span
        return replace(span, chain=own.of_file(span.media, span.frames))

    spans = {
        angle: tuple(seen(s) for s in angle_spans(angle, passes, feeds, rate, length)) for angle, _ in names
    }
    return Material(
        spans,
        dict(names),
        rate,
        own.fits,
        own.grades,
        dict(evened),
        music,
        film[0] / film[1],
        lambda media: movements(derived[media]) if media in derived else (),
        dict(rates),
        lambda frames: seconds_for(frames, *film),
    )


@by_identity(16)
def _music(
    hits: Mapping[str, Sequence[Hit]],
    rate: Fraction,
    grid: Grid | None,
    phrases: tuple[float, ...],
    marks: tuple[float, ...],
    song: SongMap,
    sung: tuple[tuple[int, tuple[tuple[float, str], ...]], ...],
) -> Music:
    bands = {
        band: sorted((song.to_working(h.at_s), h.strength) for h in found if song.holds(h.at_s))
        for band, found in hits.items()
    }
    return Music(rate, grid, phrases, marks, bands, sung)


def snapshot_of(project: Project, connection: Connection | None = None) -> Snapshot:
    """Read a project's rows."""
    if connection is None:
        with project.database.reading() as fresh:
            return snapshot_of(project, fresh)
    row = every(connection, About)[0]
    kept = every(connection, KeptCorrections)
    return Snapshot(
        project, row,
        media=sorted(every(connection, Media), key=lambda m: (m.position, m.name)),
        corrections=corrections_from_dict(kept[0].data if kept else {}),
        left_out=list(every(connection, LeftOut)),
        song_sections=list(every(connection, Section)),
        lineup={r.media: r for r in every(connection, Lineup)},
        passes=list(every(connection, Pass)),
        angles=list(every(connection, Angle)),
        feeds=list(every(connection, KeptFeed)),
    )  # fmt: skip


def edit_of(project: Project, edit_id: int) -> Edit:
    """An edit by its id.

    Raises:
        Refused: there is nothing to cut before the song is known.
        NotFound: there is no such edit.
    """
    with project.database.reading() as connection:
        about = every(connection, About)[0]
        if about.song is None or about.edit is None:
            raise Refused("There is nothing to cut yet: add the song first.")
        return load_edit(connection, edit_id)


def edits_of(project: Project) -> dict[int, Edit]:
    """Every edit by its id; none before the song is known."""
    with project.database.reading() as connection:
        if every(connection, About)[0].song is None:
            return {}
        return {v.id: load_edit(connection, v.id) for v in every(connection, Version)}


def current_edit(project: Project) -> int:
    """The id of the edit that is worked on.

    Raises:
        Refused: there is none before the song is known.
    """
    about = project.about
    if about.edit is None or about.song is None:
        raise Refused("There is nothing to cut yet: add the song first.")
    return about.edit
