"""Footage looked at outside any project: where a film is cut, which takes are of one set-up."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from zembi.core.errors import BadInput
from zembi.core.footage.shots import Found, find_shots
from zembi.core.lineup.grouping import Group, all_alike, group_takes
from zembi.media.looking import every_picture, some_pictures
from zembi.media.probe import frame_times, probe, traits_of

#: Moments of a take that are compared with those of others.
_MOMENTS = 8
Report = Callable[[float, str], None]


@dataclass(frozen=True)
class Cutting:
    """Where a file is cut, in frames."""

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


def groups_of(paths: Sequence[Path], report: Report) -> list[Group]:
    """Group takes by camera set-up.

    Raises:
        BadInput: a file is named twice.
        UnreadableMedia: one cannot be read, or has no picture.
    """
    twice = {p for p in paths if list(paths).count(p) > 1}
    if twice:
        raise BadInput(f"{min(twice)} is named twice.")
    traits, seen = [], []
    for n, path in enumerate(paths):
        report(n / len(paths), f"Looking at {path.name}")
        traits.append(traits_of(path, probe(path, need=("picture",))))
        seen.append(some_pictures(path, _MOMENTS))
    return group_takes(traits, all_alike(seen))
