"""Evening a file's light along its length, from its stills."""

from dataclasses import replace

import cv2
import numpy as np

from zembi.core.colour.evening import EVENED, evening_of
from zembi.core.colour.grade import through
from zembi.core.colour.tables import is_known, table_lut
from zembi.core.errors import BadInput, Refused
from zembi.core.footage.files import said_to_dict
from zembi.media.derive import STILL_EVERY_S
from zembi.media.stills import still_at
from zembi.service.project.lookups import bring_table
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Media

_SIZE = (32, 18)
#: Less change of light than this in all, in stops and in turns of the balance, is left as it is.
_LEAST = 0.2


@one_transaction
def even_out(project: Project, media_id: str, *, on: bool) -> str:
    """Bring a file to its own middle along its length, or leave it as it was filmed; what was done, in words.

    Raises:
        NotFound: there is no such file.
        BadInput: it has no moving picture.
        Refused: its stills are still being made, or its light does not change.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind not in ("take", "broll") or row.facts.still:
        raise BadInput(f"{row.name} has no moving picture that could be evened.")
    evened = _found(project, row) if on else ()
    said = replace(row.said, evened=evened)
    name = f"Even {row.name} over its length" if on else f"Leave {row.name} as uneven as it was filmed"
    with project.database.changing(name) as change:
        change.update(tables.media, {"id": media_id}, {"tags": said_to_dict(said)})
    if not on:
        return f"{row.name} is as it was filmed."
    stops = [v[1] for v in evened]
    return f"{row.name}: exposure {min(stops):+.2f} to {max(stops):+.2f} stops along its length."


def _found(project: Project, row: Media) -> tuple[tuple[float, ...], ...]:
    derived, shape = project.derived(row), (max(1, row.facts.width), max(1, row.facts.height))
    number = row.said.table
    if number and not is_known(number):
        bring_table(project, number)
    times, colours = [], []
    for k in range(int(row.seconds / STILL_EVERY_S)):
        still = still_at(derived, k * STILL_EVERY_S, shape)
        if still is None:
            raise Refused(f"The stills of {row.name} are still being made.")
        small = cv2.resize(still, _SIZE, interpolation=cv2.INTER_AREA)
        coded = np.asarray(small, np.float64).reshape(-1, 3) / 255
        times.append(k * STILL_EVERY_S)
        colours.append(through(table_lut(number, row.said.table_share), coded) if number else coded)
    found = evening_of(times, colours)
    spread = (
        [max(v[k] for v in found) - min(v[k] for v in found) for k in range(1, len(EVENED) + 1)]
        if found
        else []
    )
    if not found or max(spread) < _LEAST:
        raise Refused(f"The light of {row.name} does not change along its length.")
    return found
