"""Notes on versions of the cut."""

from typing import Literal

from fastapi import APIRouter, Response

from zembi.api.context import ProjectDep
from zembi.api.download import disposition
from zembi.api.routers.sheet import EditId
from zembi.api.schemas import AnswerNote, Id, Ok, PastedNotes, WriteNote
from zembi.service.handoff import notes
from zembi.service.handoff.notes import ListedNote, UnderstoodNote

router = APIRouter(prefix="/projects/{project_id}", tags=["notes"])


@router.get("/notes")
def list_notes(project: ProjectDep) -> list[ListedNote]:
    """Notes on all versions, in the order of their music."""
    return notes.notes_of(project)


@router.post("/edits/{edit_id}/notes", status_code=201)
def write_note(edit_id: EditId, body: WriteNote, project: ProjectDep) -> ListedNote:
    """Write a note on a version."""
    made = notes.write_note(project, edit_id, body.first, body.end, body.text, body.who)
    return next(n for n in notes.notes_of(project) if n.id == made)


@router.post("/edits/{edit_id}/notes/understood")
def understand_notes(edit_id: EditId, body: PastedNotes, project: ProjectDep) -> list[UnderstoodNote]:
    """Notes of a pasted list as they would be taken; nothing is changed."""
    return notes.understood(project, edit_id, body.text)


@router.post("/edits/{edit_id}/notes/taken")
def take_notes(edit_id: EditId, body: PastedNotes, project: ProjectDep) -> Ok:
    """Take all notes of a pasted list, in one step."""
    count = notes.take_notes(project, edit_id, body.text, body.who)
    return Ok(note=f"{count} notes" if count != 1 else "one note")


@router.patch("/notes/{note}")
def answer_note(note: Id, body: AnswerNote, project: ProjectDep) -> Ok:
    """Say what became of a note, or correct its text."""
    notes.answer_note(project, note, state=body.state, why=body.why, text=body.text)
    return Ok()


@router.delete("/notes/{note}")
def drop_note(note: Id, project: ProjectDep) -> Ok:
    """Throw a note away; undo brings it back."""
    notes.drop_note(project, note)
    return Ok()


@router.get("/edits/{edit_id}/notes.{form}", response_class=Response)
def export_notes(edit_id: EditId, form: Literal["csv", "vtt"], project: ProjectDep) -> Response:
    """Notes on a version as a file."""
    made = notes.export_notes(project, edit_id, form)
    return Response(made.data, media_type=made.kind, headers={"content-disposition": disposition(made.name)})
