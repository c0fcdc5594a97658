"""Position of cuts: on a point of the grid, less the lead of the section in which that point lies."""

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.errors import BadInput
from zembi.core.song.grid import Grid, Unit
from zembi.core.timebase import frame_to_seconds, seconds_to_frame

#: Most frames before the grid point at which cuts can fall.
MOST_LEAD = 12


def checked_lead(lead: int) -> int:
    """A lead, if there can be such a one.

    Raises:
        BadInput: out of range.
    """
    if not 0 <= lead <= MOST_LEAD:
        raise BadInput(f"A lead of {lead} frames is outside 0 to {MOST_LEAD}.")
    return lead


@dataclass(frozen=True)
class Falls:
    """The lead of each part of a song, and the frames at which cuts fall for it; times are working time.

    Attributes:
        rate: The project's.
        lead: Frames before the grid point at which cuts fall where a section has no lead of its own.
        sections: Start of each section, ascending, and its own lead.
    """

    rate: Fraction
    lead: int = 0
    sections: tuple[tuple[float, int | None], ...] = ()

    def lead_at(self, point_s: float) -> int:
        """The lead for a grid point: of the section that it lies in or begins, whatever is asked for from where."""
        at = bisect_right(self.sections, point_s + 1e-6, key=lambda s: s[0]) - 1
        own = self.sections[at][1] if at >= 0 else None
        return self.lead if own is None else own

    def frame_of(self, point_s: float, lead: int | None = None) -> int:
        """The frame of a cut on a grid point. Where there is no room for the lead it is the song's first.

        Args:
            point_s: The grid point.
            lead: Asked for by itself; None for the section's.

        Raises:
            BadInput: a lead out of range.
        """
        own = self.lead_at(point_s) if lead is None else checked_lead(lead)
        return max(0, seconds_to_frame(point_s, self.rate) - own)

    def nearest_point(self, cut: int, grid: Grid, unit: Unit = "beat") -> float:
        """The grid point whose cut falls nearest to a frame; of two, the later."""
        points = grid.points(unit)
        low = bisect_right(points, frame_to_seconds(cut, self.rate)) - 1
        high = bisect_right(points, frame_to_seconds(cut + MOST_LEAD, self.rate)) + 1
        near = points[max(0, low) : high]
        return min(near, key=lambda p: (abs(self.frame_of(p) - cut), -p))

    def section_frames(self, length: int) -> list[tuple[int, int]]:
        """First frame and end of each section as cuts fall there: a cut belongs to the section that it begins.

        Args:
            length: Frames of the song.
        """
        firsts = [min(length, self.frame_of(start)) if k else 0 for k, (start, _) in enumerate(self.sections)]
        return list(zip(firsts, [*firsts[1:], length], strict=True))
