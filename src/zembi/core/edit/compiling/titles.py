"""Compile a lane of titles."""

from collections.abc import Sequence
from dataclasses import replace

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.weaving import Woven, woven_items
from zembi.core.edit.model import Edit, Lane
from zembi.core.picture.chain import PLAIN, Chain
from zembi.core.picture.steps import PLACE
from zembi.core.programme.model import Span, Title


def compile_titles(lane: Lane, edit: Edit, _beneath: Sequence[Woven], material: Material) -> Woven:
    """Spans of its cards, each by itself."""
    woven = woven_items(
        lane, edit.placed([lane]), material, Woven(lane.name, f"Colours over {lane.name.lower()}")
    )
    woven.spans = [_about_its_point(span) for span in woven.spans]
    return woven


def _about_its_point(span: Span) -> Span:
    """A card that grows or turns does so about the point at which it stands, not about the frame's centre."""
    if not isinstance(span.content, Title):
        return span
    x, y = span.content.card.place
    back, there = PLACE(x=-x, y=-y), PLACE(x=x, y=y)
    chain: Chain = PLAIN
    for step in span.chain:
        chain += (back, step, there) if step.kind is PLACE else (step,)
    return replace(span, chain=chain)
