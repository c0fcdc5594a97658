"""Every pass of a take at one speed: search, verify, measure, settle against repeats, explain away, search again."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Literal, Protocol

import numpy as np

from zembi.core.sync import confidence as sure
from zembi.core.sync.features import RATE, SoundFeatures
from zembi.core.sync.found import FoundPass, SongPlace, joined, same_line
from zembi.core.sync.passes import agreement, evenness, find_extent, sounding
from zembi.core.sync.refine import Evidence, Line, Windows, correlate_windows, focused, measure, stack
from zembi.core.sync.rivals import Rival, compare, other_places
from zembi.core.sync.search import OffsetCandidate, flux_places, matched_places
from zembi.core.sync.segments import STEP_S, Along, Segment, along, likeliest_path, steadied

#: Shortest stretch of take that is searched for a pass of its own.
SHORTEST_S = 3.0
#: A further pass may be shorter than this only with the evidence of a strong one: speech and drums look like little bits.
_FURTHER_S, _FURTHER_Z = 6.0, 16.0


#: Windows side by side that a short pass is measured by, so that they can agree or not.
_FEWEST_WINDOWS = 3
#: Windows that a short stretch of a take shorter than this is verified by, end to end; their shortest and usual length.
_SHORT_TAKE_S, _SIDE_BY_SIDE, _WINDOW_S = 20.0, 4, (0.7, 2.0)
#: Beside a place that was verified, one that this share of its votes speaks for is not looked into.
_WORTH_TESTING = 0.4
#: A take is taken for upside down where that explains so many times as much.
_UPSIDE_DOWN = 1.25


#: Lines nearer to each other than this are one, and so many are followed at most.
_APART_S, _MOST_LINES = 0.03, 16
#: Passes nearer to each other than this are judged together; a border that moved by less has not moved.
_SIDE_BY_SIDE_S, _SAME_BORDER_S = 1.0, 0.3
#: A pass is looked into where it agrees with the song by less than this share of its usual agreement for so long.
_WEAK, _WEAK_FOR_S, _MOST_STRETCHES, _LOOKED_INTO = 0.65, 3.0, 6, 4
#: Evidence asked of a line for a short stretch, as a share of that for a pass: the path decides.
_OF_A_STRETCH = 0.7


class Search(Protocol):
    """A way to find places for stretches of a take; it calls ``told`` as it goes."""

    def __call__(
        self,
        song: SoundFeatures,
        take: SoundFeatures,
        spans: list[tuple[float, float]],
        *,
        told: Callable[[], None],
    ) -> list[OffsetCandidate]: ...


#: A place that a search named, and what the waveform says of it.
Place = tuple[OffsetCandidate, Evidence]
SEARCHES: tuple[Search, ...] = (flux_places, matched_places)


def verify(
    song: SoundFeatures, take: SoundFeatures, candidate: OffsetCandidate, *, either_way: bool = False
) -> Evidence:
    """Test a candidate on the waveform around its own evidence, of the take or also of the take upside down."""
    line = Line(candidate.offset_s)
    start = max(0.0, candidate.start_s, -candidate.offset_s)
    end = min(take.seconds, candidate.end_s + 8.0, song.seconds - candidate.offset_s)
    windows = _windows(song, take, line, start, end, most=24, reach_s=0.08)
    upright = focused(windows, line, stack(windows, line))
    if not either_way:
        return upright
    turned = stack(replace(windows, rows=-windows.rows), line)
    if turned.z < sure.LEAST_Z:
        return upright
    peak = max(agreement(song, take, line, start, end) for line in _about(upright.line))
    trough = -min(agreement(song, take, line, start, end) for line in _about(turned.line))
    # A narrow band has deep troughs beside its peak: only a clearly deeper one is the song upside down.
    return replace(turned, inverted=True) if trough > _UPSIDE_DOWN * peak else upright


def _windows(
    song: SoundFeatures,
    take: SoundFeatures,
    line: Line,
    start_s: float,
    end_s: float,
    *,
    most: int,
    reach_s: float,
) -> Windows:
    """Correlate windows along a line; in a short stretch of a short take shorter ones.

    Each window's say is limited, so that no single stroke decides: a stretch of 3 s in one window could not say more than
    chance does in many. In a long take a short stretch is not believed by itself: another song has such, too.
    """
    least, usual = _WINDOW_S
    short = take.seconds < _SHORT_TAKE_S
    window_s = float(np.clip((end_s - start_s) / _SIDE_BY_SIDE, least, usual)) if short else usual
    return correlate_windows(
        song, take, line, start_s, end_s, window_s=window_s, hop_s=window_s / 2, most=most, reach_s=reach_s
    )


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
) -> Place | None:
    """The verified place that explains most of the spans; the dearer search runs only if the cheap one fails.

    Beside passes that were found the dearer one is not asked for short spans, of which little would be believed.
    """
    long = spans if either_way else [s for s in spans if s[1] - s[0] >= _FURTHER_S]
    for search in searches:
        worth = spans if search is SEARCHES[0] else long
        tested: list[Place] = []
        for candidate in search(song, take, worth, told=told) if worth else ():
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


def first_place(song: SoundFeatures, take: SoundFeatures) -> Place | None:
    """The place at the take's present speed that the envelopes name and the waveform bears out, if there is one."""
    return _best_candidate(song, take, [(0.0, take.seconds)], SEARCHES[:1], lambda: None, True)


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
        wide = stack(_windows(song, take, line, *extent, most=most // 5 + 24, reach_s=0.06), line)
        window_s = min(3.0, (extent[1] - extent[0]) / _FEWEST_WINDOWS)
        fine = correlate_windows(
            song, take, wide.line, *extent, window_s=window_s, hop_s=window_s / 3, reach_s=0.012, most=most
        )
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
    first: Place | Literal["not asked"] | None = "not asked",
    progress: Callable[[float], None] = lambda _s: None,
) -> list[FoundPass]:
    """All passes at the take's present speed: the strongest first, then what it leaves unexplained.

    Args:
        song, take: Prepared sound.
        first: What :func:`first_place` found, which is not searched again then.
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
        best: Place | None = None
        if round_ == 0 and first != "not asked":
            best = first or _best_candidate(song, take, spans, SEARCHES[1:], told, True)
        elif spans:
            best = _best_candidate(song, take, spans, SEARCHES, told, not passes)
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
    whole, known = _along_the_song(song, take, whole, known, told)
    return _believed([settled(p, r) for p, r in zip(whole, known, strict=True)])


def _along_the_song(
    song: SoundFeatures,
    take: SoundFeatures,
    passes: list[FoundPass],
    known: list[list[Rival]],
    told: Callable[[], None],
) -> tuple[list[FoundPass], list[list[Rival]]]:
    """Passes judged against their rivals in each few seconds: one ends where a rival goes on, and that begins there.

    Returns:
        The passes, and the rivals of each.
    """
    rivals = {id(p): r for p, r in zip(passes, known, strict=True)}
    out: list[FoundPass] = []
    for group in _side_by_side(passes):
        told()
        own = [along(song, take, p.line) for p in group]
        weak = [_where_weak(song, take, p, row, told) for p, row in zip(group, own, strict=True)]
        others = [r.line for p in group for r in rivals[id(p)]] + [line for more in weak for line in more]
        span = group[0].take_start_s, group[-1].take_end_s
        lines = _distinct([*(p.line for p in passes), *others], *span)
        rows = [along(song, take, line) for line in lines]
        usual = max(row.usual(p.take_start_s, p.take_end_s) for p, row in zip(group, own, strict=True))
        path = steadied(likeliest_path(rows, *span, usual), rows)
        out += _parts(song, take, group, lines, path)
    return out, [rivals[id(p)] if id(p) in rivals else _rivals(song, take, p) for p in out]


def _side_by_side(passes: list[FoundPass]) -> list[list[FoundPass]]:
    """Passes in take order, those together between which the song may have gone on."""
    groups: list[list[FoundPass]] = []
    for p in sorted(passes, key=lambda p: p.take_start_s):
        if groups and p.take_start_s - groups[-1][-1].take_end_s < _SIDE_BY_SIDE_S:
            groups[-1].append(p)
        else:
            groups.append([p])
    return groups


def _parts(
    song: SoundFeatures, take: SoundFeatures, group: list[FoundPass], lines: list[Line], path: list[Segment]
) -> list[FoundPass]:
    """Passes of a path; those that were found so already stay as they are.

    A stretch on a line that cannot be believed goes to the one before it, or after it where it is the first.
    """
    numbers = [s.line if _follows(song, take, lines[s.line], s, group) else None for s in path]
    runs: list[tuple[int, float, float]] = []
    for n, s in enumerate(path):
        before = runs[-1][0] if runs else None
        number = numbers[n] if numbers[n] is not None else before
        number = number if number is not None else next((m for m in numbers[n:] if m is not None), None)
        if number is None:
            return group
        if number == before:
            runs[-1] = (number, runs[-1][1], s.end_s)
        else:
            runs.append((number, s.start_s, s.end_s))
    found = [
        _as_found(group, lines[k], start, end) or pass_at(song, take, lines[k], (start, end), (start, end))
        for k, start, end in runs
    ]
    return [f for f in found if f is not None]


def _follows(
    song: SoundFeatures, take: SoundFeatures, line: Line, s: Segment, group: list[FoundPass]
) -> bool:
    """True if a stretch of a path can be believed to follow its line."""
    if s.end_s - s.start_s < SHORTEST_S / 2:
        return False
    if any(_on_line(p, line) and p.take_start_s < s.end_s and s.start_s < p.take_end_s for p in group):
        return True
    there = pass_at(song, take, line, (s.start_s, s.end_s), (s.start_s, s.end_s))
    return there is not None and there.confidence >= sure.BELIEVE_FURTHER_AT


def _as_found(group: list[FoundPass], line: Line, start_s: float, end_s: float) -> FoundPass | None:
    """The pass that lies on a line from about here to there already."""
    return next(
        (
            p
            for p in group
            if _on_line(p, line)
            and abs(p.take_start_s - start_s) < _SAME_BORDER_S
            and abs(p.take_end_s - end_s) < _SAME_BORDER_S
        ),
        None,
    )


def _on_line(p: FoundPass, line: Line) -> bool:
    middle = (p.take_start_s + p.take_end_s) / 2
    return abs(p.line.song(middle) - line.song(middle)) < _APART_S


def _distinct(lines: list[Line], start_s: float, end_s: float) -> list[Line]:
    """Lines that lie apart within a stretch of take, the first of each neighbourhood."""
    middle = (start_s + end_s) / 2
    out: list[Line] = []
    for line in lines:
        if all(abs(line.song(middle) - o.song(middle)) > _APART_S for o in out) and len(out) < _MOST_LINES:
            out.append(line)
    return out


def _where_weak(
    song: SoundFeatures, take: SoundFeatures, p: FoundPass, own: Along, told: Callable[[], None]
) -> list[Line]:
    """Lines that stretches of a pass may follow instead, where it agrees with the song much less than elsewhere."""
    lines: list[Line] = []
    for span in _weak_stretches(own, p):
        middle = (span[0] + span[1]) / 2
        for search in SEARCHES:
            found = [verify(song, take, c) for c in search(song, take, [span], told=told)[:_LOOKED_INTO]]
            good = [e.line for e in found if e.z >= sure.LEAST_Z * _OF_A_STRETCH]
            good = [line for line in good if abs(line.song(middle) - p.line.song(middle)) > _APART_S]
            if good:
                lines += [Line(float(line.song(middle) - p.rate * middle), p.rate) for line in good]
                break
    return lines


def _weak_stretches(row: Along, p: FoundPass) -> list[tuple[float, float]]:
    """Stretches of a pass in which the song agrees much less than in the rest of it; the longest first."""
    first, last = int(p.take_start_s / STEP_S), int(p.take_end_s / STEP_S)
    size = int(_WEAK_FOR_S / STEP_S)
    if last - first < 2 * size:
        return []
    ones = np.ones(size) / size
    product = np.convolve(row.product[first:last], ones, mode="same")
    due = np.convolve(row.power[first:last], ones, mode="same")
    share = product / np.maximum(due, 1e-6)
    weak = share < _WEAK * np.quantile(share, 0.75)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], weak.astype(int), [0]])))
    spans = [
        (max(p.take_start_s, (first + a) * STEP_S - 1.0), min(p.take_end_s, (first + b) * STEP_S + 1.0))
        for a, b in zip(edges[::2], edges[1::2], strict=True)
        if b - a >= size // 2
    ]
    return sorted(spans, key=lambda s: s[0] - s[1])[:_MOST_STRETCHES]


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
