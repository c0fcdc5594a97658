"""Spans and programmes as the page sees them."""

from zembi.core.memory import by_identity, each_by_identity
from zembi.core.programme.model import Colour, Content, Hole, Programme, Span, Title
from zembi.core.titles.shown import ALL
from zembi.service.answers import views


def _words_of(content: Content) -> str:
    """A hole's reason, a title's words or a colour's code."""
    if isinstance(content, Hole):
        return content.reason
    if isinstance(content, Colour):
        return content.code
    return content.card.text if isinstance(content, Title) else ""


@by_identity(1 << 14)
def span_view(span: Span) -> views.SpanView:
    """A span as the page sees it."""
    content = span.content
    chain = [views.StepView(s.kind.name, {n: c.keys for n, c in s.curves}) for s in span.chain] or None
    card, shown = (content.card, content.shown) if isinstance(content, Title) else (None, ALL)
    return views.SpanView(
        span.start, span.end, type(content).__name__.lower(), span.media, _words_of(content),
        span.time.pieces, bool(span.blend), chain, card, None if shown == ALL else shown,
    )  # fmt: skip


@each_by_identity(16)
def _span_views(span: Span, _layer: int, _length: int) -> views.SpanView:
    return span_view(span)


def programme_view(shown: Programme) -> views.ProgrammeView:
    """A programme: its layers and its sound."""
    level = shown.sound.level
    return views.ProgrammeView(
        [_span_views(layer.spans, n, shown.length) for n, layer in enumerate(shown.layers)],
        views.SoundView(shown.sound.pieces, level.gain_db, level.fade_in_s, level.fade_out_s, level.shape),
    )
