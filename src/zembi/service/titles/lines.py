"""Titles against the lines of the lyrics that they follow."""

from dataclasses import dataclass

from zembi.core.edit.operations.titles import Part, by_hand
from zembi.service.project.snapshot import edit_of, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project
from zembi.service.song.lyrics import sung_lines


@dataclass(frozen=True)
class TitleLine:
    """Parts of a title that were changed by hand; they can be given back to its line."""

    by_hand: list[Part]


@one_moment
def title_line(project: Project, edit_id: int, item: int) -> TitleLine:
    """A title against its line.

    Raises:
        NotFound: there is no such edit.
        Refused: there is no such title.
    """
    snapshot, edit = snapshot_of(project), edit_of(project, edit_id)
    lane, index = edit.find(item)
    return TitleLine(by_hand(lane.items[index], edit, sung_lines(snapshot), snapshot.rate))
