"""Checks before hand-off: what an editor would be sorry to find in the finished film."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from zembi.core.edit.model import AngleSource, Black, ClipSource, Edit, Source
from zembi.core.edit.operations import frames_missing
from zembi.core.spans import Span
from zembi.core.timebase import frame_to_timecode

Kind = Literal["hole", "too short", "source runs out", "offline"]

#: Shots shorter than this many seconds are pointed out.
SHORTEST_SHOT_S = 0.2


@dataclass(frozen=True)
class Finding:
    """Something to look at, at programme frames ``start`` to ``end`` (exclusive)."""

    kind: Kind
    start: int
    end: int
    text: str


def check(
    edit: Edit,
    programme: list[Span],
    media_end_s: dict[str, float],
    offline: set[str],
    names: dict[str, str],
    rate: Fraction,
) -> list[Finding]:
    """Look through an edit.

    Args:
        edit: The edit.
        programme: What is on screen, from the resolver; holes are spans without media or frames without span.
        media_end_s: Seconds of picture of each file.
        offline: Files that are missing now.
        names: Names of the files, for messages.
        rate: Programme rate.
    """
    found: list[Finding] = []
    for span in programme:
        if span.media is None and span.label != "black":
            text = f"No picture for {span.frames} frames: {span.label or 'nothing laid here'}."
            found.append(Finding("hole", span.start, span.end, text))
        elif span.media in offline:
            found.append(
                Finding(
                    "offline", span.start, span.end, f"{names.get(span.media or '', 'The file')} is offline."
                )
            )
        elif span.media is not None:
            missing = frames_missing(
                span.in_s, span.speed, span.frames, media_end_s.get(span.media, 0.0), float(rate)
            )
            early = max(0, round(-span.in_s / span.speed * float(rate)))
            if missing or early:
                name = names.get(span.media, "The file")
                found.append(
                    Finding(
                        "source runs out",
                        span.start,
                        span.end,
                        f"{name} has no picture for {missing + early} of {span.frames} frames.",
                    )
                )
    shortest = SHORTEST_SHOT_S * float(rate)
    lanes: list[tuple[int, int, Source]] = [
        (s.start, edit.end_of(i), s.source) for i, s in enumerate(edit.shots)
    ]
    lanes += [(c.start, c.end, c.source) for c in edit.cutaways]
    for start, end, source in lanes:
        if end - start < shortest and not isinstance(source, Black):
            what = (
                f"angle {source.angle}"
                if isinstance(source, AngleSource)
                else names.get(source.media, "clip")
                if isinstance(source, ClipSource)
                else "shot"
            )
            found.append(
                Finding(
                    "too short",
                    start,
                    end,
                    f"{what} at {frame_to_timecode(start, rate)} lasts only {end - start} frames.",
                )
            )
    return sorted(found, key=lambda f: (f.start, f.kind))
