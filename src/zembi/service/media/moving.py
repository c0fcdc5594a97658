"""Files that moved, were replaced, or are no longer needed. Footage itself is never written to."""

import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from zembi.core.errors import BadInput, NotFound
from zembi.core.footage.files import Facts
from zembi.core.timebase import rate_label
from zembi.jobs.apart import apart
from zembi.jobs.runner import JobRunner
from zembi.media.probe import content_id, probe
from zembi.service.media.footage import condition
from zembi.service.media.library import facts_of, prepare
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import INSIDE, Project, Workspace
from zembi.store import tables
from zembi.store.entities import KeptItem, Media, Pass, Select

#: Most files that are looked through for one that is gone.
_MOST_LOOKED_AT = 100_000


@dataclass(frozen=True)
class FoundAgain:
    """Result of looking for files: names of those found again, and of those that still are gone."""

    found: list[str]
    missing: list[str]


def find_again(workspace: Workspace, project: Project, runner: JobRunner, path: str) -> FoundAgain:
    """Look in a folder, or in the one that a file lies in, for every file that is gone or replaced, by its content.

    All that are found are pointed at where they are now, as one step of undo.

    Raises:
        NotAllowed, NotFound: the folder is outside the allowed ones, or not there.
    """
    root, folder = workspace.inside(path)
    folder = folder if folder.is_dir() else folder.parent
    if not folder.is_dir():
        raise NotFound(f"{path} is not there.")
    rows = sorted(project.database.all(Media), key=lambda m: m.name)
    gone = [m for m in rows if m.content and condition(project, m).state != "ok"]
    where = _places(folder, gone)
    with project.database.changing(f"Find {len(where)} files again") as change:
        for row in gone:
            if row.id in where:
                values = {
                    "root": str(root),
                    "path": str(where[row.id].relative_to(root)),
                    "state": "ready",
                    "error": "",
                }
                change.update(tables.media, {"id": row.id}, values)
    for row in gone:
        if row.id in where:
            prepare(project, runner, row.id)
    return FoundAgain([m.name for m in gone if m.id in where], [m.name for m in gone if m.id not in where])


def _places(folder: Path, gone: list[Media]) -> dict[str, Path]:
    """Paths of files of these contents. Only files of their sizes are read, those of their names first."""
    sizes: dict[int, list[Media]] = {}
    for row in gone:
        sizes.setdefault(row.facts.size, []).append(row)
    out: dict[str, Path] = {}
    names = {Path(m.path).name for m in gone}
    candidates = [p for p in _files(folder) if _size(p) in sizes or p.name in names]
    for path in sorted(candidates, key=lambda p: p.name not in names):
        left = [m for m in gone if m.id not in out]
        if not left:
            break
        try:
            content = content_id(path)
        except OSError:
            continue
        for row in left:
            if row.content == content:
                out[row.id] = path
    return out


def _files(folder: Path) -> Iterator[Path]:
    seen = 0
    for here, folders, files in os.walk(folder):
        folders[:] = sorted(f for f in folders if not f.startswith("."))
        for name in sorted(files):
            seen += 1
            if seen > _MOST_LOOKED_AT:
                return
            yield Path(here) / name


def _size(path: Path) -> int:
    try:
        return path.stat().st_size if path.is_file() else -1
    except OSError:
        return -1


@dataclass(frozen=True)
class Replaced:
    """Differences of a file to the one it is to replace, in words, and whether it has replaced it."""

    differs: list[str]
    done: bool


def replace(
    workspace: Workspace, project: Project, runner: JobRunner, media_id: str, path: str, *, accept: bool
) -> Replaced:
    """Put another file in a file's place: the graded or full-size version, or a copy coded anew.

    Frames stay where they are by time: passes, shots and selects are as they were. Without ``accept`` nothing is
    changed, only told.

    Raises:
        NotAllowed, NotFound, UnreadableMedia: the other file cannot be used.
        BadInput: it is the song, or of another kind.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind in ("song", "stem"):
        raise BadInput(f"{row.name} is heard, not seen: add the other file as the song or stem instead.")
    root, resolved = workspace.inside(path)
    if not resolved.is_file():
        raise NotFound(f"{path} is not there.")
    facts = apart(resolved.name, probe, resolved, need=("picture",))
    differs = _differences(row, facts)
    if not accept:
        return Replaced(differs, False)
    own = project.folder.resolve()
    values = {
        "root": INSIDE if root == own else str(root), "path": str(resolved.relative_to(root)),
        "facts": facts_of(facts, resolved), "content": content_id(resolved), "state": "ready", "error": "",
    }  # fmt: skip
    with project.database.changing(f"Replace {row.name}") as change:
        change.update(tables.media, {"id": media_id}, values)
    prepare(project, runner, media_id)
    return Replaced(differs, True)


def _differences(row: Media, now: Facts) -> list[str]:
    was, out = row.facts, []
    seconds = now.duration_s - row.seconds
    if abs(seconds) > 0.001:
        out.append(f"{abs(seconds):.2f} s {'longer' if seconds > 0 else 'shorter'}: {now.duration_s:.2f} s")
    if was.rate != now.rate and now.rate is not None:
        before = f" instead of {rate_label(was.rate)}" if was.rate else ""
        out.append(f"{rate_label(now.rate)} f/s{before}")
    if (was.width, was.height) != (now.width, now.height):
        out.append(f"{now.width}x{now.height} instead of {was.width}x{was.height}")
    if was.rotation != now.rotation:
        out.append(f"turned by {now.rotation}° instead of {was.rotation}°")
    if was.has_sound != now.has_sound:
        out.append("with sound" if now.has_sound else "without sound")
    return out


@one_transaction
def throw_out_unused(project: Project) -> list[str]:
    """Take every clip out of the project that no edit shows, that has no select and no rating, and every take that
    has no pass, as one step of undo; returns their names. The files stay where they are.
    """
    used = {s.source.get("media") for s in project.database.all(KeptItem)}
    used |= {p.media for p in project.database.all(Pass)} | {s.media for s in project.database.all(Select)}
    rows = [
        m
        for m in project.database.all(Media)
        if m.kind in ("broll", "take") and m.id not in used and not m.said.rating
    ]
    with project.database.changing(f"Throw out {len(rows)} unused files") as change:
        for row in rows:
            change.delete(tables.media, {"id": row.id})
    return [m.name for m in rows]
