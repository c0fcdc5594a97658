"""Shot lists as CSV: what was planned, section by section."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, cell, from_cell, plain_lines

COLUMNS = ("section", "what", "camera", "note")
#: Longest cell that is kept.
_LONGEST = 500


@dataclass(frozen=True)
class ShotPlan:
    """A shot that was planned."""

    section: str
    what: str
    camera: str = ""
    note: str = ""


def read_shot_list(text: str) -> list[ShotPlan]:
    """Read a shot list: a heading with at least "what", in any order; commas, semicolons or tabs between.

    Raises:
        BadInput: no such heading, a row without what is to be shot, or too many rows.
    """
    lines = [line for line in plain_lines(text) if line.strip()]
    at_most(len(lines), "The shot list")
    if not lines:
        raise BadInput(f"The shot list is empty. Its first line names the columns: {', '.join(COLUMNS)}.")
    between = max(",;\t", key=lines[0].count)
    try:
        rows = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=between))
    except csv.Error as fault:
        raise BadInput(f"The shot list is no table ({fault}).") from None
    heading = [h.strip().lower() for h in rows[0]]
    if "what" not in heading:
        raise BadInput(
            f"The first line of the shot list names no column “what”; it names {', '.join(heading)[:120]}. "
            f"The columns are {', '.join(COLUMNS)}."
        )
    out = []
    for number, row in enumerate(rows[1:], 2):
        said = {
            h: from_cell(v).strip()[:_LONGEST] for h, v in zip(heading, row, strict=False) if h in COLUMNS
        }
        if not any(said.values()):
            continue
        if not said.get("what"):
            raise BadInput(f"Row {number} of the shot list does not say what is to be shot.")
        out.append(ShotPlan(**{c: said.get(c, "") for c in COLUMNS}))
    return out


def write_shot_list(shots: Sequence[ShotPlan], done: Sequence[str] = ()) -> str:
    """A shot list as a table; with ``done``, a word for each shot in a column of its own."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow([*COLUMNS, *(["shot"] if done else [])])
    for n, s in enumerate(shots):
        row = [cell(getattr(s, c)) for c in COLUMNS]
        table.writerow([*row, *([cell(done[n])] if done else [])])
    return out.getvalue()


def template(sections: Sequence[str]) -> str:
    """A list to begin with: a row for each section of the song."""
    return write_shot_list(
        [ShotPlan(s, "wide, singing", "", "") for s in sections or ["Verse 1", "Chorus 1"]]
    )
