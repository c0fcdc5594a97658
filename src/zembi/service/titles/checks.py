"""Checks of titles: too quick to read, letters that no font has, words outside the safe area, and one title over another."""

from collections.abc import Sequence
from fractions import Fraction
from itertools import combinations

from zembi.core.edit.checks import Finding
from zembi.core.programme.model import Programme, Span, Title
from zembi.core.titles.card import SAFE
from zembi.core.titles.lyric import QUICK_CPS, letters_a_second
from zembi.media.titles.layout import extent, set_card

#: Share of the frame by which words may reach out of the safe area, and over each other, before it is told.
_ROOM = 0.005
#: Most findings of one kind of pairs.
_MOST = 200


def title_findings(programme: Programme, aspect: float, rate: Fraction) -> list[Finding]:
    """What somebody would be sorry to find of the titles of a programme."""
    spans = [s for layer in programme.layers for s in layer.spans if isinstance(s.content, Title)]
    out: list[Finding] = []
    for span in spans:
        out += [Finding("title", span.start, span.end, text) for text in _of_one(span, aspect, rate)]
    return [*out, *_over_each_other(spans, aspect)]


def _of_one(span: Span, aspect: float, rate: Fraction) -> list[str]:
    assert isinstance(span.content, Title)
    card = span.content.card
    laid = set_card(card, aspect)
    named = f"The title “{' '.join(card.text.split())[:40]}”"
    out = []
    quick = letters_a_second(card.text, float(span.frames / rate))
    if quick > QUICK_CPS:
        out.append(
            f"{named} is too quick to read: {quick:.0f} characters a second; {QUICK_CPS:.0f} can be followed."
        )
    if laid.missing:
        letters = ", ".join(f"“{c}”" for c in laid.missing[:8])
        out.append(f"{named} has {letters}, which no font has: an empty box is seen.")
    left, top, right, bottom = _extent(span, aspect)
    if min(left, top) < SAFE - _ROOM or max(right, bottom) > 1 - SAFE + _ROOM:
        out.append(f"{named} reaches out of the safe area.")
    return out


def _over_each_other(spans: Sequence[Span], aspect: float) -> list[Finding]:
    out: list[Finding] = []
    ordered = sorted(spans, key=lambda s: s.start)
    for a, b in combinations(ordered, 2):
        if b.start >= a.end or len(out) >= _MOST:
            continue
        one, other = _extent(a, aspect), _extent(b, aspect)
        apart = (
            one[2] <= other[0] + _ROOM
            or other[2] <= one[0] + _ROOM
            or one[3] <= other[1] + _ROOM
            or other[3] <= one[1] + _ROOM
        )
        if not apart:
            assert isinstance(b.content, Title)
            words = " ".join(b.content.card.text.split())[:40]
            out.append(
                Finding("title", b.start, min(a.end, b.end), f"The title “{words}” lies over another.")
            )
    return out


def _extent(span: Span, aspect: float) -> tuple[float, float, float, float]:
    assert isinstance(span.content, Title)
    return extent(span.content.card, aspect)
