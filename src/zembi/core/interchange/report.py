"""Report of what another program will not see of a programme, in words, for each format of hand-off."""

from fractions import Fraction
from itertools import pairwise

from zembi.core.interchange.colour import cdl_slope, colour_of
from zembi.core.interchange.edl import dissolve_frames
from zembi.core.interchange.titles import NOT_HELD
from zembi.core.picture.chain import opacity_of
from zembi.core.picture.steps import GRADE, TABLE
from zembi.core.programme.flatten import whole_titles
from zembi.core.programme.model import Colour, Programme, Span, Title
from zembi.core.timebase import frame_to_timecode

#: Most places that are named.
_NAMED = 4


def not_seen(programme: Programme, kind: str, rate: Fraction) -> list[str]:
    """Parts of a programme that a file of a kind does not tell other programs.

    Args:
        programme: What is handed over.
        kind: "otio" or "edl", or a kind of timed text; others hold no picture.
        rate: Programme rate.
    """
    if kind.startswith("titles."):
        return [NOT_HELD[kind.removeprefix("titles.")]]
    if kind not in ("otio", "edl"):
        return []
    curves: dict[str, list[int]] = {}
    mixes = _dissolves(programme)
    spans = [s for layer in programme.layers for s in layer.spans]
    for span in spans:
        chain = span.chain
        if not isinstance(span.content, Colour | Title):
            for one in chain[:-1] if span in mixes else chain:
                for name in (
                    n for n, _ in one.curves if n in one.kind.words and one.kind not in (GRADE, TABLE)
                ):
                    curves.setdefault(one.kind.words[name], []).append(_at(span))
    colours = [_at(s) for s in spans if isinstance(s.content, Colour)]
    titles = [s for layer in programme.layers for s in whole_titles(layer)]
    ramps = [_at(s) for s in spans if any(p.speed != p.end_speed for p in s.time.pieces)]
    uneven = [_at(s) for s in mixes if _shape(s) != "straight"]
    out = [f"The {name} of {_shots(at, rate)} is not seen." for name, at in sorted(curves.items())]
    out += _colour(spans, rate)
    blends = [_at(s) for s in spans if s.blend]
    if blends:
        out.append(
            f"Frames made between two in {_shots(blends, rate)} are the nearest ones in other programs."
        )
    if colours:
        out.append(f"Colours laid over {_shots(colours, rate)} are not seen.")
    if titles:
        count = f"{len(titles)} titles are" if len(titles) > 1 else "The title is"
        out.append(f"{count} not seen{': other programs get them as markers' if kind == 'otio' else ''}.")
    if ramps:
        how = "a run of clips at one speed each" if kind == "otio" else "events at one speed each, their mean"
        out.append(f"The changing speed of {_shots(ramps, rate)} is written as {how}.")
    if kind == "edl":
        if uneven:
            out.append(f"The dissolve into {_shots(uneven, rate)} is written as an even one.")
        if sum(1 for layer in programme.layers if any(s.hides for s in layer.spans)) > 1:
            out.append("Cutaways are cut into the one lane that the format has.")
    elif uneven:
        out.append(f"The dissolve into {_shots(uneven, rate)} is an even one in other programs.")
    return out


def _colour(spans: list[Span], rate: Fraction) -> list[str]:
    """Sentences on the way in which the colour of shots is told."""
    found = [(s, c) for s in spans if not isinstance(s.content, Title) and (c := colour_of(s.chain))]
    numbers = [_at(s) for s, c in found if cdl_slope(c) is not None]
    tables = [_at(s) for s, c in found if cdl_slope(c) is None]
    moving = [_at(s) for s, c in found if any(step.moves for step in c)]
    out = []
    if numbers:
        out.append(f"The colour of {_shots(numbers, rate)} is told as CDL numbers.")
    if tables:
        out.append(f"The colour of {_shots(tables, rate)} is named as a .cube, which “Colour, .cube” holds.")
    if moving:
        out.append(f"The colour of {_shots(moving, rate)} changes over the shot: its .cube is as it ends.")
    return out


def _dissolves(programme: Programme) -> set[Span]:
    """Spans that come in over the one before them in their layer."""
    return {
        b
        for layer in programme.layers
        for a, b in pairwise(layer.spans)
        if b.start < a.end and dissolve_frames(b)
    }


def _at(span: Span) -> int:
    """First frame of the shot that a span comes from."""
    return span.why.at if span.why else span.start


def _shape(span: Span) -> str:
    last = opacity_of(span.chain)
    opacity = last.curve("amount") if last else None
    return opacity.keys[0].shape if opacity else "straight"


def _shots(starts: list[int], rate: Fraction) -> str:
    places = sorted(set(starts))
    if len(places) == 1:
        return f"the shot at {frame_to_timecode(places[0], rate)}"
    named = ", ".join(frame_to_timecode(p, rate) for p in places[:_NAMED])
    return f"{len(places)} shots ({named}{', …' if len(places) > _NAMED else ''})"
