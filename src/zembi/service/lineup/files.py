"""The line-up as open files: a folder with every pass, a timeline and a sound file a take; and a timeline read back."""

import shutil
import zipfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from urllib.parse import unquote, urlsplit

import numpy as np

from zembi.core.errors import BadInput, Refused
from zembi.core.interchange.lineup import (
    PassRow,
    TakeRef,
    read_lineup,
    write_lineup,
    write_passes_csv,
    write_passes_json,
)
from zembi.core.interchange.timeline import MediaRef
from zembi.core.timebase import frame_at, frame_to_timecode, seconds_to_frame
from zembi.jobs.apart import apart
from zembi.jobs.disk import need_room
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.media.probe import frame_times
from zembi.media.sound import resample
from zembi.media.spool import WaveWriter, spooled_take
from zembi.service.handoff.films import file_stem, unique_name
from zembi.service.lineup import placing
from zembi.service.media.footage import condition
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project, open_folder
from zembi.store.entities import Job, Media, Pass, every

#: Rate of the sound files.
WAVE_RATE = 48_000
#: Largest timeline read.
MOST_BYTES = 32 << 20


@one_transaction
def queue_export(project: Project, runner: JobRunner) -> int:
    """Queue writing the line-up; refused at once where nothing is placed."""
    if not project.database.all(Pass):
        raise Refused("No take has a place in the song yet; there is no line-up to give out.")
    number = 1 + len(project.database.all(Job, kind="lineup"))
    name = f"{file_stem(project.about.name)}_lineup_{number}"
    return runner.add(project.database, "lineup", f"Writing {name}", {"name": name})


def exported_file(project: Project, job_id: int) -> Path:
    """The finished folder of an export, packed.

    Raises:
        Refused: not written, or deleted since.
    """
    row = project.database.one(Job, id=job_id)
    path = project.folder / "exports" / f"{row.arguments.get('name', '')}.zip"
    if row.kind != "lineup" or row.state != "done" or not path.is_file():
        raise Refused("These files are not there: export the line-up again.")
    return path


def _facts(row: Media) -> tuple[Fraction, int]:
    facts = replace(row.facts, rate=row.facts.rate or Fraction(25))
    return facts.rate or Fraction(25), facts.first_frame


def pass_rows(project: Project, snapshot: Snapshot) -> list[tuple[PassRow, Media]]:
    """Every pass as files give it, in song order, with its take."""
    rows = []
    for p in sorted(snapshot.passes, key=lambda p: (p.song_start_s, p.id)):
        take = snapshot.by_id[p.media]
        rate, first = _facts(take)
        seconds = p.take_end_s - p.take_start_s
        told = take.facts.timecode
        frame = first + frame_at(p.take_start_s, rate)
        code = frame_to_timecode(frame, rate, drop=";" in told) if told else ""
        rows.append((
            PassRow(
                take.name, str(project.path_of(take)), p.take_start_s, p.take_end_s, p.song_start_s,
                p.song_start_s + p.rate * seconds, p.rate, p.status, p.confidence, p.origin, code,
            ),
            take,
        ))  # fmt: skip
    return rows


def timeline(project: Project, snapshot: Snapshot) -> str:
    """The line-up as an OpenTimelineIO timeline."""
    rows = pass_rows(project, snapshot)
    refs = []
    for row, take in rows:
        rate, first = _facts(take)
        refs.append(TakeRef(MediaRef(Path(row.file).as_uri(), take.name, take.seconds), rate, first))
    song = snapshot.song
    if song is None:
        raise Refused("There is no song.")
    sound = MediaRef(project.path_of(song).as_uri(), song.name, snapshot.song_seconds)
    length = seconds_to_frame(snapshot.song_seconds, snapshot.rate)
    return write_lineup(snapshot.about.name, [r for r, _ in rows], refs, sound, snapshot.rate, length)


def export(project: Project, name: str, report: Report) -> Path:
    """Write the folder and pack it; it appears under its name only when complete.

    The folder holds passes.csv, passes.json, lineup.otio and, for each take with sound, a WAV as long as the song
    in which its passes lie where they belong, at the song's speed.
    """
    snapshot = snapshot_of(project)
    rows = pass_rows(project, snapshot)
    target = project.folder / "exports" / f"{name}.zip"
    target.parent.mkdir(exist_ok=True)
    with TemporaryDirectory(prefix="zembi-", dir=target.parent) as place:
        folder = Path(place) / name
        folder.mkdir()
        only = [r for r, _ in rows]
        song = str(project.path_of(snapshot.song)) if snapshot.song else ""
        (folder / "passes.csv").write_text(write_passes_csv(only), newline="")
        (folder / "passes.json").write_text(write_passes_json(song, only))
        (folder / "lineup.otio").write_text(timeline(project, snapshot))
        takes = {take.id: take for _, take in rows}
        used: set[str] = set()
        need_room(target.parent, 2.2 * 2 * WAVE_RATE * snapshot.song_seconds * len(takes), f"Writing {name}")
        for done, (media_id, take) in enumerate(takes.items()):
            report(0.02 + 0.85 * done / len(takes), f"Sound of {take.name}")
            own = [r for r, t in rows if t.id == media_id]
            if take.facts.has_sound and condition(project, take).state == "ok":
                sound = folder / f"{unique_name(file_stem(take.name), used)}.wav"
                _write_sound(project, take, own, snapshot.song_seconds, sound, report)
        report(0.9, "Packing")
        packed = Path(place) / "packed.zip"
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
            for path in sorted(folder.iterdir()):
                archive.write(path, f"{name}/{path.name}")
        shutil.move(packed, target)
    return target


def _write_sound(
    project: Project, take: Media, rows: list[PassRow], song_seconds: float, target: Path, report: Report
) -> None:
    path = project.file_of(take)
    times = frame_times(path)
    length = round(song_seconds * WAVE_RATE)
    project.cache.mkdir(exist_ok=True)
    with TemporaryDirectory(prefix="scratch-", dir=project.cache) as scratch:
        sound = spooled_take(path, float(times.pts[0] * times.time_base), WAVE_RATE, Path(scratch))
        laid = np.zeros(length, np.float32)
        for row in rows:
            report(0.0, f"Sound of {take.name}")
            first = round(row.take_start_s * WAVE_RATE)
            heard = sound[max(0, first) : round(row.take_end_s * WAVE_RATE)]
            if abs(row.rate - 1) > 1e-9 and len(heard):
                heard = resample(heard, WAVE_RATE, WAVE_RATE * row.rate)
            at = round(row.song_start_s * WAVE_RATE)
            heard = heard[max(0, -at) :]
            at = max(0, at)
            count = min(len(heard), length - at)
            if count > 0:
                laid[at : at + count] = heard[:count]
    writer = WaveWriter(target, WAVE_RATE)
    writer.add(laid)
    writer.close()


def import_timeline(project: Project, name: str, data: bytes) -> str:
    """Place takes as a timeline has them; returns what was read, in words.

    Clips are known by their file's path, else by its name. The passes of every take named take the place of
    those it has.

    Raises:
        BadInput: not a timeline, or none of the project's takes in it.
    """
    try:
        rows = apart(name, read_lineup, data.decode("utf-8-sig"), name)
    except UnicodeDecodeError:
        raise BadInput(f"{name} is not an OpenTimelineIO file.") from None
    with project.database.changing(f"Read {name}") as change:
        takes = every(change.connection, Media, kind="take")
        found = [(row, take) for row in rows if (take := _take_of(project, row, takes)) is not None]
        if not found:
            raise BadInput(f"None of the files in {name} is a take of this project. Add the takes first.")
        for media_id in sorted({take.id for _, take in found}):
            before = {p.id: p for p in every(change.connection, Pass, media=media_id)}
            placing.replace_passes(
                project, change, media_id, [r for r, t in found if t.id == media_id], before
            )
    missing = len(rows) - len(found)
    rest = f"; {missing} clips belong to no take here" if missing else ""
    return f"{len(found)} passes of {len({t.id for _, t in found})} takes{rest}"


def _take_of(project: Project, row: PassRow, takes: list[Media]) -> Media | None:
    try:
        address = urlsplit(row.file)
    except ValueError:
        return None
    path = Path(unquote(address.path if address.scheme in ("file", "") else row.file))
    for take in takes:
        if project.path_of(take) == path:
            return take
    named = [t for t in takes if Path(t.path).name == path.name]
    return named[0] if len(named) == 1 else None


def export_lineup(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Write the line-up as open files into the project's exports folder."""
    project = open_folder(folder, allowed)
    try:
        target = export(project, arguments["name"], report)
        return {"file": target.name, "bytes": target.stat().st_size}
    finally:
        project.database.close()


WORKS = (LongWork("lineup", export_lineup, Urgency.ASKED),)
