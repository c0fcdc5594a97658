"""The kinds of steps. To add one: its module here, one in ``media/steps`` and one in the page, and its name in the three lists."""

from zembi.core.picture.step import StepKind
from zembi.core.picture.steps.bars import BARS
from zembi.core.picture.steps.blur import BLUR
from zembi.core.picture.steps.glow import GLOW
from zembi.core.picture.steps.grade import GRADE
from zembi.core.picture.steps.grain import GRAIN
from zembi.core.picture.steps.lightness import LIGHTNESS
from zembi.core.picture.steps.matte import MATTE
from zembi.core.picture.steps.opacity import OPACITY
from zembi.core.picture.steps.place import PLACE
from zembi.core.picture.steps.sharpen import SHARPEN
from zembi.core.picture.steps.shift import SHIFT
from zembi.core.picture.steps.table import TABLE
from zembi.core.picture.steps.vignette import VIGNETTE

__all__ = [
    "BARS", "BLUR", "GLOW", "GRADE", "GRAIN", "LIGHTNESS", "MATTE", "OPACITY", "PLACE", "SHARPEN", "SHIFT", "STEPS", "TABLE", "VIGNETTE",
]  # fmt: skip

STEPS: dict[str, StepKind] = {
    kind.name: kind
    for kind in (
        MATTE,
        PLACE,
        TABLE,
        GRADE,
        LIGHTNESS,
        BLUR,
        SHARPEN,
        GLOW,
        VIGNETTE,
        GRAIN,
        BARS,
        SHIFT,
        OPACITY,
    )
}
