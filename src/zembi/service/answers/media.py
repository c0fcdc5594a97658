"""Files, clips and selects as the page sees them."""

from collections.abc import Sequence
from fractions import Fraction
from math import isnan, nan

from zembi.core.footage.fate import fate_of
from zembi.core.footage.files import Said
from zembi.core.footage.fit import Fit, placed_by
from zembi.core.footage.tags import tagged_for
from zembi.core.timebase import rate_label, slowest
from zembi.media.derive import derived_name, is_derived
from zembi.service.answers import views
from zembi.service.media.analyses import derived_facts, light_and_motion
from zembi.service.media.footage import camera_of, condition
from zembi.service.project.snapshot import Snapshot
from zembi.service.project.workspace import Project
from zembi.store.entities import Media, Section, Select


def _fit_view(fit: Fit) -> views.FitView:
    to = views.FramingView(**vars(fit.to)) if fit.to else None
    return views.FitView(fit.how, fit.x, fit.y, fit.scale, fit.turn, to)


def stills_of(project: Project, row: Media) -> int:
    """Number of small stills of a file."""
    facts = derived_facts(project.derived(row)) if row.content else None
    return int(facts.get("stills", 0)) if facts else 0


def media_view(
    project: Project,
    row: Media,
    film: tuple[int, int],
    film_rate: Fraction,
    sections: Sequence[Section] = (),
) -> views.MediaView:
    """A file as the page sees it."""
    facts = row.facts
    made = derived_facts(project.derived(row)) if row.content else None
    path, now = project.path_of(row), condition(project, row)
    return views.MediaView(
        id=row.id, kind=row.kind, name=row.name, file=path.name, folder=str(path.parent), state=row.state,
        error=row.error, condition=now.state, trouble=now.words, prepared=bool(row.content) and is_derived(project.cache, row.content),
        made_of=derived_name(row.content) if row.content else "", seconds=row.seconds,
        width=facts.width, height=facts.height, rate=rate_label(facts.rate) if facts.rate else "",
        variable=facts.variable, rotation=facts.rotation, timecode=facts.timecode, has_sound=facts.has_sound,
        codec=facts.video_codec or facts.sound_codec,
        stills=int(made.get("stills", 0)) if made else 0, camera=camera_of(row),
        undecided=row.said.undecided,
        select_in_s=row.in_s, select_out_s=row.out_s,
        slowest=slowest(facts.rate, film_rate) if facts.rate and not facts.variable and not facts.still else 1.0, created=facts.created, still=facts.still, alpha=facts.alpha,
        fate=fate_of(facts, film, film_rate), fit=_fit_view(row.said.fit),
        placed=views.PlacedView(**vars(placed_by(row.said.fit, (facts.width, facts.height), film))),
        grade=dict(row.said.grade), evened=bool(row.said.evened), table=views.TableOfFileView(row.said.table, row.said.table_share),
        said=_said(project, row, row.said, row.in_s, row.out_s, sections),
    )  # fmt: skip


def _said(
    project: Project, row: Media, said: Said, in_s: float, out_s: float, sections: Sequence[Section]
) -> views.SaidView:
    """Labels of a clip or select, and measurements of that range of its file."""
    seen = row.content and row.kind in ("broll", "take")
    means = light_and_motion(project.derived(row), in_s, out_s) if seen else (nan, nan)
    light, motion = (None if isnan(m) else round(m, 3) for m in means)
    return views.SaidView(
        said.rating, list(said.tags), said.hue, said.note, said.speed, light, motion, said.moment_s,
        [s.id for s in sections if said.tags and tagged_for(s.name, said.tags)],
    )  # fmt: skip


def select_views(snapshot: Snapshot) -> list[views.SelectView]:
    """Selects of clips."""
    return [
        views.SelectView(
            s.id, s.media, s.name, s.in_s, s.out_s,
            _said(snapshot.project, snapshot.by_id[s.media], s.said, s.in_s, s.out_s, snapshot.sections),
        )
        for s in snapshot.project.database.all(Select)
    ]  # fmt: skip
