"""Song: grid, sections, marks."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from zembi.api.context import ProjectDep
from zembi.api.download import download
from zembi.api.schemas import (
    AddMarks,
    At,
    BringAlong,
    ChangeLine,
    ChangeMark,
    ChangeMarkSet,
    ChangeSection,
    CorrectGrid,
    DeleteMarks,
    Id,
    Level,
    LyricsText,
    MakeMarks,
    NewMarkSet,
    Ok,
    Passage,
    Shorten,
    TidyMarks,
    WorkMarks,
)  # fmt: skip
from zembi.core.errors import BadInput
from zembi.service.answers import song as answers
from zembi.service.answers.views import SongDetail
from zembi.service.song import cutdown, exchange, grid, lyrics, marks
from zembi.service.song.grid import Follow, GridClick

router = APIRouter(prefix="/api/projects/{project_id}/song", tags=["song"])


@router.get("/detail")
def detail(project: ProjectDep) -> SongDetail:
    """Hits and loudness."""
    return answers.song_detail(project)


@router.post("/grid")
def correct_grid(body: CorrectGrid, project: ProjectDep) -> Follow:
    """Correct the grid; no cut moves. The answer tells which cuts were on the grid and could be brought along."""
    return grid.correct_grid(project, **body.model_dump())


@router.post("/grid/clicks")
def clicks(body: CorrectGrid, project: ProjectDep) -> list[GridClick]:
    """Say where the beats would be after a correction, so that it can be heard first; nothing changes."""
    return grid.clicks_of(project, **body.model_dump())


@router.post("/grid/follow")
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


@router.post("/marks/delete")
def delete_marks(body: DeleteMarks, project: ProjectDep) -> Ok:
    """Delete marks."""
    marks.delete_marks(project, body.ids)
    return Ok()


@router.post("/marks/tidy")
def tidy_marks(body: TidyMarks, project: ProjectDep) -> list[marks.Tidied]:
    """Move marks to the nearest beat, half-beat or hit; the answer tells which, from where to where."""
    act = marks.tidied if body.preview else marks.tidy_marks
    return act(project, body.to, body.reach_s, set_id=body.set_id, sensitivity=body.sensitivity)


@router.post("/marks/make")
def make_marks(body: MakeMarks, project: ProjectDep) -> Ok:
    """Make a set of marks from hits, or on every beat, bar or phrase."""
    if body.every is not None:
        count = marks.marks_on_grid(project, body.every, name=body.name)
    elif body.each_bar:
        count = marks.marks_on_accents(project, body.bands, name=body.name)
    else:
        count = marks.marks_from_hits(project, body.bands, body.sensitivity, name=body.name)
    return Ok(note=f"{count} marks made")


@router.post("/marks/work")
def work_marks(body: WorkMarks, project: ProjectDep) -> Ok:
    """Thin or shift the marks of a set."""
    if body.keep_every is not None:
        gone = marks.thin_marks(project, body.keep_every, set_id=body.set_id, first=body.first)
        return Ok(note=f"{gone} marks taken away")
    moved = marks.shift_marks(project, body.shift_s or 0.0, set_id=body.set_id)
    return Ok(note=f"{moved} marks shifted")


@router.post("/mark-sets", status_code=201)
def add_mark_set(body: NewMarkSet, project: ProjectDep) -> int:
    """Make an empty set of marks."""
    return marks.add_set(project, body.name)


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
def set_lyrics(body: LyricsText, project: ProjectDep) -> Ok:
    """Replace the lyrics by a text: plain, LRC, SubRip or WebVTT."""
    return Ok(note=f"{lyrics.set_lyrics(project, body.text, body.name)} lines")


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


@router.post("/marks/read")
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
