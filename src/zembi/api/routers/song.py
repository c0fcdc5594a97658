"""Song: grid, sections, marks."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from zembi.api.context import IfMatch, ProjectDep
from zembi.api.download import download
from zembi.api.schemas import (
    AddMarks,
    At,
    BringAlong,
    ChangeLine,
    ChangeMark,
    ChangeMarks,
    ChangeMarkSet,
    ChangeSection,
    CorrectGrid,
    DeleteMarks,
    EmptySet,
    Id,
    Level,
    LyricsText,
    MadeSet,
    MarksChanged,
    NewMarkSet,
    Ok,
    Passage,
    SetOfAccents,
    SetOfHits,
    SetOnGrid,
    ShiftMarks,
    Shorten,
    ThinMarks,
    TidyMarks,
)  # fmt: skip
from zembi.core.errors import BadInput
from zembi.service.answers import song as answers
from zembi.service.answers.views import SongDetail
from zembi.service.song import cutdown, exchange, grid, lyrics, marks
from zembi.service.song.grid import Follow, GridClick

router = APIRouter(prefix="/projects/{project_id}/song", tags=["song"])


@router.get("/detail")
def detail(project: ProjectDep) -> SongDetail:
    """Hits and loudness."""
    return answers.song_detail(project)


@router.patch("/grid")
def correct_grid(body: CorrectGrid, project: ProjectDep) -> Follow:
    """Correct the grid; no cut moves. The answer tells which cuts were on the grid and could be brought along."""
    return grid.correct_grid(project, **body.root.model_dump())


@router.post("/grid/clicks")
def clicks(body: CorrectGrid, project: ProjectDep) -> list[GridClick]:
    """Say where the beats would be after a correction, so that it can be heard first; nothing changes."""
    return grid.clicks_of(project, **body.root.model_dump())


@router.patch("/grid/cuts")
def bring_along(body: BringAlong, project: ProjectDep) -> Ok:
    """Bring cuts along to the grid as it is now."""
    grid.bring_along(project, {e.edit: e.moves for e in body.edits})
    return Ok()


@router.patch("/sections/{section_id}")
def change_section(section_id: Id, body: ChangeSection, project: ProjectDep) -> Ok:
    """Rename a section, move its border, or set its phrase length."""
    grid.change_section(project, section_id, **body.model_dump())
    return Ok()


@router.post("/sections/{section_id}/repeats")
def copy_name(section_id: Id, project: ProjectDep) -> Ok:
    """Give a section's name to its repeats."""
    return Ok(note=f"{grid.copy_name(project, section_id)} sections named")


@router.post("/sections")
def split_section(body: At, project: ProjectDep) -> Ok:
    """Start a new section at the nearest bar line."""
    grid.split_section(project, body.song_s)
    return Ok()


@router.delete("/sections/{section_id}")
def join_section(section_id: Id, project: ProjectDep) -> Ok:
    """Join a section to the one before it."""
    grid.join_section(project, section_id)
    return Ok()


@router.post("/marks", status_code=201)
def add_marks(body: AddMarks, project: ProjectDep) -> list[int]:
    """Add marks."""
    return marks.add_marks(project, body.times_s, set_id=body.set_id, working=body.working)


@router.patch("/marks/{mark_id}")
def change_mark(mark_id: Id, body: ChangeMark, project: ProjectDep) -> Ok:
    """Move, name or colour a mark."""
    marks.change_mark(project, mark_id, **body.model_dump())
    return Ok()


@router.patch("/marks")
def change_marks(body: ChangeMarks, project: ProjectDep) -> MarksChanged:
    """Delete marks, tidy them onto beats or hits, thin or shift them; the answer tells which went where."""
    match body.root:
        case DeleteMarks(ids=ids):
            marks.delete_marks(project, ids)
            return MarksChanged(note=f"{len(ids)} marks deleted")
        case TidyMarks() as tidy:
            act = marks.tidied if tidy.preview else marks.tidy_marks
            moved = act(project, tidy.to, tidy.reach_s, set_id=tidy.set_id, sensitivity=tidy.sensitivity)
            return MarksChanged(note=f"{len(moved)} marks moved", moved=moved)
        case ThinMarks(set_id=set_id, keep_every=every, first=first):
            gone = marks.thin_marks(project, every, set_id=set_id, first=first)
            return MarksChanged(note=f"{gone} marks taken away")
        case ShiftMarks(set_id=set_id, shift_s=shift_s):
            return MarksChanged(note=f"{marks.shift_marks(project, shift_s, set_id=set_id)} marks shifted")


@router.post("/mark-sets", status_code=201)
def add_mark_set(body: NewMarkSet, project: ProjectDep) -> MadeSet:
    """Make a set of marks: empty, of hits, of the accents of bars, or of a division of the grid."""
    match body.root:
        case EmptySet(name=name):
            return MadeSet(id=marks.add_set(project, name))
        case SetOfHits(kinds=kinds, sensitivity=sensitivity, name=name):
            made = marks.marks_from_hits(project, kinds, sensitivity, name=name)
        case SetOfAccents(kinds=kinds, name=name):
            made = marks.marks_on_accents(project, kinds, name=name)
        case SetOnGrid(every=every, name=name):
            made = marks.marks_on_grid(project, every, name=name)
    return MadeSet(id=made.id, note=f"{made.count} marks made")


@router.patch("/mark-sets/{set_id}")
def change_mark_set(set_id: Id, body: ChangeMarkSet, project: ProjectDep) -> Ok:
    """Rename, show, hide or colour a set of marks."""
    marks.change_set(project, set_id, **body.model_dump())
    return Ok()


@router.delete("/mark-sets/{set_id}")
def delete_mark_set(set_id: Id, project: ProjectDep) -> Ok:
    """Delete a set of marks."""
    marks.delete_set(project, set_id)
    return Ok()


@router.put("/lyrics")
def set_lyrics(body: LyricsText, project: ProjectDep, if_match: IfMatch = None) -> Ok:
    """Replace the lyrics by a text: plain, LRC, SubRip or WebVTT."""
    return Ok(note=f"{lyrics.set_lyrics(project, body.text, body.name, known=if_match)} lines")


@router.get("/lyrics.{kind}")
def export_lyrics(kind: str, project: ProjectDep) -> Response:
    """The lyrics as LRC, SubRip or WebVTT."""
    return download(lyrics.export_lyrics(project, kind))


@router.patch("/lyrics/{line_id}")
def change_line(line_id: Id, body: ChangeLine, project: ProjectDep) -> Ok:
    """Time a line of lyrics, take its time off, or change its words."""
    lyrics.change_line(project, line_id, **body.model_dump())
    return Ok()


@router.delete("/lyrics/{line_id}")
def delete_line(line_id: Id, project: ProjectDep) -> Ok:
    """Delete a line of lyrics."""
    lyrics.delete_line(project, line_id)
    return Ok()


@router.post("/cutdown")
def make_cutdown(body: Shorten, project: ProjectDep) -> Ok:
    """Leave a passage of the song out, or use only it; the edit follows."""
    act = cutdown.leave_out if body.action == "leave out" else cutdown.keep_only
    act(project, body.start_s, body.end_s)
    return Ok()


@router.put("/cutdown/{passage_id}")
def move_passage(passage_id: Id, body: Passage, project: ProjectDep) -> Ok:
    """Change a passage that is left out."""
    cutdown.move_passage(project, passage_id, body.start_s, body.end_s)
    return Ok()


@router.delete("/cutdown/{passage_id}")
def bring_back(passage_id: Id, project: ProjectDep) -> Ok:
    """Bring a passage back."""
    cutdown.bring_back(project, passage_id)
    return Ok()


@router.put("/level")
def set_level(body: Level, project: ProjectDep) -> Ok:
    """Set the song's gain and fades in the film."""
    cutdown.set_level(project, **body.model_dump(exclude_none=True))
    return Ok()


@router.get("/marks.{kind}")
def export_marks(kind: str, project: ProjectDep) -> Response:
    """Sections and marks as WebVTT, CSV or MIDI (which holds the grid too)."""
    return download(exchange.export_marks(project, kind))


@router.post("/marks/file")
async def import_marks(
    request: Request, project: ProjectDep, name: Annotated[str, Query(max_length=255)] = "file"
) -> Ok:
    """Read sections and marks, or the grid, from a file sent as the body."""
    data = bytearray()
    async for block in request.stream():
        data += block
        if len(data) > exchange.MOST_BYTES:
            raise BadInput(f"{name} is too large for a list of marks.")
    # Off the event loop: reading and writing the database waits.
    return Ok(note=await run_in_threadpool(exchange.import_marks, project, name, bytes(data)))
