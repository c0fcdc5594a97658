"""The long works themselves, run in worker processes: preparing files, listening, lining up, rendering."""

import multiprocessing
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from functools import lru_cache, partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from zembi.core.errors import Cancelled, NoRoom, UnreadableMedia, ZembiError
from zembi.core.song.hits import find_hits
from zembi.core.song.listen import SongAnalysis, listen
from zembi.core.song.spectrum import RATE as LISTEN_RATE
from zembi.core.song.spectrum import describe
from zembi.core.song.voice import voice_alone
from zembi.core.sync.align import TakeAlignment, align
from zembi.core.sync.features import RATE as SYNC_RATE
from zembi.core.sync.features import Singles, Sound, SoundSource, choose_sound
from zembi.core.sync.features import prepare as prepare_sound
from zembi.core.sync.search import match_over_song
from zembi.core.sync.stem import LEAST_SHARE, place_stem
from zembi.jobs.disk import disk_fault, need_room
from zembi.jobs.worker import Report, Work
from zembi.media.derive import (
    derive_picture,
    derive_song,
    derive_sound,
    derive_stills,
    derived_bytes,
    is_derived,
    is_heard,
)
from zembi.media.measuring import measured
from zembi.media.probe import frame_times, probe
from zembi.media.render import Film, render
from zembi.media.sound import read_sound, resample
from zembi.media.spool import mapped_wave, spooled_take
from zembi.service.application.footage import shots_of
from zembi.service.handoff import collecting, films, roundtrip
from zembi.service.lineup import files as lineup_files
from zembi.service.lineup import grouping, placing
from zembi.service.media import library
from zembi.service.media.analyses import (
    StemAnalysis,
    load_alignment,
    load_analysis,
    load_measured,
    save_alignment,
    save_analysis,
    save_measured,
    save_shots,
    save_stem,
)
from zembi.service.project.asked import project_as_asked
from zembi.service.project.snapshot import current_edit, look
from zembi.service.project.workspace import Project, Workspace, open_folder
from zembi.service.song.choice import begin
from zembi.store.entities import Media, Pass

#: Folders that a work may read besides the project's own; None for those last served.
Folders = Sequence[Path] | None

#: Longest stretch of a pass that is compared with the whole song for drawing.
MATCHED_S = 60.0


def listen_to(path: Path, report: Report) -> SongAnalysis:
    """Listen to a sound file."""
    report(0.02, "Reading the song")
    sound, rate = read_sound(path)
    mono = resample(choose_sound(sound), rate, LISTEN_RATE)
    return listen(
        mono, loudness_audio=sound, loudness_rate=rate, progress=lambda s, w: report(0.1 + 0.88 * s, w)
    )


def song_for_alignment(path: Path) -> Sound:
    """A song made ready for lining takes up to it."""
    sound, rate = read_sound(path)
    return prepare_sound(resample(choose_sound(sound), rate, SYNC_RATE))


def align_file(song: Sound, path: Path, picture_start_s: float, report: Report) -> TakeAlignment:
    """Align a take's file to a song."""
    report(0.05, "Reading the take's sound")
    with TemporaryDirectory(prefix="zembi-") as folder:
        sound = spooled_take(path, picture_start_s, SYNC_RATE, Path(folder))
        return align(song, sound, progress=lambda s, w: report(0.3 + 0.7 * s, w))


@lru_cache(maxsize=1)
def _song_of(path: Path) -> Sound:
    return song_for_alignment(path)


def _align_alone(song: Path, take: Path, report: Report = lambda _s, _w: None) -> TakeAlignment:
    return align_file(_song_of(song), take, picture_start(take), report)


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


def prepare(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Probe a file and make all that is derived from it; for a song, listen to it too."""

    def all_of_it(project: Project, row: Media) -> None:
        _derive(project, row, report)
        if row.kind == "take":
            grouping.look_again(project)
        if row.kind == "song":
            _listen(project, row, lambda s, w: report(0.5 + 0.5 * s, w))
        if row.kind == "stem":
            _fit_stem(project, row, lambda s, w: report(0.5 + 0.5 * s, w))

    return _with_file(folder, arguments, report, allowed, all_of_it)


def hear(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Probe a take or clip and read its sound alone, so that a take can be lined up before its picture is decoded."""

    def sound(project: Project, row: Media) -> None:
        if not is_heard(project.cache, row.content):
            project.cache.mkdir(exist_ok=True)
            need_room(project.cache, derived_bytes(row.facts, sound_only=True), "Reading the sound")
            derive_sound(project.file_of(row), project.cache, row.content, report)

    return _with_file(folder, arguments, report, allowed, sound)


def look_through(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Make first stills of a take or clip."""

    def stills(project: Project, row: Media) -> None:
        if not is_derived(project.cache, row.content):
            derive_stills(project.file_of(row), project.cache, row.content, report)
        if row.kind == "take":
            grouping.look_again(project)

    return _with_file(folder, arguments, report, allowed, stills)


def split_film(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Find where a clip made of finished footage is cut, and keep it for the editor to look at."""
    project = open_folder(folder, allowed)
    try:
        row = project.database.one(Media, id=arguments["media"])
        path = library.readable(project, row)
        cutting, times = shots_of(path, report), frame_times(path).times.tolist()
        ends = [*times, row.seconds]
        save_shots(project.derived(row), {
            "rate": str(cutting.rate), "frames": cutting.frames,
            "shots": [
                {
                    "first": s.first, "end": s.end, "begins": s.begins, "dissolve": s.dissolve,
                    "in_s": ends[s.first], "out_s": ends[min(s.end, len(ends) - 1)],
                }
                for s in cutting.shots
            ],
        })  # fmt: skip
        return {"media": row.id, "shots": len(cutting.shots)}
    finally:
        project.database.close()


def _with_file(
    folder: Path,
    arguments: dict[str, Any],
    report: Report,
    allowed: Folders,
    work: Callable[[Project, Media], None],
) -> dict[str, Any]:
    """Look at a file and do a work on it.

    A file that cannot be used ends as refused, with a sentence that names it, whatever was wrong with it.
    """
    project = open_folder(folder, allowed)
    try:
        report(0.0, "Looking at the file")
        row = library.examine(project, arguments["media"])
        work(project, row)
        return {"media": row.id, "kind": row.kind}
    except (Cancelled, NoRoom):
        raise
    except ZembiError as fault:
        library.refuse(project, arguments["media"], fault.message)
        raise
    except OSError as fault:
        refused = disk_fault(fault, project.cache)
        if not isinstance(refused, NoRoom):
            library.refuse(project, arguments["media"], refused.message)
        raise refused from fault
    except (MemoryError, Exception) as fault:
        name = project.path_of(project.database.one(Media, id=arguments["media"])).name
        words = (
            f"{name} could not be prepared ({type(fault).__name__}: {fault}). Convert it, or leave it out."
        )
        library.refuse(project, arguments["media"], words)
        raise UnreadableMedia(words) from fault
    finally:
        project.database.close()


def _derive(project: Project, row: Media, report: Report) -> None:
    path, cache = project.file_of(row), project.cache
    sound_only = row.kind in ("song", "stem")
    if not is_derived(cache, row.content):
        _make(row, path, cache, sound_only, report)
    if not sound_only and load_measured(project.derived(row)) is None:
        report(0.98, "Measuring the picture")
        save_measured(project.derived(row), measured(project.derived(row)))


def _make(row: Media, path: Path, cache: Path, sound_only: bool, report: Report) -> None:
    cache.mkdir(exist_ok=True)
    need_room(cache, derived_bytes(row.facts, sound_only=sound_only), f"Preparing {path.name}")
    share = 0.5 if row.kind == "song" else 1.0
    (derive_song if sound_only else derive_picture)(
        path, cache, row.content, lambda s, w: report(s * share, w)
    )


def _listen(project: Project, row: Media, report: Report) -> None:
    derived = project.derived(row)
    if load_analysis(derived) is None:
        save_analysis(derived, listen_to(project.file_of(row), report))
    begin(project)


def _fit_stem(project: Project, row: Media, report: Report) -> None:
    """Find a stem's place on the song as a take's is found, and keep what it holds in song time.

    Raises:
        UnreadableMedia: it is not of this song, or there is no song yet.
    """
    snapshot = look(project)
    if snapshot.song is None or snapshot.analysis is None:
        raise UnreadableMedia("There is no song that a stem could belong to yet; add the song first.")
    report(0.05, "Comparing with the song")
    start = _stem_start(_sync_sound(project, snapshot.song)[:], _sync_sound(project, row)[:], report)
    if start is None:
        raise UnreadableMedia(
            f"{row.name} does not fit the song: its sound was found nowhere in it for certain. "
            "Choose a stem of the same recording, at the same speed."
        )
    report(0.7, "Listening to the stem")
    sound, rate = read_sound(project.file_of(row))
    mono = resample(choose_sound(sound), rate, LISTEN_RATE)
    on_song = np.pad(mono, (max(0, round(start * LISTEN_RATE)), 0))[max(0, -round(start * LISTEN_RATE)) :]
    on_song = np.pad(on_song, (0, max(0, round(snapshot.song_seconds * LISTEN_RATE) - len(on_song))))
    on_song = on_song[: round(snapshot.song_seconds * LISTEN_RATE)].astype(np.float32)
    role = row.tags.get("role", "instrumental")
    stem = StemAnalysis(
        snapshot.song.id, role, start,
        find_hits(describe(on_song)) if role == "drums" else {},
        voice_alone(on_song).tolist() if role == "voice" else [],
    )  # fmt: skip
    save_stem(project.derived(row), stem)


def _stem_start(song: Singles, stem: Singles, report: Report) -> float | None:
    """Song time of a stem's first sample; None where it is not of this song.

    The very samples are looked for first; a stem of another mastering is then lined up as a take is.
    """
    placed = place_stem(song, stem)
    if placed.share >= LEAST_SHARE:
        return placed.song_start_s
    found = align(prepare_sound(song), stem, progress=lambda s, w: report(0.05 + 0.6 * s, w))
    best = max(found.passes, key=lambda p: p.take_end_s - p.take_start_s, default=None)
    if found.status != "locked" or best is None or abs(best.rate - 1) > 1e-3:
        return None
    return best.song_start_s - best.take_start_s


def align_take(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Line a prepared take up to the project's song."""
    project = open_folder(folder, allowed)
    try:
        snapshot = look(project)
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
            song, _sync_sound(project, take), progress=lambda s, w: report(0.15 + 0.85 * s, w)
        )
        if kept is None:
            save_alignment(project.derived(take), snapshot.song.content, result)
        grouping.compare(project)
        placing.keep_alignment(project, take.id, snapshot.song.id, result)
        return {"media": take.id, "status": result.status}
    finally:
        project.database.close()


def _sync_sound(project: Project, row: Media) -> SoundSource:
    """A prepared file's sound at the alignment's rate; empty where it has none."""
    path = project.derived(row) / "sync.wav"
    return mapped_wave(path) if path.exists() else np.zeros(0, np.float32)


def song_sound(project: Project, row: Media) -> Sound:
    """The song made ready for lining up; a worker keeps the last ones."""
    return _ready_sound(str(project.derived(row) / "sync.wav"))


@lru_cache(maxsize=2)
def _ready_sound(path: str) -> Sound:
    return prepare_sound(mapped_wave(Path(path))[:])


def match_curve(project: Project, pass_id: int) -> list[float]:
    """How well a pass fits at every place in the song, 0..1 of the best."""
    row = project.database.one(Pass, id=pass_id)
    snapshot = look(project)
    if snapshot.song is None:
        return []
    start, end = row.take_start_s, min(row.take_end_s, row.take_start_s + MATCHED_S)
    heard = _sync_sound(project, snapshot.by_id[row.media])[int(start * SYNC_RATE) : int(end * SYNC_RATE)]
    if row.rate != 1 and len(heard):
        heard = resample(heard, SYNC_RATE, SYNC_RATE * row.rate)
    if len(heard) < SYNC_RATE // 2:
        return []
    curve = match_over_song(song_sound(project, snapshot.song), prepare_sound(heard))
    return [round(float(v), 3) for v in curve]


def render_film(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Render the edit that was asked for, or a range of it, into the project's renders folder."""
    with project_as_asked(folder, arguments.get("asked", ""), allowed) as project:
        # Asked for before edits had addresses: the one that was worked on.
        edit = arguments.get("edit") or current_edit(project)
        film: Film = films.film_of(project, edit, arguments.get("first"), arguments.get("end"))
        target = folder / "renders" / arguments["file"]
        render(film, target, progress=report)
        return {"file": arguments["file"], "bytes": target.stat().st_size, "frames": film.end - film.first}


def export_lineup(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Write the line-up as open files into the project's exports folder."""
    project = open_folder(folder, allowed)
    try:
        target = lineup_files.export(project, arguments["name"], report)
        return {"file": target.name, "bytes": target.stat().st_size}
    finally:
        project.database.close()


def collect_project(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Copy all that the project uses into one folder, with the project."""
    project = open_folder(folder, allowed)
    target = Path(arguments["folder"])
    try:
        return collecting.collect(project, target, report)
    except OSError as fault:
        raise disk_fault(fault, target) from fault
    finally:
        project.database.close()


def send_out(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Write a shot for work in another program."""
    with project_as_asked(folder, arguments.get("asked", ""), allowed) as project:
        return roundtrip.send(project, arguments, report)


#: What is wanted soonest: songs, then places in the song, the sound that they follow from, what was asked for, pictures last.
ORDER = ("prepare", "align", "hear", "render", "send", "lineup", "collect", "shots", "stills", "picture")
BACKGROUND = ("picture",)


def works(workspace: Workspace) -> dict[str, Work]:
    """Every kind of long work, bound to the folders that this workspace may read."""
    kinds = {
        "prepare": prepare, "hear": hear, "align": align_take, "stills": look_through, "picture": prepare,
        "render": render_film, "lineup": export_lineup,
        "shots": split_film,
        "collect": collect_project, "send": send_out,
    }  # fmt: skip
    allowed = tuple(workspace.media_folders)
    return {kind: partial(work, allowed=allowed) for kind, work in kinds.items()}
