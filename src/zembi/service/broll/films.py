"""Finished footage among the B-roll: where it is cut."""

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from zembi.core.errors import Refused
from zembi.core.footage.shots import Found, find_shots
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.media.looking import every_picture
from zembi.media.probe import frame_times
from zembi.service.media import library
from zembi.service.media.analyses import load_shots, save_shots
from zembi.service.project.workspace import Project, open_folder
from zembi.store.entities import Media


@dataclass(frozen=True)
class Cutting:
    """Cuts of a file, in frames."""

    rate: Fraction
    frames: int
    shots: list[Found]


def shots_of(path: Path, report: Report) -> Cutting:
    """Find where finished footage is cut.

    Raises:
        UnreadableMedia: it cannot be read, or has no picture.
    """
    times = frame_times(path)
    pictures = every_picture(path, times, lambda share: report(share, f"Looking through {path.name}"))
    return Cutting(times.rate, len(times.pts), list(find_shots(pictures)))


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
    """Cuts found in a film."""

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
    """Cuts found in a clip; None before it was analysed."""
    row = project.database.one(Media, id=media_id)
    found = load_shots(project.derived(row)) if row.content else None
    if found is None:
        return None
    shots = [FilmShot(**s) for s in found["shots"]]
    return FilmShots(found["rate"], found["frames"], shots)


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


WORKS = (LongWork("shots", split_film, Urgency.ASKED),)
