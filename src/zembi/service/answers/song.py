"""The song as the page sees it: its grid, sections, phrases, marks, lyrics, level, and what was heard of it."""

from dataclasses import asdict

import numpy as np

from zembi.core.song.corrections import Corrections
from zembi.core.song.grid import UNITS, nearest_bar
from zembi.core.song.listen import SongAnalysis
from zembi.core.song.loudness import FLOOR_LUFS, integrated_loudness
from zembi.core.song.lyrics import line_ends
from zembi.core.timebase import seconds_to_frame
from zembi.service.answers import views
from zembi.service.edit.cutting import context_of
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project
from zembi.service.song.lyrics import in_order, lines_of
from zembi.store.entities import Lyric, Mark, MarkSet


def song_view(snapshot: Snapshot) -> views.SongView | None:
    """The song of a snapshot; None until it was listened to."""
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
    context = context_of(snapshot)
    corrections = snapshot.corrections
    plain = not (corrections.read_beats or corrections.bpm)
    return views.SongView(
        snapshot.song.id, snapshot.seconds, grid.bpm, (found.tempo_steady and plain) or corrections.bpm is not None,
        [views.TempoView(t.start_s, t.end_s, t.bpm, t.steady) for t in found.tempo] if plain else [],
        grid.metre, found.division, views.SurenessView(**asdict(found.sure), grid=found.sure.grid), found.doubt,
        _doubtful(found, corrections) if plain else [],
        [views.TappedView(start, end, bpm) for start, end, bpm, _ in corrections.passages],
        [views.ReadingView(r.tempo_bpm, r.shift_beats, r.score, r.reason) for r in found.readings],
        corrections.factor, corrections.half_shift, corrections.bpm is not None, bool(corrections.read_beats), corrections == Corrections(),
        [to for _, to in corrections.pins],
        list(grid.beats), [seconds_to_frame(b, snapshot.rate) for b in grid.beats],
        {unit: [f for f in context.falls(unit) if f < snapshot.length] for unit in UNITS}, list(grid.bars), grid.first_bar, sections, phrases, sets, marks, lyrics, list(snapshot.map.joins),
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


def level_view(snapshot: Snapshot) -> views.LevelView:
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


@one_moment
def song_detail(project: Project) -> views.SongDetail:
    """Hits, loudness, energy and voice of the whole song."""
    snapshot = snapshot_of(project)
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
