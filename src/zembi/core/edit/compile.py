"""From an edit to the programme: the only way."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise

import numpy as np

from zembi.core.edit.model import AngleSource, ClipSource, Cutaway, Edit, Empty, Shot, Source
from zembi.core.edit.passages import lane_through, outside
from zembi.core.errors import ZembiError
from zembi.core.footage.fit import AS_IT_LIES, Lie, curves_of
from zembi.core.memory import by_identity
from zembi.core.programme.curves import AS_IT_IS, PLAIN, Curves
from zembi.core.programme.model import (
    EMPTY_SLOT,
    Black,
    Colour,
    Content,
    Hole,
    InBetween,
    Layer,
    Picture,
    Programme,
    Span,
    Why,
    trimmed,
)
from zembi.core.programme.sound import SILENT, Sound
from zembi.core.timebase import ON_TIME
from zembi.core.timemap import TimeMap, playback
from zembi.core.treatments.colours import Colouring, around_cut, colouring, coming_in
from zembi.core.treatments.looks import look
from zembi.core.treatments.model import COLOUR, LOOK, TIME, Blend, Dissolve, Treated, Treatment
from zembi.core.treatments.music import Music
from zembi.core.treatments.timing import Clip, Ground, warped


def _no_moments(_media: str) -> Sequence[float]:
    return ()


@dataclass(frozen=True, eq=False)
class Material:
    """What an edit is made of, told apart by identity: what is compiled of it once need not be again.

    Attributes:
        angles: What each angle shows, by id, in order.
        names: What to call each angle where it has nothing.
        rate: Programme rate.
        fits: How each file lies in the frame where that is not whole and upright.
        music: What treatments follow.
        aspect: Width of the film by its height.
        moments: Asks for the seconds of a file at which something in it begins to move.
        rates: Frames a second of each file, where that is even.
        making: About how many seconds it takes to make so many frames in between for the film; None where not known.
    """

    angles: Mapping[int, Sequence[Span]]
    names: Mapping[int, str]
    rate: Fraction
    fits: Mapping[str, Lie] = field(default_factory=dict)
    music: Music | None = None
    aspect: float = 16 / 9
    moments: Callable[[str], Sequence[float]] = _no_moments
    rates: Mapping[str, Fraction] = field(default_factory=dict)
    making: Callable[[int], float] | None = None

    def ground(self, first: int, end: int, source: Source | None = None) -> Ground:
        """What treatments of a shot, or of a range, lie on."""
        clip = None
        if isinstance(source, ClipSource):
            clip = Clip(source.in_s, source.speed, lambda: self.moments(source.media))
        return Ground(first, end, self.music or Music(self.rate), clip)


@lru_cache(maxsize=1 << 14)
def source_spans(source: Source, start: int, end: int, why: Why, material: Material) -> tuple[Span, ...]:
    """What a source shows in a range of frames, without gaps: where an angle has no take, a hole.

    Args:
        source: Of a shot or cutaway.
        start, end: Its frames (half-open).
        why: What the spans come from.
        material: The angles.
    """
    if isinstance(source, ClipSource):
        content: Content = Picture(source.media)
        time = playback(end - start, source.in_s, source.speed)
        curves = curves_of(material.fits.get(source.media, AS_IT_LIES), end - start)
        return (Span(start, end, content, time, curves, why),)
    if isinstance(source, Empty):
        return (Span(start, end, EMPTY_SLOT, why=why),)
    if not isinstance(source, AngleSource):
        return (Span(start, end, Black(), why=why),)
    if source.slip:
        # What is seen so many frames later, now.
        there = source_spans(AngleSource(source.angle), start + source.slip, end + source.slip, why, material)
        return tuple(replace(s, start=s.start - source.slip, end=s.end - source.slip) for s in there)
    missing = Hole(f"{material.names.get(source.angle, f'angle {source.angle}')} has no take here")
    parts: list[Span] = []
    at = start
    for s in material.angles.get(source.angle, []):
        if s.end <= start or s.start >= end:
            continue
        piece = trimmed(s, start, end, material.rate, why)
        if piece.start > at:
            parts.append(Span(at, piece.start, missing, why=why))
        parts.append(piece)
        at = piece.end
    if at < end:
        parts.append(Span(at, end, missing, why=why))
    return tuple(parts)


def active(treatments: Iterable[Treatment]) -> list[Treatment]:
    """Treatments that are not switched off."""
    return [t for t in treatments if not t.off]


def dissolve_of(item: Shot | Cutaway, material: Material) -> tuple[Dissolve, int, int] | None:
    """How a shot comes in over what is before it: the dissolve, and its frames before and after the cut."""
    found = [t for t in item.treatments if isinstance(t, Dissolve) and not t.off]
    if not found:
        return None
    return found[-1], *around_cut(
        found[-1].over, found[-1].place, material.ground(item.start, item.start + 1)
    )


def time_of(item: Shot | Cutaway, end: int, material: Material) -> TimeMap:
    """The shot's own time that treatments show in its frames; from ``whole`` where it is a part.

    Raises:
        BadInput, Refused: why a treatment cannot be done.
    """
    first, last = item.whole or (item.start, end)
    kept = [t for t in active(item.treatments) if isinstance(t, TIME)]
    return warped(kept, material.ground(first, last, item.source))  # type: ignore[arg-type]


def _through(source: Source, first: int, seen: TimeMap, why: Why, material: Material) -> list[Span]:
    """What a source shows whose own time is seen through a map, from a frame on."""
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
        piece = Span(first + a, first + b, span.content, curves=span.curves, why=why)
        if span.media is not None:
            begins = (span.start - first) * material.rate.denominator / material.rate.numerator
            moved = TimeMap(
                tuple(replace(p, at_s=p.at_s - begins) for p in seen.cut(a, b, material.rate).pieces)
            )
            piece = replace(piece, time=span.time.through(moved, material.rate))
        out.append(piece)
    return out


def _made_of(
    item: Shot | Cutaway, end: int, before: int, after: int, material: Material, why: Why
) -> tuple[list[Span], list[Colouring]]:
    """What a treated shot shows, ``before`` frames before its start to ``after`` after its end, and what colours it.

    A treatment that cannot be done any more, since the music or the shot changed, is left out; the checks name it.
    """
    first, last = item.whole or (item.start, end)
    ground = material.ground(first, last, item.source)
    kept = [t for t in active(item.treatments) if trouble_of(t, ground, material.aspect) is None]
    seen = _time(kept, ground)
    low, high = item.start - before, end + after
    seen = seen.extended(max(0, first - low), max(0, high - last), material.rate)
    origin = min(first, low)
    if kept and any(isinstance(t, TIME) for t in kept):
        # The shot's own time is counted from its first frame, wherever the map begins.
        spans = [
            replace(s, start=s.start + origin - first, end=s.end + origin - first)
            for s in _through(item.source, first, seen, why, material)
        ]
    else:
        spans = list(_plain(item.source, first, origin, origin + seen.frames, why, material))
    curves: Curves = PLAIN
    colours: list[Colouring] = []
    for t in kept:
        if isinstance(t, LOOK):
            curves = curves.through(look(t, ground, material.aspect))  # type: ignore[arg-type]
        elif isinstance(t, COLOUR):
            laid = colouring(t, ground)  # type: ignore[arg-type]
            if laid is not None and laid.colour is None:
                curves = curves.through(laid.curves)
            elif laid is not None:
                colours.append(laid)
    how = _in_between(kept)
    out = [
        replace(
            s,
            curves=s.curves.through(curves.later(s.start - first)) if curves != PLAIN else s.curves,
            blend=how if s.media is not None else "",
        )
        for s in spans
    ]
    return [trimmed(s, low, high, material.rate) for s in out if s.start < high and s.end > low], colours


def _in_between(kept: Sequence[Treatment]) -> InBetween:
    return next((t.how for t in reversed(kept) if isinstance(t, Blend)), "")


def range_time(treated: Treated, material: Material) -> TimeMap | None:
    """The time of a passage, in seconds of the programme from its first frame; None where it is the song's."""
    ground = material.ground(treated.first, treated.end)
    times = [
        t
        for t in active(treated.treatments)
        if isinstance(t, TIME) and trouble_of(t, ground, material.aspect) is None
    ]
    return _time(times, ground) if times else None


def _retimed(
    lane: list[Span],
    shown: list[Span],
    treated: Treated,
    seen: TimeMap,
    how: InBetween,
    length: int,
    material: Material,
) -> list[Span]:
    """A lane whose pictures in a passage are those of another time; ``shown`` is how it is seen in full."""
    before, after = outside(lane, treated.first, treated.end, material.rate)
    return [*before, *lane_through(shown, treated.first, seen, length, material.rate, how), *after]


def made_of(item: Shot | Cutaway, end: int, before: int, after: int, material: Material) -> list[Span]:
    """What a shot shows, ``before`` frames before its start to ``after`` after its end, without what comes in over it."""
    return _made_of(item, end, before, after, material, Why("shot", item.start))[0]


def _plain(
    source: Source, first: int, start: int, end: int, why: Why, material: Material
) -> tuple[Span, ...]:
    """What a source shows from ``start`` on whose in point is meant for ``first``."""
    if isinstance(source, ClipSource) and start != first:
        own = playback(1, source.in_s, source.speed).pieces[0]
        seconds = (start - first) * material.rate.denominator / material.rate.numerator
        source = replace(source, in_s=own.after(seconds, material.rate))
    return source_spans(source, start, end, why, material)


def _time(kept: Sequence[Treatment], ground: Ground) -> TimeMap:
    times = [t for t in kept if isinstance(t, TIME)]
    while times:
        try:
            return warped(times, ground)  # type: ignore[arg-type]
        except ZembiError:
            times.pop()
    return playback(ground.frames, 0.0)


def trouble_of(treatment: Treatment, ground: Ground, aspect: float) -> str | None:
    """Why a treatment cannot be done where it lies, in words; None where it can."""
    try:
        if isinstance(treatment, TIME):
            warped([treatment], ground)  # type: ignore[list-item]
        elif isinstance(treatment, LOOK):
            look(treatment, ground, aspect)  # type: ignore[arg-type]
        elif isinstance(treatment, COLOUR):
            colouring(treatment, ground)  # type: ignore[arg-type]
    except ZembiError as fault:
        return fault.message
    return None


@by_identity(1 << 14)
def _shot_spans(
    shot: Shot, end: int, before: int, after: int, material: Material
) -> tuple[tuple[Span, ...], tuple[Colouring, ...]]:
    why = Why("shot", shot.start)
    if not shot.treatments and not shot.whole:
        return _plain(shot.source, shot.start, shot.start - before, end + after, why, material), ()
    spans, colours = _made_of(shot, end, before, after, material, why)
    return tuple(spans), tuple(colours)


def compiled(edit: Edit, material: Material, sound: Sound = SILENT) -> Programme:
    """The programme of an edit: its shots, its cutaways over them, the colours over each, and what lies over a range.

    Args:
        edit: The edit.
        material: What it is made of.
        sound: What is heard.
    """
    base, tints = _base(edit, material)
    over: list[Span] = []
    over_tints: list[tuple[Colouring, Why]] = []
    for c in edit.cutaways:
        why = Why("cutaway", c.start)
        if c.treatments or c.whole:
            spans, colours = _made_of(c, c.end, 0, 0, material, why)
            over += spans
            over_tints += [(t, why) for t in colours]
        else:
            over += source_spans(c.source, c.start, c.end, why, material)
    for t in edit.treated:
        if (seen := range_time(t, material)) is not None:
            how = _in_between(active(t.treatments))
            shown = _dissolved(base, edit, material)
            base, over = (
                _retimed(lane, source, t, seen, how, edit.length, material)
                for lane, source in ((base, shown), (over, over))
            )
    range_tints: list[tuple[Colouring, Why]] = []
    for t in edit.treated:
        curves, colours = _over_range(t, material)
        range_tints += [(tint, Why("range", t.first)) for tint in colours]
        if curves != PLAIN:
            base, over = (_seen_through(lane, t, curves, material) for lane in (base, over))
    base = _dissolved(base, edit, material)
    layers = [
        Layer("Shots", tuple(base)),
        *_tints("Colours", tints, edit.length),
        *([Layer("Cutaways", tuple(over))] if over else []),
        *_tints("Colours over cutaways", over_tints, edit.length),
        *_tints("Colours over all", range_tints, edit.length),
    ]
    return Programme(edit.length, tuple(layers), sound)


def _base(edit: Edit, material: Material) -> tuple[list[Span], list[tuple[Colouring, Why]]]:
    ends = [*(s.start for s in edit.shots[1:]), edit.length]
    reach = [_reach(edit, i, material) if s.treatments else (0, 0) for i, s in enumerate(edit.shots)]
    base: list[Span] = []
    tints: list[tuple[Colouring, Why]] = []
    below: Sequence[Span] = ()
    for shot, end, (before, _), (_, after) in zip(edit.shots, ends, reach, [*reach[1:], (0, 0)], strict=True):
        spans, colours = _shot_spans(shot, end, before, after, material)
        tints += [(c, Why("shot", shot.start)) for c in colours]
        if before:
            spans = tuple(_later_over(below, spans, material.rate))
        base += spans
        below = spans
    return (sorted(base, key=lambda s: s.start) if any(r != (0, 0) for r in reach) else base), tints


def _dissolved(base: list[Span], edit: Edit, material: Material) -> list[Span]:
    """The base lane with what comes in over the shot before it; how it does is the last that is done to its picture."""
    coming: dict[int, tuple[int, Curves]] = {}
    for index, shot in enumerate(edit.shots):
        dissolve = dissolve_of(shot, material) if shot.treatments else None
        before, after = _reach(edit, index, material) if dissolve else (0, 0)
        if dissolve and before + after:
            coming[shot.start] = shot.start - before, coming_in(dissolve[0], before, after)
    if not coming:
        return base
    out = []
    for span in base:
        # In a passage with a time of its own it has come in already.
        own = span.why is not None and span.why.kind == "shot"
        first, curves = coming.get(span.why.at, (0, PLAIN)) if span.why and own else (0, PLAIN)
        through = span.curves.through(curves.later(span.start - first)) if curves != PLAIN else span.curves
        out.append(replace(span, curves=through) if through is not span.curves else span)
    return out


def dissolve_room(edit: Edit, index: int, material: Material) -> tuple[int, int]:
    """Most frames that a shot's dissolve may take before and after its cut.

    It stays inside its two shots and begins once that of the shot before has ended, so that at most two shots share a
    frame.
    """
    if not index:
        return 0, 0
    before, shot = edit.shots[index - 1], edit.shots[index]
    length = shot.start - before.start
    coming = dissolve_of(before, material) if before.treatments and index > 1 else None
    taken = min(coming[2], length) if coming else 0
    return max(0, length - max(1, taken)), edit.end_of(index) - shot.start


def _reach(edit: Edit, index: int, material: Material) -> tuple[int, int]:
    """How far a shot's dissolve reaches before and after its cut: never beyond the room there is now."""
    dissolve = dissolve_of(edit.shots[index], material) if index else None
    if dissolve is None:
        return 0, 0
    room = dissolve_room(edit, index, material)
    return min(dissolve[1], room[0]), min(dissolve[2], room[1])


def _later_over(below: Sequence[Span], spans: tuple[Span, ...], rate: Fraction) -> list[Span]:
    """The spans parted where one of those beneath begins, so that in order of start they still lie over it."""
    out = []
    for span in spans:
        edges = sorted({s.start for s in below if span.start < s.start < span.end})
        for a, b in zip([span.start, *edges], [*edges, span.end], strict=True):
            out.append(trimmed(span, a, b, rate))
    return out


def _over_range(treated: Treated, material: Material) -> tuple[Curves, list[Colouring]]:
    """What treatments of a range do to every picture in it (frames from its start), and what they lay over all."""
    ground = material.ground(treated.first, treated.end)
    curves: Curves = PLAIN
    colours = []
    for t in active(treated.treatments):
        if trouble_of(t, ground, material.aspect) is not None:
            continue
        if isinstance(t, LOOK):
            curves = curves.through(look(t, ground, material.aspect))  # type: ignore[arg-type]
        elif isinstance(t, COLOUR) and (laid := colouring(t, ground)):  # type: ignore[arg-type]
            if laid.colour is None:
                curves = curves.through(laid.curves)
            else:
                colours.append(laid)
    return curves, colours


def _seen_through(lane: list[Span], treated: Treated, curves: Curves, material: Material) -> list[Span]:
    """A lane whose pictures in a range are seen through curves; parted at its ends only where these do something there."""
    quiet = all(curves.at(k, material.aspect) == AS_IT_IS for k in (-1, treated.end - treated.first))
    out = []
    for span in lane:
        inside = span.end > treated.first and span.start < treated.end
        if not inside or isinstance(span.content, Hole):
            out.append(span)
            continue
        edges = [] if quiet else [e for e in (treated.first, treated.end) if span.start < e < span.end]
        for a, b in zip([span.start, *edges], [*edges, span.end], strict=True):
            part = trimmed(span, a, b, material.rate)
            if quiet or treated.first <= a < treated.end:
                part = replace(part, curves=part.curves.through(curves.later(a - treated.first)))
            out.append(part)
    return out


def _tints(name: str, tints: Sequence[tuple[Colouring, Why]], length: int) -> list[Layer]:
    """Colours in as few layers as they fit in side by side."""
    lanes: list[list[Span]] = []
    for tint, why in tints:
        first, end = max(0, tint.first), min(length, tint.end)
        if end <= first or tint.colour is None:
            continue
        span = Span(first, end, Colour(tint.colour), curves=tint.curves.later(first - tint.first), why=why)
        free = next((lane for lane in lanes if lane[-1].end <= span.start), None)
        lanes.append([span]) if free is None else free.append(span)
    numbers = [name if n == 1 else f"{name} {n}" for n in range(1, len(lanes) + 1)]
    return [Layer(n, tuple(lane)) for n, lane in zip(numbers, lanes, strict=True)]
