"""CMX 3600 edit decision lists."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.interchange.colour import ShotColour, cdl_slope, colour_of
from zembi.core.picture.chain import opacity_of
from zembi.core.programme.model import Span
from zembi.core.timebase import frame_to_timecode, seconds_to_frame


@dataclass(frozen=True)
class Reel:
    """Name of a file in the list, and its first frame's number on its own timecode."""

    name: str
    clip: str
    rate: Fraction
    first_frame: int = 0


def reel_name(name: str, taken: set[str]) -> str:
    """A reel name that the format can hold: up to eight capitals and digits, not yet taken."""
    base = re.sub(r"[^A-Z0-9]", "", name.upper())[:8] or "REEL"
    candidate, number = base, 2
    while candidate in taken:
        tail = str(number)
        candidate, number = base[: 8 - len(tail)] + tail, number + 1
    taken.add(candidate)
    return candidate


def dissolve_frames(span: Span) -> int:
    """Number of frames that a span takes to come in over what is beneath it; 0 where it is there at once."""
    comes_in = opacity_of(span.chain)
    opacity = comes_in.curve("amount") if comes_in else None
    if opacity is None or len(opacity.keys) != 2:
        return 0
    first, last = opacity.keys
    rises = (first.frame, first.value, last.value) == (0, 0.0, 1.0)
    return min(999, round(last.frame)) if rises else 0


def write_edl(
    title: str,
    spans: list[Span],
    reels: dict[str, Reel],
    rate: Fraction,
    *,
    first: int = 0,
    drop: bool = False,
    tables: Mapping[ShotColour, str] | None = None,
) -> str:
    """Write what is on screen as a CMX 3600 list of cuts, an event for each piece of time.

    Times on the record side are programme timecode; on the source side the file's own timecode, counted at
    the programme's rate as the format asks. A speed other than 1 is written as an M2 line, backwards with a minus, a
    freeze at 0. A shot that comes in over the one before it is a dissolve of so many frames. Colour is told in comments: as
    ASC CDL numbers where they say all of it, else by the name of its file in ``tables``.
    """
    lines = [f"TITLE: {title[:70]}", f"FCM: {'DROP FRAME' if drop else 'NON-DROP FRAME'}", ""]
    number = 0
    before: tuple[str, int] | None = None
    for span in spans:
        if span.media is None:
            before = None
            continue
        reel, at = reels[span.media], span.start
        mix = dissolve_frames(span)
        for piece in span.time.pieces:
            number += 1
            speed = (piece.speed + piece.end_speed) / 2
            # Backwards the lower end of the stretch is named, as forwards.
            low = min(piece.at_s, piece.after(piece.frames / float(rate), rate))
            source_in = seconds_to_frame(low, rate) + round(reel.first_frame / float(reel.rate) * float(rate))
            source_in = max(0, source_in)
            length = max(1, round(piece.frames * abs(speed)))
            codes = [
                frame_to_timecode(source_in, rate, drop=drop),
                frame_to_timecode(source_in + length, rate, drop=drop),
                frame_to_timecode(at, rate, drop=drop, first=first),
                frame_to_timecode(at + piece.frames, rate, drop=drop, first=first),
            ]
            kind = "C    "
            if mix and at == span.start and before:
                old, out = before
                there = frame_to_timecode(out, rate, drop=drop)
                lines.append(f"{number:03d}  {old:<8} V     C        {there} {there} {codes[2]} {codes[2]}")
                kind = f"D {mix:03d}"
            lines.append(f"{number:03d}  {reel.name:<8} V     {kind}    {' '.join(codes)}")
            before = (reel.name, source_in + length)
            if abs(speed - 1) > 5e-3:
                lines.append(f"M2   {reel.name:<8} {speed * float(rate):05.1f}                {codes[0]}")
            lines.append(f"* FROM CLIP NAME: {reel.clip}")
            lines += _colour_lines(span, tables or {})
            at += piece.frames
    return "\n".join(lines) + "\n"


def _colour_lines(span: Span, tables: Mapping[ShotColour, str]) -> list[str]:
    colour = colour_of(span.chain)
    slope = cdl_slope(colour)
    if not colour:
        return []
    if slope is None:
        return [f"* LUT: {tables[colour]}"] if colour in tables else []
    return [f"* ASC_SOP ({' '.join([f'{slope:.6f}'] * 3)})(0.0 0.0 0.0)(1.0 1.0 1.0)", "* ASC_SAT 1.0"]
