"""Files, clips and selects as the page sees them."""

from collections.abc import Mapping
from fractions import Fraction
from math import isnan, nan
from typing import Any

from zembi.core.footage.fit import Fit, placed_by
from zembi.core.timebase import rate_label
from zembi.media.derive import derived_name, is_derived
from zembi.service.answers import views
from zembi.service.media.analyses import derived_facts, light_and_motion
from zembi.service.media.footage import camera_of, condition, fit_of
from zembi.service.project.snapshot import Snapshot
from zembi.service.project.workspace import Project
from zembi.store.entities import Media, Select


def _fit_view(fit: Fit) -> views.FitView:
    to = views.FramingView(**vars(fit.to)) if fit.to else None
    return views.FitView(fit.how, fit.x, fit.y, fit.scale, fit.turn, to)


def stills_of(project: Project, row: Media) -> int:
    """How many small stills there are of a file."""
    facts = derived_facts(project.derived(row)) if row.content else None
    return int(facts.get("stills", 0)) if facts else 0


def media_view(project: Project, row: Media, film: tuple[int, int]) -> views.MediaView:
    """A file as the page sees it."""
    facts, tags = row.facts, row.tags
    made = derived_facts(project.derived(row)) if row.content else None
    seconds = float(facts.get("duration_s", 0.0))
    path, now = project.path_of(row), condition(project, row)
    rate = facts.get("rate", "")
    return views.MediaView(
        id=row.id, kind=row.kind, name=row.name, file=path.name, folder=str(path.parent), state=row.state,
        error=row.error, condition=now.state, trouble=now.words, prepared=bool(row.content) and is_derived(project.cache, row.content),
        made_of=derived_name(row.content) if row.content else "", seconds=seconds,
        width=facts.get("width", 0), height=facts.get("height", 0),
        rate=rate_label(Fraction(rate)) if rate else "",
        variable=bool(facts.get("variable", False)), rotation=facts.get("rotation", 0),
        timecode=facts.get("timecode", ""), has_sound=bool(facts.get("has_sound", False)),
        codec=facts.get("video_codec", "") or facts.get("sound_codec", ""),
        stills=int(made.get("stills", 0)) if made else 0, camera=camera_of(row),
        select_in_s=float(tags.get("in_s", 0.0)), select_out_s=float(tags.get("out_s", seconds)),
        created=facts.get("created", ""), still=bool(facts.get("still", False)), fit=_fit_view(fit_of(row)),
        placed=views.PlacedView(**vars(placed_by(fit_of(row), (facts.get("width", 0), facts.get("height", 0)), film))),
        said=_said(project, row, tags, float(tags.get("in_s", 0.0)), float(tags.get("out_s", seconds))),
    )  # fmt: skip


def _said(project: Project, row: Media, said: Mapping[str, Any], in_s: float, out_s: float) -> views.SaidView:
    """What is said of a clip or select, and what was measured of that range of its file."""
    seen = row.content and row.kind in ("broll", "take")
    means = light_and_motion(project.derived(row), in_s, out_s) if seen else (nan, nan)
    light, motion = (None if isnan(m) else round(m, 3) for m in means)
    return views.SaidView(
        int(said.get("rating", 0)), list(said.get("tags", [])), int(said.get("hue", 0)), str(said.get("note", "")),
        float(said.get("speed", 1.0)), light, motion, said.get("moment_s"),
    )  # fmt: skip


def select_views(snapshot: Snapshot) -> list[views.SelectView]:
    """Selects of clips."""
    return [
        views.SelectView(
            s.id, s.media, s.name, s.in_s, s.out_s,
            _said(snapshot.project, snapshot.by_id[s.media], s.said, s.in_s, s.out_s),
        )
        for s in snapshot.project.database.all(Select)
    ]  # fmt: skip
