"""Takes, their passes, and what angles cover, as the page sees them."""

from zembi.core.lineup.coverage import PassOnAngle, pass_frames, pass_span, uncovered
from zembi.core.lineup.joints import Joint, Run, agreed, joints
from zembi.core.sync.refine import Line
from zembi.service.answers import views
from zembi.service.answers.spans import span_view
from zembi.service.lineup.evidence import Spot, reasons
from zembi.service.media.analyses import take_moments
from zembi.service.project.snapshot import Snapshot
from zembi.store.entities import Pass


def holes_of(snapshot: Snapshot) -> list[list[int]]:
    """Frames of the working song that no angle covers."""
    if not snapshot.length or not snapshot.angles:
        return []
    every = [s for spans in snapshot.angle_spans.values() for s in spans]
    return [list(h) for h in uncovered(every, snapshot.length)]


def _section_name(snapshot: Snapshot, at_s: float) -> str:
    """The section at a song time, whatever is left out."""
    name = ""
    for s in snapshot.whole.section_spans:
        if s.start_s <= at_s + 0.1:
            name = s.name
    return name


def _pass_view(snapshot: Snapshot, row: Pass) -> views.PassView:
    found = row.found
    seconds = row.take_end_s - row.take_start_s
    moved = row.song_start_s - found["song_start_s"] if "song_start_s" in found else 0.0
    rivals = found.get("rivals", [])
    starts = [float(p["song_start_s"]) for p in rivals]
    spots = [Spot(at, _section_name(snapshot, at + 0.25 * seconds)) for at in starts]
    said = reasons(row, spots, snapshot.passes, snapshot.by_id) if len(spots) > 1 else [[] for _ in spots]
    places = [
        views.PlaceView(spot.song_start_s, p["score"], spot.section, why)
        for spot, p, why in zip(spots, rivals, said, strict=True)
    ]
    proposed = f"{found['beside']} ran at the same time by {found['by']}" if "beside" in found else ""
    return views.PassView(
        row.id, row.media, row.take_start_s, row.take_end_s, row.song_start_s,
        row.song_start_s + row.rate * seconds, row.rate, (row.rate - 1) * 1e6, row.status,
        row.confidence, row.origin, row.angle, moved * 1000, found.get("residuals", []), places,
        bool(found.get("pitch_kept")), proposed if row.status == "choose" else "",
        _span_of(snapshot.whole, row), row.verdict, row.note,
    )  # fmt: skip


def _span_of(whole: Snapshot, row: Pass) -> views.SpanView | None:
    """A pass's frames on the whole song."""
    placed = PassOnAngle(
        str(row.id),
        row.media,
        0,
        row.take_start_s,
        row.take_end_s,
        row.song_start_s,
        row.rate,
    )
    first, last = pass_frames(placed, whole.rate, whole.length)
    return span_view(pass_span(placed, first, last, whole.rate)) if last > first else None


def take_views(snapshot: Snapshot) -> list[views.TakeView]:
    """Takes with their passes."""
    out = []
    for m in snapshot.media:
        if m.kind != "take":
            continue
        kept = snapshot.lineup.get(m.id)
        passes = [_pass_view(snapshot, p) for p in snapshot.passes if p.media == m.id]
        status = "failed" if m.state == "failed" else kept.status if kept else "waiting"
        moments = (
            [] if status in ("locked", "failed", "waiting") else take_moments(snapshot.project.derived(m))
        )
        out.append(
            views.TakeView(
                m.id, status, kept.confidence if kept else 0.0, passes, m.said.slate,
                [views.MomentView(t["at_s"], t["kind"], t["strength"]) for t in moments],
                [views.JointView(**vars(j)) for j in _joints(snapshot, m.id)],
            )
        )  # fmt: skip
    return out


def _joints(snapshot: Snapshot, media_id: str) -> list[Joint]:
    rows = [p for p in snapshot.passes if p.media == media_id]
    if len(rows) < 2 or any(p.status == "choose" for p in rows):
        return []
    lines = [Line(p.song_start_s - p.rate * p.take_start_s, p.rate) for p in rows]
    runs = [Run(p.id, p.take_start_s, p.take_end_s, line) for p, line in zip(rows, lines, strict=True)]
    return joints(runs, snapshot.whole.grid)


def cuts_on_set(snapshot: Snapshot) -> list[views.CutOnSetView]:
    """Parts of the song that several takes leave out alike, less those that the film leaves out already."""
    of_takes = {m.name: _joints(snapshot, m.id) for m in snapshot.media if m.kind == "take"}
    return [
        views.CutOnSetView(list(c.takes), c.start_s, c.end_s, c.words)
        for c in agreed(of_takes, snapshot.whole.grid)
        if snapshot.map.pieces(c.start_s, c.end_s)
    ]
