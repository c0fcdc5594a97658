"""B-roll: selects, what is said of clips, films found cut, and the shot list."""

from typing import Any

from fastapi import APIRouter, Response

from zembi.api.context import BegunDep, ProjectDep, StudioDep
from zembi.api.download import disposition
from zembi.api.schemas import (
    ChangePlanned,
    ChangeSelect,
    DropSelects,
    Id,
    KeepSelects,
    Ok,
    PlannedShot,
    Say,
    ShotListText,
    Started,
    Tick,
)
from zembi.core.interchange.shotlist import ShotPlan
from zembi.service.broll import selects, shotlist
from zembi.service.broll.films import FilmShots, film_shots, queue_shots
from zembi.service.broll.selects import Near, Range, SaidAnew
from zembi.service.broll.shotlist import Listed

router = APIRouter(prefix="/projects/{project_id}", tags=["broll"])


@router.post("/broll/selects", status_code=201)
def keep_selects(body: KeepSelects, project: ProjectDep) -> list[int]:
    """Keep ranges of a clip as selects."""
    return selects.keep_selects(project, body.media, [Range(r.in_s, r.out_s, r.name) for r in body.ranges])


@router.patch("/broll/selects/{select_id}")
def change_select(select_id: Id, body: ChangeSelect, project: ProjectDep) -> Ok:
    """Rename a select, or set its in and out."""
    selects.change_select(project, select_id, name=body.name, in_s=body.in_s, out_s=body.out_s)
    return Ok()


@router.patch("/broll/selects")
def drop_selects(body: DropSelects, project: ProjectDep) -> Ok:
    """Take some of the selects away."""
    selects.drop_selects(project, body.ids)
    return Ok()


@router.patch("/broll/labels")
def say(body: Say, project: ProjectDep) -> Ok:
    """Rate, tag, colour or note clips and selects together."""
    said = SaidAnew(
        body.rating,
        tuple(body.add_tags),
        tuple(body.remove_tags),
        body.hue,
        body.note,
        body.speed,
        body.moment_s,
    )
    selects.say(project, body.media, body.selects, said)
    return Ok()


@router.get("/broll/near/{media_id}")
def near(media_id: str, project: ProjectDep) -> list[Near]:
    """Clips in order of how near they are to one in colour."""
    return selects.near_in_colour(project, media_id)


@router.get("/broll/places/{media_id}")
def places(media_id: str, project: ProjectDep) -> selects.ClipPlaces:
    """Places of a clip to jump to: movements, and strokes in its sound."""
    return selects.clip_places(project, media_id)


@router.post("/broll/films/{media_id}", status_code=202)
def find_shots(media_id: str, project: ProjectDep, studio: StudioDep, begun: BegunDep) -> Started:
    """Look for the cuts of a clip that is finished footage."""
    return begun(queue_shots(project, studio.runner, media_id))


@router.get("/broll/films/{media_id}")
def found_shots(media_id: str, project: ProjectDep) -> FilmShots | None:
    """Cuts found in a clip, None before it was analysed."""
    return film_shots(project, media_id)


@router.get("/shot-list")
def shot_list(project: ProjectDep) -> list[Listed]:
    """The shot list in order."""
    return shotlist.listed(project)


@router.get("/shot-list.csv")
def shot_list_file(project: ProjectDep) -> Response:
    """The shot list with what was shot, as CSV."""
    return _csv(shotlist.as_csv(project), f"{project.about.name} shot list.csv")


@router.get("/shot-list-template.csv")
def shot_list_template(project: ProjectDep) -> Response:
    """A shot list to begin with, as CSV."""
    return _csv(shotlist.template_csv(project), "shot list.csv")


def _csv(text: str, name: str) -> Response:
    return Response(
        text, media_type="text/csv; charset=utf-8", headers={"content-disposition": disposition(name)}
    )


@router.post("/shot-list", status_code=201)
def read_shot_list(body: ShotListText, project: ProjectDep) -> int:
    """Add the shots of a CSV to the list; returns how many are new."""
    return shotlist.take_in(project, body.text)


@router.post("/shot-list/shots", status_code=201)
def plan(body: PlannedShot, project: ProjectDep) -> int:
    """Add a planned shot."""
    return shotlist.add(project, ShotPlan(body.section.strip(), body.what.strip(), body.camera, body.note))


@router.patch("/shot-list/shots/{listed_id}")
def change_planned(listed_id: Id, body: ChangePlanned, project: ProjectDep) -> Ok:
    """Change a planned shot."""
    shotlist.change(project, listed_id, body.model_dump(exclude_none=True))
    return Ok()


@router.delete("/shot-list/shots/{listed_id}")
def drop_planned(listed_id: Id, project: ProjectDep) -> Ok:
    """Take a planned shot off the list."""
    shotlist.drop(project, listed_id)
    return Ok()


@router.put("/shot-list/shots/{listed_id}/tick")
def tick(listed_id: Id, body: Tick, project: ProjectDep) -> Ok:
    """Tick something off the list, or take the tick away."""
    named: dict[str, Any] = {"pass": body.pass_id, "media": body.media, "select": body.select}
    what = {k: v for k, v in named.items() if v is not None}
    shotlist.tick(project, listed_id, what, on=body.on)
    return Ok()
