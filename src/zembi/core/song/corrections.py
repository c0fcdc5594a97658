"""The editor's corrections of the grid as found, and laying the grid with them."""

from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np

from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Grid
from zembi.core.song.spectrum import Floats

SLOWEST_BPM, FASTEST_BPM = 20.0, 400.0
#: Fewest and most beats of a bar.
METRES = (2, 12)


def checked_metre(beats: int) -> int:
    """A number of beats in a bar, if there can be so many.

    Raises:
        BadInput: out of range.
    """
    if not METRES[0] <= beats <= METRES[1]:
        raise BadInput(f"A bar of {beats} beats is outside {METRES[0]} to {METRES[1]}.")
    return beats


@dataclass(frozen=True)
class Corrections:
    """Corrections of the grid by the editor. Song times are seconds.

    Applied in this order, so that each is kept when an earlier one changes, and when the song is heard anew.

    Attributes:
        read_beats, read_bars: Beats read from a file in place of those found, and indexes of the first of bars.
        bpm, anchor_s: A straight grid at this tempo through a beat at this time, in place of the beats found.
        factor: 1 as found, 2 twice as fast, 0.5 half as fast; also thirds: 3, 1/3, 3/2 and 2/3.
        half_shift: All beats moved by half a beat.
        nudge_s: All beats moved by this much.
        pins: (from, to): the beat at ``from`` belongs at ``to``; the grid bends between pins only, and between
            the outermost pins and the song's ends.
        one_s: A beat near this time is the first of its bar; odd bars stay odd. None as found.
        metre: Beats in every bar; None as found.
        metres: (start, end, beats in a bar): between these times bars are counted like this, from the start on;
            a new bar begins at the end.
        beats: (time, more): the bar around this time holds so many beats more (or less), evenly spread.
        passages: (start, end, tempo, beat): between these times beats are laid straight at a tempo through a beat's
            time; no beat outside moves.
    """

    factor: float = 1.0
    half_shift: bool = False
    one_s: float | None = None
    metre: int | None = None
    nudge_s: float = 0.0
    bpm: float | None = None
    anchor_s: float = 0.0
    pins: tuple[tuple[float, float], ...] = ()
    metres: tuple[tuple[float, float, int], ...] = ()
    beats: tuple[tuple[float, int], ...] = ()
    read_beats: tuple[float, ...] = ()
    read_bars: tuple[int, ...] = ()
    passages: tuple[tuple[float, float, float, float], ...] = ()


def corrections_from_dict(data: dict[str, Any]) -> Corrections:
    """The inverse of ``dataclasses.asdict``, for what was kept as JSON."""
    pairs = {k: tuple(tuple(v) for v in data.get(k, ())) for k in ("pins", "passages", "metres", "beats")}
    plain = {k: tuple(data.get(k, ())) for k in ("read_beats", "read_bars")}
    return Corrections(**{**data, **pairs, **plain})


def build_grid(
    beats: list[float], downbeats: list[float], metre: int, duration_s: float, corrections: Corrections
) -> Grid:
    """Lay the grid over the whole song and apply the editor's corrections.

    Args:
        beats: As found, ascending seconds, at least two.
        downbeats: Those of them that begin a bar, as found.
        metre: Beats in an ordinary bar as found.
        duration_s: Length of the song.
        corrections: What the editor changed.

    Raises:
        BadInput: fewer than two beats, or a metre outside 2 to 12.
    """
    if corrections.read_beats:
        beats, downbeats = (
            list(corrections.read_beats),
            [corrections.read_beats[i] for i in corrections.read_bars],
        )
    if len(beats) < 2 and corrections.bpm is None:
        raise BadInput("The song has no beat that Zembi could find; tap the tempo to give it one.")
    in_bar = corrections.metre or metre
    checked_metre(in_bar)
    values, ones = _counted(np.asarray(beats, dtype=float), downbeats, in_bar, duration_s, corrections)
    first_beat = float(values[0])
    values, ahead = _extended(values + corrections.nudge_s, duration_s)
    values = _bent(values, duration_s, corrections)
    values, ones = _mended(values, ones + ahead, in_bar, corrections)
    downs = _numbered(values, ones, in_bar, corrections)
    start = max(
        0.0,
        min(
            first_beat + corrections.nudge_s,
            float(values[downs[0]]) if corrections.one_s is None else corrections.one_s,
        ),
    )
    start -= 0.6 * float(values[1] - values[0])
    before = next(
        (k for k, i in enumerate(downs) if values[i] >= max(start, -0.6 * float(values[1] - values[0]))), 0
    )
    return _with_more_beats(Grid(tuple(float(v) for v in values), tuple(downs), 1 - before), corrections)


def _counted(
    beats: Floats, downbeats: list[float], metre: int, duration_s: float, c: Corrections
) -> tuple[Floats, np.ndarray]:
    """Beats counted as chosen, and the indexes of the downbeats found among them (in bars of ``metre``)."""
    one = downbeats[0] if downbeats else float(beats[0]) if len(beats) else c.anchor_s
    if c.bpm is not None:
        period = 60 / c.bpm
        first = c.anchor_s - np.floor(c.anchor_s / period) * period
        values = np.arange(first, max(duration_s, first + 2 * period), period)
        at = int(np.argmin(np.abs(values - (c.anchor_s if c.one_s is None else one))))
        return values, np.arange(at % metre, len(values), metre)
    ones = np.array(sorted({int(np.argmin(np.abs(beats - d))) for d in downbeats}) or [0])
    if c.metre is not None:
        ones = np.arange(ones[0] % metre, len(beats), metre)
    if c.half_shift:
        steps = np.diff(beats)
        beats = beats + np.append(steps, steps[-1]) / 2
    up, down = Fraction(c.factor).limit_denominator(24).as_integer_ratio()
    if up > 1:
        beats = np.interp(np.arange((len(beats) - 1) * up + 1) / up, np.arange(len(beats)), beats)
        edges = [*(ones * up), len(beats)]
        ones = np.array([i for a, b in pairwise(edges) for i in range(a, b, metre) if b - i > 1 or i == a])
    if down > 1:
        first = int(ones[0]) % down
        beats = beats[first::down]
        ones = np.arange((int(ones[0]) - first) // down % metre, len(beats), metre)
    return beats, ones


def _bend(duration_s: float, c: Corrections) -> tuple[list[float], list[float]]:
    """Times before and after bending between the pins; nothing bends beyond the song's ends."""
    pins = sorted(c.pins)
    first = min([0.0, *(min(p) - 1e-3 for p in pins[:1])])
    last = max([duration_s, *(max(p) + 1e-3 for p in pins[-1:])])
    edges = (first - 36_000.0, first), (last, last + 36_000.0)
    return [*edges[0], *(a for a, _ in pins), *edges[1]], [*edges[0], *(b for _, b in pins), *edges[1]]


def _bent(values: Floats, duration_s: float, c: Corrections) -> Floats:
    return np.asarray(np.interp(values, *_bend(duration_s, c))) if c.pins else values


def _extended(beats: Floats, duration_s: float) -> tuple[Floats, int]:
    """Continue the beats at the edges' own tempo until both ends of the song are covered by a bar and more.

    Returns:
        The beats, and how many were put before the first.
    """
    head, tail = float(np.median(np.diff(beats[:9]))), float(np.median(np.diff(beats[-9:])))
    before = int(max(0.0, beats[0]) / head) + 13
    after = int(max(0.0, duration_s - beats[-1]) / tail) + 13
    whole = np.concatenate(
        [beats[0] - head * np.arange(before, 0, -1), beats, beats[-1] + tail * np.arange(1, after + 1)]
    )
    return whole, before


def _mended(values: Floats, ones: np.ndarray, metre: int, c: Corrections) -> tuple[Floats, np.ndarray]:
    """Beats with those of mended passages laid anew, and the indexes of the downbeats among them.

    Inside, bars go on from the last one before; after it, they are where they were.
    """
    for start, end, bpm, beat in sorted(c.passages):
        period = 60 / bpm
        # The beats at both ends stay: those between are laid.
        first, last = np.searchsorted(values, [start + 1e-3, end - 1e-3])
        steps = np.arange(np.ceil((start - beat) / period + 0.5), np.floor((end - beat) / period - 0.5) + 1)
        laid = beat + steps * period
        more = len(laid) - (last - first)
        before = ones[ones < first]
        inside = np.arange(before[-1] + metre, first + len(laid), metre) if len(before) else ones[:0]
        values = np.concatenate([values[:first], laid, values[last:]])
        ones = np.concatenate([before, inside, ones[ones >= last] + more])
    return values, ones


def _numbered(values: Floats, ones: np.ndarray, metre: int, c: Corrections) -> list[int]:
    """Indexes of all downbeats: those found, continued to both ends, with the one and the metres chosen."""
    if c.one_s is not None:
        at = int(np.argmin(np.abs(values - c.one_s)))
        nearest = int(ones[np.argmin(np.abs(ones - at))])
        ones = ones + (at - nearest)
    ones = ones[(ones >= 0) & (ones < len(values))]
    if not len(ones):
        ones = np.array([0])
    downs = [*range(int(ones[0]) % metre, int(ones[0]), metre), *(int(i) for i in ones)]
    downs += range(downs[-1] + metre, len(values), metre)
    for start_s, end_s, count in sorted(c.metres):
        first = int(np.argmin(np.abs(values - start_s)))
        last = int(np.argmin(np.abs(values - end_s)))
        rest = [i for i in downs if i > last]
        # After the range bars go on as they did, but counted from its end.
        gap = (rest[0] - last) % metre if rest else 0
        downs = [*(i for i in downs if i < first), *range(first, last, count), last]
        downs += [i - gap for i in rest if i - gap > last] if gap else rest
        downs += range(downs[-1] + metre, len(values), metre)
    return downs


def _with_more_beats(grid: Grid, c: Corrections) -> Grid:
    for at_s, more in c.beats:
        start, end, count = grid.bar_of(at_s)
        if count + more < 1:
            continue
        k = max(i for i, b in enumerate(grid.bars) if grid.beats[b] <= at_s + 1e-6)
        first, last = grid.bars[k], grid.bars[k] + count
        inner = [start + (end - start) * j / (count + more) for j in range(count + more)]
        beats = (*grid.beats[:first], *inner, *grid.beats[last:])
        grid = Grid(beats, tuple(b if i <= k else b + more for i, b in enumerate(grid.bars)), grid.first_bar)
    return grid


def halve(corrections: Corrections) -> Corrections:
    """Count half as fast."""
    if corrections.bpm is not None:
        return replace(corrections, bpm=_tempo(corrections.bpm / 2))
    if corrections.factor <= 0.25:
        raise Refused("The grid is already counted at a quarter of the tempo found.")
    return replace(corrections, factor=corrections.factor / 2)


def double(corrections: Corrections) -> Corrections:
    """Count twice as fast."""
    if corrections.bpm is not None:
        return replace(corrections, bpm=_tempo(corrections.bpm * 2))
    if corrections.factor >= 4:
        raise Refused("The grid is already counted four times as fast as found.")
    return replace(corrections, factor=corrections.factor * 2)


def _tempo(bpm: float) -> float:
    if not SLOWEST_BPM <= bpm <= FASTEST_BPM:
        raise BadInput(f"{bpm:g} beats a minute is outside {SLOWEST_BPM:g} to {FASTEST_BPM:g}.")
    return bpm


def set_tempo(corrections: Corrections, bpm: float, anchor_s: float) -> Corrections:
    """A straight grid at a tempo, with a bar line at the anchor.

    Raises:
        BadInput: a tempo outside 20 to 400.
    """
    return replace(
        corrections, bpm=_tempo(bpm), anchor_s=anchor_s, factor=1.0, half_shift=False, nudge_s=0.0, pins=(),
        passages=(), one_s=None,
    )  # fmt: skip


def mend_passage(
    corrections: Corrections, start_s: float, end_s: float, taps: list[float], duration_s: float
) -> Corrections:
    """Beats laid straight through taps in one passage; what was laid there before is replaced, nothing else moves.

    Args:
        corrections: So far.
        start_s, end_s: Beats between which they are laid.
        taps: Song times, at least four.
        duration_s: Length of the song.

    Raises:
        BadInput: fewer than four taps, taps that keep no tempo, or a passage shorter than four of their beats.
    """
    bpm, beat = tempo_from_taps(taps)
    start_s, end_s = max(0.0, start_s), min(duration_s, end_s)
    if end_s - start_s < 4 * 60 / _tempo(bpm):
        raise BadInput(
            f"The passage is shorter than four beats at {bpm:.1f} beats a minute: choose a longer one."
        )
    others = tuple(p for p in corrections.passages if p[1] <= start_s + 1e-3 or p[0] >= end_s - 1e-3)
    return replace(corrections, passages=(*others, (start_s, end_s, bpm, beat)))


def hold(corrections: Corrections, start_s: float, end_s: float, duration_s: float) -> Corrections:
    """Pins that hold the grid where it is at both ends of a passage, so that a beat pinned in it moves nothing else."""
    before, after = _bend(duration_s, corrections)
    held = [
        (float(np.interp(at, after, before)), at)
        for at in (start_s, end_s)
        if all(abs(at - to) > 1e-3 for _, to in corrections.pins)
    ]
    return replace(corrections, pins=tuple(sorted([*corrections.pins, *held])))


def pin(corrections: Corrections, beat_s: float, to_s: float, duration_s: float) -> Corrections:
    """Pin the beat that now lies at ``beat_s`` to another time; pinning it where it is holds it there.

    Raises:
        Refused: beats would change their order.
    """
    pins = [p for p in corrections.pins if abs(p[1] - beat_s) > 1e-3]
    moved = [p for p in corrections.pins if abs(p[1] - beat_s) <= 1e-3]
    # Where the beat lay before any pin moved it.
    before, after = _bend(duration_s, corrections)
    source = moved[0][0] if moved else float(np.interp(beat_s, after, before))
    pins.append((source, to_s))
    pins.sort()
    if any(b[1] <= a[1] for a, b in pairwise(pins)):
        raise Refused("A pin cannot pass the one before or after it: take that off first.")
    return replace(corrections, pins=tuple(pins))


def tempo_from_taps(taps: list[float]) -> tuple[float, float]:
    """Tempo and a beat's time from taps along with the song, by a line that outliers do not bend (Theil-Sen).

    Args:
        taps: Song times, at least four.

    Returns:
        Beats a minute, and the time of a beat.

    Raises:
        BadInput: fewer than four taps, or taps that keep no tempo.
    """
    times = np.sort(np.asarray(taps, dtype=float))
    if len(times) < 4:
        raise BadInput(f"{len(times)} taps are too few for a tempo: tap at least four beats.")
    step = float(np.median(np.diff(times)))
    if step <= 0.1:
        raise BadInput("The taps are too close together for a tempo.")
    numbers = np.cumsum(np.concatenate([[0], np.maximum(1, np.round(np.diff(times) / step))]))
    i, j = np.triu_indices(len(times), 1)
    slope = float(np.median((times[j] - times[i]) / (numbers[j] - numbers[i])))
    offset = float(np.median(times - slope * numbers))
    if np.median(np.abs(times - offset - slope * numbers)) > 0.2 * slope:
        raise BadInput("The taps keep no steady tempo; tap along with the beat for a few bars.")
    return 60 / slope, offset
