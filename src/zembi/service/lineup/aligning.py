"""Lining takes up to the song: of a project, or of files outside any."""

import multiprocessing
import os
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from functools import lru_cache, partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from zembi.core.errors import Cancelled, UnreadableMedia
from zembi.core.sync.align import TakeAlignment, Version, align
from zembi.core.sync.features import RATE as SYNC_RATE
from zembi.core.sync.features import Singles, SoundFeatures, choose_sound
from zembi.core.sync.features import prepare as prepare_sound
from zembi.core.sync.search import match_over_song
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.media.probe import frame_times, probe
from zembi.media.sound import read_sound, resample
from zembi.media.spool import mapped_wave, spooled_take
from zembi.service.lineup import grouping, placing
from zembi.service.media.analyses import load_alignment, load_stem, save_alignment, sync_sound
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.workspace import Project, open_folder
from zembi.store.entities import Media, Pass

#: Longest stretch of a pass that is compared with the whole song for drawing.
MATCHED_S = 60.0


def song_for_alignment(path: Path) -> SoundFeatures:
    """A song made ready for lining takes up to it."""
    sound, rate = read_sound(path)
    return prepare_sound(resample(choose_sound(sound), rate, SYNC_RATE))


def align_file(
    song: SoundFeatures, path: Path, picture_start_s: float, report: Report, others: Sequence[Version] = ()
) -> TakeAlignment:
    """Align a take's file to a song, of which there may be other versions."""
    report(0.05, "Reading the take's sound")
    with TemporaryDirectory(prefix="zembi-") as folder:
        sound = spooled_take(path, picture_start_s, SYNC_RATE, Path(folder))
        return align(song, sound, others=others, progress=lambda s, w: report(0.3 + 0.7 * s, w))


def channel_versions(path: Path) -> list[Version]:
    """A stereo song's left channel alone, and what its channels differ by: near to these is a mix without its middle."""

    return [lambda: _left(path), lambda: _sides(path)]


@lru_cache(maxsize=1)
def _left(path: Path) -> SoundFeatures | None:
    channels = _channels(path)
    return prepare_sound(channels[:, 0]) if channels.shape[1] == 2 else None


@lru_cache(maxsize=1)
def _sides(path: Path) -> SoundFeatures | None:
    channels = _channels(path)
    return prepare_sound(channels[:, 0] - channels[:, 1]) if channels.shape[1] == 2 else None


@lru_cache(maxsize=1)
def _channels(path: Path) -> Singles:
    sound, rate = read_sound(path)
    columns = [resample(np.ascontiguousarray(sound[:, c]), rate, SYNC_RATE) for c in range(sound.shape[1])]
    return np.stack(columns, axis=1)


def other_versions(project: Project, snapshot: Snapshot, song: Media) -> list[Version]:
    """Versions of a project's song besides its mix: its instrumental, where there is one, and its channels."""

    def instrumental(row: Media) -> SoundFeatures | None:
        stem = load_stem(project.derived(row), song.id)
        sound = sync_sound(project.derived(row))[:]
        if stem is None or not len(sound):
            return None
        first = round(stem.song_start_s * SYNC_RATE)
        return prepare_sound(np.pad(sound, (max(first, 0), 0))[max(-first, 0) :])

    stems = [m for m in snapshot.media if m.kind == "stem" and m.said.role in ("", "instrumental")]
    copy = project.derived(song) / "song.flac"
    channels = channel_versions(copy if copy.exists() else project.file_of(song))
    return [*(partial(instrumental, m) for m in stems), *channels]


@lru_cache(maxsize=1)
def _song_of(path: Path) -> SoundFeatures:
    return song_for_alignment(path)


def _align_alone(song: Path, take: Path, report: Report = lambda _s, _w: None) -> TakeAlignment:
    return align_file(_song_of(song), take, picture_start(take), report, channel_versions(song))


def picture_start(take: Path) -> float:
    """Presentation time of the first picture frame; 0 for a take of sound only."""
    if not probe(take).has_video:
        return 0.0
    times = frame_times(take)
    return float(times.pts[0] * times.time_base)


def align_files(song: Path, takes: list[Path], report: Report) -> list[TakeAlignment]:
    """Align several takes' files, as many at once as there are processors.

    Raises:
        UnreadableMedia: the song or a take cannot be read.
    """
    if len(takes) == 1:
        return [_align_alone(song, takes[0], report)]
    probe(song, need=("sound",))
    workers = min(len(takes), os.cpu_count() or 1)
    with ProcessPoolExecutor(workers, mp_context=multiprocessing.get_context("spawn")) as pool:
        futures = [pool.submit(_align_alone, song, take) for take in takes]
        try:
            for done, future in enumerate(as_completed(futures), 1):
                future.result()
                report(done / len(takes), f"{done} of {len(takes)} takes")
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            raise
        return [future.result() for future in futures]


def align_take(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Line a prepared take up to the project's song."""
    project = open_folder(folder, allowed)
    try:
        snapshot = snapshot_of(project)
        take = snapshot.by_id.get(arguments["media"])
        if take is None:
            raise Cancelled("The take was taken out of the project meanwhile.")
        if snapshot.song is None:
            raise UnreadableMedia("There is no song to line takes up to; add the song first.")
        report(0.05, "Getting the song ready")
        song = song_sound(project, snapshot.song)
        report(0.15, "Comparing with the song")
        kept = load_alignment(project.derived(take), snapshot.song.content)
        result = kept or align(
            song, sync_sound(project.derived(take)), others=other_versions(project, snapshot, snapshot.song),
            progress=lambda s, w: report(0.15 + 0.85 * s, w),
        )  # fmt: skip
        if kept is None:
            save_alignment(project.derived(take), snapshot.song.content, result)
        grouping.compare(project)
        placing.keep_alignment(project, take.id, snapshot.song.id, result)
        return {"media": take.id, "status": result.status}
    finally:
        project.database.close()


def song_sound(project: Project, row: Media) -> SoundFeatures:
    """The song made ready for lining up; a worker keeps the last ones."""
    return _ready_sound(str(project.derived(row) / "sync.wav"))


@lru_cache(maxsize=2)
def _ready_sound(path: str) -> SoundFeatures:
    return prepare_sound(mapped_wave(Path(path))[:])


def match_curve(project: Project, pass_id: int) -> list[float]:
    """Correlation of a pass at every place in the song, 0..1 of the best."""
    row = project.database.one(Pass, id=pass_id)
    snapshot = snapshot_of(project)
    if snapshot.song is None:
        return []
    start, end = row.take_start_s, min(row.take_end_s, row.take_start_s + MATCHED_S)
    heard = sync_sound(project.derived(snapshot.by_id[row.media]))[
        int(start * SYNC_RATE) : int(end * SYNC_RATE)
    ]
    if row.rate != 1 and len(heard):
        heard = resample(heard, SYNC_RATE, SYNC_RATE * row.rate)
    if len(heard) < SYNC_RATE // 2:
        return []
    curve = match_over_song(song_sound(project, snapshot.song), prepare_sound(heard))
    return [round(float(v), 3) for v in curve]


WORKS = (LongWork("align", align_take, Urgency.PLACES),)
