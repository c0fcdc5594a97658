"""Steps of a chain as they act in the film; the page's side is ``player/steps``."""

from collections.abc import Callable

from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet
from zembi.media.steps import (
    bars,
    blur,
    glow,
    grade,
    grain,
    lightness,
    matte,
    opacity,
    place,
    sharpen,
    shift,
    table,
    vignette,
)

ACTS: dict[str, Callable[[Sheet, Values], Sheet]] = {
    "matte": matte.act,
    "place": place.act,
    "table": table.act,
    "grade": grade.act,
    "lightness": lightness.act,
    "blur": blur.act,
    "sharpen": sharpen.act,
    "glow": glow.act,
    "vignette": vignette.act,
    "grain": grain.act,
    "bars": bars.act,
    "shift": shift.act,
    "opacity": opacity.act,
}
