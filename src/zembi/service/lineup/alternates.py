"""The passes of an angle that cover a part of the song, with facts that help to choose; and what could fill a hole."""

from dataclasses import dataclass, replace
from math import isnan

from zembi.core.footage.measure import EVERY_S, Measured, over
from zembi.core.footage.tags import tagged_for
from zembi.core.lineup.coverage import PassOnAngle, pass_frames, pass_span, within
from zembi.core.lineup.fillers import FillerCandidate, other_angles, stretches_for
from zembi.core.programme.model import Span
from zembi.core.timebase import frames_for_length, seconds_to_frame
from zembi.service.media.analyses import load_measured
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project
from zembi.store.entities import Angle, Pass, Select

#: Shake above which a picture is called shaky, in per cent of its width from frame to frame.
SHAKY = 0.35


@dataclass(frozen=True)
class Alternate:
    """A pass in a part of the song, working time.

    Attributes:
        pass_id, media: Which.
        covers: Share of the part's frames that it has picture for.
        lips_ms: Farthest that its sound was measured from its place there; None for one placed by hand.
        sharp, light, burnt: Means over what it covers, see ``core/footage/measure.py``; None while not measured.
        shaky_s: Working time of its shakiest moment where that is shaky; None where it is steady.
        spans: All that it could show of the working song.
        feeds: Frames (half-open) of the part in which it feeds the angle.
    """

    pass_id: int
    media: str
    covers: float
    lips_ms: float | None
    sharp: float | None
    light: float | None
    burnt: float | None
    shaky_s: float | None
    spans: tuple[Span, ...] = ()
    feeds: tuple[tuple[int, int], ...] = ()


@one_moment
def alternates(project: Project, angle_id: int, start_s: float, end_s: float) -> list[Alternate]:
    """Passes of an angle, rejected ones too, that have picture between two working times, in a steady order."""
    project.database.one(Angle, id=angle_id)
    snapshot = snapshot_of(project)
    first, end = seconds_to_frame(start_s, snapshot.rate), seconds_to_frame(end_s, snapshot.rate)
    rows = {str(p.id): p for p in snapshot.passes}
    runs = within(snapshot.runs(angle_id), first, end)
    out: dict[int, Alternate] = {}
    for p in snapshot.on_angles(rejected=True):
        a, b = pass_frames(p, snapshot.rate, snapshot.length)
        if p.angle != angle_id or b <= a:
            continue
        found = out.get(int(p.id)) or _alternate(
            snapshot, p, rows[p.id], max(start_s, p.song_start_s), min(end_s, p.song_end_s)
        )
        inside = max(0, min(b, end) - max(a, first))
        out[int(p.id)] = replace(
            found,
            covers=min(1.0, found.covers + inside / max(1, end - first)),
            spans=(*found.spans, pass_span(p, a, b, snapshot.rate)),
            feeds=tuple((x, y) for x, y, shown in runs if shown.id == p.id),
        )
    # A circle does not move them about under the editor's hands.
    order = sorted(out, key=lambda p: (rows[str(p)].position, p))
    return [out[p] for p in order if out[p].covers > 0]


def _alternate(snapshot: Snapshot, p: PassOnAngle, row: Pass, start_s: float, end_s: float) -> Alternate:
    take_a, take_b = p.take_time(start_s), p.take_time(end_s)
    residuals = row.found.get("residuals", [])
    near = [r for t, r in residuals if take_a - 1 <= t <= take_b + 1] or [r for _, r in residuals]
    lips = max((abs(r) for r in near), default=0.0) * 1000 if row.origin == "found" and residuals else None
    media = snapshot.by_id[row.media]
    known = load_measured(snapshot.project.derived(media)) if media.content else None
    if known is None:
        return Alternate(row.id, row.media, 0.0, lips, None, None, None, None)
    sharp, light, burnt = (_mean(v, take_a, take_b) for v in (known.sharp, known.light, known.burnt))
    return Alternate(row.id, row.media, 0.0, lips, sharp, light, burnt, _shaky(known, p, take_a, take_b))


def _mean(values: list[float], start_s: float, end_s: float) -> float | None:
    mean = over(values, start_s, end_s)
    return None if isnan(mean) else round(mean, 3)


def _shaky(known: Measured, p: PassOnAngle, start_s: float, end_s: float) -> float | None:
    first = int(start_s / EVERY_S)
    some = known.shake[first : int(end_s / EVERY_S) + 1]
    if not some or max(some) < SHAKY:
        return None
    at = EVERY_S * (first + some.index(max(some)))
    return p.song_start_s + p.rate * (at - p.take_start_s)


@dataclass(frozen=True)
class Filler:
    """Something that could stand in a hole: an angle, a clip, or a select of one; ``share`` of the hole that it fills."""

    angle: int | None
    media: str | None
    select: int | None
    share: float
    tagged: bool


@one_moment
def fillers(project: Project, start: int, end: int) -> list[Filler]:
    """Candidates to fill frames ``start`` to ``end`` (exclusive) of the working song, the likeliest first."""
    snapshot = snapshot_of(project)
    frames = max(1, end - start)
    at = float((start + end) / 2 / snapshot.rate)
    section = next((s.name for s in reversed(snapshot.section_spans) if s.start_s <= at), "")
    selects = {str(s.id): s for s in project.database.all(Select)}
    with_selects = {s.media for s in selects.values()}
    stretches = [
        FillerCandidate(
            f"select {key}",
            frames_for_length(s.out_s - s.in_s, snapshot.rate),
            tagged_for(section, s.said.tags),
        )
        for key, s in selects.items()
    ]
    for m in snapshot.media:
        if m.kind == "broll" and m.state == "ready" and m.id not in with_selects:
            seconds = m.out_s - m.in_s
            frames_there = frames_for_length(seconds, snapshot.rate) if seconds > 0 else 0
            stretches.append(FillerCandidate(f"media {m.id}", frames_there, tagged_for(section, m.said.tags)))
    out = [Filler(a, None, None, share, False) for a, share in other_angles(snapshot.angle_spans, start, end)]
    for s in stretches_for(stretches, frames):
        kind, key = s.id.split(" ", 1)
        share = min(1.0, s.frames / frames)
        select = selects[key] if kind == "select" else None
        media = select.media if select else key
        out.append(Filler(None, media, select.id if select else None, share, s.tagged))
    return out
