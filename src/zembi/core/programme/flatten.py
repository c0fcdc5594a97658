"""Layers seen from above: what is on top in each frame, for lists of cuts, tables and statistics."""

from bisect import bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from zembi.core.memory import by_identity
from zembi.core.picture.chain import PLAIN
from zembi.core.programme.model import Hole, Layer, Programme, Span, Title, trimmed


def overlaid(base: list[Span], over: list[Span], rate: Fraction) -> list[Span]:
    """Lay spans on others; where an upper one is a hole or words, what is underneath stays."""
    cover = [s for s in sorted(over, key=lambda s: s.start) if s.hides]
    if not cover:
        return list(base)
    out: list[Span] = []
    ends = [top.end for top in cover]
    for span in base:
        at = span.start
        # Upper spans do not overlap: those that end before this one begins are passed over.
        for top in cover[bisect_right(ends, at) :]:
            if top.start >= span.end:
                break
            if top.start > at:
                out.append(trimmed(span, at, top.start, rate))
            at = min(span.end, max(at, top.end))
        if at < span.end:
            out.append(trimmed(span, at, span.end, rate))
    return sorted([*out, *cover], key=lambda s: s.start)


def one_by_one(spans: Iterable[Span], rate: Fraction) -> list[Span]:
    """The spans of a layer without overlap: where two share frames, the later one."""
    spans = list(spans)
    if all(a.end <= b.start for a, b in pairwise(spans)):
        return spans
    out: list[Span] = []
    for span in spans:
        out = overlaid(out, [span], rate) if span.hides else [*out, span]
    return out


def flattened(layers: Iterable[Layer], rate: Fraction) -> list[Span]:
    """Topmost spans of each frame, in order and without overlap.

    Frames that no layer has anything for are left out; a hole stands only where nothing lies above or beneath.
    """
    on_top: list[Span] = []
    for number, layer in enumerate(layers):
        spans = one_by_one(layer.spans, rate)
        on_top = overlaid(on_top, spans, rate) if number else spans
    return on_top


def on_screen(programme: Programme, rate: Fraction) -> list[Span]:
    """Topmost spans of each frame of a programme."""
    return list(_on_screen(programme, rate))


@by_identity(4)
def _on_screen(programme: Programme, rate: Fraction) -> list[Span]:
    return flattened(programme.layers, rate)


def stretches(programme: Programme, first: int, end: int) -> Iterator[tuple[int, int, list[Span]]]:
    """The programme from edge to edge of its spans: (first frame, end, what lies there from the bottom up).

    What a picture without steps, or black, hides for the whole of a stretch is left out; so are holes.
    """
    spans = [(n, s) for n, layer in enumerate(programme.layers) for s in layer.spans]
    spans = [(n, s) for n, s in spans if s.end > first and s.start < end and not isinstance(s.content, Hole)]
    edges = {first, end} | {e for _, s in spans for e in (s.start, s.end) if first < e < end}
    coming = sorted(spans, key=lambda item: item[1].start)
    now: list[tuple[int, Span]] = []
    at = 0
    for begin, until in pairwise(sorted(edges)):
        now = [(n, s) for n, s in now if s.end > begin]
        while at < len(coming) and coming[at][1].start <= begin:
            now.append(coming[at])
            at += 1
        stack = [s for _, s in sorted(now, key=lambda item: (item[0], item[1].start))]
        hidden = max((i for i, s in enumerate(stack) if s.hides and s.chain == PLAIN), default=0)
        yield begin, until, stack[hidden:]


def whole_titles(layer: Layer) -> list[Span]:
    """The titles of a layer, each once, whatever of its words is seen when."""
    out: list[Span] = []
    for span in layer.spans:
        if not isinstance(span.content, Title):
            continue
        before = out[-1] if out else None
        if (
            before is not None
            and before.why is not None
            and before.why == span.why
            and before.end == span.start
        ):
            out[-1] = replace(before, end=span.end)
        else:
            out.append(replace(span, content=Title(span.content.card)))
    return out


def media_seen(programme: Programme, first: int, end: int) -> list[str]:
    """The files that are seen in a range of frames, in the order in which they first are."""
    return list(
        dict.fromkeys(s.media for _, _, stack in stretches(programme, first, end) for s in stack if s.media)
    )
