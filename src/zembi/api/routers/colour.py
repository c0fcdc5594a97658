"""Colour: the tables of grades, for the page and as ``.cube`` files."""

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Path, Query, Response
from pydantic import TypeAdapter, ValidationError

from zembi.api.context import ProjectDep
from zembi.api.download import disposition
from zembi.api.routers.sheet import EditId
from zembi.api.schemas import EvenFile, Id, KeepCube, KeepTable, Ok
from zembi.core.colour.cube import write_cube
from zembi.core.colour.grade import Lut, lut_of
from zembi.core.colour.logs import curve_lut
from zembi.core.colour.tables import table_lut
from zembi.core.errors import BadInput
from zembi.service.colour.cuts import CutJump, cut_jumps
from zembi.service.colour.evening import even_out
from zembi.service.colour.flat import flat_files
from zembi.service.colour.likeness import ItemMatch, Of, match_item
from zembi.service.colour.stills import graded_stills
from zembi.service.project.lookups import TableFile, bring_table, keep_table, tables_of

router = APIRouter(tags=["colour"])

_VALUES = TypeAdapter(dict[str, float])
#: Values of controls as JSON: an address that says all of a grade can be kept for ever.
Values = Annotated[str, Query(max_length=1000)]


#: Number of a table by its content.
TableNumber = Annotated[int, Path(ge=1, lt=2**48)]


def _values(text: str) -> dict[str, float]:
    try:
        return _VALUES.validate_json(text)
    except ValidationError as fault:
        raise BadInput(f"These are no values of a grade: {fault.errors()[0]['msg']}.") from None


@router.get("/grade.lut", response_class=Response)
def table_of_grade(values: Values) -> Response:
    """The table of a grade: red, green, blue and 1 of each point as 16-bit floats, red changing first."""
    return _points(lut_of(_values(values)))


def _points(lut: Lut) -> Response:
    points = np.ones((*lut.shape[:3], 4), np.float16)
    points[..., :3] = lut
    head = {"cache-control": "private, max-age=86400"}
    return Response(points.tobytes(), media_type="application/octet-stream", headers=head)


@router.get("/grade.cube", response_class=Response)
def grade_as_cube(values: Values) -> Response:
    """The table of a grade as a ``.cube`` for other programs."""
    text = write_cube(lut_of(_values(values)), "grade")
    return Response(text, media_type="text/plain", headers={"content-disposition": disposition("grade.cube")})


@router.get("/projects/{project_id}/edits/{edit_id}/colour/jumps")
def jumps_of_cuts(project: ProjectDep, edit_id: EditId) -> list[CutJump]:
    """Jump of each cut in lightness, colour and contrast, in the order of the film."""
    return cut_jumps(project, edit_id)


@router.get("/projects/{project_id}/edits/{edit_id}/colour/match")
def match_of_item(
    project: ProjectDep, edit_id: EditId, item: Id, like: Id | None = None, of: Of = "shot"
) -> ItemMatch:
    """The grade that makes an item, or the file that it shows, like another item, or like its section where none is named."""
    return match_item(project, edit_id, item, like=like, of=of)


@router.get("/projects/{project_id}/colour/flat")
def files_that_look_flat(project: ProjectDep) -> list[str]:
    """Ids of files without a table or grade that look as if their camera kept room at both ends of the scale."""
    return flat_files(project)


@router.put("/projects/{project_id}/media/{media_id}/evening")
def even_file_out(project: ProjectDep, media_id: str, body: EvenFile) -> Ok:
    """Bring a file to its own middle along its length, measured on its stills, or leave it as it was filmed."""
    return Ok(note=even_out(project, media_id, on=body.on))


@router.get("/projects/{project_id}/colour/stills/{media_id}", response_class=Response)
def graded_stills_of_file(project: ProjectDep, media_id: str) -> Response:
    """The sheet of stills of a file in the colours in which the film shows it; other colours have another address."""
    head = {"cache-control": "private, max-age=86400"}
    return Response(graded_stills(project, media_id), media_type="image/jpeg", headers=head)


@router.get("/projects/{project_id}/tables")
def list_tables(project: ProjectDep) -> list[TableFile]:
    """Tables of colours of the project, by name."""
    return tables_of(project)


@router.post("/projects/{project_id}/tables", status_code=201)
def keep_table_of_colours(body: KeepTable, project: ProjectDep) -> TableFile:
    """Keep a ``.cube`` with the project, or a table that is made of a logarithmic curve."""
    if isinstance(body, KeepCube):
        return keep_table(project, body.name, body.text)
    constants = f" {body.slope:g} {body.offset:g}" if body.curve == "plain log" else ""
    lut = curve_lut(body.curve, slope=body.slope, offset=body.offset)
    return keep_table(project, f"{body.curve}{constants}", write_cube(lut, body.curve))


@router.get("/projects/{project_id}/tables/{number}.lut", response_class=Response)
def points_of_table(
    project: ProjectDep, number: TableNumber, share: Annotated[float, Query(ge=0, le=1)] = 1.0
) -> Response:
    """A table as it acts, mixed by a share with the colours as they are; as a grade's table is sent."""
    bring_table(project, number)
    return _points(table_lut(number, share))
