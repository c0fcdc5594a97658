"""Hits: what is struck or changes in the music at a moment, by kind, each with a strength."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np

from zembi.core.song.attack import AttackRises
from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum

#: Kinds of hits: strokes of the drum kit (of the cymbals all, and those that can be told apart), attacks by band of the
#: spectrum, changes of chord, and entries (voice or instruments come in or stop).
HitKind = Literal[
    "kick", "snare", "hat", "cymbal", "crash", "ride", "tom", "low", "mid", "high", "chord", "entry"
]
HIT_KINDS: tuple[HitKind, ...] = get_args(HitKind)
#: What one hit of each kind is called, and several.
HIT_NAMES: Mapping[str, tuple[str, str]] = {
    "kick": ("kick", "kicks"),
    "snare": ("snare", "snares"),
    "hat": ("hat", "hats"),
    "cymbal": ("cymbal", "cymbals"),
    "crash": ("crash", "crashes"),
    "ride": ("ride", "rides"),
    "tom": ("tom", "toms"),
    "low": ("low attack", "low attacks"),
    "mid": ("middle attack", "middle attacks"),
    "high": ("high attack", "high attacks"),
    "chord": ("change of chord", "changes of chord"),
    "entry": ("entry", "entries"),
}
#: Rows in which hits are shown: strokes, in a song of which so many are heard, else attacks by band; and what neither marks.
STROKE_ROWS: tuple[HitKind, ...] = ("kick", "snare", "hat", "cymbal", "crash", "tom")
ATTACK_ROWS: tuple[HitKind, ...] = ("low", "mid", "high")
TURN_ROWS: tuple[HitKind, ...] = ("chord", "entry")
WITH_DRUMS = 24

#: Hits a bar of each band that are at least half as strong as can be.
_USUAL = 0.75
#: Seconds about a hit whose hits are the carpet that it stands out of, and by what power it counts that it does.
_AROUND_S, _STANDING_OUT = 4.0, 0.7
#: A weak stroke in its band is no strong hit, however few there are.
_WEAK = 0.3
#: A stroke so near to the beginning of a bar is on it, and counts so much more: enough among equals only.
_ON_BAR_S, _BEGINS_BAR = 0.04, 1.08
#: Bars are taken to be about so long where none were found.
_BAR_S = 2.0
#: How early a stroke still belongs to the span that it begins, in seconds.
_EARLY_S = 0.03


@dataclass(frozen=True)
class Hit:
    """A hit at a song time, strength 0..1 (1: the strongest of its kind), and how sure it is that it is one.

    Half as strong and more are what a person would mark: of attacks by band, as :func:`accented` gives them, about three
    in four bars whatever the music; of strokes those that :mod:`zembi.core.song.strokes` says.
    """

    at_s: float
    strength: float
    sure: float = 1.0


def pick_hits(envelope: Floats, rises: AttackRises, *, floor: float = 0.08, gap_s: float = 0.06) -> list[Hit]:
    """Peaks of one band's onset envelope, each at the time of its attack.

    Args:
        envelope: Onset strength a frame.
        rises: Of the same sound.
        floor: Least strength kept, 0..1; what is shown is chosen later by sensitivity.
        gap_s: Least time between two hits; the stronger stays.
    """
    top = float(np.percentile(envelope, 99.5)) or 1.0
    scaled = np.clip(envelope / max(top, 1e-9), 0, 1)
    inner = (scaled[1:-1] >= scaled[:-2]) & (scaled[1:-1] > scaled[2:]) & (scaled[1:-1] >= floor)
    peaks = np.nonzero(inner)[0] + 1
    gap = int(gap_s * FRAME_RATE)
    kept: list[int] = []
    for p in peaks:
        if kept and p - kept[-1] < gap:
            if scaled[p] > scaled[kept[-1]]:
                kept[-1] = int(p)
        else:
            kept.append(int(p))
    times = rises.time_of(np.array(kept) / FRAME_RATE)
    return [Hit(float(at), float(scaled[p])) for at, p in zip(times, kept, strict=True)]


def band_attacks(spectrum: Spectrum, rises: AttackRises) -> dict[str, list[Hit]]:
    """Attacks in every band of the spectrum; their strength is the share of the strongest rises of the band."""
    return {name: pick_hits(envelope, rises) for name, envelope in spectrum.band_flux.items()}


def accented(
    hits: Mapping[str, list[Hit]], downbeats: Sequence[float], seconds: float
) -> dict[str, list[Hit]]:
    """Hits with strengths that tell accents from the carpet of strokes between them.

    How hard a stroke is counts, how far it stands out of those around it and, among equals, whether it begins a bar. The
    strength is by its place among all of its band, so that it is as useful on dense music as on sparse.

    Args:
        hits: From :func:`band_attacks`.
        downbeats: Song times at which bars begin, ascending.
        seconds: Length of the song.
    """
    bars = len(downbeats) or seconds / _BAR_S
    return {band: _accented(found, np.asarray(downbeats), bars) for band, found in hits.items()}


def _accented(hits: Sequence[Hit], downbeats: Floats, bars: float) -> list[Hit]:
    times, hard = np.array([h.at_s for h in hits]), np.array([h.strength for h in hits])
    if not len(hits):
        return []
    first, last = np.searchsorted(times, times - _AROUND_S), np.searchsorted(times, times + _AROUND_S)
    sums = np.concatenate([[0.0], np.cumsum(hard)])
    carpet = (sums[last] - sums[first]) / (last - first)
    accent = hard * (hard / np.maximum(carpet, 1e-9)) ** _STANDING_OUT
    if len(downbeats):
        at = np.clip(np.searchsorted(downbeats, times), 1, len(downbeats) - 1) if len(downbeats) > 1 else 0
        near = np.minimum(np.abs(times - downbeats[at]), np.abs(times - downbeats[at - 1]))
        accent *= np.where(near < _ON_BAR_S, _BEGINS_BAR, 1.0)
    place = np.empty(len(hits))
    place[np.argsort(-accent, kind="stable")] = np.arange(len(hits)) + 0.5
    strength = np.minimum(1 / (1 + place / max(1.0, bars) / _USUAL), hard**_WEAK)
    return [replace(h, strength=float(s)) for h, s in zip(hits, strength, strict=True)]


def strongest_of_each(hits: Sequence[Hit], edges: Sequence[float]) -> list[Hit]:
    """The strongest hit of each span between edges (bars, say), the earliest of equals; spans without hits give none.

    Args:
        hits: In any order.
        edges: Ascending song times.
    """
    best: dict[int, Hit] = {}
    for hit in sorted(hits, key=lambda h: (-h.strength, h.at_s)):
        # A stroke that is early by what the ear does not hear belongs to the bar it begins.
        span = bisect_left(edges, hit.at_s + _EARLY_S)
        if 0 < span < len(edges):
            best.setdefault(span, hit)
    return sorted(best.values(), key=lambda h: h.at_s)


def hit_density(
    hits: Mapping[str, list[Hit]], count: int, *, hop_s: float = 0.1, window_s: float = 3.0
) -> Floats:
    """Strokes a second, weighed by strength, around each hop; shape (count,)."""
    out = np.zeros(count)
    for band in hits.values():
        for hit in band:
            out[min(count - 1, int(hit.at_s / hop_s))] += hit.strength
    width = round(window_s / hop_s)
    return np.asarray(np.convolve(out, np.ones(width) / window_s, mode="same")[:count])
