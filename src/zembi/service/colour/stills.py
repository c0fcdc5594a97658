"""Stills of a file as it will be seen: through its table and its grade."""

import io
from pathlib import Path

import av
import numpy as np
from PIL import Image

from zembi.core.colour.grade import Lut
from zembi.core.errors import NotFound
from zembi.core.interchange.colour import colour_lut, colour_of
from zembi.media.derive import STILLS_SHEET
from zembi.media.lookup import looked_up, lookup_graph
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project


@one_moment
def graded_stills(project: Project, media_id: str) -> bytes:
    """The sheet of stills of a file as a JPEG, in the colours in which the film shows it.

    Raises:
        NotFound: there is no such file, or it has no stills yet.
    """
    snapshot = snapshot_of(project)
    media = snapshot.by_id.get(media_id)
    sheet = project.derived(media) / STILLS_SHEET if media else None
    if sheet is None or not sheet.exists():
        raise NotFound("There are no stills of that file.")
    colour = colour_of(dict(snapshot.grades).get(media_id, ()))
    return _through(sheet, colour_lut(colour)) if colour else sheet.read_bytes()


def _through(sheet: Path, lut: Lut) -> bytes:
    with Image.open(sheet) as opened:
        picture = np.asarray(opened.convert("RGB"))
    height, width = picture.shape[:2]
    frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="gbrp")
    found = looked_up(lookup_graph((width, height), "gbrp", lambda: lut), frame)
    out = io.BytesIO()
    Image.fromarray(found.to_ndarray(format="rgb24")).save(out, "JPEG", quality=75)
    return out.getvalue()
