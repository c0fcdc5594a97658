"""Long works on one file: reading its sound, making stills and proxies, measuring its picture."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from zembi.core.errors import Cancelled, NoRoom, UnreadableMedia, ZembiError
from zembi.jobs.disk import disk_fault, need_room
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.media.derive import derive_picture, derive_song, derive_sound, derived_bytes, is_derived, is_heard
from zembi.media.measuring import measured
from zembi.service.media import library
from zembi.service.media.analyses import load_measured, save_measured
from zembi.service.project.workspace import Project, open_folder
from zembi.store.entities import Media


def with_file(
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


def derive(project: Project, row: Media, report: Report) -> None:
    """Make all that is derived from a file, as far as it is not there."""
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


def hear(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Probe a take or clip and read its sound alone, so that a take can be lined up before its picture is decoded."""

    def sound(project: Project, row: Media) -> None:
        if not is_heard(project.cache, row.content):
            project.cache.mkdir(exist_ok=True)
            need_room(project.cache, derived_bytes(row.facts, sound_only=True), "Reading the sound")
            derive_sound(project.file_of(row), project.cache, row.content, report)

    return with_file(folder, arguments, report, allowed, sound)


WORKS = (LongWork("hear", hear, Urgency.SOUND),)
