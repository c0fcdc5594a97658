"""Spans and programmes in a line, as tests write them."""

from fractions import Fraction
from typing import Any

from zembi.core.programme.flatten import flattened
from zembi.core.programme.model import Black, Colour, Content, Hole, Layer, Picture, Programme, Span, Title
from zembi.core.timemap import Piece, TimeMap, playback
from zembi.core.titles.card import card_from_dict


def span(start: int, end: int, media: str | None, in_s: float = 0.0, speed: float = 1.0) -> Span:
    """A span of plain playback; without a file, a hole."""
    if media is None:
        return Span(start, end, Hole("nothing here"))
    return Span(start, end, Picture(media), playback(end - start, in_s, speed))


def of(*layers: list[Span], length: int | None = None) -> Programme:
    """A programme of layers, as long as its last span unless told."""
    last = max((s.end for layer in layers for s in layer), default=0)
    named = tuple(Layer(f"Layer {n}", tuple(spans)) for n, spans in enumerate(layers, 1))
    return Programme(last if length is None else length, named)


def read(view: dict[str, Any]) -> Span:
    """A span as the API tells it."""
    content: Content = {
        "picture": lambda: Picture(view["media"]),
        "black": Black,
        "hole": lambda: Hole(view["text"]),
        "title": lambda: Title(
            card_from_dict({k: v for k, v in view["card"].items() if v is not None or k == "lines"})
        ),
        "colour": lambda: Colour(view["text"]),
    }[view["kind"]]()
    return Span(view["start"], view["end"], content, TimeMap(tuple(Piece(**p) for p in view["time"])))


def seen(edit: dict[str, Any], rate: Fraction = Fraction(24)) -> list[Span]:
    """What is on top in each frame of an edit as the API tells it."""
    layers = [
        Layer(str(n), tuple(read(s) for s in spans)) for n, spans in enumerate(edit["programme"]["layers"])
    ]
    return flattened(layers, rate)
