"""An edit as the page sees it: its lanes, what they put on screen, what the checks find."""

import json
from dataclasses import replace
from functools import lru_cache

from zembi.core.edit.checks import Finding, of_treatments, on_purpose, with_accepted
from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.treated import Worked, worked
from zembi.core.edit.model import (
    AngleSource,
    Beneath,
    CardSource,
    ClipSource,
    Edit,
    Empty,
    Item,
    Lane,
    Source,
)
from zembi.core.memory import by_identity, each_by_identity
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import Picture, Programme
from zembi.core.song.grid import Relation, relations
from zembi.core.timebase import seconds_to_frame
from zembi.core.timemap import TimeMap
from zembi.core.treatments.model import Blend, Treatment
from zembi.core.treatments.words import said
from zembi.service.answers import views
from zembi.service.answers.spans import programme_view
from zembi.service.broll.shotlist import listed_of
from zembi.service.colour.cuts import CutJump, cut_jumps
from zembi.service.edit.cutting import Done
from zembi.service.project.snapshot import Snapshot, edit_of, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project, write_json
from zembi.service.titles.checks import title_findings
from zembi.service.titles.contrast import title_contrasts
from zembi.store.entities import Version

#: What was said last of each project's current edit, in its cache: for cards, which compile nothing.
_BADGES = "badges.json"
#: Of a project that has no edit yet.
NOT_CUT = views.EditBadges("not cut", "nothing to hand off")


@one_moment
def edit_view(project: Project, edit_id: int, done: Done | None = None) -> views.EditView:
    """An edit and what it puts on screen; just after an operation, from what that left.

    Raises:
        NotFound: there is no such edit.
    """
    snapshot, edit = (done.snapshot, done.edit) if done else (snapshot_of(project), edit_of(project, edit_id))
    name = project.database.one(Version, id=edit_id).name
    shown = snapshot.programme(edit)
    found = _findings(snapshot, shown, edit, watched=done is not None)
    badges = _badges(snapshot, shown, sum(f.accepted is None for f in found))
    if edit_id == snapshot.about.edit and (done is None or done.kept):
        _keep_badges(project, badges)
    undo, redo = project.database.undo_names()
    return views.EditView(
        edit_id, name, edit.length, edit.lead, edit.tail, [_lane_view(snapshot, edit, lane) for lane in edit.lanes], programme_view(shown),
        [_finding_view(f) for f in found],
        undo, redo, done.name if done else "", badges, 0, None,
    )  # fmt: skip


def _finding_view(f: Finding) -> views.FindingView:
    return views.FindingView(f.kind, f.start, f.end, f.text, list(f.items), f.accepted)


@one_moment
def picture_findings(project: Project, edit_id: int) -> list[views.FindingView]:
    """Checks that look at pictures: cuts that jump beyond the limit, and titles that are hard to read over what is under them.

    Raises:
        NotFound: there is no such edit.
    """
    snapshot, edit = snapshot_of(project), edit_of(project, edit_id)
    found = [
        Finding("jump", cut.frame, cut.frame + 1, _said_of_jump(cut), (cut.after.item,))
        for cut in cut_jumps(project, edit_id)
        if cut.jump > snapshot.limits.jump
    ]
    hard = [
        Finding("title", t.start, t.end, t.text, (t.item,))
        for t in title_contrasts(project, edit_id)
        if t.text
    ]
    accepted = with_accepted(sorted([*found, *hard], key=lambda f: (f.start, f.kind)), edit)
    return [_finding_view(f) for f in accepted]


def _said_of_jump(cut: CutJump) -> str:
    parts = {"lightness": cut.lightness, "colour": 2 * cut.colour, "contrast": cut.contrast / 2}
    most = max(parts, key=lambda name: parts[name])
    return f"The cut jumps by {cut.jump:.1f}, most in {most}."


def _badges(snapshot: Snapshot, shown: Programme, findings: int) -> views.EditBadges:
    share = sum(
        min(s.end, shown.length) - max(s.start, 0)
        for s in on_screen(shown, snapshot.rate)
        if isinstance(s.content, Picture) and s.start < shown.length and s.end > 0
    ) / max(1, snapshot.length)
    sheet = f"{int(100 * share + 1e-9)} % cut" if share else NOT_CUT.sheet
    checks = f"{findings} check{'s' if findings != 1 else ''}" if findings else "all clear"
    return views.EditBadges(sheet, checks)


def _keep_badges(project: Project, badges: views.EditBadges) -> None:
    if last_badges(project) == badges:
        return
    project.cache.mkdir(exist_ok=True)
    write_json(project.cache / _BADGES, vars(badges))
    _read_badges.cache_clear()


def last_badges(project: Project) -> views.EditBadges | None:
    """The badges remembered of the current edit; None where there are none yet."""
    return _read_badges(str(project.cache / _BADGES))


@lru_cache(maxsize=256)
def _read_badges(path: str) -> views.EditBadges | None:
    try:
        with open(path, encoding="utf-8") as file:
            return views.EditBadges(**json.load(file))
    except (OSError, ValueError, TypeError):
        return None


@one_moment
def edit_after_turning(project: Project, edit_id: int | None, note: str) -> views.EditView | None:
    """An edit after something was undone or redone; None where it is not there, or none was asked for."""
    if edit_id is None or not project.database.all(Version, id=edit_id) or project.about.song is None:
        return None
    return replace(edit_view(project, edit_id), note=note)


def _findings(snapshot: Snapshot, shown: Programme, edit: Edit, *, watched: bool) -> list[Finding]:
    """Checks of a programme, and what was planned but never shot, at its section."""
    starts = {s.name: seconds_to_frame(s.start_s, snapshot.rate) for s in reversed(snapshot.section_spans)}
    never = [
        Finding(
            "never shot", at := min(starts.get(s.section, 0), max(0, snapshot.length - 1)), at + 1,
            f"{s.section + ': ' if s.section else ''}{s.what} is on the shot list and was never shot.",
        )
        for s in listed_of(snapshot) if not (s.done or s.by_tag)
    ]  # fmt: skip
    names = {a.id: f"Angle {a.number}, {a.name}," for a in snapshot.angles}
    slipped = [
        *on_purpose(edit, names, snapshot.rate),
        *of_treatments(edit, snapshot.material, names, snapshot.limits),
    ]
    about = snapshot.about
    titles = title_findings(shown, about.width / about.height, snapshot.rate, snapshot.limits)
    found = sorted(
        [*snapshot.findings(shown, watched=watched), *slipped, *titles, *never],
        key=lambda f: (f.start, f.kind),
    )
    return with_accepted(found, edit)


@lru_cache(maxsize=1 << 14)
def source_view(source: Source) -> views.SourceView:
    """A source as the page sees it."""
    if isinstance(source, AngleSource):
        return views.SourceView(source.kind, source.angle, None, 0.0, 1.0, source.slip, "", None, None)
    if isinstance(source, ClipSource):
        return views.SourceView(source.kind, None, source.media, source.in_s, source.speed, 0, "", None, None)
    if isinstance(source, CardSource):
        words = source.card.text
        return views.SourceView(source.kind, None, None, 0.0, 1.0, 0, words, source.card, source.line)
    words = source.words if isinstance(source, Empty) else ""
    return views.SourceView(source.kind, None, None, 0.0, 1.0, 0, words, None, None)


def _lane_view(snapshot: Snapshot, edit: Edit, lane: Lane) -> views.LaneView:
    placed = edit.placed([lane])
    starts = [item.start for item, _ in placed]
    if snapshot.grid is None or not starts:
        places = [Relation(0, 1.0, 0, "")] * len(starts)
    else:
        places = relations(snapshot.grid, starts, snapshot.rate)
        places = [
            Relation(p.bar, p.beat, p.off_frames, "start") if at == 0 else p
            for at, p in zip(starts, places, strict=True)
        ]
    ends = [end for _, end in placed]
    items = _item_views(lane.items, snapshot.material, lane.id, beside=(ends, places))
    return views.LaneView(lane.id, lane.kind.name, lane.name, lane.on, lane.locked, items)


@each_by_identity(16)
def _item_views(item: Item, end: int, place: Relation, material: Material, _lane: int) -> views.ItemView:
    return _item_view(item, end, place, material if item.treatments else None)


@by_identity(1 << 14)
def _item_view(item: Item, end: int, place: Relation, material: Material | None) -> views.ItemView:
    return views.ItemView(
        item.id, item.start, end, source_view(item.source), item.held, place.bar, place.beat, place.off_frames,
        place.label, _treatments_view(item, end, material) if material else None,
    )  # fmt: skip


def _treatments_view(item: Item, end: int, material: Material) -> views.TreatmentsView:
    """Treatments of an item that lasts to ``end``."""
    media = item.source.media if isinstance(item.source, ClipSource) else ""
    done = worked(item, end, material)
    wrong = [trouble or "" for trouble in done.wrong]
    seen = done.time if not any(wrong) else None
    words = [
        "" if trouble else _words(t, done, seen, item.source, material, media)
        for t, trouble in zip(item.treatments, wrong, strict=True)
    ]
    return views.TreatmentsView(
        item.treatments, words, wrong, seen.pieces if seen else None, [done.ground.first, done.ground.end]
    )


def _words(
    t: Treatment, done: Worked, seen: TimeMap | None, source: Source, material: Material, media: str
) -> str:
    words = said(t, done.ground, material.rates.get(media))
    if isinstance(t, Blend) and t.how == "moved" and not t.off and not isinstance(source, Beneath):
        return f"{words} ({_making(source, seen, material, media)})"
    return words


def _making(source: Source, seen: TimeMap | None, material: Material, media: str) -> str:
    """Number of interpolated frames of a slowed shot, and about how long they take to make."""
    own = source.speed if isinstance(source, ClipSource) else 1.0
    step = own * float(material.rates.get(media, material.rate) / material.rate)
    steps = [(p.frames, abs(p.speed + p.end_speed) / 2 * step) for p in (seen.pieces if seen else ())]
    count = sum(frames for frames, v in steps if 0 < v < 1)
    if not count:
        return "nothing is slowed here"
    if material.making is None:
        return f"{count} frames made"
    long = material.making(count)
    about = f"{long:.0f} s" if long < 90 else f"{long / 60:.0f} min"
    return f"{count} frames made, about {about} more for the film"
