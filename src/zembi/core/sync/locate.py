"""Every pass of a take at one speed: search, verify, measure, settle against repeats, explain away, search again."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Protocol

import numpy as np

from zembi.core.sync import confidence as sure
from zembi.core.sync.features import RATE, SoundFeatures
from zembi.core.sync.found import FoundPass, SongPlace, joined, same_line
from zembi.core.sync.passes import agreement, evenness, find_extent, sounding
from zembi.core.sync.refine import Evidence, Line, correlate_windows, measure, stack
from zembi.core.sync.rivals import Rival, compare, other_places
from zembi.core.sync.search import OffsetCandidate, Vote, flux_votes, gather, matched_votes

#: Shortest stretch of take that is searched for a pass of its own.
SHORTEST_S = 3.0
#: A further pass may be shorter than this only with the evidence of a strong one: speech and drums look like little bits.
_FURTHER_S, _FURTHER_Z = 6.0, 16.0


#: Beside a place that was verified, one that this share of its votes speaks for is not looked into.
_WORTH_TESTING = 0.4
#: A take is taken for upside down where that explains so many times as much.
_UPSIDE_DOWN = 1.25


class Search(Protocol):
    """A way to find places for stretches of a take; it calls ``told`` as it goes."""

    def __call__(
        self,
        song: SoundFeatures,
        take: SoundFeatures,
        spans: list[tuple[float, float]],
        *,
        told: Callable[[], None],
    ) -> list[Vote]: ...


SEARCHES: tuple[Search, ...] = (flux_votes, matched_votes)


def verify(
    song: SoundFeatures, take: SoundFeatures, candidate: OffsetCandidate, *, either_way: bool = False
) -> Evidence:
    """Test a candidate on the waveform around its own evidence, of the take or also of the take upside down."""
    line = Line(candidate.offset_s)
    start = max(0.0, candidate.start_s, -candidate.offset_s)
    end = min(take.seconds, candidate.end_s + 8.0, song.seconds - candidate.offset_s)
    windows = correlate_windows(song, take, line, start, end, most=24, reach_s=0.08)
    upright = stack(windows, line)
    if not either_way:
        return upright
    turned = stack(replace(windows, rows=-windows.rows), line)
    if turned.z < sure.LEAST_Z:
        return upright
    peak = max(agreement(song, take, line, start, end) for line in _about(upright.line))
    trough = -min(agreement(song, take, line, start, end) for line in _about(turned.line))
    # A narrow band has deep troughs beside its peak: only a clearly deeper one is the song upside down.
    return replace(turned, inverted=True) if trough > _UPSIDE_DOWN * peak else upright


def _about(line: Line) -> list[Line]:
    """A line and those within half a sample of it."""
    return [replace(line, offset_s=line.offset_s + k / 4 / RATE) for k in (-2, -1, 0, 1, 2)]


def _free_spans(passes: list[FoundPass], seconds: float) -> list[tuple[float, float]]:
    spans, at = [], 0.0
    for p in sorted(passes, key=lambda p: p.take_start_s):
        spans.append((at, p.take_start_s))
        at = max(at, p.take_end_s)
    spans.append((at, seconds))
    return [(a, b) for a, b in spans if b - a >= SHORTEST_S]


def _best_candidate(
    song: SoundFeatures,
    take: SoundFeatures,
    spans: list[tuple[float, float]],
    searches: Sequence[Search],
    told: Callable[[], None],
    either_way: bool,
) -> tuple[OffsetCandidate, Evidence] | None:
    """The verified place that explains most of the spans; the dearer search runs only if the cheap one fails."""
    for search in searches:
        tested: list[tuple[OffsetCandidate, Evidence]] = []
        votes = search(song, take, spans, told=told)
        for candidate in gather(votes, bin_s=0.05 if search is flux_votes else 0.03, count=8):
            told()
            if tested and candidate.score < _WORTH_TESTING * tested[0][0].score:
                break
            evidence = verify(song, take, candidate, either_way=either_way)
            if evidence.z >= sure.LEAST_Z:
                tested.append((candidate, evidence))
        if tested:
            # Of places that fit, the one that explains most of the take: a repeat explains only its own part.
            return max(tested, key=lambda pair: _explained(song, take, *pair))
    return None


def _explained(
    song: SoundFeatures, take: SoundFeatures, candidate: OffsetCandidate, evidence: Evidence
) -> float:
    explained = agreement(song, take, evidence.line, candidate.start_s, candidate.end_s + 8.0)
    return -explained if evidence.inverted else explained


def pass_at(
    song: SoundFeatures,
    take: SoundFeatures,
    line: Line,
    core: tuple[float, float],
    bounds: tuple[float, float],
) -> FoundPass | None:
    """Measure a pass along a verified line: borders, line, borders again with the better line.

    Args:
        song: The song.
        take: The take.
        line: Where it lies, to within 60 ms.
        core: Take range in which the evidence was found.
        bounds: Take range that the pass may not leave.
    """
    extent = find_extent(song, take, line, core, bounds)
    for most in (60, 400):
        if extent[1] - extent[0] < SHORTEST_S * 0.6:
            return None
        wide = stack(correlate_windows(song, take, line, *extent, reach_s=0.06, most=most // 5 + 24), line)
        fine = correlate_windows(song, take, wide.line, *extent, window_s=3.0, reach_s=0.012, most=most)
        if not len(fine.centres_s):
            return None
        line, residual, _ = measure(fine, wide.line)
        extent = find_extent(song, take, line, extent, bounds)
    if extent[1] - extent[0] < SHORTEST_S * 0.6 or wide.z < sure.LEAST_Z:
        return None
    good = ~np.isnan(residual)
    spread = float(np.median(np.abs(residual[good]))) if good.any() else 0.01
    whole = sounding(song, take, line, *extent)
    sure_of_it = sure.confidence(
        wide.z, extent[1] - extent[0], spread,
        soft=whole.soft, middle=whole.middle, evenness=evenness(song, take, line, *extent),
    )  # fmt: skip
    return FoundPass(
        extent[0], extent[1], line.song(extent[0]), line.rate,
        sure_of_it, float(wide.z),
        residuals=[(float(t), float(r)) for t, r in zip(fine.centres_s[good], residual[good], strict=True)],
    )  # fmt: skip


def _rivals(song: SoundFeatures, take: SoundFeatures, found: FoundPass) -> list[Rival]:
    line, start, end = found.line, found.take_start_s, found.take_end_s
    return [
        compare(song, take, line, Line(line.offset_s + shift, line.rate), start, end)
        for shift, _share in other_places(song, take, line, start, end)
    ]


def _on_best_repeat(
    song: SoundFeatures, take: SoundFeatures, found: FoundPass, bounds: tuple[float, float]
) -> tuple[FoundPass, list[Rival]]:
    """Move a pass to the repeat of its music that the take prefers, and measure it anew there.

    Returns:
        The pass, and the rivals it has where it lies.
    """
    rivals = _rivals(song, take, found)
    for _ in range(4):
        better = [r for r in rivals if r.decided < -sure.DECIDED and r.score > 1.0]
        if not better:
            break
        best = max(better, key=lambda r: r.score)
        there = pass_at(song, take, best.line, (found.take_start_s, found.take_end_s), bounds)
        if there is None:
            break
        found = there
        rivals = _rivals(song, take, found)
    return found, rivals


def _continued(
    song: SoundFeatures, take: SoundFeatures, found: FoundPass, bounds: tuple[float, float]
) -> list[FoundPass]:
    """Continuations of a pass on its own line, beyond a break in which the song was too quiet to be heard."""
    line = found.line
    sides = (
        (max(bounds[0], line.take(0.0)), found.take_start_s),
        (found.take_end_s, min(bounds[1], line.take(song.seconds))),
    )
    more = []
    for side in sides:
        if side[1] - side[0] < SHORTEST_S:
            continue
        evidence = stack(correlate_windows(song, take, line, *side, reach_s=0.01), line, np.zeros(1))
        part = pass_at(song, take, line, side, side) if evidence.z >= sure.LEAST_Z else None
        if part is not None and same_line(part, found):
            more.append(part)
    return more


def settled(found: FoundPass, rivals: list[Rival]) -> FoundPass:
    """Keep the equals among a pass's rivals; its confidence is shared with them."""
    equal = [r for r in rivals if r.score >= sure.EQUAL and r.decided < sure.DECIDED]
    if not equal:
        return replace(found, rivals=[])
    places = [
        SongPlace(found.take_start_s, found.take_end_s, line.song(found.take_start_s), found.rate, score)
        for line, score in [(found.line, 1.0), *((r.line, min(1.0, r.score)) for r in equal)]
    ]
    places.sort(key=lambda p: p.song_start_s)
    return replace(found, rivals=places, confidence=found.confidence / len(places))


def passes_at_speed(
    song: SoundFeatures,
    take: SoundFeatures,
    *,
    searches: Sequence[Search] = SEARCHES,
    progress: Callable[[float], None] = lambda _s: None,
) -> list[FoundPass]:
    """All passes at the take's present speed: the strongest first, then what it leaves unexplained.

    Args:
        song, take: Prepared sound.
        searches: Which searches may be used, the cheap one first.
        progress: Told the share done; may raise to stop.
    """
    passes: list[FoundPass] = []
    rivals: dict[int, list[Rival]] = {}
    tried: set[tuple[int, int]] = set()
    for round_ in range(24):

        def told(share: float = 1 - 0.8**round_) -> None:
            progress(share)

        told()
        spans = [s for s in _free_spans(passes, take.seconds) if (int(s[0] * 4), int(s[1] * 4)) not in tried]
        best = _best_candidate(song, take, spans, searches, told, not passes) if spans else None
        if best is None:
            break
        candidate, evidence = best
        if evidence.inverted:
            take = take.upside_down()
        span = max(spans, key=lambda s: min(s[1], candidate.end_s + 8) - max(s[0], candidate.start_s))
        core = (max(span[0], candidate.start_s), min(span[1], candidate.end_s + 8.0))
        found = pass_at(song, take, evidence.line, core, span)
        if found is not None:
            found, against = _on_best_repeat(song, take, found, span)
        if found is None or (passes and _thin(found)):
            tried.add((int(span[0] * 4), int(span[1] * 4)))
            continue
        passes.append(found)
        rivals[id(found)] = against
        passes += _continued(song, take, found, span)
    whole = joined(passes)
    # A pass that was joined from several is compared anew: its whole length may decide what its parts could not.
    known = [rivals[id(p)] if id(p) in rivals else _rivals(song, take, p) for p in whole]
    return _believed([settled(p, r) for p, r in zip(whole, known, strict=True)])


def _thin(found: FoundPass) -> bool:
    return found.take_end_s - found.take_start_s < _FURTHER_S and found.z < _FURTHER_Z


def _believed(passes: list[FoundPass]) -> list[FoundPass]:
    """Passes that are more than chance. Long stretches that match only here and there make the whole take suspect."""
    places = [max(1, len(p.rivals)) * p.confidence for p in passes]
    # Beside a strong pass, a further one needs strong evidence of its own.
    least = sure.BELIEVE_FURTHER_AT if max(places, default=0.0) >= sure.LOCK_AT else sure.BELIEVE_AT
    kept = [p for p, c in zip(passes, places, strict=True) if c >= least]
    doubted = [
        p for p, c in zip(passes, places, strict=True) if c < sure.BELIEVE_AT and p.z >= 1.3 * sure.LEAST_Z
    ]
    share = sum(p.take_end_s - p.take_start_s for p in doubted)
    own = sum(p.take_end_s - p.take_start_s for p in kept)
    if share > own:
        # Another song with shared sounds explains the doubted stretches; it explains the short ones too.
        return [replace(p, confidence=min(p.confidence, 0.6)) for p in kept if p.z > 2 * sure.LEAST_Z]
    return kept
