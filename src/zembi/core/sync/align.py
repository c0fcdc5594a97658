"""Aligning a take to the song: search, verify, measure, explain away, and say how sure it is."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from zembi.core.sync import confidence as sure
from zembi.core.sync.features import RATE, Singles, Sound, at_speed, is_silent, prepare
from zembi.core.sync.passes import Rival, compare, continuity, find_extent, self_repeats
from zembi.core.sync.refine import Evidence, Line, correlate_windows, measure, stack
from zembi.core.sync.search import Candidate, flux_votes, gather, matched_votes

#: Raise when results change, so that kept alignments are made again.
VERSION = 1
#: Shortest stretch of take that is searched for a pass of its own.
SHORTEST_S = 3.0

Status = Literal["locked", "choose", "unmatched", "silent"]


@dataclass(frozen=True)
class Place:
    """One place at which a stretch of take fits the song; ``score`` is relative to the best (1.0)."""

    take_start_s: float
    take_end_s: float
    song_start_s: float
    rate: float
    score: float


@dataclass(frozen=True)
class FoundPass:
    """One unbroken run of the song inside a take.

    Attributes:
        take_start_s, take_end_s: Take range, seconds of the take's picture clock.
        song_start_s: Song time at ``take_start_s``.
        rate: Song seconds a take second.
        confidence: 0..1.
        z: Evidence in standard deviations of chance.
        residuals: (take time, residual in seconds) of each measured window.
        rivals: Other places that fit equally well; empty where the place is settled.
    """

    take_start_s: float
    take_end_s: float
    song_start_s: float
    rate: float
    confidence: float
    z: float
    residuals: list[tuple[float, float]] = field(default_factory=list)
    rivals: list[Place] = field(default_factory=list)

    @property
    def locked(self) -> bool:
        """Whether the place is settled by computation."""
        return not self.rivals and self.confidence >= sure.LOCK_AT


@dataclass(frozen=True)
class TakeAlignment:
    """All passes of one take, in take order."""

    status: Status
    confidence: float
    passes: list[FoundPass]


def _hypotheses(take_sound: Singles) -> list[tuple[float, Callable[[], Sound]]]:
    """Speeds to try in turn: (song seconds a take second, the take made ready at that speed)."""
    return [
        (1.0, lambda: prepare(take_sound)),
        (1000 / 1001, lambda: prepare(at_speed(take_sound, 1000, 1001))),
        (1001 / 1000, lambda: prepare(at_speed(take_sound, 1001, 1000))),
    ]


def _verify(song: Sound, take: Sound, candidate: Candidate) -> Evidence:
    """Test a candidate on the waveform, first around its own evidence."""
    line = Line(candidate.offset_s)
    start = max(0.0, candidate.start_s, -candidate.offset_s)
    end = min(take.seconds, candidate.end_s + 8.0, song.seconds - candidate.offset_s)
    return stack(correlate_windows(song, take, line, start, end, most=40, reach_s=0.08), line)


def _free_spans(passes: list[FoundPass], seconds: float) -> list[tuple[float, float]]:
    spans, at = [], 0.0
    for p in sorted(passes, key=lambda p: p.take_start_s):
        spans.append((at, p.take_start_s))
        at = max(at, p.take_end_s)
    spans.append((at, seconds))
    return [(a, b) for a, b in spans if b - a >= SHORTEST_S]


def _best_candidate(
    song: Sound, take: Sound, spans: list[tuple[float, float]]
) -> tuple[Candidate, Evidence] | None:
    """The verified place with most evidence in the spans; the dearer search runs only if the cheap one fails."""
    for search in (flux_votes, matched_votes):
        tested: list[tuple[Candidate, Evidence]] = []
        votes = search(song, take, spans)
        for candidate in gather(votes, bin_s=0.05 if search is flux_votes else 0.03, count=8):
            evidence = _verify(song, take, candidate)
            if evidence.z >= sure.LEAST_Z:
                tested.append((candidate, evidence))
        if tested:
            # Of places that fit, the one that explains most of the take: a repeat explains only its own part.
            return max(tested, key=lambda pair: pair[1].z * np.sqrt(pair[0].end_s - pair[0].start_s + 8.0))
    return None


def _pass_at(
    song: Sound, take: Sound, evidence: Evidence, core: tuple[float, float], bounds: tuple[float, float]
) -> FoundPass | None:
    """Measure a pass along a verified line: borders, line, borders again with the better line."""
    line = evidence.line
    extent = find_extent(song, take, line, core, bounds)
    for _ in range(2):
        if extent[1] - extent[0] < SHORTEST_S * 0.6:
            return None
        wide = stack(correlate_windows(song, take, line, *extent, reach_s=0.06), line)
        fine = correlate_windows(song, take, wide.line, *extent, window_s=3.0, hop_s=1.0, reach_s=0.012)
        if not len(fine.centres_s):
            return None
        line, residual, _ = measure(fine, wide.line)
        extent = find_extent(song, take, line, extent, bounds)
    if extent[1] - extent[0] < SHORTEST_S * 0.6 or wide.z < sure.LEAST_Z:
        return None
    good = ~np.isnan(residual)
    spread = float(np.median(np.abs(residual[good]))) if good.any() else 0.01
    steady = continuity(song, take, line, *extent)
    return FoundPass(
        extent[0],
        extent[1],
        line.song(extent[0]),
        line.rate,
        sure.confidence(wide.z, extent[1] - extent[0], spread, steady),
        wide.z,
        residuals=[(float(t), float(r)) for t, r in zip(fine.centres_s[good], residual[good], strict=True)],
    )


def _line_of(found: FoundPass) -> Line:
    return Line(found.song_start_s - found.rate * found.take_start_s, found.rate)


def _settle(song: Sound, take: Sound, found: FoundPass) -> FoundPass:
    """Compare a pass with every place where the song repeats it; move to a better one, or keep the equals."""
    for _ in range(3):
        line = _line_of(found)
        rivals: list[Rival] = []
        end_s = line.song(found.take_end_s)
        for shift, _likeness in self_repeats(song, found.song_start_s, end_s):
            other = Line(line.offset_s + shift, line.rate)
            rivals.append(compare(song, take, line, other, found.take_start_s, found.take_end_s))
        better = [r for r in rivals if r.decided < -sure.DECIDED and r.score > 1.0]
        if not better:
            break
        best = max(better, key=lambda r: r.score)
        found = replace(found, song_start_s=best.line.song(found.take_start_s))
    equal = [r for r in rivals if r.score >= sure.EQUAL and r.decided < sure.DECIDED]
    if not equal:
        return found
    places = [Place(found.take_start_s, found.take_end_s, found.song_start_s, found.rate, 1.0)]
    for r in sorted(equal, key=lambda r: -r.score):
        start = r.line.song(found.take_start_s)
        places.append(Place(found.take_start_s, found.take_end_s, start, found.rate, min(1.0, r.score)))
    places.sort(key=lambda p: p.song_start_s)
    return replace(found, rivals=places, confidence=found.confidence / len(places))


def _align_at(song: Sound, take: Sound, progress: Callable[[float], None]) -> list[FoundPass]:
    """All passes at one speed: the strongest first, then what it leaves unexplained."""
    passes: list[FoundPass] = []
    tried: set[tuple[int, int]] = set()
    for round_ in range(12):
        progress(round_ / 12)
        spans = [s for s in _free_spans(passes, take.seconds) if (int(s[0] * 4), int(s[1] * 4)) not in tried]
        if not spans:
            break
        best = _best_candidate(song, take, spans)
        if best is None:
            break
        candidate, evidence = best
        span = max(spans, key=lambda s: min(s[1], candidate.end_s + 8) - max(s[0], candidate.start_s))
        core = (max(span[0], candidate.start_s), min(span[1], candidate.end_s + 8.0))
        found = _pass_at(song, take, evidence, core, span)
        if found is None:
            tried.update((int(s[0] * 4), int(s[1] * 4)) for s in (span,))
            continue
        passes.append(found)
    # A stretch may have been found on a repeat of its music; settled, it may lie on its neighbour's line.
    settled = [_settle(song, take, p) for p in passes]
    plain = [replace(s, rivals=[], confidence=p.confidence) for s, p in zip(settled, passes, strict=True)]
    joined = _joined(plain)
    if len(joined) == len(plain):
        pairs = zip(settled, passes, strict=True)
        return sorted((s for s, p in pairs if p.confidence >= sure.BELIEVE_AT), key=lambda p: p.take_start_s)
    return [_settle(song, take, p) for p in joined if p.confidence >= sure.BELIEVE_AT]


def _joined(passes: list[FoundPass]) -> list[FoundPass]:
    """Passes in take order, with neighbours that lie on one line joined: the song ran on between them."""
    joined: list[FoundPass] = []
    for p in sorted(passes, key=lambda p: p.take_start_s):
        last = joined[-1] if joined else None
        if last is not None and p.take_start_s - last.take_end_s < 4.0:
            strong, weak = (last, p) if last.z >= p.z else (p, last)
            middle = (weak.take_start_s + weak.take_end_s) / 2
            if abs(_line_of(strong).song(middle) - _line_of(weak).song(middle)) < 0.004:
                line = _line_of(strong)
                joined[-1] = replace(
                    strong,
                    take_start_s=last.take_start_s,
                    take_end_s=p.take_end_s,
                    song_start_s=line.song(last.take_start_s),
                    residuals=last.residuals + p.residuals,
                )
                continue
        joined.append(p)
    return joined


def _at_take_speed(found: FoundPass, speed: float) -> FoundPass:
    """Turn a pass found in a take stretched by ``speed`` back to the take's own clock."""
    if speed == 1.0:
        return found
    return replace(
        found,
        take_start_s=found.take_start_s / speed,
        take_end_s=found.take_end_s / speed,
        rate=found.rate * speed,
        residuals=[(t / speed, r) for t, r in found.residuals],
        rivals=[
            replace(
                p, take_start_s=p.take_start_s / speed, take_end_s=p.take_end_s / speed, rate=p.rate * speed
            )
            for p in found.rivals
        ],
    )


def align(
    song: Sound, take_sound: Singles, *, progress: Callable[[float, str], None] = lambda _share, _what: None
) -> TakeAlignment:
    """Find every pass of the song in a take.

    Args:
        song: The song, from :func:`zembi.core.sync.features.prepare`.
        take_sound: The take's mono sound at 8 kHz; sample 0 is the first picture frame's presentation time.
        progress: Told the share done, 0..1, and what is being done.

    Returns:
        "silent" for no usable sound, "unmatched" for no place, "choose" where places fit equally well or
        the evidence is thin, "locked" where every pass is settled.
    """
    if len(take_sound) < RATE or is_silent(take_sound):
        return TakeAlignment("silent", 1.0, [])
    best: list[FoundPass] = []
    for number, (speed, ready) in enumerate(_hypotheses(take_sound)):
        progress(
            number / 3, "Comparing at normal speed" if speed == 1.0 else "Comparing at 0.1 % other speed"
        )

        def report(share: float, step: int = number) -> None:
            progress((step + share) / 3, "Measuring passes")

        passes = _align_at(song, ready(), report)
        passes = [_at_take_speed(p, speed) for p in passes]
        if _weight(passes) > _weight(best):
            best = passes
        if any(p.confidence >= sure.LOCK_AT or p.rivals for p in best):
            break
    if not best:
        return TakeAlignment("unmatched", 1.0, [])
    status: Status = "locked" if all(p.locked for p in best) else "choose"
    return TakeAlignment(status, min(p.confidence for p in best), best)


def _weight(passes: list[FoundPass]) -> float:
    return sum(p.z * (p.take_end_s - p.take_start_s) for p in passes)
