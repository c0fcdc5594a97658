"""Look of a stretch of a file, as filling by rules compares it: light, movement, colours."""

from dataclasses import dataclass
from functools import lru_cache

from zembi.core.footage.measure import unlike_colours

#: Share of the distance of two looks that their light makes; the colours make the rest.
_OF_LIGHT = 0.5


@dataclass(frozen=True, eq=False)
class Look:
    """Means over a stretch of a file, compared by identity.

    Attributes:
        light, motion: 0 to 1.
        colours: Shares of the whole file's colours, as :class:`~zembi.core.footage.measure.Measured` has them.
    """

    light: float
    motion: float
    colours: tuple[float, ...]


@lru_cache(maxsize=1 << 14)
def unlike(one: Look, other: Look) -> float:
    """Distance of two looks, 0 (alike) to 1."""
    of_colours = unlike_colours(list(one.colours), list(other.colours))
    return _OF_LIGHT * abs(one.light - other.light) + (1 - _OF_LIGHT) * of_colours
