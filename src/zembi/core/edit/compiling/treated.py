"""Treatments worked out: the one place where that is done, remembered by the identity of the item they are of.

Compiling, checks, answers and refusals all read :func:`worked`, so that an operation works out only what it changed.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

import numpy as np

from zembi.core.edit.compiling.material import Material, plain_spans, source_spans
from zembi.core.edit.model import ClipSource, Item, Source
from zembi.core.errors import ZembiError
from zembi.core.memory import by_identity
from zembi.core.picture.chain import PLAIN, Chain, later
from zembi.core.programme.model import InBetween, Span, Title, Why, trimmed
from zembi.core.timebase import ON_TIME
from zembi.core.timemap import TimeMap, playback
from zembi.core.titles.shown import Shown
from zembi.core.treatments.colours import Colouring, colouring
from zembi.core.treatments.looks import look
from zembi.core.treatments.model import (
    COLOUR,
    LOOK,
    TIME,
    TRANSITIONS,
    WORDS,
    Blend,
    TimeTreatment,
    Treatment,
)
from zembi.core.treatments.spelling import Changes, changes_between, spelling, together
from zembi.core.treatments.timing import Ground, warp, warped
from zembi.core.treatments.transitions import Crossing, crossing


@dataclass(frozen=True, eq=False)
class Worked:
    """Compiled treatments of an item; frames count from the first of ``ground``.

    Attributes:
        ground: What they lie on.
        wrong: For each treatment, also one that is off, why it cannot be done there, in words; None where it can.
        clash: Why those of time, each of which can be done, cannot be done together.
        time: The item's own time that is seen, in seconds from its first frame; None where nothing changes it.
        chain: What is done to its picture.
        colours: What is laid over it.
        blend: How frames in between are made.
        shown: What is seen of a title's words, from which frame on.
    """

    ground: Ground
    wrong: tuple[str | None, ...] = ()
    clash: str | None = None
    time: TimeMap | None = None
    chain: Chain = PLAIN
    colours: tuple[Colouring, ...] = ()
    blend: InBetween = ""
    shown: tuple[tuple[int, Shown], ...] = ()


def active(treatments: Iterable[Treatment]) -> list[Treatment]:
    """Treatments that are not switched off."""
    return [t for t in treatments if not t.off]


@by_identity(1 << 14)
def worked(item: Item, end: int, material: Material) -> Worked:
    """Work out the treatments of an item that ends at a frame.

    One that cannot be done any more, since the music or the item changed, is left out; the checks name it.
    """
    first, last = item.whole or (item.start, end)
    ground = material.ground(first, last, item.source)
    if not item.treatments:
        return Worked(ground)
    wrong: list[str | None] = []
    times: list[TimeTreatment] = []
    chain, colours = PLAIN, list[Colouring]()
    blend: InBetween = ""
    changes: list[Changes] = []
    for t in item.treatments:
        try:
            # Worked out also where it is off: the page says what it would do.
            done = _of_one(t, ground, material.aspect)
        except ZembiError as fault:
            wrong.append(fault.message)
            continue
        wrong.append(None)
        if t.off:
            continue
        if isinstance(t, Blend):
            blend = t.how
        elif isinstance(t, TIME):
            times.append(t)  # type: ignore[arg-type]
        elif isinstance(t, WORDS):
            changes.append(done)  # type: ignore[arg-type]
        elif isinstance(done, tuple):
            chain += done
        elif isinstance(done, Colouring) and done.colour is None:
            chain += done.chain
        elif isinstance(done, Colouring):
            colours.append(done)
    time, clash = _together(times, ground)
    return Worked(ground, tuple(wrong), clash, time, chain, tuple(colours), blend, tuple(together(changes)))


def _of_one(
    treatment: Treatment, ground: Ground, aspect: float
) -> TimeMap | Chain | Colouring | Crossing | Changes | None:
    """Work out one treatment by itself.

    Raises:
        ZembiError: it cannot be done there.
    """
    if isinstance(treatment, TIME):
        return warp(treatment, ground)  # type: ignore[arg-type]
    if isinstance(treatment, WORDS):
        return spelling(treatment, ground)  # type: ignore[arg-type]
    if isinstance(treatment, LOOK):
        return look(treatment, ground, aspect)  # type: ignore[arg-type]
    if isinstance(treatment, COLOUR):
        return colouring(treatment, ground)  # type: ignore[arg-type]
    # Which frames both shots share is said by the base lane; here only whether its numbers can be meant.
    return crossing(treatment, ground) if isinstance(treatment, TRANSITIONS) else None  # type: ignore[arg-type]


def _together(times: list[TimeTreatment], ground: Ground) -> tuple[TimeMap | None, str | None]:
    """The time that treatments make together, and why not all of them; the last are left out until the others can be."""
    clash = None
    while times:
        try:
            return warped(times, ground), clash
        except ZembiError as fault:
            clash = clash or fault.message
            times = times[:-1]
    return None, clash


def made_of(
    item: Item, end: int, before: int, after: int, material: Material, lane: str = "base"
) -> list[Span]:
    """Spans of an item, ``before`` frames before its start to ``after`` after its end, without what is laid over them."""
    return list(item_spans(item, end, before, after, material, lane))


@by_identity(1 << 14)
def item_spans(
    item: Item, end: int, before: int, after: int, material: Material, lane: str
) -> tuple[Span, ...]:
    """Spans of an item of a lane of this kind, ``before`` frames before its start to ``after`` after its end."""
    why = Why(lane, item.start, item.id)
    if not item.treatments and not item.whole:
        return plain_spans(item.source, item.start, item.start - before, end + after, why, material)
    done = worked(item, end, material)
    first, last = done.ground.first, done.ground.end
    low, high = item.start - before, end + after
    origin = min(first, low)
    if done.time is None:
        spans = list(plain_spans(item.source, first, origin, max(last, high), why, material))
    else:
        seen = done.time.extended(max(0, first - low), max(0, high - last), material.rate)
        # The item's own time is counted from its first frame, wherever the map begins.
        spans = [
            replace(s, start=s.start + origin - first, end=s.end + origin - first)
            for s in _through(item.source, first, seen, why, material)
        ]
    out = [
        replace(
            s,
            chain=s.chain + later(done.chain, s.start - first),
            blend=done.blend if s.media is not None else "",
        )
        for s in spans
    ]
    if done.shown:
        out = [part for s in out for part in _as_shown(s, first, done.shown, material.rate)]
    return tuple(trimmed(s, low, high, material.rate) for s in out if s.start < high and s.end > low)


def _as_shown(span: Span, first: int, shown: tuple[tuple[int, Shown], ...], rate: Fraction) -> Iterator[Span]:
    """A title in runs of frames in which the same of its words is seen."""
    if not isinstance(span.content, Title):
        yield span
        return
    for begin, end, seen in changes_between(shown, span.end - first):
        if begin + first < span.end and end + first > span.start:
            part = trimmed(span, begin + first, end + first, rate)
            yield replace(part, content=replace(span.content, shown=seen))


def _through(source: Source, first: int, seen: TimeMap, why: Why, material: Material) -> list[Span]:
    """Spans of a source from a frame on, its own time seen through a map."""
    count = seen.frames
    if isinstance(source, ClipSource):
        own = playback(count, source.in_s, source.speed)
        (span,) = source_spans(source, first, first + count, why, material)
        return [replace(span, time=own.through(seen, material.rate))]
    # The frames of the source that are seen: each run of them in one of its spans is a span.
    frames = np.floor(seen.times(material.rate) * float(material.rate) + ON_TIME).astype(int)
    low, high = int(frames.min()), int(frames.max()) + 1
    spans = source_spans(source, first + low, first + high, why, material)
    starts = np.array([s.start - first for s in spans])
    inside = np.searchsorted(starts, frames, side="right") - 1
    edges = [0, *(np.nonzero(np.diff(inside))[0] + 1).tolist(), count]
    out = []
    for a, b in pairwise(edges):
        span = spans[int(inside[a])]
        piece = Span(first + a, first + b, span.content, chain=span.chain, why=why)
        if span.media is not None:
            begins = (span.start - first) * material.rate.denominator / material.rate.numerator
            moved = TimeMap(
                tuple(replace(p, at_s=p.at_s - begins) for p in seen.cut(a, b, material.rate).pieces)
            )
            piece = replace(piece, time=span.time.through(moved, material.rate))
        out.append(piece)
    return out
