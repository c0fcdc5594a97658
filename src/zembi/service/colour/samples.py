"""Colours of a programme's pictures, from stills, as they are graded there."""

from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np

from zembi.core.colour.grade import graded, through
from zembi.core.colour.spaces import Colours
from zembi.core.colour.tables import table_lut
from zembi.core.picture.step import Step
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.model import Programme, Span
from zembi.media.derive import STILL_EVERY_S, STILLS_SHEET
from zembi.media.stills import still_at
from zembi.service.project.snapshot import Snapshot

#: Width and height of what is measured: enough for means and spreads, little enough for thousands of cuts.
_SIZE = (32, 18)
#: Where in a range it is looked at.
PLACES = (1 / 6, 1 / 2, 5 / 6)


def media_time(snapshot: Snapshot, span: Span, frame: int) -> float:
    """Seconds of its file that a span shows in a frame."""
    return float(span.time.times(snapshot.rate)[frame - span.start])


def sample(snapshot: Snapshot, span: Span, frame: int, grades: Iterable[Step]) -> Colours | None:
    """Coded colours of a span's picture in a frame, of shape (points, 3); None where there is no still of it yet.

    Args:
        span: Of a picture.
        frame: A frame of it.
        grades: Steps of its chain that are to act; others do nothing.
    """
    media = snapshot.by_id.get(span.media or "")
    if media is None:
        return None
    shape = (max(1, media.facts.width), max(1, media.facts.height))
    derived = snapshot.project.derived(media)
    still = int(media_time(snapshot, span, frame) / STILL_EVERY_S)
    found = _still(derived, still, shape, (derived / STILLS_SHEET).exists())
    if found is None:
        return None
    for step in grades:
        values = step.at(frame - span.start)
        if step.kind is GRADE:
            found = graded(found, values)
        elif step.kind is TABLE:
            found = through(table_lut(int(values["number"]), values["share"]), found)
    return found


@lru_cache(maxsize=1 << 13)
def _still(derived: Path, number: int, shape: tuple[int, int], _there: bool) -> Colours | None:
    found = still_at(derived, number * STILL_EVERY_S, shape)
    if found is None:
        return None
    small = cv2.resize(found, _SIZE, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float64).reshape(-1, 3) / 255


def pictures_of(programme: Programme, item: int) -> list[Span]:
    """Spans of pictures that come from an item, in order."""
    spans = [
        s
        for layer in programme.layers
        for s in layer.spans
        if s.why is not None and s.why.item == item and s.media is not None
    ]
    return sorted(spans, key=lambda s: s.start)
