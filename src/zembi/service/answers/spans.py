"""Spans and programmes as the page sees them."""

from zembi.core.memory import by_identity
from zembi.core.programme.model import Colour, Content, Hole, Programme, Span, Title
from zembi.service.answers import views


def _words_of(content: Content) -> str:
    """A hole's reason, a title's words or a colour's code."""
    if isinstance(content, Hole):
        return content.reason
    if isinstance(content, Colour):
        return content.code
    return content.text if isinstance(content, Title) else ""


@by_identity(1 << 14)
def span_view(span: Span) -> views.SpanView:
    """A span as the page sees it."""
    content = span.content
    chain = [views.StepView(s.kind.name, {n: c.keys for n, c in s.curves}) for s in span.chain] or None
    return views.SpanView(
        span.start, span.end, type(content).__name__.lower(), span.media, _words_of(content),
        span.time.pieces, bool(span.blend), chain,
    )  # fmt: skip


def programme_view(shown: Programme) -> views.ProgrammeView:
    """A programme: its layers and its sound."""
    level = shown.sound.level
    return views.ProgrammeView(
        [[span_view(s) for s in layer.spans] for layer in shown.layers],
        views.SoundView(shown.sound.pieces, level.gain_db, level.fade_in_s, level.fade_out_s, level.shape),
    )
