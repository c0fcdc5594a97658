"""Bringing files in: browsing allowed folders, uploads, adding, relinking, and what each file is."""

import os
import re
import secrets
import shutil
import unicodedata
from collections.abc import AsyncIterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import update

from zembi.core.colour.grade import REST, checked_grade
from zembi.core.errors import BadInput, Cancelled, NoRoom, NotFound, Refused, UnreadableMedia
from zembi.core.footage.files import Facts, SaidOfFile, facts_to_dict, said_to_dict
from zembi.core.footage.fit import Fit, checked_fit
from zembi.jobs.apart import apart
from zembi.jobs.disk import disk_fault
from zembi.jobs.runner import JobRunner
from zembi.media.glance import Glance, glance_all
from zembi.media.probe import RAW_ENDINGS, SONG_ENDINGS, STILL_ENDINGS, VIDEO_ENDINGS, content_id, probe
from zembi.media.sound import MOST_SOUND_BYTES, too_much_sound
from zembi.service.media.analyses import derived_facts
from zembi.service.media.footage import condition, inside, stamp
from zembi.service.project.lookups import bring_table
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import INSIDE, Project, Workspace, free_bytes
from zembi.service.song.choice import choose_song, take_as_it_is
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import KeptItem, Media, Pass, every

#: Files of a folder of which a picture is shown before they are added.
MOST_GLANCES = 40
#: What can be listened to and kept in memory at once; see docs/security.md.
SHORTEST_SONG_S, LONGEST_SONG_S = 2.0, 20 * 60.0
KINDS = ("song", "take", "broll", "stem")
#: Told apart once it is heard: what has no sound, or is a still, is B-roll; all else is lined up to the song, and what
#: does not hold it is offered as B-roll.
UNDECIDED = "footage"
ROLES = ("voice", "drums", "instrumental")
#: Left free on the disk after an upload.
_SPARE = 256 << 20


#: Files that are told of a folder with all below it.
MOST_BELOW = 5000


@dataclass(frozen=True)
class FolderEntry:
    """Something in an allowed folder: a folder, or a file that may be media."""

    name: str
    path: str
    folder: bool
    size: int
    fits: str  # "song", "video", "still", "raw" (which cannot be read), or "" for a folder


@dataclass(frozen=True)
class FolderView:
    """A folder in the browser; ``path`` is "" for the list of allowed folders."""

    path: str
    parent: str | None
    entries: list[FolderEntry]


def browse(workspace: Workspace, path: str) -> FolderView:
    """List an allowed folder: folders first, then media files, by name.

    Raises:
        NotAllowed: outside the allowed folders.
        NotFound: no such folder.
    """
    if not path:
        roots = [FolderEntry(name, str(f), True, 0, "") for name, f in _told_apart(workspace.media_folders)]
        return FolderView("", None, roots)
    root, folder = workspace.inside(path)
    try:
        if not folder.is_dir():
            raise NotFound(f"{path} is not a folder.")
        found = [e for e in map(_entry, os.scandir(folder)) if e is not None]
    except OSError as fault:
        raise BadInput(
            f"{path} may not be read: {(fault.strerror or 'it cannot be reached').lower()}."
        ) from None
    entries = sorted(found, key=lambda e: (not e.folder, e.name.lower()))
    parent = "" if folder == root else str(folder.parent)
    return FolderView(str(folder), parent, entries)


@dataclass(frozen=True)
class Below:
    """Media files of an allowed folder and of all folders in it; ``cut_off`` where there are more than are told."""

    path: str
    files: list[FolderEntry]
    cut_off: bool


def below(workspace: Workspace, path: str) -> Below:
    """Media files of an allowed folder with all below it, at most :data:`MOST_BELOW`, by path.

    Folders that are links are not gone into: they may lead in a circle, or out of what is allowed. What may not be read is
    left out.

    Raises:
        NotAllowed: outside the allowed folders.
        NotFound: no such folder.
    """
    _, folder = workspace.inside(path)
    if not folder.is_dir():
        raise NotFound(f"{path} is not a folder.")
    found: list[FolderEntry] = []
    for here, folders, _files in os.walk(folder, followlinks=False):
        folders[:] = sorted((f for f in folders if not f.startswith(".")), key=str.lower)
        try:
            entries = [e for e in map(_entry, os.scandir(here)) if e is not None and not e.folder]
        except OSError:
            continue
        found += sorted(entries, key=lambda e: e.name.lower())
        if len(found) > MOST_BELOW:
            return Below(str(folder), found[:MOST_BELOW], True)
    return Below(str(folder), found, False)


def _told_apart(folders: list[Path]) -> list[tuple[str, Path]]:
    """The allowed folders that are there, each with as much of its path as tells it from the others."""
    there = list(dict.fromkeys(f for f in folders if f.is_dir()))
    out = []
    for folder in there:
        parts = folder.parts
        count = 1
        while count < len(parts) and any(f != folder and f.parts[-count:] == parts[-count:] for f in there):
            count += 1
        out.append(("/".join(parts[-count:]).replace("//", "/"), folder))
    return out


def glances(workspace: Workspace, path: str) -> list[Glance]:
    """Length and a picture of the media files of an allowed folder, the first :data:`MOST_GLANCES` by name.

    Looked at in a process of its own, once for each state of the folder.

    Raises:
        NotAllowed: outside the allowed folders.
        BadInput: they take too long to read.
    """
    folder = Path(browse(workspace, path).path)
    files = [e.path for e in browse(workspace, path).entries if not e.folder]
    stamps = tuple((f, Path(f).stat().st_mtime_ns) for f in files[:MOST_GLANCES])
    return _glances(folder.name, stamps)


@lru_cache(maxsize=32)
def _glances(name: str, files: tuple[tuple[str, int], ...]) -> list[Glance]:
    return apart(name, glance_all, [Path(f) for f, _ in files])


def _entry(entry: os.DirEntry[str]) -> FolderEntry | None:
    """Entry of the folder browser; None where that is nothing, or it cannot be reached."""
    ending = Path(entry.name).suffix.lower()
    fits = (
        "song" if ending in SONG_ENDINGS else "video" if ending in VIDEO_ENDINGS
        else "still" if ending in STILL_ENDINGS else "raw" if ending in RAW_ENDINGS else ""
    )  # fmt: skip
    try:
        entry.name.encode()
        if entry.name.startswith("."):
            return None
        if entry.is_dir():
            return FolderEntry(entry.name, entry.path, True, 0, "")
        return (
            FolderEntry(entry.name, entry.path, False, entry.stat().st_size, fits)
            if fits and entry.is_file()
            else None
        )
    except (OSError, UnicodeEncodeError):
        # A link that leads nowhere or in a circle, or a name that no page could send back.
        return None


@dataclass(frozen=True)
class _Found:
    """A file to be added, and what is known of it already (of a song all, since it is looked at before)."""

    root: str
    relative: str
    values: dict[str, Any]


def add_files(
    workspace: Workspace, project: Project, runner: JobRunner, paths: list[str], kind: str, role: str = ""
) -> list[str]:
    """Add files by reference and start preparing them; see :func:`add_rows`."""
    if kind == "stem" and role not in ROLES:
        raise BadInput(f"A stem is {', '.join(ROLES)}; “{role}” is none of them.")
    first: list[str] = []
    if kind == UNDECIDED:
        sounds = [p for p in paths if Path(p).suffix.lower() in SONG_ENDINGS]
        paths = [p for p in paths if p not in sounds]
        # Sound alone is the song where there is none yet; else it is added on the Song view, as what it is.
        alone = len(sounds) == 1 and project.about.song is None
        first = add_files(workspace, project, runner, sounds, "song") if alone else []
        if first and not paths:
            return first
        if not paths:
            raise BadInput("Sound alone is the song or a stem: add it on the Song view.")
    with project.database.writing():
        added = add_rows(workspace, project, paths, kind, role)
        rows = {m.id: m for m in project.database.all(Media)}
        work = "prepare" if kind in ("song", "stem") else "hear"
        prepare_all(project, runner, [rows[i] for i in added], work)
    return [*first, *added]


def add_rows(
    workspace: Workspace, project: Project, paths: list[str], kind: str, role: str = ""
) -> list[str]:
    """Add files by reference, as one step of undo; files already there are not added twice.

    Whether a take or clip can be used is found out when it is prepared, each on its own. A song is looked at first;
    one that cannot be the song is refused before anything changes.

    Returns:
        Ids of the files now in the project.

    Raises:
        NotAllowed: a path outside the allowed folders; nothing is added then.
        BadInput: an unknown kind, more than one song, or a file that cannot be the song.
    """
    if kind not in (*KINDS, UNDECIDED):
        raise BadInput(f"“{kind}” is not a kind of file: {', '.join((*KINDS, UNDECIDED))}.")
    if kind == "song" and len(paths) != 1:
        raise BadInput("A project has one song: choose one file.")
    own = project.folder.resolve()
    found: list[_Found] = []
    for path in paths:
        root, inside = own, _resolved(path)
        if not inside.is_relative_to(own):
            root, inside = workspace.inside(path)
        values = song_values(inside) if kind == "song" else {}
        found.append(_Found(INSIDE if root == own else str(root), str(inside.relative_to(root)), values))
    names = [Path(f.relative).stem for f in found]
    what = {
        "song": "Choose the song",
        "take": "Add take",
        "broll": "Add clip",
        "stem": "Add stem",
        UNDECIDED: "Add file",
    }[kind]
    title = f"{what} {names[0]}" if len(names) == 1 else f"{what}s: {len(names)}"
    with project.database.changing(title) as change:
        same = ("take", "broll") if kind == UNDECIDED else (kind,)
        there = {(m.root, m.path): m.id for k in same for m in every(change.connection, Media, kind=k)}
        said = SaidOfFile(role=role, undecided=kind == UNDECIDED)
        ids = [_add_row(change, f, "take" if kind == UNDECIDED else kind, said, there) for f in found]
        if kind == "song":
            choose_song(project, change, ids[0])
    return ids


def _resolved(path: str) -> Path:
    try:
        return Path(path).resolve()
    except (OSError, RuntimeError, ValueError) as fault:
        raise BadInput(f"“{path[:80]}” is not a path that can be followed ({fault}).") from None


def song_values(path: Path) -> dict[str, Any]:
    """Column values of a file that can be the song.

    Raises:
        UnreadableMedia: not sound, or too short or long.
    """
    # Looked at in a process of its own: a file that ends the reader does not end the server.
    facts = apart(path.name, probe, path, need=("sound",))
    if not SHORTEST_SONG_S <= facts.duration_s <= LONGEST_SONG_S:
        raise UnreadableMedia(
            f"{path.name} cannot be the song: it lasts {facts.duration_s:.2f} s, and a song lasts from "
            f"{SHORTEST_SONG_S:g} s to {LONGEST_SONG_S / 60:g} minutes."
        )
    if 4 * facts.duration_s * facts.sample_rate * max(1, facts.channels) > MOST_SOUND_BYTES:
        raise too_much_sound(path.name, facts.duration_s)
    return {"facts": facts_of(facts, path), "content": content_id(path), "state": "ready"}


def facts_of(facts: Facts, path: Path) -> dict[str, Any]:
    """Column value of the facts of a file that was probed."""
    return {**facts_to_dict(facts), **stamp(path)}


def _add_row(
    change: Change, found: _Found, kind: str, said: SaidOfFile, there: dict[tuple[str, str], str]
) -> str:
    """Add a file's row, where it is not ``there`` already by its root and path; returns its id."""
    place = found.root, found.relative
    if place in there:
        if found.values:
            change.update(tables.media, {"id": there[place]}, found.values)
        return there[place]
    tags = said_to_dict(said)
    values: dict[str, Any] = {
        "root": found.root, "path": found.relative, "kind": kind, "id": secrets.token_hex(5), "name": Path(found.relative).stem, "content": "", "facts": {},
        "tags": tags, "state": "new", "error": "", "position": 0, **found.values,
    }  # fmt: skip
    there[place] = str(change.insert(tables.media, values)["id"])
    return there[place]


def prepare(project: Project, runner: JobRunner, media_id: str, kind: str = "prepare") -> int:
    """Queue probing and making proxies, stills, peaks and sound; or, by kind, a part: "hear", "stills", "picture"."""
    return prepare_all(project, runner, [project.database.one(Media, id=media_id)], kind)[0]


def prepare_all(project: Project, runner: JobRunner, rows: list[Media], kind: str) -> list[int]:
    """Queue the same work for several files; returns the jobs."""
    works = [(f"Preparing {row.name}", {"media": row.id}) for row in rows]
    return runner.add_all(project.database, kind, works)


def examine(project: Project, media_id: str) -> Media:
    """Probe a file and keep what it is; a file that cannot be used keeps the reason.

    Raises:
        UnreadableMedia: with the reason.
        Cancelled: it was taken out of the project meanwhile.
    """
    rows = project.database.all(Media, id=media_id)
    if not rows:
        raise Cancelled("The file was taken out of the project meanwhile.")
    (row,) = rows
    if row.content and row.state == "ready" and condition(project, row).state == "ok":
        return row
    if row.kind == "song":
        values = song_values(readable(project, row))
    else:
        path = readable(project, row)
        facts = probe(path, need=("sound",) if row.kind == "stem" else ("picture",))
        told = row.said.undecided and (facts.still or not facts.has_sound)
        if row.kind == "take" and facts.still and not told:
            raise UnreadableMedia(f"{path.name} is a still picture, no take. Add it as B-roll.")
        values = {"facts": facts_of(facts, path), "content": content_id(path), "state": "ready"}
        if told:
            values |= {"kind": "broll", "tags": said_to_dict(replace(row.said, undecided=False))}
    values["error"] = ""
    if row.kind == "song" and row.content not in ("", values["content"]):
        take_as_it_is(project, media_id, values)
        return project.database.one(Media, id=media_id)
    with project.database.writing() as connection:
        connection.execute(update(tables.media).where(tables.media.c.id == media_id).values(**values))
    return project.database.one(Media, id=media_id)


def readable(project: Project, row: Media) -> Path:
    """A file to be opened now.

    Raises:
        UnreadableMedia: gone, replaced by what is no file, or out of reach.
    """
    now = condition(project, row)
    if now.state in ("offline", "unreadable"):
        raise UnreadableMedia(now.words, code="offline")
    return project.file_of(row)


def refuse(project: Project, media_id: str, reason: str) -> None:
    """Keep on a file why it cannot be used."""
    with project.database.writing() as connection:
        query = update(tables.media).where(tables.media.c.id == media_id)
        connection.execute(query.values(state="failed", error=reason))


@one_transaction
def relink(workspace: Workspace, project: Project, runner: JobRunner, media_id: str, path: str) -> None:
    """Point a file at where it is now; its passes, shots and selects stay.

    Raises:
        BadInput: the new file has other content, so its picture would not fit the edit.
    """
    row = project.database.one(Media, id=media_id)
    root, resolved = workspace.inside(path)
    try:
        there = resolved.is_file()
    except OSError:
        there = False
    if not there:
        raise NotFound(f"{path} is not there.")
    if row.content and content_id(resolved) != row.content:
        raise BadInput(f"{resolved.name} is not the same file as {Path(row.path).name}: its content differs.")
    with project.database.changing(f"Relink {row.name}") as change:
        change.update(
            tables.media, {"id": media_id}, {"root": str(root), "path": str(resolved.relative_to(root))}
        )
    prepare(project, runner, media_id)


@one_transaction
def remove(project: Project, media_id: str) -> None:
    """Take a file out of the project; the file itself is not touched.

    Raises:
        Refused: an edit uses it.
    """
    row = project.database.one(Media, id=media_id)
    snapshot = snapshot_of(project)
    if snapshot.about.song == media_id:
        raise Refused("The song cannot be taken out; add another song to put it in its place.")
    if any(s.source.get("media") == media_id for s in project.database.all(KeptItem)):
        raise Refused(f"{row.name} is used in an edit; give those shots another source first.")
    with project.database.changing(f"Take out {row.name}") as change:
        for p in every(change.connection, Pass, media=media_id):
            change.delete_all(tables.feed, {"pass_id": p.id})
        change.delete(tables.media, {"id": media_id})


@one_transaction
def describe(
    project: Project,
    media_id: str,
    *,
    name: str | None,
    camera: str | None,
    select: tuple[float, float] | None,
    slate: str | None = None,
) -> None:
    """Rename a file, name its camera, keep what its slate says, or set a B-roll clip's in and out.

    Raises:
        BadInput: in and out outside the clip, or the wrong way round.
    """
    row = project.database.one(Media, id=media_id)
    said = row.said
    if camera is not None:
        said = replace(said, camera=camera.strip())
    if slate is not None:
        said = replace(said, slate=slate.strip())
    if select is not None:
        low, high = inside(row, *select)
        said = replace(said, in_s=low, out_s=high)
    values = {"tags": said_to_dict(said), "name": (name or row.name).strip() or row.name}
    what = f"In and out of {row.name}" if select is not None else f"Describe {row.name}"
    with project.database.changing(what) as change:
        change.update(tables.media, {"id": media_id}, values)


@one_transaction
def fit(project: Project, media_id: str, wanted: Fit) -> None:
    """Fit a file into the film: every shot that shows it follows.

    Raises:
        BadInput: a value out of range, the file has no picture, or a slow move over what is no still.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind not in ("take", "broll"):
        raise BadInput(f"{row.name} has no picture to fit.")
    if wanted.to and not row.facts.still:
        raise BadInput(f"{row.name} is no still: a slow move over a still is all that is kept with a file.")
    said = replace(row.said, fit=checked_fit(wanted))
    with project.database.changing(f"Fit {row.name}") as change:
        change.update(tables.media, {"id": media_id}, {"tags": said_to_dict(said)})


@one_transaction
def grade(project: Project, media_id: str, values: Mapping[str, float]) -> None:
    """Give a file a grade, or none: every shot that shows it follows.

    Raises:
        BadInput: a control that there is not, a value out of range, or the file has no picture.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind not in ("take", "broll"):
        raise BadInput(f"{row.name} has no picture whose colours could be changed.")
    changed = tuple((name, value) for name, value in checked_grade(values).items() if value != REST[name])
    said = replace(row.said, grade=changed)
    with project.database.changing(f"Grade {row.name}") as change:
        change.update(tables.media, {"id": media_id}, {"tags": said_to_dict(said)})


def clear_half_made(project: Project) -> None:
    """Clear what a kill left half made: uploads, proxies, films, exports, scratch."""
    for pattern in (
        "media/.*.part",
        "cache/*.making-*",
        "cache/scratch-*",
        "renders/.*.mp4",
        "exports/zembi-*",
        "cache/*/.*.json.*",
    ):
        for left in project.folder.glob(pattern):
            shutil.rmtree(left, ignore_errors=True) if left.is_dir() else left.unlink(missing_ok=True)


def derived_path(project: Project, media_id: str, what: str) -> Path:
    """Path of something that was derived from a file.

    Raises:
        NotFound: no such file, or it is not made (yet).
    """
    row = project.database.one(Media, id=media_id)
    path = project.derived(row) / what
    if not row.content or not path.is_file():
        raise NotFound(f"{row.name} has no {what} (yet).")
    return path


def known_facts(project: Project, media_id: str) -> dict[str, Any]:
    """Facts noted while a file's sound, stills and proxies were made.

    Raises:
        NotFound: no such file, or nothing is made yet.
    """
    row = project.database.one(Media, id=media_id)
    facts = derived_facts(project.derived(row)) if row.content else None
    if facts is None:
        raise NotFound(f"Nothing is made of {row.name} yet.")
    return facts


#: Most files of media folders that are looked through for one that was dropped on the page.
_MOST_LOOKED_AT = 50_000


def find(workspace: Workspace, wanted: list[tuple[str, int]]) -> list[str]:
    """Paths in the media folders of files of a name and size; "" for each that does not.

    A browser tells of a dropped file no more than these two.
    """
    by_name: dict[str, list[Path]] = {_composed(name): [] for name, _ in wanted}
    looked_at = 0
    for folder in workspace.media_folders:
        for here, folders, files in os.walk(folder):
            folders[:] = sorted(f for f in folders if not f.startswith("."))
            looked_at += len(files)
            for name in files:
                if (same := _composed(name)) in by_name:
                    by_name[same].append(Path(here) / name)
            if looked_at > _MOST_LOOKED_AT:
                break
    return [str(next((p for p in by_name[_composed(name)] if _size(p) == size), "")) for name, size in wanted]


def _composed(name: str) -> str:
    """A name in Unicode's composed form: some disks keep the decomposed one, and browsers tell the composed."""
    return unicodedata.normalize("NFC", name)


def _size(path: Path) -> int:
    try:
        return path.stat().st_size if path.is_file() else -1
    except OSError:
        return -1


def clean_name(name: str) -> str:
    """A file name without folders and without signs that file systems refuse."""
    base = re.sub(r"[\x00-\x1f\ud800-\udfff/\\:*?\"<>|]+", "_", Path(name).name).strip(" .")
    # File systems take 255 bytes, and a number and a part's ending come to it.
    stem, ending = Path(base).stem, Path(base).suffix[:16]
    while len(stem.encode()) > 180:
        stem = stem[: max(1, len(stem) * 3 // 4)]
    return stem + ending if base else "upload"


def keep_upload(
    workspace: Workspace, project: Project, runner: JobRunner, path: Path, kind: str, role: str
) -> list[str]:
    """Add an upload to the project; one that is refused leaves no file."""
    try:
        return add_files(workspace, project, runner, [str(path)], kind, role)
    except BaseException:
        path.unlink(missing_ok=True)
        raise


async def upload(project: Project, name: str, size: int | None, chunks: AsyncIterator[bytes]) -> Path:
    """Write an upload into the project's own media folder; it appears under its name only when complete.

    Raises:
        NoRoom: the disk is too small for it; nothing is kept.
    """
    folder = project.folder / "media"
    try:
        folder.mkdir(exist_ok=True)
        room = free_bytes(folder) - _SPARE
    except OSError as fault:
        raise disk_fault(fault, project.folder) from fault
    if size is not None and size > room:
        raise NoRoom(
            f"{name} needs {size / 1e9:.2f} GB, but only {max(0, room) / 1e9:.2f} GB are free. "
            "Make room, or add it by reference from a media folder."
        )
    part = folder / f".{secrets.token_hex(8)}.part"
    written = 0
    try:
        with part.open("wb") as out:
            async for chunk in chunks:
                written += len(chunk)
                if written > room:
                    raise NoRoom(
                        f"{name} does not fit: the disk is full after {written / 1e9:.2f} GB. Make room and try again."
                    )
                out.write(chunk)
        if not written:
            raise BadInput(f"{name} is empty (0 bytes).")
        return _give_name(part, folder, clean_name(name))
    except OSError as fault:
        raise disk_fault(fault, folder) from fault
    finally:
        part.unlink(missing_ok=True)


def _give_name(part: Path, folder: Path, name: str) -> Path:
    """Give a complete file the first name that is free; two at once get one each."""
    number = 1
    while True:
        target = folder / (name if number == 1 else f"{Path(name).stem}-{number}{Path(name).suffix}")
        number += 1
        try:
            os.link(part, target)
            return target
        except FileExistsError:
            continue
        except OSError:
            # A disk without links: what is there is looked for first.
            if not target.exists():
                return part.rename(target)


def colour_table(project: Project, media_id: str, number: int, share: float) -> None:
    """Look a file's colours up in a table of the project before its grade, or in none (0): every shot that shows it follows.

    Raises:
        BadInput: the file has no picture.
        NotFound: the project has no such table.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind not in ("take", "broll"):
        raise BadInput(f"{row.name} has no picture whose colours could be changed.")
    if number:
        bring_table(project, number)
    said = replace(row.said, table=number, table_share=share if number else 1.0)
    with project.database.changing(f"Table of colours of {row.name}") as change:
        change.update(tables.media, {"id": media_id}, {"tags": said_to_dict(said)})
