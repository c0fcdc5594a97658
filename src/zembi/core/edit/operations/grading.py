"""Giving items a grade of their own, whatever else is done to them."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from zembi.core.colour.grade import REST, checked_grade
from zembi.core.edit.model import Edit
from zembi.core.edit.operations.context import Context
from zembi.core.edit.operations.treating import MOST_SHOTS, Treat
from zembi.core.errors import BadInput
from zembi.core.treatments.model import Grade, Treatment


@dataclass(frozen=True)
class GradeItems:
    """Give items a grade with these values of its controls, or none where all are at rest; other treatments stay."""

    items: tuple[int, ...]
    values: Mapping[str, float]
    op: Literal["grade"] = "grade"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Grade a shot" if len(self.items) == 1 else f"Grade {len(self.items)} shots"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if not 0 < len(self.items) <= MOST_SHOTS:
            raise BadInput(f"Between 1 and {MOST_SHOTS} shots can be graded at once.")
        values = checked_grade(self.values)
        for item in dict.fromkeys(self.items):
            lane, index = edit.find(item)
            treatments = with_grade(lane.items[index].treatments, values)
            edit = Treat((item,), treatments).on(edit, context)
        return edit


def with_grade(treatments: tuple[Treatment, ...], values: Mapping[str, float]) -> tuple[Treatment, ...]:
    """Treatments with the values of all controls in the first grade that is not off; without any at rest, without it.

    A new grade acts first: what comes after it lies on the graded picture.
    """
    place = next((n for n, t in enumerate(treatments) if isinstance(t, Grade) and not t.off), None)
    rest = not any(values[name] != REST[name] for name in values if name not in ("strength", "pivot"))
    # The controls are the fields of a grade that are numbers.
    if place is None:
        return treatments if rest else (Grade(**values), *treatments)  # type: ignore[arg-type]
    own = () if rest else (Grade(**values),)  # type: ignore[arg-type]
    return (*treatments[:place], *own, *treatments[place + 1 :])
