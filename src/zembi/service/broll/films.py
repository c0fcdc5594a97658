"""Finished footage among the B-roll: where it is cut."""

from dataclasses import dataclass

from zembi.core.errors import Refused
from zembi.jobs.runner import JobRunner
from zembi.service.media.analyses import load_shots
from zembi.service.project.workspace import Project
from zembi.store.entities import Media


@dataclass(frozen=True)
class FilmShot:
    """A shot of a film: its frames (half-open), how it begins, and its seconds."""

    first: int
    end: int
    begins: str
    dissolve: list[int] | None
    in_s: float
    out_s: float


@dataclass(frozen=True)
class FilmShots:
    """Where a film is cut."""

    rate: str
    frames: int
    shots: list[FilmShot]


def queue_shots(project: Project, runner: JobRunner, media_id: str) -> int:
    """Queue looking for the cuts of a clip.

    Raises:
        Refused: it is no clip.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind != "broll":
        raise Refused(f"{row.name} is no B-roll; only clips are looked through for cuts.")
    return runner.add(project.database, "shots", f"Finding the cuts of {row.name}", {"media": media_id})


def film_shots(project: Project, media_id: str) -> FilmShots | None:
    """Where a clip is cut; None before it was looked through."""
    row = project.database.one(Media, id=media_id)
    found = load_shots(project.derived(row)) if row.content else None
    if found is None:
        return None
    shots = [FilmShot(**s) for s in found["shots"]]
    return FilmShots(found["rate"], found["frames"], shots)
