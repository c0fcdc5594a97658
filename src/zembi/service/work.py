"""The long works themselves, run in worker processes: preparing files, listening, lining up, rendering."""

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import UnreadableMedia
from zembi.core.song.hits import find_hits
from zembi.core.song.listen import SongAnalysis, listen
from zembi.core.song.spectrum import RATE as LISTEN_RATE
from zembi.core.song.spectrum import describe
from zembi.core.song.voice import voice_alone
from zembi.core.sync.align import TakeAlignment, align
from zembi.core.sync.features import RATE as SYNC_RATE
from zembi.core.sync.features import Sound, choose_sound
from zembi.core.sync.features import prepare as prepare_sound
from zembi.core.sync.search import match_over_song
from zembi.core.sync.stem import LEAST_SHARE, place_stem
from zembi.core.timebase import frames_for_length
from zembi.jobs.worker import Report, Work
from zembi.media.derive import derive_picture, derive_song, is_derived, read_wave
from zembi.media.render import Film, render
from zembi.media.sound import read_sound, resample, take_sound
from zembi.service import handoff, library, lineup
from zembi.service.analyses import StemAnalysis, load_analysis, save_analysis, save_stem
from zembi.service.snapshot import look
from zembi.service.workspace import Project, open_folder
from zembi.store import tables
from zembi.store.database import Change


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
    sound = choose_sound(take_sound(path, picture_start_s, SYNC_RATE))
    return align(song, sound, progress=lambda s, w: report(0.3 + 0.7 * s, w))


def prepare(folder: Path, arguments: dict[str, Any], report: Report) -> dict[str, Any]:
    """Probe a file and make what is derived from it; for a song, listen to it too."""
    project = open_folder(folder)
    try:
        report(0.0, "Looking at the file")
        row = library.examine(project, arguments["media"])
        path, cache = project.path_of(row), project.cache
        if not is_derived(cache, row["content"]):
            make = derive_song if row["kind"] in ("song", "stem") else derive_picture
            make(
                path,
                cache,
                row["content"],
                lambda s, w: report(s * (0.5 if row["kind"] == "song" else 1.0), w),
            )
        if row["kind"] == "song":
            _listen(project, row, path, lambda s, w: report(0.5 + 0.5 * s, w))
        if row["kind"] == "stem":
            _fit_stem(project, row, lambda s, w: report(0.5 + 0.5 * s, w))
        return {"media": row["id"], "kind": row["kind"]}
    finally:
        project.database.close()


def _listen(project: Project, row: Any, path: Path, report: Report) -> None:
    derived = project.derived(row)
    found = load_analysis(derived)
    if found is None:
        found = listen_to(path, report)
        save_analysis(derived, found)
    length = frames_for_length(float(row["facts"]["duration_s"]), project.rate)
    with project.database.writing() as connection:
        change = Change(connection)
        if not project.database.all(tables.section):
            for s in found.sections or []:
                change.insert(tables.section, {
                    "start_s": s.start_s, "name": s.label, "phrase_bars": 4, "repeat_group": s.group,
                })  # fmt: skip
        if project.row["edit"] is None:
            made = change.insert(tables.edit, {"name": "Edit 1", "parent": None, "length": length})
            change.insert(
                tables.shot, {"edit": made["id"], "start": 0, "source": {"kind": "black"}, "held": False}
            )
            change.update(tables.project, {"id": 1}, {"edit": made["id"]})


def _fit_stem(project: Project, row: Any, report: Report) -> None:
    """Find a stem's place on the song as a take's is found, and keep what it holds in song time.

    Raises:
        UnreadableMedia: it is not of this song, or there is no song yet; the file keeps the reason.
    """
    snapshot = look(project)
    try:
        if snapshot.song is None or snapshot.analysis is None:
            raise UnreadableMedia("There is no song that a stem could belong to yet; add the song first.")
        report(0.05, "Comparing with the song")
        start = _stem_start(_sync_sound(project, snapshot.song), _sync_sound(project, row), report)
        if start is None:
            raise UnreadableMedia(
                f"{row['name']} does not fit the song: its sound was found nowhere in it for certain. "
                "Choose a stem of the same recording, at the same speed."
            )
    except UnreadableMedia as fault:
        library.refuse(project, row["id"], fault.message)
        raise
    report(0.7, "Listening to the stem")
    sound, rate = read_sound(project.path_of(row))
    mono = resample(choose_sound(sound), rate, LISTEN_RATE)
    on_song = np.pad(mono, (max(0, round(start * LISTEN_RATE)), 0))[max(0, -round(start * LISTEN_RATE)) :]
    on_song = np.pad(on_song, (0, max(0, round(snapshot.song_seconds * LISTEN_RATE) - len(on_song))))
    on_song = on_song[: round(snapshot.song_seconds * LISTEN_RATE)].astype(np.float32)
    role = row["tags"].get("role", "instrumental")
    stem = StemAnalysis(
        snapshot.song["id"], role, start,
        find_hits(describe(on_song)) if role == "drums" else {},
        voice_alone(on_song).tolist() if role == "voice" else [],
    )  # fmt: skip
    save_stem(project.derived(row), stem)


def _stem_start(song: NDArray[np.float32], stem: NDArray[np.float32], report: Report) -> float | None:
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


def align_take(folder: Path, arguments: dict[str, Any], report: Report) -> dict[str, Any]:
    """Line a prepared take up to the project's song."""
    project = open_folder(folder)
    try:
        snapshot = look(project)
        take = project.database.one(tables.media, id=arguments["media"])
        if snapshot.song is None:
            raise UnreadableMedia("There is no song to line takes up to; add the song first.")
        report(0.05, "Getting the song ready")
        song = prepare_sound(_sync_sound(project, snapshot.song))
        report(0.15, "Comparing with the song")
        result = align(song, _sync_sound(project, take), progress=lambda s, w: report(0.15 + 0.85 * s, w))
        with project.database.writing() as connection:
            lineup.keep_alignment(project, connection, take["id"], result)
        return {"media": take["id"], "status": result.status}
    finally:
        project.database.close()


def _sync_sound(project: Project, row: Any) -> NDArray[np.float32]:
    """A prepared file's sound at the alignment's rate; empty where it has none."""
    path = project.derived(row) / "sound.wav"
    if not path.exists():
        return np.zeros(0, np.float32)
    sound, rate = read_wave(path)
    return resample(sound, rate, SYNC_RATE)


def match_curve(project: Project, pass_id: int) -> list[float]:
    """How well a pass fits at every place in the song, 0..1 of the best."""
    row = project.database.one(tables.pass_, id=pass_id)
    snapshot = look(project)
    if snapshot.song is None:
        return []
    heard = _sync_sound(project, snapshot.by_id[row["media"]])
    if not len(heard):
        return []
    song, take = prepare_sound(_sync_sound(project, snapshot.song)), prepare_sound(heard)
    return [round(float(v), 3) for v in match_over_song(song, take, row["take_start_s"], row["take_end_s"])]


def render_film(folder: Path, arguments: dict[str, Any], report: Report) -> dict[str, Any]:
    """Render the current edit, or a range of it, into the project's renders folder."""
    project = open_folder(folder)
    try:
        film: Film = handoff.film_of(project, arguments.get("first"), arguments.get("end"))
        target = folder / "renders" / arguments["file"]
        render(film, target, progress=report)
        return {"file": arguments["file"], "bytes": target.stat().st_size, "frames": film.end - film.first}
    finally:
        project.database.close()


WORKS: dict[str, Work] = {"prepare": prepare, "align": align_take, "render": render_film}
