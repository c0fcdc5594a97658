"""Checks before hand-off: what an editor would be sorry to find in the finished film."""

from collections.abc import Mapping
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
    wrong: Mapping[str, str],
    names: dict[str, str],
    rate: Fraction,
) -> list[Finding]:
    """Look through an edit.

    Args:
        edit: The edit.
        programme: What is on screen, from the resolver; holes are spans without media or frames without span.
        media_end_s: Seconds of picture of each file.
        wrong: What is wrong, in words, with files that are gone or not those that were added.
        names: Names of the files, for messages.
        rate: Programme rate.
    """
    found = _holes(programme)
    for span in programme:
        if span.media is not None and span.media in wrong:
            found.append(Finding("offline", span.start, span.end, wrong[span.media]))
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
    ends = [*[s.start for s in edit.shots[1:]], edit.length]
    found += _too_short([(s.start, e, s.source) for s, e in zip(edit.shots, ends, strict=True)], names, rate)
    found += _too_short([(c.start, c.end, c.source) for c in edit.cutaways], names, rate)
    return sorted(found, key=lambda f: (f.start, f.kind))


def _holes(programme: list[Span]) -> list[Finding]:
    """Stretches without picture that nobody asked to be black; a run of them is one finding."""
    runs: list[list[Span]] = []
    for span in programme:
        if span.media is not None or span.label == "black":
            continue
        if runs and runs[-1][-1].end == span.start:
            runs[-1].append(span)
        else:
            runs.append([span])
    out = []
    for run in runs:
        frames = run[-1].end - run[0].start
        reasons = list(dict.fromkeys(s.label or "nothing laid here" for s in run))
        more = f" and {len(reasons) - 3} more" if len(reasons) > 3 else ""
        text = f"No picture for {frames} frames: {', '.join(reasons[:3])}{more}."
        out.append(Finding("hole", run[0].start, run[-1].end, text))
    return out


def _too_short(
    lane: list[tuple[int, int, Source]], names: Mapping[str, str], rate: Fraction
) -> list[Finding]:
    """Shots of a lane that are over before they are seen; a run of them is one finding."""
    shortest = SHORTEST_SHOT_S * float(rate)
    runs: list[list[tuple[int, int, Source]]] = []
    for start, end, source in lane:
        if end - start >= shortest or isinstance(source, Black):
            continue
        if runs and runs[-1][-1][1] == start:
            runs[-1].append((start, end, source))
        else:
            runs.append([(start, end, source)])
    return [Finding("too short", r[0][0], r[-1][1], _said_of_run(r, names, rate)) for r in runs]


def _said_of_run(run: list[tuple[int, int, Source]], names: Mapping[str, str], rate: Fraction) -> str:
    start, end, source = run[0]
    at = frame_to_timecode(start, rate)
    if len(run) > 1:
        least = min(e - s for s, e, _ in run)
        return f"{len(run)} shots in a row from {at} are very short, the shortest {least} frames."
    what = (
        f"angle {source.angle}"
        if isinstance(source, AngleSource)
        else names.get(source.media, "clip")
        if isinstance(source, ClipSource)
        else "shot"
    )
    return f"{what} at {at} lasts only {end - start} frames."
