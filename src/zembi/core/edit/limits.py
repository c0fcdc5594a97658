"""Limits of the checks before hand-off, which a project may set for itself."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from typing import Literal

from zembi.core.errors import BadInput
from zembi.core.titles.lyric import QUICK_CPS
from zembi.core.treatments.colours import HARMLESS_FLASHES

LimitName = Literal["shortest_shot_s", "flashes", "reading_cps", "jump"]


@dataclass(frozen=True)
class CheckLimits:
    """Values beyond which a check points something out.

    Attributes:
        shortest_shot_s: Shots shorter than this many seconds.
        flashes: Flashes of the picture in a second.
        reading_cps: Characters of a title to be read in a second.
        jump: Difference of the pictures on both sides of a cut, in hundredths of OKLab's scale.
    """

    shortest_shot_s: float = 0.2
    flashes: float = HARMLESS_FLASHES
    reading_cps: float = QUICK_CPS
    jump: float = 15.0


#: Least and largest value of each.
RANGES: Mapping[str, tuple[float, float]] = {
    "shortest_shot_s": (0.0, 10.0),
    "flashes": (0.5, 60.0),
    "reading_cps": (5.0, 60.0),
    "jump": (1.0, 100.0),
}
USUAL = CheckLimits()


def checked_limits(values: Mapping[str, float], now: CheckLimits = USUAL) -> CheckLimits:
    """Limits with some of them changed.

    Raises:
        BadInput: a limit that there is not, or a value out of range.
    """
    for name, value in values.items():
        if name not in RANGES:
            raise BadInput(f"There is no limit “{name[:40]}”; there are {', '.join(RANGES)}.")
        least, most = RANGES[name]
        if not least <= value <= most:
            raise BadInput(f"The limit “{name}” is {least:g} to {most:g}, not {value:g}.")
    return replace(now, **values)


def limits_from(stored: Mapping[str, float]) -> CheckLimits:
    """Limits as they are stored: those that are not as usual."""
    known = {f.name for f in fields(CheckLimits)}
    return replace(USUAL, **{name: value for name, value in stored.items() if name in known})


def limits_to_store(limits: CheckLimits) -> dict[str, float]:
    """The inverse of :func:`limits_from`."""
    usual = asdict(USUAL)
    return {name: value for name, value in asdict(limits).items() if value != usual[name]}
