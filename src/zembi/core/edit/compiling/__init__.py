"""From an edit to the programme: the only way. Each kind of lane has its compile function."""

from dataclasses import replace

from zembi.core.edit.compiling.base import compile_base
from zembi.core.edit.compiling.evening import evened
from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.over import compile_over
from zembi.core.edit.compiling.ranges import compile_ranges
from zembi.core.edit.compiling.titles import compile_titles
from zembi.core.edit.compiling.weaving import Compile, Woven
from zembi.core.edit.lanes.base import BASE
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.lanes.ranges import RANGES
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import Edit
from zembi.core.programme.model import Programme
from zembi.core.programme.sound import SILENT, Sound

__all__ = ["Material", "compiled"]

_COMPILE: dict[str, Compile] = {
    BASE.name: compile_base,
    OVER.name: compile_over,
    RANGES.name: compile_ranges,
    TITLES.name: compile_titles,
}


def compiled(edit: Edit, material: Material, sound: Sound = SILENT) -> Programme:
    """Compile the programme of an edit: its lanes from the bottom up, those that are on.

    Args:
        edit: The edit.
        material: What it is made of.
        sound: What is heard.
    """
    lanes: list[Woven] = []
    for lane in edit.lanes:
        if lane.on:
            lanes.append(_COMPILE[lane.kind.name](lane, edit, lanes, material))
    layers = [layer for lane in lanes for layer in lane.layers(edit.first, edit.end)]
    if material.evened:
        layers = [replace(layer, spans=tuple(evened(s, material) for s in layer.spans)) for layer in layers]
    return Programme(edit.length, tuple(layers), sound, edit.lead, edit.tail)
