"""Bringing files in: browsing allowed folders, uploads, adding, relinking, and what each file is."""

import dataclasses
import os
import re
import secrets
from collections.abc import AsyncIterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import insert, update

from zembi.core.errors import BadInput, NoRoom, NotFound, Refused
from zembi.jobs.runner import JobRunner
from zembi.media.probe import SONG_ENDINGS, VIDEO_ENDINGS, content_id, probe
from zembi.service.snapshot import look
from zembi.service.workspace import INSIDE, Project, Workspace, free_bytes
from zembi.store import tables

KINDS = ("song", "take", "broll", "stem")
ROLES = ("voice", "drums", "instrumental")
#: Left free on the disk after an upload.
_SPARE = 256 << 20


@dataclass(frozen=True)
class FolderEntry:
    """Something in an allowed folder: a folder, or a file that may be media."""

    name: str
    path: str
    folder: bool
    size: int
    fits: str  # "song", "video" or "" for a folder


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
        roots = [
            FolderEntry(f.name or str(f), str(f), True, 0, "") for f in workspace.media_folders if f.is_dir()
        ]
        return FolderView("", None, roots)
    root, folder = workspace.inside(path)
    if not folder.is_dir():
        raise NotFound(f"{path} is not a folder.")
    entries = []
    try:
        found = sorted(os.scandir(folder), key=lambda e: (not e.is_dir(), e.name.lower()))
    except PermissionError:
        raise BadInput(f"{path} may not be read: permission denied.") from None
    for entry in found:
        ending = Path(entry.name).suffix.lower()
        fits = "song" if ending in SONG_ENDINGS else "video" if ending in VIDEO_ENDINGS else ""
        if entry.name.startswith(".") or not (entry.is_dir() or fits):
            continue
        size = 0 if entry.is_dir() else entry.stat().st_size
        entries.append(
            FolderEntry(entry.name, entry.path, entry.is_dir(), size, "" if entry.is_dir() else fits)
        )
    parent = "" if folder == root else str(folder.parent)
    return FolderView(str(folder), parent, entries)


def guess_camera(path: str) -> str:
    """The camera a file comes from, by its name: what stands before the last number, else its folder.

    >>> guess_camera("day1/GAL_02.mp4")
    'GAL'
    """
    stem = Path(path).stem
    base = re.sub(r"[\s_.-]*\d+[a-z]?$", "", stem, flags=re.IGNORECASE).strip(" _-.")
    folder = Path(path).parent.name
    if base.upper() in ("", "C", "CLIP", "IMG", "MVI", "DSC", "MOV", "VID", "GX", "GH", "P") and folder:
        return folder
    return base or stem


def add_files(
    workspace: Workspace, project: Project, runner: JobRunner, paths: list[str], kind: str, role: str = ""
) -> list[str]:
    """Add files by reference and start preparing them; see :func:`add_rows`."""
    if kind == "stem" and role not in ROLES:
        raise BadInput(f"A stem is {', '.join(ROLES)}; “{role}” is none of them.")
    added = add_rows(workspace, project, paths, kind, role)
    for media_id in added:
        prepare(project, runner, media_id)
    return added


def add_rows(
    workspace: Workspace, project: Project, paths: list[str], kind: str, role: str = ""
) -> list[str]:
    """Note files by reference; files already there are not added twice.

    Whether a file can be used is found out when it is prepared, each on its own.

    Returns:
        Ids of the files now in the project.

    Raises:
        NotAllowed: a path outside the allowed folders; nothing is added then.
        BadInput: an unknown kind, or more than one song.
    """
    if kind not in KINDS:
        raise BadInput(f"“{kind}” is not a kind of file: song, take or broll.")
    if kind == "song" and len(paths) != 1:
        raise BadInput("A project has one song: choose one file.")
    own = project.folder.resolve()
    placed: list[tuple[str, str]] = []
    for path in paths:
        resolved = Path(path).resolve()
        if own in resolved.parents:
            placed.append((INSIDE, str(resolved.relative_to(own))))
        else:
            root, inside = workspace.inside(path)
            placed.append((str(root), str(inside.relative_to(root))))
    return [_add_row(project, root, relative, kind, role) for root, relative in placed]


def _add_row(project: Project, root: str, relative: str, kind: str, role: str) -> str:
    existing = [m for m in project.database.all(tables.media, root=root, path=relative) if m["kind"] == kind]
    if existing:
        return str(existing[0]["id"])
    with project.database.writing() as connection:
        media_id = secrets.token_hex(5)
        name = Path(relative).stem
        values: dict[str, Any] = {
            "id": media_id, "kind": kind, "name": name, "root": root, "path": relative, "content": "",
            "facts": {}, "tags": {"camera": guess_camera(relative)} if kind == "take" else {"role": role} if role else {},
            "state": "new", "error": "", "position": 0,
        }  # fmt: skip
        connection.execute(insert(tables.media).values(**values))
        if kind == "song":
            connection.execute(update(tables.project).values(song=media_id))
    return media_id


def prepare(project: Project, runner: JobRunner, media_id: str) -> int:
    """Queue probing and making proxies, stills, peaks and sound."""
    row = project.database.one(tables.media, id=media_id)
    return runner.add(project.database, "prepare", f"Preparing {row['name']}", {"media": media_id})


def examine(project: Project, media_id: str) -> Any:
    """Probe a file and keep what it is; a file that cannot be used keeps the reason.

    Raises:
        UnreadableMedia: with the reason, which is kept on the file too.
    """
    row = project.database.one(tables.media, id=media_id)
    path = project.path_of(row)
    try:
        facts = probe(path, need=("sound",) if row["kind"] in ("song", "stem") else ("picture",))
        values = {
            "facts": {**dataclasses.asdict(facts), "rate": str(facts.rate) if facts.rate else ""},
            "content": content_id(path), "state": "ready", "error": "",
        }  # fmt: skip
    except BadInput as fault:
        refuse(project, media_id, fault.message)
        raise
    with project.database.writing() as connection:
        connection.execute(update(tables.media).where(tables.media.c.id == media_id).values(**values))
    return project.database.one(tables.media, id=media_id)


def refuse(project: Project, media_id: str, reason: str) -> None:
    """Keep on a file why it cannot be used."""
    with project.database.writing() as connection:
        query = update(tables.media).where(tables.media.c.id == media_id)
        connection.execute(query.values(state="failed", error=reason))


def relink(workspace: Workspace, project: Project, runner: JobRunner, media_id: str, path: str) -> None:
    """Point a file at where it is now; its passes, shots and selects stay.

    Raises:
        BadInput: the new file has other content, so its picture would not fit the edit.
    """
    row = project.database.one(tables.media, id=media_id)
    root, resolved = workspace.inside(path)
    if not resolved.is_file():
        raise NotFound(f"{path} is not there.")
    if row["content"] and content_id(resolved) != row["content"]:
        raise BadInput(
            f"{resolved.name} is not the same file as {Path(row['path']).name}: its content differs."
        )
    with project.database.changing(f"Relink {row['name']}") as change:
        change.update(
            tables.media, {"id": media_id}, {"root": str(root), "path": str(resolved.relative_to(root))}
        )
    prepare(project, runner, media_id)


def remove(project: Project, media_id: str) -> None:
    """Take a file out of the project; the file itself is not touched.

    Raises:
        Refused: an edit uses it.
    """
    row = project.database.one(tables.media, id=media_id)
    snapshot = look(project)
    if snapshot.row["song"] == media_id:
        raise Refused("The song cannot be taken out; add another song to put it in its place.")
    lanes = [*project.database.all(tables.shot), *project.database.all(tables.cutaway)]
    if any(s["source"].get("media") == media_id for s in lanes):
        raise Refused(f"{row['name']} is used in an edit; give those shots another source first.")
    with project.database.changing(f"Take out {row['name']}") as change:
        for p in project.database.all(tables.pass_, media=media_id):
            change.delete(tables.pass_, {"id": p["id"]})
        if project.database.all(tables.lineup, media=media_id):
            change.delete(tables.lineup, {"media": media_id})
        change.delete(tables.media, {"id": media_id})


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
    row = project.database.one(tables.media, id=media_id)
    tags = dict(row["tags"])
    if camera is not None:
        tags["camera"] = camera.strip()
    if slate is not None:
        tags["slate"] = slate.strip()
    if select is not None:
        seconds = float(row["facts"].get("duration_s", 0.0))
        low, high = max(0.0, select[0]), min(seconds, select[1])
        if high - low < 1e-3:
            raise BadInput(f"In and out of {row['name']} leave nothing: the clip is {seconds:.2f} s long.")
        tags |= {"in_s": low, "out_s": high}
    values = {"tags": tags, "name": (name or row["name"]).strip() or row["name"]}
    what = f"In and out of {row['name']}" if select is not None else f"Describe {row['name']}"
    with project.database.changing(what) as change:
        change.update(tables.media, {"id": media_id}, values)


def derived_path(project: Project, media_id: str, what: str) -> Path:
    """Where something that was made from a file lies.

    Raises:
        NotFound: no such file, or it is not made (yet).
    """
    row = project.database.one(tables.media, id=media_id)
    path = project.derived(row) / what
    if not row["content"] or not path.is_file():
        raise NotFound(f"{row['name']} has no {what} (yet).")
    return path


def clean_name(name: str) -> str:
    """A file name without folders and without signs that file systems refuse."""
    base = re.sub(r"[\x00-\x1f/\\:*?\"<>|]+", "_", Path(name).name).strip(" .")
    return base or "upload"


async def upload(project: Project, name: str, size: int | None, chunks: AsyncIterator[bytes]) -> Path:
    """Write an upload into the project's own media folder; it appears under its name only when complete.

    Raises:
        NoRoom: the disk is too small for it; nothing is kept.
    """
    folder = project.folder / "media"
    folder.mkdir(exist_ok=True)
    room = free_bytes(folder) - _SPARE
    if size is not None and size > room:
        raise NoRoom(
            f"{name} needs {size / 1e9:.2f} GB, but only {max(0, room) / 1e9:.2f} GB are free. "
            "Make room, or add it by reference from a media folder."
        )
    target, number = folder / clean_name(name), 2
    while target.exists():
        target, number = folder / f"{Path(clean_name(name)).stem}-{number}{Path(name).suffix}", number + 1
    part = folder / f".{target.name}.{secrets.token_hex(4)}.part"
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
        os.replace(part, target)
    except OSError as fault:
        raise NoRoom(f"{name} could not be written ({fault.strerror}).") from fault
    finally:
        part.unlink(missing_ok=True)
    return target
