"""Compile a lane laid over others."""

from collections.abc import Sequence

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.weaving import Woven, woven_items
from zembi.core.edit.model import Edit, Lane


def compile_over(lane: Lane, edit: Edit, _beneath: Sequence[Woven], material: Material) -> Woven:
    """Spans of its items, each by itself."""
    woven = Woven(lane.name, f"Colours over {lane.name[:1].lower()}{lane.name[1:]}")
    return woven_items(lane, edit.placed([lane]), material, woven)
