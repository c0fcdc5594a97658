"""A project's own name, picture size, frame rate and first timecode, changed after it was made."""

from dataclasses import dataclass
from fractions import Fraction

from zembi.core.edit.model import Edit
from zembi.core.edit.rates import Rerated, at_rate
from zembi.core.errors import BadInput
from zembi.core.programme.size import checked_size
from zembi.core.timebase import (
    frame_to_timecode,
    frames_for_length,
    parse_rate,
    rate_label,
    timecode_to_frame,
)
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.edits import load_edit, save_edit
from zembi.store.entities import Version, every


@dataclass(frozen=True)
class RateChange:
    """Outcome for the cuts at another rate.

    Attributes:
        rate: Label of that rate.
        words: All of it in words.
        gone: Shots and other items that would have no frame any more, in all edits.
    """

    rate: str
    words: str
    gone: int


def rate_change(project: Project, rate: str) -> RateChange:
    """Tell what another rate would do to the cuts of every edit; nothing changes.

    Raises:
        BadInput: no frame rate.
    """
    new = parse_rate(rate)
    with project.database.reading() as connection:
        ids = [v.id for v in every(connection, Version)]
        found = [_at_rate(snapshot_of(project), load_edit(connection, i), new) for i in ids]
    gone = sum(f.gone for f in found)
    on_music, most = sum(f.on_music for f in found), max((f.moved_s for f in found), default=0.0)
    words = [
        f"{on_music} cuts and ends stay on their beats" if on_music else "No cut lies on a beat",
        f"others move by at most {1000 * most:.0f} ms" if most > 5e-4 else "others stay where they are",
    ]
    if gone:
        words.append(f"{gone} shorter than a frame of {rate_label(new)} f/s {'goes' if gone == 1 else 'go'}")
    return RateChange(rate_label(new), "; ".join(words) + ".", gone)


@one_transaction
def describe(
    project: Project,
    *,
    name: str | None = None,
    size: tuple[int, int] | None = None,
    first_timecode: str | None = None,
    rate: str | None = None,
) -> None:
    """Rename a project, or give its film another size, rate or first timecode, as one step of undo.

    At another size cuts stay on their frames, at another rate on their beats, or at their times; see :func:`rate_change`.

    Raises:
        BadInput: no name, a size that cannot be coded, no rate, or no timecode.
    """
    about = project.about
    old = parse_rate(about.rate)
    new = old if rate is None else parse_rate(rate)
    values: dict[str, str | int] = {}
    if name is not None:
        if not name.strip():
            raise BadInput("Give the project a name.")
        values["name"] = name.strip()
    if size is not None:
        checked_size(*size)
        values |= {"width": size[0], "height": size[1]}
    if first_timecode is not None:
        values["first_frame"] = timecode_to_frame(first_timecode, new)
    elif new != old:
        values["first_frame"] = _same_timecode(about.first_frame, old, new)
    if not values and new == old:
        return
    with project.database.changing(
        "Change the project" if new == old else f"Cut at {rate_label(new)} f/s"
    ) as change:
        if new != old:
            snapshot = snapshot_of(project)
            values["rate"] = str(new)
            for version in every(change.connection, Version):
                _cut_at(change, snapshot, version.id, new)
        change.update(tables.project, {"id": 1}, values)


def _cut_at(change: Change, snapshot: Snapshot, edit_id: int, new: Fraction) -> None:
    before = load_edit(change.connection, edit_id)
    save_edit(change, edit_id, _at_rate(snapshot, before, new).edit, before)


def _at_rate(snapshot: Snapshot, edit: Edit, new: Fraction) -> Rerated:
    # Before there is a song an edit is one frame long.
    length = frames_for_length(snapshot.seconds, new) if snapshot.seconds else edit.length
    return at_rate(edit, length, snapshot.rate, new, snapshot.grid)


def _same_timecode(frame: int, old: Fraction, new: Fraction) -> int:
    """The frame whose timecode is written alike at another rate; where there is none, the one at the same time."""
    try:
        return timecode_to_frame(frame_to_timecode(frame, old), new)
    except BadInput:
        return round(frame * new / old)
