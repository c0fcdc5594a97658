"""CMX 3600 edit decision lists."""

import re
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.programme.model import Span
from zembi.core.timebase import frame_to_timecode, seconds_to_frame


@dataclass(frozen=True)
class Reel:
    """How a file is named in the list, and its first frame's number on its own timecode."""

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


def write_edl(
    title: str,
    spans: list[Span],
    reels: dict[str, Reel],
    rate: Fraction,
    *,
    first: int = 0,
    drop: bool = False,
) -> str:
    """Write what is on screen as a CMX 3600 list of cuts, an event for each piece of time.

    Times on the record side are programme timecode; on the source side the file's own timecode, counted at
    the programme's rate as the format asks. A speed other than 1 is written as an M2 line.
    """
    lines = [f"TITLE: {title[:70]}", f"FCM: {'DROP FRAME' if drop else 'NON-DROP FRAME'}", ""]
    number = 0
    for span in spans:
        if span.media is None:
            continue
        reel, at = reels[span.media], span.start
        for piece in span.time.pieces:
            number += 1
            speed = (piece.speed + piece.end_speed) / 2
            source_in = seconds_to_frame(piece.at_s, rate) + round(
                reel.first_frame / float(reel.rate) * float(rate)
            )
            source_in = max(0, source_in)
            length = max(1, round(piece.frames * abs(speed)))
            codes = [
                frame_to_timecode(source_in, rate, drop=drop),
                frame_to_timecode(source_in + length, rate, drop=drop),
                frame_to_timecode(at, rate, drop=drop, first=first),
                frame_to_timecode(at + piece.frames, rate, drop=drop, first=first),
            ]
            lines.append(f"{number:03d}  {reel.name:<8} V     C        {' '.join(codes)}")
            if abs(speed - 1) > 5e-3:
                lines.append(f"M2   {reel.name:<8} {speed * float(rate):05.1f}                {codes[0]}")
            lines.append(f"* FROM CLIP NAME: {reel.clip}")
            at += piece.frames
    return "\n".join(lines) + "\n"
