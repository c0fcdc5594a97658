"""Song: grid, sections, marks."""

from fastapi import APIRouter

from zembi.api.context import ProjectDep
from zembi.api.schemas import AddMarks, At, ChangeSection, CorrectGrid, DeleteMarks, Ok, TidyMarks
from zembi.service import song, state
from zembi.service.views import SongDetail

router = APIRouter(prefix="/api/projects/{project_id}/song", tags=["song"])


@router.get("/detail")
def detail(project: ProjectDep) -> SongDetail:
    """Hits and loudness."""
    return state.song_detail(project)


@router.post("/grid")
def correct_grid(body: CorrectGrid, project: ProjectDep) -> Ok:
    """Correct the grid; no cut moves."""
    song.correct_grid(project, body.action, at_s=body.at_s, metre=body.metre, seconds=body.seconds)
    return Ok()


@router.patch("/sections/{section_id}")
def change_section(section_id: int, body: ChangeSection, project: ProjectDep) -> Ok:
    """Rename a section, move its border, or set its phrase length."""
    if body.name is not None:
        song.rename_section(project, section_id, body.name)
    if body.start_s is not None:
        song.move_section(project, section_id, body.start_s, snap=body.snap)
    if body.phrase_bars is not None:
        song.set_phrase_bars(project, section_id, body.phrase_bars)
    return Ok()


@router.post("/sections")
def split_section(body: At, project: ProjectDep) -> Ok:
    """Start a new section at the nearest bar line."""
    song.split_section(project, body.at_s)
    return Ok()


@router.delete("/sections/{section_id}")
def join_section(section_id: int, project: ProjectDep) -> Ok:
    """Join a section to the one before it."""
    song.join_section(project, section_id)
    return Ok()


@router.post("/marks", status_code=201)
def add_marks(body: AddMarks, project: ProjectDep) -> list[int]:
    """Add marks."""
    return song.add_marks(project, body.times_s, set_id=body.set_id)


@router.put("/marks/{mark_id}")
def move_mark(mark_id: int, body: At, project: ProjectDep) -> Ok:
    """Move a mark."""
    song.move_mark(project, mark_id, body.at_s)
    return Ok()


@router.post("/marks/delete")
def delete_marks(body: DeleteMarks, project: ProjectDep) -> Ok:
    """Delete marks."""
    song.delete_marks(project, body.ids)
    return Ok()


@router.post("/marks/tidy")
def tidy_marks(body: TidyMarks, project: ProjectDep) -> Ok:
    """Move marks to the nearest beat, half-beat or hit."""
    moved = song.tidy_marks(project, body.to, body.reach_s)
    return Ok(note=f"{moved} mark{'s' if moved != 1 else ''} moved")
