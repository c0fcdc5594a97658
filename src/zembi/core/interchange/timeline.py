"""OpenTimelineIO, both ways: the programme's layers to a timeline, and a timeline back to layers."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any, NamedTuple, get_args

import opentimelineio as otio

from zembi.core.errors import BadInput
from zembi.core.interchange.colour import ShotColour, cdl_slope, colour_of
from zembi.core.interchange.documents import exact_seconds, media_start, read_document
from zembi.core.interchange.limits import in_words, within
from zembi.core.picture.chain import PLAIN, Chain, later, opacity_of
from zembi.core.picture.curves import SHAPES, Curve, Key, Shape
from zembi.core.picture.step import Step
from zembi.core.picture.steps import STEPS
from zembi.core.picture.steps.opacity import OPACITY
from zembi.core.programme.flatten import one_by_one, whole_titles
from zembi.core.programme.model import (
    Black,
    Colour,
    InBetween,
    Layer,
    Programme,
    Span,
    Title,
    shown,
    trimmed,
)
from zembi.core.programme.sound import SILENT, Sound, song_sound
from zembi.core.song.cutdown import SongMap
from zembi.core.timebase import nearest_standard_rate
from zembi.core.timemap import NO_TIME, Piece, TimeMap
from zembi.core.titles.card import Card, card_from_dict, card_to_dict
from zembi.core.titles.shown import ALL, Shown, checked_shown
from zembi.core.treatments.colours import checked_colour

#: The kind of generator that makes black.
_BLACK = "black"
#: Where our own additions stand in metadata.
_OWN = "zembi"
#: Longest timeline that is read: a day.
_LONGEST_S = 86_400.0


@dataclass(frozen=True)
class MediaRef:
    """A file as a timeline names it: where, what it is called and how much picture it has."""

    url: str
    name: str
    seconds: float


@dataclass(frozen=True)
class Handle:
    """Handle that a dissolve needs of a clip beyond its range: its name, its file, and the media times seen."""

    clip: str
    url: str
    time: TimeMap


@dataclass(frozen=True)
class ReadTimeline:
    """A timeline as read: its rate, and a programme whose media are the files' addresses.

    ``song_url`` is what is heard; where the programme's sound has no pieces, from its start. ``warnings`` name what
    changes the picture and is not known, ``handles`` what dissolves need beyond the ranges of clips.
    """

    rate: Fraction
    programme: Programme
    song_url: str | None
    warnings: tuple[str, ...] = ()
    handles: tuple[Handle, ...] = ()


def _range(start_s: float, frames: float, rate: Fraction) -> Any:
    value = float(rate)
    return otio.opentime.TimeRange(
        otio.opentime.RationalTime(start_s * value, value), otio.opentime.RationalTime(frames, value)
    )


def _track(
    layer: Layer,
    media: dict[str, MediaRef],
    rate: Fraction,
    programme: Programme,
    tables: Mapping[ShotColour, str],
) -> Any:
    track = otio.schema.Track(name=layer.name, kind=otio.schema.TrackKind.Video)
    spans = [s for s in layer.spans if s.hides]
    joins = _joins(spans)
    if joins is None:
        spans, joins = [s for s in one_by_one(layer.spans, rate) if s.hides], {}
    at = programme.first
    for n, span in enumerate(spans):
        before, _ = joins.get(n, (0, 0))
        _, after = joins.get(n + 1, (0, 0))
        whole = trimmed(span, span.start + before, span.end - after, rate)
        if whole.start > at:
            track.append(_gap(whole.start - at, rate))
        if n in joins:
            track.append(_dissolve(span, *joins[n], rate))
            whole = replace(whole, chain=whole.chain[:-1])
        track.extend(_clips(whole, media, rate, tables))
        at = whole.end
    if at < programme.end:
        track.append(_gap(programme.end - at, rate))
    return track


def _joins(spans: Sequence[Span]) -> dict[int, tuple[int, int]] | None:
    """Frames before and after the cut for each span that comes in over the one before it; None where more than two meet."""
    out = {}
    for n, (before, span) in enumerate(pairwise(spans), 1):
        if span.start >= before.end:
            continue
        cut = span.why.at if span.why and span.why.kind == "base" else span.start
        earliest = spans[n - 2].end if n > 1 else span.start
        comes_in = opacity_of(span.chain)
        if (
            not comes_in
            or not span.start <= cut <= before.end
            or earliest > span.start
            or span.end < before.end
        ):
            return None
        out[n] = (cut - span.start, before.end - cut)
    return out


def _dissolve(span: Span, before: int, after: int, rate: Fraction) -> Any:
    value = float(rate)
    comes_in = opacity_of(span.chain)
    opacity = comes_in.curve("amount") if comes_in else None
    assert opacity is not None
    made = otio.schema.Transition(
        name="Dissolve",
        transition_type=otio.schema.TransitionTypes.SMPTE_Dissolve,
        in_offset=otio.opentime.RationalTime(before, value),
        out_offset=otio.opentime.RationalTime(after, value),
    )
    own: dict[str, Any] = {"shape": opacity.keys[0].shape}
    if opacity != _rising(before + after, opacity.keys[0].shape):
        # Pictures that are pushed, or shown in turn, are no dissolve; others see one of the same length.
        own |= {"frames": before + after, "opacity": _keys(opacity)}
    made.metadata[_OWN] = own
    return made


def _rising(frames: int, shape: Shape) -> Curve:
    return Curve((Key(0, 0.0, shape), Key(frames, 1.0, "hold")))


def _gap(frames: int, rate: Fraction) -> Any:
    return otio.schema.Gap(source_range=_range(0.0, frames, rate))


def _clips(
    span: Span, media: dict[str, MediaRef], rate: Fraction, tables: Mapping[ShotColour, str]
) -> list[Any]:
    """The clips of a span: one for each piece of its time, more for a ramp, or one of black."""
    if span.media is None:
        black = otio.schema.GeneratorReference(name="Black", generator_kind=_BLACK)
        return [
            otio.schema.Clip(name="Black", media_reference=black, source_range=_range(0.0, span.frames, rate))
        ]
    ref = media[span.media]
    out = []
    for piece in span.time.pieces:
        for part in _steady(piece, rate):
            # Backwards the range is the same stretch of the file, its lower end first.
            start = part.at_s if part.speed >= 0 else part.after(part.frames / float(rate), rate)
            clip = otio.schema.Clip(
                name=ref.name,
                media_reference=otio.schema.ExternalReference(
                    target_url=ref.url, available_range=_range(0.0, round(ref.seconds * float(rate)), rate)
                ),
                source_range=_range(start, part.frames, rate),
            )
            if part.speed == 0:
                clip.effects.append(otio.schema.FreezeFrame())
            elif part.speed != 1.0:
                clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=part.speed))
            for name, told in _colour_told(span, tables).items():
                clip.metadata[name] = told
            out.append(clip)
    ramps = any(p.speed != p.end_speed for p in span.time.pieces)
    if ramps or span.blend or span.chain:
        exact: dict[str, Any] = {"frames": span.frames, "clips": len(out)}
        if span.blend:
            exact["blend"] = span.blend
        if ramps:
            exact["pieces"] = [[p.frames, p.at_s, p.speed, p.end_speed] for p in span.time.pieces]
        if span.chain:
            exact["chain"] = _written(span.chain)
        out[0].metadata[_OWN] = exact
    return out


def _colour_told(span: Span, tables: Mapping[ShotColour, str]) -> dict[str, Any]:
    """Colour for other programs: ASC CDL numbers as the library's EDL adapter keeps them, else the name of a file."""
    colour = colour_of(span.chain)
    if not colour:
        return {}
    slope = cdl_slope(colour)
    if slope is None:
        return {"lut": {"file": tables[colour]}} if colour in tables else {}
    sop = {"slope": [slope] * 3, "offset": [0.0] * 3, "power": [1.0] * 3}
    return {"cdl": {"asc_sop": sop, "asc_sat": 1.0}}


def _written(chain: Chain) -> list[dict[str, Any]]:
    """A chain as plain data."""
    return [
        {"step": step.kind.name, "curves": {n: _keys(curve) for n, curve in step.curves}} for step in chain
    ]


def _steady(piece: Piece, rate: Fraction) -> list[Piece]:
    """A piece as pieces at one speed each, in none of which a frame lies off by more than a quarter of one."""
    if piece.speed == piece.end_speed:
        return [piece]
    # A parabola lies off its chord by an eighth of its bend over the square of the time.
    bend = abs(piece.end_speed - piece.speed) * float(rate) / piece.frames
    longest = max(1, int(math.sqrt(2 / (float(rate) * max(bend, 1e-9))) * float(rate)))
    out = []
    for first in range(0, piece.frames, longest):
        part = piece.cut(first, min(piece.frames, first + longest), rate)
        mean = (part.speed + part.end_speed) / 2
        out.append(Piece(part.frames, part.at_s, mean, mean))
    return out


def write_timeline(
    name: str,
    programme: Programme,
    media: dict[str, MediaRef],
    rate: Fraction,
    song: MediaRef | None,
    markers: list[tuple[float, str]] = (),  # type: ignore[assignment]
    tables: Mapping[ShotColour, str] | None = None,
) -> str:
    """Write an ``.otio`` document: a video track for each layer, and the song's pieces on a track of sound.

    Holes are gaps; black on purpose is a clip of a generator. Speeds, backwards, freezes and dissolves are the
    format's own; a ramp is a run of clips at one speed each. What the format does not know (curves of the picture, the
    exact ramp, colours and titles laid over) is in the metadata under "zembi" and comes back exactly.

    Args:
        name: Name of the timeline.
        programme: What to write.
        media: Every file that its layers name.
        rate: Programme rate.
        song: The song.
        markers: (time in the programme, text) kept on the song's clips.
        tables: Name of the ``.cube`` of each colour that is more than CDL numbers.
    """
    timeline = otio.schema.Timeline(name=name)
    for layer in programme.layers:
        if any(isinstance(s.content, Colour | Title) for s in layer.spans):
            continue
        timeline.tracks.append(_track(layer, media, rate, programme, tables or {}))
    colours = [
        {
            "layer": n,
            "name": layer.name,
            "first": s.start,
            "end": s.end,
            "colour": s.content.code,
            "opacity": _keys(comes.curve("amount")) if (comes := opacity_of(s.chain)) else [],
        }
        for n, layer in enumerate(programme.layers)
        for s in layer.spans
        if isinstance(s.content, Colour)
    ]
    titles = _add_titles(timeline, programme, rate)
    around = {"lead": programme.lead, "tail": programme.tail} if programme.lead or programme.tail else {}
    own = {
        name: found for name, found in (("colours", colours), ("titles", titles), ("around", around)) if found
    }
    if own:
        timeline.metadata[_OWN] = own
    if song is not None:
        timeline.tracks.append(_song_track(song, markers, rate, programme))
    return str(otio.adapters.write_to_string(timeline, "otio_json", indent=1))


def _add_titles(timeline: Any, programme: Programme, rate: Fraction) -> list[dict[str, Any]]:
    """Mark each title with its words, for other programs; returns all of them as plain data."""
    out = []
    for n, layer in enumerate(programme.layers):
        for s in whole_titles(layer):
            marked = _range(float(Fraction(s.start - programme.first) / rate), s.frames, rate)
            timeline.tracks.markers.append(
                otio.schema.Marker(
                    name=f"Title: {' / '.join(_card(s).text.splitlines())}", marked_range=marked
                )
            )
        for s in layer.spans:
            if not isinstance(s.content, Title):
                continue
            seen = {} if s.content.shown == ALL else {"shown": asdict(s.content.shown)}
            out.append({
                "layer": n, "name": layer.name, "first": s.start, "end": s.end, "card": card_to_dict(s.content.card),
                "chain": _written(s.chain), **seen,
            })  # fmt: skip
    return out


def _card(span: Span) -> Card:
    assert isinstance(span.content, Title)
    return span.content.card


def _song_track(
    song: MediaRef, markers: list[tuple[float, str]], rate: Fraction, programme: Programme
) -> Any:
    sound = otio.schema.Track(name="Song", kind=otio.schema.TrackKind.Audio)
    kept = programme.sound.kept
    whole = len(kept) < 2 and (not kept or kept[0][0] == 0)
    at = 0.0
    if programme.lead:
        sound.append(_gap(programme.lead, rate))
    ranges = (
        [(0.0, 1e9, _range(0.0, programme.length, rate))]
        if whole
        else [(a, b, _samples(a, b)) for a, b in kept]
    )
    for start, end, source in ranges:
        clip = otio.schema.Clip(
            name=song.name,
            media_reference=otio.schema.ExternalReference(target_url=song.url),
            source_range=source,
        )
        for time, text in markers:
            if at <= time < at + end - start:
                clip.markers.append(
                    otio.schema.Marker(name=text, marked_range=_range(start + time - at, 0, rate))
                )
        sound.append(clip)
        at += end - start
    return sound


def _samples(start_s: float, end_s: float) -> Any:
    """A range of sound, counted in samples of 48 kHz: finer than a frame."""
    return otio.opentime.TimeRange(
        otio.opentime.RationalTime(round(start_s * 48_000), 48_000),
        otio.opentime.RationalTime(round(end_s * 48_000) - round(start_s * 48_000), 48_000),
    )


def _frames(time: Any, rate: Fraction) -> int:
    return round(exact_seconds(time) * rate)


def read_timeline(text: str, *, rate: Fraction | None = None) -> ReadTimeline:
    """Read an ``.otio`` document.

    The lowest video track is the base, higher ones lie over it, a gap shows what is underneath and at last
    black. A clip's source range is media time from the picture's first frame in the range's own rate; a
    linear time warp scales it, below 0 it plays backwards; a freeze frame shows its start; a dissolve mixes two clips,
    each in its own time. What changes the picture and is not known is named in the warnings.

    Raises:
        BadInput: not a timeline, no video track, or a clip that names no file.
    """
    timeline = read_document(text, "The .otio file")
    return in_words("The .otio file")(lambda: _read(timeline, rate))


def _read(timeline: Any, rate: Fraction | None) -> ReadTimeline:
    videos = list(timeline.video_tracks())
    if not videos:
        raise BadInput("The timeline has no video track.")
    rate = rate or _timeline_rate(videos)
    said: list[str] = []
    handles: list[Handle] = []
    lanes = [_read_track(track, rate, said, handles) for track in videos]
    whole = max((lane[1] for lane in lanes), default=0)
    if not whole:
        raise BadInput("The timeline is empty.")
    within(float(whole / rate), "The length of the timeline in seconds", 0.0, _LONGEST_S)
    own = (timeline.metadata.get(_OWN) or {}).get("around") or {}
    lead, tail = (
        int(within(int(own.get(n, 0)), f"The {n} of the timeline", 0, whole - 1)) for n in ("lead", "tail")
    )
    length = whole - lead - tail
    if length <= 0:
        raise BadInput("The timeline has no frame of its song.")
    layers = [
        Layer(
            track.name or f"Track {n}",
            tuple(replace(s, start=s.start - lead, end=s.end - lead) for s in lane),
        )
        for n, (track, (lane, _)) in enumerate(zip(videos, lanes, strict=True), 1)
    ]
    for effect in timeline.tracks.effects:
        said.append(f"The timeline's effect “{_name_of(effect)}” is not known and is left out.")
    layers = _with_own(layers, timeline.metadata.get(_OWN), (-lead, length + tail), said)
    url, sound = _song(timeline)
    programme = Programme(length, tuple(layers), sound, lead, tail)
    return ReadTimeline(rate, programme, url, tuple(dict.fromkeys(said)), tuple(handles))


def _with_own(layers: list[Layer], own: Any, film: tuple[int, int], said: list[str]) -> list[Layer]:
    """The layers with colours and titles over them where they were written."""
    out = list(layers)
    named: dict[tuple[int, str], list[Span]] = {}
    for one in (own or {}).get("colours", ()):
        chain = (OPACITY(amount=_curve(one["opacity"])),) if one["opacity"] else PLAIN
        span = Span(
            *_extent(one, "A colour laid over the timeline", film),
            Colour(checked_colour(str(one["colour"]))),
            chain=chain,
        )
        named.setdefault((int(one["layer"]), str(one["name"])), []).append(span)
    for one in (own or {}).get("titles", ()):
        extent = _extent(one, "A title of the timeline", film)
        card = card_from_dict(one["card"])
        chain = tuple(step for s in one.get("chain", ()) for step in _read_step(s, card.text, said))
        named.setdefault((int(one["layer"]), str(one["name"])), []).append(
            Span(*extent, Title(card, _read_shown(one.get("shown"))), chain=chain)
        )
    for (place, name), spans in sorted(named.items()):
        out.insert(max(0, place), Layer(name, tuple(spans)))
    return out


def _read_shown(own: Any) -> Shown:
    """The seen part of a title, where it is written.

    Raises:
        BadInput: it is damaged.
    """
    return checked_shown(Shown(**(own or {})))


def _extent(one: Any, what: str, film: tuple[int, int]) -> tuple[int, int]:
    first, end = int(one["first"]), int(one["end"])
    if not film[0] <= first < end <= film[1]:
        raise BadInput(f"{what} lies outside it.")
    return first, end


def _name_of(effect: Any) -> str:
    return str(effect.name or effect.effect_name or type(effect).__name__)


def _timeline_rate(tracks: list[Any]) -> Fraction:
    for track in tracks:
        for item in track:
            if getattr(item, "source_range", None) is not None:
                return nearest_standard_rate(item.source_range.duration.rate)
    raise BadInput("The timeline gives no frame rate; say which with --rate.")


def _read_track(track: Any, rate: Fraction, said: list[str], handles: list[Handle]) -> tuple[list[Span], int]:
    """The spans of a track and its length in frames; what is not known is said, what dissolves need is noted."""
    items: list[tuple[Any, int, int]] = []
    joins: dict[int, _Transition] = {}
    exact = Fraction(0)
    for effect in track.effects:
        said.append(f"The effect “{_name_of(effect)}” of a track is not known and is left out.")
    for item in track:
        if isinstance(item, otio.schema.Transition):
            join = _read_transition(item, rate, said)
            if join is not None:
                joins[len(items)] = join
            continue
        duration = item.source_range.duration if item.source_range else item.duration()
        start, exact = round(exact * rate), exact + exact_seconds(duration)
        items.append((item, start, round(exact * rate)))
    spans: list[Span] = []
    n = 0
    while n < len(items):
        item, start, end = items[n]
        if not isinstance(item, otio.schema.Clip) or end <= start or not track.enabled or not item.enabled:
            if not isinstance(item, otio.schema.Clip | otio.schema.Gap):
                said.append(
                    f"“{item.name or type(item).__name__}” is a {type(item).__name__}: it is left out."
                )
            n += 1
            continue
        span, used = _read_run(items, n, joins, rate, said)
        before = joins.get(n)
        after = joins.get(n + used)
        nothing = n + used == len(items) or not isinstance(items[n + used][0], otio.schema.Clip)
        spans.append(_joined(item, span, before, after, nothing, rate, handles))
        n += used
    spans.sort(key=lambda s: s.start)
    return spans, round(exact * rate)


def _read_run(
    items: list[tuple[Any, int, int]], n: int, joins: Mapping[int, Any], rate: Fraction, said: list[str]
) -> tuple[Span, int]:
    """The span of a clip, or of a run of clips that were written of one; and of how many."""
    item, start, end = items[n]
    own = item.metadata.get(_OWN) or {}
    count = int(own.get("clips", 1))
    run = items[n : n + count]
    whole = len(run) == count and run[-1][2] - start == int(own.get("frames", -1))
    parted = any(k in joins for k in range(n + 1, n + count)) or any(
        not isinstance(i, otio.schema.Clip) for i, _, _ in run
    )
    span = _read_clip(item, start, end, rate, said)
    if not whole or parted:
        return span, 1
    pieces = [p for i, a, b in run for p in _read_clip(i, a, b, rate, said).time.pieces]
    if "pieces" in own:
        pieces = [Piece(int(f), float(at), float(v), float(w)) for f, at, v, w in own["pieces"]]
        if sum(p.frames for p in pieces) != run[-1][2] - start or any(p.frames < 1 for p in pieces):
            raise BadInput(f"The clip “{item.name}” has pieces of time that are not as long as it.")
        for piece in pieces:
            for value in (piece.at_s, piece.speed, piece.end_speed):
                within(value, f"A time of the clip “{item.name}”")
    steps = own.get("chain") or [step for one in own.get("curves", ()) for step in _steps_of_curves(one)]
    chain = tuple(step for one in steps for step in _read_step(one, str(item.name), said))
    blend = own.get("blend", "")
    if blend not in get_args(InBetween):
        said.append(f"The clip “{item.name}” has frames in between of a kind that is not known: {blend!r}.")
        blend = ""
    return replace(span, end=run[-1][2], time=TimeMap(tuple(pieces)), chain=chain, blend=blend), count


#: Where the names of curves stand that were written before pictures had chains, in the order in which they acted then.
_CURVES = {
    "lightness": ("lightness", "amount"), "blur": ("blur", "amount"), "sharpen": ("sharpen", "amount"),
    "glow": ("glow", "amount"), "scale": ("place", "scale"), "x": ("place", "x"), "y": ("place", "y"),
    "turn": ("place", "turn"), "mirror": ("place", "mirror"), "vignette": ("vignette", "amount"),
    "grain": ("grain", "amount"), "grain_number": ("grain", "number"), "bars": ("bars", "shape"),
    "opacity": ("opacity", "amount"),
}  # fmt: skip


def _steps_of_curves(one: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Curves of one set, as they were written before, as steps; a name that is not known is one of its own."""
    out: dict[str, dict[str, Any]] = {}
    for name in sorted(one, key=lambda n: list(_CURVES).index(n) if n in _CURVES else len(_CURVES)):
        step, parameter = _CURVES.get(name, (name, name))
        out.setdefault(step, {})[parameter] = one[name]
    return [{"step": step, "curves": curves} for step, curves in out.items()]


def _read_step(one: Any, clip: str, said: list[str]) -> list[Step]:
    """A step as it was written; none, and a warning, where it is of a kind or has a parameter that is not known."""
    kind = STEPS.get(str(one["step"]))
    unknown = set(one["curves"]) - set(kind.rest) if kind else {str(one["step"])}
    if unknown:
        said.append(f"The clip “{clip}” has curves that are not known: {', '.join(sorted(unknown))}.")
    known = {n: _curve(keys) for n, keys in one["curves"].items() if n not in unknown}
    return [kind(**known)] if kind and known else []


def _keys(curve: Curve | None) -> list[list[Any]]:
    return [[k.frame, k.value, k.shape] for k in curve.keys] if curve else []


def _curve(keys: Any) -> Curve:
    made = tuple(Key(float(f), float(v), _shape(shape)) for f, v, shape in keys)
    if not made or any(b.frame < a.frame for a, b in pairwise(made)):
        raise BadInput("A curve has no keys, or not in order.")
    for key in made:
        within(key.frame, "The frame of a key", -1e9, 1e9)
        within(key.value, "The value of a key", -1e6, 1e6)
    return Curve(made)


def _shape(name: Any) -> Shape:
    for shape in SHAPES:
        if shape == name:
            return shape
    raise BadInput(f"A curve's shape is {name!r}, which is not known.")


class _Transition(NamedTuple):
    """Frames before and after its cut, the shape of a dissolve, and how opaque the second picture is."""

    before: int
    after: int
    shape: Shape
    comes: Curve


def _read_transition(item: Any, rate: Fraction, said: list[str]) -> _Transition | None:
    if item.transition_type != otio.schema.TransitionTypes.SMPTE_Dissolve:
        said.append(f"A transition of kind “{item.transition_type}” is not known: a cut takes its place.")
        return None
    before, after = (round(exact_seconds(t) * rate) for t in (item.in_offset, item.out_offset))
    if before < 0 or after < 0:
        raise BadInput("A dissolve has a negative length.")
    own = item.metadata.get(_OWN) or {}
    shape = _shape(own.get("shape", "straight"))
    exact = "opacity" in own and own.get("frames") == before + after
    comes = _curve(own["opacity"]) if exact else _rising(before + after, shape)
    return _Transition(before, after, shape, comes) if before + after else None


def _joined(
    clip: Any, span: Span, before: _Transition | None, after: _Transition | None,
    nothing_after: bool, rate: Fraction, handles: list[Handle],
) -> Span:  # fmt: skip
    """A span with what dissolves at its ends add to it: frames beyond its own, and how it comes in, or goes to nothing."""
    head, tail = before.before if before else 0, after.after if after else 0
    if not (before or after):
        return span
    if span.start < head:
        raise BadInput(f"The dissolve at the start of “{clip.name}” begins before the timeline does.")
    chain: Chain = later(span.chain, -head)
    if before:
        chain += (OPACITY(amount=before.comes),)
    if after and nothing_after:
        ends = head + span.frames
        opacity = Curve((Key(ends - after.before, 1.0, after.shape), Key(ends + tail, 0.0, "hold")))
        chain += (OPACITY(amount=opacity),)
    time = span.time.extended(head, tail, rate) if span.media else NO_TIME
    if span.media:
        for part in (time.cut(0, head, rate), time.cut(time.frames - tail, time.frames, rate)):
            if part.frames:
                handles.append(Handle(str(clip.name), span.media, part))
    return replace(span, start=span.start - head, end=span.end + tail, time=time, chain=chain)


def _read_clip(clip: Any, start: int, end: int, rate: Fraction, said: list[str]) -> Span:
    reference = clip.media_reference
    if isinstance(reference, otio.schema.GeneratorReference) and reference.generator_kind == _BLACK:
        return Span(start, end, Black())
    url = getattr(reference, "target_url", None)
    if not url:
        raise BadInput(f"The clip “{clip.name}” names no file.")
    speed = 1.0
    for effect in clip.effects:
        if not getattr(effect, "enabled", True):
            continue
        if isinstance(effect, otio.schema.FreezeFrame):
            speed = 0.0
        elif isinstance(effect, otio.schema.LinearTimeWarp):
            speed *= float(effect.time_scalar)
        else:
            said.append(f"The effect “{_name_of(effect)}” of “{clip.name}” is not known and is left out.")
    at_s, frames = float(media_start(clip)), end - start
    if speed < 0:
        at_s -= speed * frames * rate.denominator / rate.numerator
    return shown(start, end, url, at_s, speed)


def _song(timeline: Any) -> tuple[str | None, Sound]:
    """The first sound of the timeline; with pieces where several clips of it follow each other."""
    for track in timeline.audio_tracks():
        clips = [c for c in track.find_clips() if getattr(c.media_reference, "target_url", None)]
        if not clips:
            continue
        url = str(clips[0].media_reference.target_url)
        ranges = [c.source_range for c in clips if c.media_reference.target_url == url and c.source_range]
        if len(clips) < 2 or len(ranges) < len(clips):
            return url, SILENT
        kept = [
            (
                r.start_time.value / r.start_time.rate,
                (r.start_time.value / r.start_time.rate) + r.duration.value / r.duration.rate,
            )
            for r in ranges
        ]
        ascending = all(b[0] >= a[1] for a, b in pairwise(kept))
        return url, song_sound(url, SongMap(tuple(kept))) if ascending else SILENT
    return None, SILENT
