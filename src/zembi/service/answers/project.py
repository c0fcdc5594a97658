"""A project as the page sees it, its card in the list, and its jobs."""

import dataclasses

from sqlalchemy import RowMapping, select
from sqlalchemy.exc import SQLAlchemyError

from zembi.core.edit.compiling.evening import evened
from zembi.core.errors import NotFound, ZembiError
from zembi.core.lineup.coverage import uncovered
from zembi.core.timebase import frame_to_timecode, rate_label
from zembi.core.treatments.model import treatment_from_dict
from zembi.jobs.runner import OPEN_STATES
from zembi.service.answers import views
from zembi.service.answers.edit import NOT_CUT, edit_view, last_badges
from zembi.service.answers.lineup import cuts_on_set, holes_of, take_views
from zembi.service.answers.media import media_view, select_views, stills_of
from zembi.service.answers.song import level_view, song_view
from zembi.service.answers.spans import span_view
from zembi.service.broll.shotlist import listed_of
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.tags import tag_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project, Workspace
from zembi.service.song.lyrics import lyrics_tag
from zembi.store import tables
from zembi.store.entities import Job, Lyric, Media, Recipe

#: Jobs of the past that the page is still told about.
_KEPT_JOBS = 40


def project_cards(workspace: Workspace) -> list[views.ProjectCard]:
    """The list of projects."""
    return [_card(workspace, project_id) for project_id in workspace.ids()]


def _card(workspace: Workspace, project_id: str) -> views.ProjectCard:
    """A project's card; of one that cannot be opened, what is wrong with it and what to do."""
    try:
        project = workspace.open(project_id)
        return _whole_card(project)
    except (ZembiError, SQLAlchemyError, OSError) as fault:
        words = fault.message if isinstance(fault, ZembiError) else f"{project_id} cannot be read ({fault})."
        return views.ProjectCard(project_id, project_id, "", 0, 0, "", 0, 0, None, None, None, words)


@one_moment
def _whole_card(project: Project) -> views.ProjectCard:
    snapshot = snapshot_of(project)
    rows, row, takes = snapshot.media, snapshot.about, take_views(snapshot)
    shown = next((m for k in ("take", "broll") for m in rows if m.kind == k and stills_of(project, m)), None)
    return views.ProjectCard(
        project.id, row.name, rate_label(snapshot.rate), row.width, row.height,
        song=next((m.name for m in rows if m.id == row.song), ""),
        takes=sum(m.kind == "take" for m in rows), clips=sum(m.kind == "broll" for m in rows),
        poster=media_view(project, shown, (row.width, row.height), project.rate) if shown else None,
        steps=_badges(snapshot, takes, holes_of(snapshot)), film=_last_film(project), trouble="",
    )  # fmt: skip


def _last_film(project: Project) -> views.FilmView | None:
    """The last film that was rendered and is still there."""
    jobs = project.database.all(Job, kind="render", state="done")
    for job in sorted(jobs, key=lambda j: -j.id):
        name = str(job.result.get("file", ""))
        if name and (project.folder / "renders" / name).is_file():
            return views.FilmView(job.id, name)
    return None


def _being_heard(project: Project, song: Media) -> bool:
    works = project.database.all(Job, kind="prepare")
    return any(j.state in OPEN_STATES and j.arguments.get("media") == song.id for j in works)


def _badges(snapshot: Snapshot, takes: list[views.TakeView], holes: list[list[int]]) -> views.Badges:
    grid = snapshot.grid
    song = (
        f"{grid.bpm:.2f} BPM · {sum(s.bars for s in snapshot.phrases)} bars"
        if grid
        else "add the song"
        if not snapshot.song
        else "listening…"
        if _being_heard(snapshot.project, snapshot.song)
        else "not listened to"
    )
    locked = sum(t.status == "locked" for t in takes)
    lineup = f"{locked} of {len(takes)} locked" if takes else "no takes"
    coverage = (
        "no angles"
        if not snapshot.angles
        else f"{len(holes)} hole{'s' if len(holes) != 1 else ''}"
        if holes
        else "all covered"
    )
    unshot = sum(not (s.done or s.by_tag) for s in listed_of(snapshot))
    coverage += f" · {unshot} not shot" if unshot else ""
    of_edit = NOT_CUT
    if snapshot.about.edit is not None and snapshot.length:
        # Compiled only for a project that was never opened by this version.
        of_edit = last_badges(snapshot.project) or edit_view(snapshot.project, snapshot.about.edit).badges
    return views.Badges(song, lineup, coverage, of_edit.sheet, of_edit.handoff)


@one_moment
def project_state(project: Project) -> views.ProjectState:
    """Everything about a project but its edit."""
    snapshot = snapshot_of(project)
    takes = take_views(snapshot)
    holes = holes_of(snapshot)
    undo, redo = project.database.undo_names()
    row = snapshot.about
    return views.ProjectState(
        id=project.id, edit=row.edit if row.song is not None else None, name=row.name, rate=str(snapshot.rate), rate_label=rate_label(snapshot.rate),
        first_timecode=frame_to_timecode(row.first_frame, snapshot.rate),
        rate_num=snapshot.rate.numerator, rate_den=snapshot.rate.denominator, width=row.width, height=row.height,
        length=snapshot.length, unit=row.settings.get("unit", "beat"), lead=row.settings.get("lead", 0),
        sensitivities=snapshot.sensitivities, limits=dataclasses.asdict(snapshot.limits),
        song=song_view(snapshot), whole=song_view(snapshot.whole) if snapshot.left_out else None,
        left_out=[views.PassageView(r.id, r.start_s, r.end_s) for r in snapshot.left_out],
        kept=[list(k) for k in snapshot.map.kept] if snapshot.song_seconds else [], level=level_view(snapshot), media=[media_view(project, m, (row.width, row.height), snapshot.rate, snapshot.sections) for m in snapshot.media],
        selects=select_views(snapshot), shot_list=listed_of(snapshot), takes=takes, cuts_on_set=cuts_on_set(snapshot),
        recipes=[
            views.RecipeView(r.id, r.name, tuple(treatment_from_dict(t) for t in r.treatments))
            for r in project.database.all(Recipe)
        ],
        angles=[
            views.AngleView(
                a.id, a.number, a.name, a.hue, a.because, [span_view(evened(s, snapshot.material)) for s in snapshot.angle_spans[a.id]],
                [list(h) for h in uncovered(snapshot.angle_spans[a.id], snapshot.length)],
            )
            for a in sorted(snapshot.angles, key=lambda a: a.number)
        ],
        keys=snapshot.keys,
        feeds=[
            views.FeedView(f.id, f.angle, at, at + b - a, f.pass_id)
            for f in snapshot.feeds
            for a, b, at in (snapshot.map.pieces(f.start_s, f.end_s) if snapshot.song_seconds else ())
        ],
        holes=holes, badges=_badges(snapshot, takes, holes),
        tags=views.TagsView(tag_of(dict(row.settings)), lyrics_tag(project.database.all(Lyric))), undo=undo, redo=redo,
    )  # fmt: skip


@one_moment
def job(project: Project, job_id: int) -> views.JobView:
    """A job, whether it is under way or ended.

    Raises:
        NotFound: no job of the project has that number.
    """
    with project.database.reading() as connection:
        row = connection.execute(select(tables.job).where(tables.job.c.id == job_id)).mappings().one_or_none()
    if row is None:
        raise NotFound(f"No work has the number {job_id}.")
    return _job_view(row)


def _job_view(row: RowMapping) -> views.JobView:
    return views.JobView(**{f.name: row[f.name] for f in dataclasses.fields(views.JobView)})


def jobs(project: Project) -> list[views.JobView]:
    """Jobs under way and the latest that ended, newest first."""
    log = tables.job
    with project.database.reading() as connection:
        rows = (
            connection.execute(select(log).order_by(log.c.id.desc()).limit(_KEPT_JOBS + 200)).mappings().all()
        )
    active = [r for r in rows if r.state in OPEN_STATES]
    past = [r for r in rows if r.state not in OPEN_STATES][:_KEPT_JOBS]
    return [_job_view(r) for r in [*active, *past]]
