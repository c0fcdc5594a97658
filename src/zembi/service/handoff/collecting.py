"""Collecting a project: what its edits use, copied into one folder with the project, to take along or put away."""

import csv
import hashlib
import io
import json
import shutil
import sqlite3
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, update

from zembi.core.errors import Refused
from zembi.core.interchange.limits import cell
from zembi.core.programme.flatten import media_seen
from zembi.jobs.disk import disk_fault, need_room
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.service.handoff.films import Export, colour_tables, file_stem, unique_name
from zembi.service.media.footage import condition
from zembi.service.project.lookups import FOLDER as TABLES
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import INSIDE, Project, Workspace, open_folder, write_json
from zembi.store import tables
from zembi.store.edits import load_edit
from zembi.store.entities import KeptItem, Media, Select, Version, every

#: What is written beside the copies: where each came from, its size and SHA-256.
MANIFEST = "collected.json"
#: Where the tables of colours of its shots lie.
COLOUR = "colour"
_BLOCK = 4 << 20


@dataclass(frozen=True)
class Copied:
    """A file that was copied: where it lies in the folder, where it came from, and what it is."""

    media: str
    path: str
    source: str
    bytes: int
    sha256: str


def used_media(snapshot: Snapshot) -> list[Media]:
    """The files that the project needs: the song and stems, what any version shows, and clips with selects."""
    with snapshot.project.database.reading() as connection:
        shown: set[str] = {s.media for s in every(connection, Select)}
        for version in every(connection, Version) if snapshot.length else []:
            programme = snapshot.programme(load_edit(connection, version.id))
            shown.update(media_seen(programme, programme.first, programme.end))
        shown |= {str(s.source["media"]) for s in every(connection, KeptItem) if "media" in s.source}
    return [m for m in snapshot.media if m.id in shown or m.kind == "stem" or m.id == snapshot.about.song]


@one_moment
def used_table(project: Project) -> Export:
    """Name, place and bytes of each file that the project needs, as CSV."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["name", "kind", "file", "bytes"])
    for m in used_media(snapshot_of(project)):
        table.writerow([cell(m.name), m.kind, cell(str(project.path_of(m))), max(0, m.facts.size)])
    return Export(f"{file_stem(project.about.name)}_files.csv", "text/csv", out.getvalue().encode())


def queue_collecting(workspace: Workspace, project: Project, runner: JobRunner, path: str) -> int:
    """Queue copying all that is used into a folder under an allowed one; refused at once where it cannot succeed.

    Raises:
        NotAllowed: outside the allowed folders.
        Refused: a file that is needed is not there, or the folder is the project's own.
    """
    _, parent = workspace.inside(path)
    rows = used_media(snapshot_of(project))
    gone = sorted(project.path_of(m).name for m in rows if condition(project, m).state != "ok")
    if gone:
        raise Refused(
            f"Not there as added: {', '.join(gone[:5])}. Find {'them' if len(gone) > 1 else 'it'} again first."
        )
    target = parent / f"{file_stem(project.about.name)} collected"
    if target.resolve().is_relative_to(project.folder.resolve()):
        raise Refused("That is inside the project itself; choose another folder.")
    done = {c.media for c in _manifest(target)}
    need_room(parent, sum(max(0, m.facts.size) for m in rows if m.id not in done), "Collecting the project")
    return runner.add(
        project.database, "collect", f"Collecting {project.about.name}", {"folder": str(target)}
    )


def _manifest(target: Path) -> list[Copied]:
    file = target / MANIFEST
    if not file.exists():
        return []
    return [Copied(**row) for row in json.loads(file.read_text())["files"]]


def collect(project: Project, target: Path, report: Report) -> dict[str, Any]:
    """Copy all that is used, and the project. What an earlier try copied whole is compared and not copied again.

    Raises:
        OSError: the disk is full or fails; what is copied so far stays and is taken up again.
    """
    snapshot = snapshot_of(project)
    rows = used_media(snapshot)
    (target / "media").mkdir(parents=True, exist_ok=True)
    before = {c.media: c for c in _manifest(target)}
    total = max(1, sum(max(0, m.facts.size) for m in rows))
    names: set[str] = set()
    copied: list[Copied] = []
    at = 0
    for row in rows:
        source = project.file_of(row)
        name = unique_name(source.stem, names) + source.suffix
        out = target / "media" / name
        size = source.stat().st_size

        def told(done: int, at: int = at, name: str = name) -> None:
            report(min(0.98, 0.98 * (at + done) / total), f"Copying {name}")

        known = before.get(row.id)
        whole = (
            known is not None
            and known.path == f"media/{name}"
            and out.is_file()
            and out.stat().st_size == size
        )
        sha = _sha256(out, told) if whole else ""
        if known is None or not whole or sha != known.sha256:
            sha = _copy(source, out, told)
        copied.append(Copied(row.id, f"media/{name}", str(source), size, sha))
        # Written after each file, so that a stop loses none.
        write_json(target / MANIFEST, {"files": [asdict(c) for c in copied]})
        at += size
    report(0.99, "Copying the project")
    _copy_project(project, target, copied)
    _write_colour(snapshot, target)
    return {"folder": str(target), "files": len(copied), "bytes": sum(c.bytes for c in copied)}


def _write_colour(snapshot: Snapshot, target: Path) -> None:
    """The ``.cube`` files that exports of the edit that is worked on name, for other programs."""
    edit = snapshot.about.edit
    if edit is None or not snapshot.length:
        return
    with snapshot.project.database.reading() as connection:
        found = colour_tables(snapshot, load_edit(connection, edit))
    if found:
        (target / COLOUR).mkdir(exist_ok=True)
    for name, text in found:
        (target / COLOUR / name).write_text(text)


def _copy(source: Path, out: Path, told: Callable[[int], None]) -> str:
    """Copy a file with its checksum; it appears under its name only when it is whole."""
    digest, done = hashlib.sha256(), 0
    part = out.with_name(f".{out.name}.part")
    try:
        with source.open("rb") as file, part.open("wb") as copy:
            while block := file.read(_BLOCK):
                digest.update(block)
                copy.write(block)
                done += len(block)
                told(done)
        shutil.copystat(source, part)
        part.replace(out)
    finally:
        part.unlink(missing_ok=True)
    return digest.hexdigest()


def _sha256(path: Path, told: Callable[[int], None]) -> str:
    digest, done = hashlib.sha256(), 0
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            digest.update(block)
            done += len(block)
            told(done)
    return digest.hexdigest()


def _copy_project(project: Project, target: Path, copied: list[Copied]) -> None:
    """The project's database, as it is now, with its files where they were copied to."""
    part = target / ".project.db.part"
    part.unlink(missing_ok=True)
    source = sqlite3.connect(project.database.path)
    copy = sqlite3.connect(part)
    with source, copy:
        source.backup(copy)
    source.close()
    copy.close()
    engine = create_engine(f"sqlite:///{part}")
    with engine.begin() as connection:
        connection.exec_driver_sql("DELETE FROM job")
        for c in copied:
            where = tables.media.c.id == c.media
            connection.execute(update(tables.media).where(where).values(root=INSIDE, path=c.path))
    engine.dispose()
    part.replace(target / project.database.path.name)
    if (project.folder / TABLES).is_dir():
        shutil.copytree(project.folder / TABLES, target / TABLES, dirs_exist_ok=True)


def collect_project(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Copy all that the project uses into one folder, with the project."""
    project = open_folder(folder, allowed)
    target = Path(arguments["folder"])
    try:
        return collect(project, target, report)
    except OSError as fault:
        raise disk_fault(fault, target) from fault
    finally:
        project.database.close()


WORKS = (LongWork("collect", collect_project, Urgency.ASKED),)
