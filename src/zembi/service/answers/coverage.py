"""Views of the alternates of a part of the song."""

from dataclasses import dataclass

from zembi.service.answers.spans import span_view
from zembi.service.answers.views import SpanView
from zembi.service.lineup.alternates import alternates
from zembi.service.project.workspace import Project


@dataclass(frozen=True)
class AlternateView:
    """A pass in a part of the song, with facts that help to choose; see ``service/lineup/alternates.py``."""

    pass_id: int
    media: str
    covers: float
    lips_ms: float | None
    sharp: float | None
    light: float | None
    burnt: float | None
    shaky_s: float | None
    spans: list[SpanView]
    feeds: list[list[int]]


def alternate_views(project: Project, angle: int, start_s: float, end_s: float) -> list[AlternateView]:
    """Passes of an angle with picture between two working times, in a steady order."""
    return [
        AlternateView(
            **{**vars(a), "spans": [span_view(s) for s in a.spans], "feeds": [list(f) for f in a.feeds]}
        )
        for a in alternates(project, angle, start_s, end_s)
    ]
