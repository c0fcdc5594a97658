"""Colour: the tables of grades, for the page and as ``.cube`` files."""

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import TypeAdapter, ValidationError

from zembi.api.download import disposition
from zembi.core.colour.cube import write_cube
from zembi.core.colour.grade import lut_of
from zembi.core.errors import BadInput

router = APIRouter(tags=["colour"])

_VALUES = TypeAdapter(dict[str, float])
#: Values of controls as JSON: an address that says all of a grade can be kept for ever.
Values = Annotated[str, Query(max_length=1000)]


def _values(text: str) -> dict[str, float]:
    try:
        return _VALUES.validate_json(text)
    except ValidationError as fault:
        raise BadInput(f"These are no values of a grade: {fault.errors()[0]['msg']}.") from None


@router.get("/grade.lut", response_class=Response)
def table_of_grade(values: Values) -> Response:
    """The table of a grade: red, green, blue and 1 of each point as 16-bit floats, red changing first."""
    lut = lut_of(_values(values))
    points = np.ones((*lut.shape[:3], 4), np.float16)
    points[..., :3] = lut
    head = {"cache-control": "private, max-age=86400"}
    return Response(points.tobytes(), media_type="application/octet-stream", headers=head)


@router.get("/grade.cube", response_class=Response)
def grade_as_cube(values: Values) -> Response:
    """The table of a grade as a ``.cube`` for other programs."""
    text = write_cube(lut_of(_values(values)), "grade")
    return Response(text, media_type="text/plain", headers={"content-disposition": disposition("grade.cube")})
