"""A lane on its way into the programme, and what compile functions share."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.treated import item_spans, worked
from zembi.core.edit.model import Edit, Item, Lane
from zembi.core.picture.chain import later
from zembi.core.programme.model import Colour, Layer, Span, Why
from zembi.core.treatments.colours import Colouring


@dataclass
class Woven:
    """The spans of a lane so far, and colours over them.

    Attributes:
        name: Of the layer that it becomes.
        colours_name: Of the layers of its colours.
        spans: In order of their start; two may overlap, the later over the earlier.
        tints: Colours over the spans, each with what it comes from.
        finish: The last that is done to the spans, after what lies over them treated them: how items come in over others.
    """

    name: str
    colours_name: str
    spans: list[Span] = field(default_factory=list)
    tints: list[tuple[Colouring, Why]] = field(default_factory=list)
    finish: Callable[[list[Span]], list[Span]] = lambda spans: spans

    def layers(self, first: int, end: int) -> list[Layer]:
        """The layers of the programme that it becomes."""
        spans = self.finish(self.spans)
        own = [Layer(self.name, tuple(spans))] if spans else []
        return [*own, *_tint_layers(self.colours_name, self.tints, first, end)]


#: Compile a lane: it, the edit, the lanes beneath as they are so far, and the material.
Compile = Callable[[Lane, Edit, Sequence[Woven], Material], Woven]


def tints_of(item: Item, end: int, material: Material, lane: str) -> list[tuple[Colouring, Why]]:
    """Colours that an item lays over itself."""
    return [(c, Why(lane, item.start, item.id)) for c in worked(item, end, material).colours]


def woven_items(lane: Lane, placed: Sequence[tuple[Item, int]], material: Material, woven: Woven) -> Woven:
    """Add items with their ends to a lane in the making, each by itself."""
    for item, end in placed:
        woven.spans += item_spans(item, end, 0, 0, material, lane.kind.name)
        if item.treatments:
            woven.tints += tints_of(item, end, material, lane.kind.name)
    return woven


def _tint_layers(
    name: str, tints: Sequence[tuple[Colouring, Why]], film_first: int, film_end: int
) -> list[Layer]:
    """Colours in as few layers as they fit in side by side."""
    lanes: list[list[Span]] = []
    for tint, why in tints:
        first, end = max(film_first, tint.first), min(film_end, tint.end)
        if end <= first or tint.colour is None:
            continue
        span = Span(first, end, Colour(tint.colour), chain=later(tint.chain, first - tint.first), why=why)
        free = next((lane for lane in lanes if lane[-1].end <= span.start), None)
        lanes.append([span]) if free is None else free.append(span)
    numbers = [name if n == 1 else f"{name} {n}" for n in range(1, len(lanes) + 1)]
    return [Layer(n, tuple(lane)) for n, lane in zip(numbers, lanes, strict=True)]
