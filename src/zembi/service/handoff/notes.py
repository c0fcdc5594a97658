"""Notes on versions of the cut: written, pasted, answered; at their music whatever is cut or left out of the song."""

from collections.abc import Sequence
from dataclasses import dataclass

from zembi.core.errors import BadInput
from zembi.core.interchange.notes import (
    LONGEST_NOTE,
    LONGEST_WHO,
    LONGEST_WHY,
    STATES,
    Film,
    ReadNote,
    State,
    read_notes,
    write_notes_csv,
    write_notes_vtt,
)
from zembi.core.timebase import frame_to_seconds, seconds_to_frame
from zembi.service.handoff.films import Export, file_stem
from zembi.service.project.snapshot import Snapshot, edit_of, snapshot_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Note, Version

#: Most notes of a project.
MOST_NOTES = 5000


@dataclass(frozen=True)
class ListedNote:
    """A note and where it lies now.

    Attributes:
        edit: The version that was seen.
        first, end: Its frames in the film as the song is now; ``end`` is exclusive, and one more for a moment.
        left_out: Whether its music is left out of the song now.
        why: The word with which it was answered.
    """

    id: int
    edit: int
    first: int
    end: int
    left_out: bool
    who: str
    text: str
    state: State
    why: str


@dataclass(frozen=True)
class UnderstoodNote:
    """A note of a pasted list as it was understood: frames of the film, and the words that were taken for its time."""

    first: int
    end: int
    text: str
    who: str
    time: str


@one_moment
def notes_of(project: Project) -> list[ListedNote]:
    """Notes on all versions, in the order of their music."""
    snapshot = snapshot_of(project)
    rows = sorted(project.database.all(Note), key=lambda n: (n.start_s, n.id))
    return [_listed(row, snapshot) for row in rows]


def _listed(row: Note, snapshot: Snapshot) -> ListedNote:
    kept, rate = snapshot.map, snapshot.rate
    # Before the song and after it both clocks go on alike.
    ends = [_working(t, snapshot) for t in (row.start_s, row.end_s)]
    first = seconds_to_frame(ends[0], rate)
    inside = 0 <= row.start_s < snapshot.song_seconds
    gone = inside and not kept.pieces(row.start_s, max(row.end_s, row.start_s + 1e-3))
    return ListedNote(
        row.id, row.edit, first, max(first + 1, seconds_to_frame(ends[1], rate)), gone, row.who, row.text,
        _state(row.state), row.why,
    )  # fmt: skip


def _working(song_s: float, snapshot: Snapshot) -> float:
    if song_s < 0:
        return song_s
    beyond = max(0.0, song_s - snapshot.song_seconds)
    return snapshot.map.to_working(song_s) + beyond


def _song(working_s: float, snapshot: Snapshot) -> float:
    if working_s < 0:
        return working_s
    beyond = max(0.0, working_s - snapshot.seconds)
    return snapshot.map.to_song(min(working_s, snapshot.seconds)) + beyond


@one_transaction
def write_note(project: Project, edit_id: int, first: int, end: int, text: str, who: str = "") -> int:
    """Write a note on frames of a version; returns its id.

    Raises:
        BadInput: no text, too long a one, or frames that the film does not have.
        NotFound: there is no such version.
    """
    edit, snapshot = edit_of(project, edit_id), snapshot_of(project)
    if not edit.first <= first < end <= edit.end:
        raise BadInput("A note lies on frames of the film.")
    start_s = frame_to_seconds(first, snapshot.rate)
    # One frame is a moment.
    end_s = start_s if end == first + 1 else frame_to_seconds(end, snapshot.rate)
    return _keep(project, edit_id, [ReadNote(start_s, end_s, text, who)], "Note")[0]


@one_moment
def understood(project: Project, edit_id: int, text: str) -> list[UnderstoodNote]:
    """Notes of a pasted list as they would be taken; nothing is changed.

    Raises:
        BadInput: there is none in it.
    """
    snapshot = snapshot_of(project)
    out = []
    for n in read_notes(text, _film(project, edit_id, snapshot)):
        first = seconds_to_frame(n.start_s, snapshot.rate)
        end = max(first + 1, seconds_to_frame(n.end_s, snapshot.rate))
        out.append(UnderstoodNote(first, end, n.text, n.who, n.time))
    return out


@one_transaction
def take_notes(project: Project, edit_id: int, text: str, who: str = "") -> int:
    """Take all notes of a pasted list, as one step of undo; returns how many.

    Args:
        who: Who wrote those that name nobody.

    Raises:
        BadInput: there is none in it.
        NotFound: there is no such version.
    """
    found = read_notes(text, _film(project, edit_id, snapshot_of(project)))
    named = [n if n.who else ReadNote(n.start_s, n.end_s, n.text, who, n.time, n.state, n.why) for n in found]
    return len(_keep(project, edit_id, named, f"{len(named)} notes"))


@one_transaction
def answer_note(
    project: Project,
    note: int,
    *,
    state: State | None = None,
    why: str | None = None,
    text: str | None = None,
) -> None:
    """Say what became of a note, with a word why, or correct its text, as one step of undo.

    Raises:
        BadInput: a text or word that is too long, or none.
        NotFound: there is no such note.
    """
    project.database.one(Note, id=note)
    values: dict[str, str] = {}
    if state is not None:
        values["state"] = state
    if why is not None:
        values["why"] = _within(why, LONGEST_WHY, "A word why")
    if text is not None:
        values["text"] = _said(text)
    with project.database.changing(f"Note: {state or 'changed'}") as change:
        change.update(tables.note, {"id": note}, values)


@one_transaction
def drop_note(project: Project, note: int) -> None:
    """Throw a note away.

    Raises:
        NotFound: there is no such note.
    """
    with project.database.changing("Throw a note away") as change:
        change.delete(tables.note, {"id": note})


@one_moment
def export_notes(project: Project, edit_id: int, form: str) -> Export:
    """Notes on a version as a file: "csv" or "vtt"; those whose music is left out are not in it.

    Raises:
        NotFound: there is no such version.
    """
    name = project.database.one(Version, id=edit_id).name
    snapshot = snapshot_of(project)
    notes = [
        ReadNote(
            _working(n.start_s, snapshot),
            _working(n.end_s, snapshot),
            n.text,
            n.who,
            "",
            _state(n.state),
            n.why,
        )
        for n in sorted(project.database.all(Note, edit=edit_id), key=lambda n: (n.start_s, n.id))
        if not _listed(n, snapshot).left_out
    ]
    write, kind = (write_notes_vtt, "text/vtt") if form == "vtt" else (write_notes_csv, "text/csv")
    stem = file_stem(f"{project.about.name} {name} notes")
    return Export(f"{stem}.{form}", kind, write(notes).encode())


def _film(project: Project, edit_id: int, snapshot: Snapshot) -> Film:
    edit, rate = edit_of(project, edit_id), snapshot.rate
    starts = [s.start_s for s in snapshot.sections]
    sections = zip((s.name for s in snapshot.sections), starts, [*starts[1:], snapshot.seconds], strict=True)
    return Film(
        frame_to_seconds(edit.first, rate), frame_to_seconds(edit.end, rate), snapshot.grid, list(sections), rate,
        snapshot.about.first_frame,
    )  # fmt: skip


def _keep(project: Project, edit_id: int, notes: Sequence[ReadNote], name: str) -> list[int]:
    project.database.one(Version, id=edit_id)
    if len(project.database.all(Note)) + len(notes) > MOST_NOTES:
        raise BadInput(f"A project holds at most {MOST_NOTES} notes: throw those away that are done.")
    snapshot = snapshot_of(project)
    rows = [
        {
            "edit": edit_id, "start_s": _song(n.start_s, snapshot), "end_s": _song(n.end_s, snapshot),
            "who": _within(n.who, LONGEST_WHO, "A name"), "text": _said(n.text), "state": n.state, "why": n.why,
        }
        for n in notes
    ]  # fmt: skip
    with project.database.changing(name) as change:
        return change.insert_all(tables.note, rows)


def _said(text: str) -> str:
    text = _within(text, LONGEST_NOTE, "A note")
    if not text:
        raise BadInput("A note says something.")
    return text


def _within(text: str, most: int, what: str) -> str:
    text = text.strip()
    if len(text) > most:
        raise BadInput(f"{what} is at most {most} letters long.")
    return text


def _state(text: str) -> State:
    return next((s for s in STATES if s == text), "open")
