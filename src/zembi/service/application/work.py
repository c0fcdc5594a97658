"""The long works of all topics, run in worker processes, and those that join several topics."""

from functools import partial
from pathlib import Path
from typing import Any

from zembi.jobs.worker import Folders, LongWork, Report, Urgency, Work
from zembi.media.derive import derive_stills, is_derived
from zembi.service.broll import films as film_shots
from zembi.service.handoff import collecting, films, roundtrip
from zembi.service.lineup import aligning, files, grouping
from zembi.service.media import preparing
from zembi.service.media.preparing import derive, with_file
from zembi.service.project.workspace import Project, Workspace
from zembi.service.song.listening import listen_to_song
from zembi.service.song.stems import fit_stem
from zembi.store.entities import Media


def prepare(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Probe a file and make all that is derived from it; for a song, listen to it too."""

    def all_of_it(project: Project, row: Media) -> None:
        derive(project, row, report)
        if row.kind == "take":
            grouping.look_again(project)
        if row.kind == "song":
            listen_to_song(project, row, lambda s, w: report(0.5 + 0.5 * s, w))
        if row.kind == "stem":
            fit_stem(project, row, lambda s, w: report(0.5 + 0.5 * s, w))

    return with_file(folder, arguments, report, allowed, all_of_it)


def look_through(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Make first stills of a take or clip."""

    def stills(project: Project, row: Media) -> None:
        if not is_derived(project.cache, row.content):
            derive_stills(project.file_of(row), project.cache, row.content, report)
        if row.kind == "take":
            grouping.look_again(project)

    return with_file(folder, arguments, report, allowed, stills)


#: Every kind of long work, what is wanted soonest first.
ALL = sorted(
    (
        LongWork("prepare", prepare, Urgency.SONG),
        LongWork("stills", look_through, Urgency.STILLS),
        LongWork("picture", prepare, Urgency.PICTURES, background=True),
        *aligning.WORKS,
        *preparing.WORKS,
        *films.WORKS,
        *roundtrip.WORKS,
        *files.WORKS,
        *collecting.WORKS,
        *film_shots.WORKS,
    ),
    key=lambda work: work.urgency,
)
ORDER = tuple(work.kind for work in ALL)
BACKGROUND = tuple(work.kind for work in ALL if work.background)


def works(workspace: Workspace) -> dict[str, Work]:
    """Every kind of long work, bound to the folders that this workspace may read."""
    allowed = tuple(workspace.media_folders)
    return {work.kind: partial(work.work, allowed=allowed) for work in ALL}
