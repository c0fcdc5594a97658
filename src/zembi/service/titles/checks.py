"""Checks of titles: too quick to read, letters that no font has, words outside the safe area, and one title over another."""

from collections.abc import Sequence
from fractions import Fraction
from itertools import islice

from zembi.core.edit.checks import Finding
from zembi.core.edit.limits import CheckLimits
from zembi.core.programme.flatten import whole_titles
from zembi.core.programme.model import Programme, Span, Title
from zembi.core.titles.card import SAFE
from zembi.core.titles.lyric import letters_a_second
from zembi.media.titles.layout import extent, set_card

#: Share of the frame by which words may reach out of the safe area, and over each other, before it is told.
_ROOM = 0.005
#: Most findings of titles over each other.
_MOST = 200


def title_findings(programme: Programme, aspect: float, rate: Fraction, limits: CheckLimits) -> list[Finding]:
    """Findings on the titles of a programme, each by itself and over each other."""
    spans = [s for layer in programme.layers for s in whole_titles(layer)]
    out: list[Finding] = []
    for span in spans:
        said = _of_one(span, aspect, rate, limits.reading_cps)
        out += [Finding("title", span.start, span.end, text, _item(span)) for text in said]
    return [*out, *_over_each_other(spans, aspect)]


def _item(span: Span) -> tuple[int, ...]:
    return (span.why.item,) if span.why is not None else ()


def _of_one(span: Span, aspect: float, rate: Fraction, quickest: float) -> list[str]:
    assert isinstance(span.content, Title)
    card = span.content.card
    laid = set_card(card, aspect)
    named = f"The title “{' '.join(card.text.split())[:40]}”"
    out = []
    quick = letters_a_second(card.text, float(span.frames / rate))
    if quick > quickest:
        out.append(
            f"{named} is too quick to read: {quick:.0f} characters a second; {quickest:.0f} can be followed."
        )
    if laid.missing:
        letters = ", ".join(f"“{c}”" for c in laid.missing[:8])
        out.append(f"{named} has {letters}, which no font has: an empty box is seen.")
    if laid.stand_in:
        out.append(f"{named}: {laid.stand_in}")
    left, top, right, bottom = _extent(span, aspect)
    if min(left, top) < SAFE - _ROOM or max(right, bottom) > 1 - SAFE + _ROOM:
        out.append(f"{named} reaches out of the safe area.")
    return out


def _over_each_other(spans: Sequence[Span], aspect: float) -> list[Finding]:
    out: list[Finding] = []
    ordered = sorted(spans, key=lambda s: s.start)
    for n, below in enumerate(ordered):
        for above in islice(ordered, n + 1, None):
            if above.start >= below.end or len(out) >= _MOST:
                break
            if _apart(_extent(below, aspect), _extent(above, aspect)):
                continue
            assert isinstance(above.content, Title)
            words = " ".join(above.content.card.text.split())[:40]
            end = min(below.end, above.end)
            out.append(
                Finding("title", above.start, end, f"The title “{words}” lies over another.", _item(above))
            )
    return out


def _apart(one: Sequence[float], other: Sequence[float]) -> bool:
    """True if two extents (left, top, right, bottom) share no more than what is let pass."""
    return any(a[k + 2] <= b[k] + _ROOM for k in (0, 1) for a, b in ((one, other), (other, one)))


def _extent(span: Span, aspect: float) -> tuple[float, float, float, float]:
    assert isinstance(span.content, Title)
    return extent(span.content.card, aspect)
