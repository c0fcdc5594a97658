"""Files that look as if their camera kept room at both ends of the scale: said so, and never changed unasked."""

from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np

from zembi.core.colour.spaces import luminance, to_coded, to_light, to_oklab
from zembi.media.derive import STILLS_SHEET
from zembi.media.stills import still_at
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project
from zembi.store.entities import Media

#: Less of the scale of coded luminance than this between its 2nd and 98th hundredth, and less mean chroma in OKLab, is flat.
#: A picture of one thing has as little of either, seldom of both.
_SPREAD, _CHROMA = 0.45, 0.03
#: Where a file is looked at.
_PLACES = np.linspace(0.05, 0.95, 10)
_SIZE = (64, 36)


@one_moment
def flat_files(project: Project) -> list[str]:
    """Ids of files that look flat and have neither a table nor a grade."""
    return [
        m.id
        for m in project.database.all(Media)
        if m.kind in ("take", "broll")
        and not (m.said.table or m.said.grade)
        and (derived := project.derived(m) / STILLS_SHEET).exists()
        and _looks_flat(derived.parent, m.seconds, (max(1, m.facts.width), max(1, m.facts.height)))
    ]


@lru_cache(maxsize=1024)
def _looks_flat(derived: Path, seconds: float, shape: tuple[int, int]) -> bool:
    found = [still_at(derived, float(place * seconds), shape) for place in _PLACES]
    small = [cv2.resize(s, _SIZE, interpolation=cv2.INTER_AREA) for s in found if s is not None]
    if not small:
        return False
    light = to_light(np.concatenate(small).reshape(-1, 3) / 255)
    dark, bright = np.quantile(to_coded(luminance(light)), (0.02, 0.98))
    chroma = float(np.hypot(*np.moveaxis(to_oklab(light)[:, 1:], -1, 0)).mean())
    return bool(bright - dark < _SPREAD) and chroma < _CHROMA
