"""Where a song keeps a tempo and where it is played freely: straight stretches, followed ones, and the joins."""

from dataclasses import dataclass

import numpy as np

from zembi.core.song.spectrum import FRAME_RATE, Floats

#: A followed stretch has to strike this much better than a straight one: it can choose its places.
FREEDOM = 0.85
#: A tempo of part of the song has to strike this much better than that of the whole.
PART = 0.96
#: And better still where one straight grid serves the song as a whole.
STEADINESS = 0.92
#: What a change between two ways to count costs, in seconds of ordinary strokes.
_CHANGE_S = 2.0
_STEP_S = 0.5
_SIGMA_S = 0.012
_LEAST_BEATS = 12


@dataclass(frozen=True)
class Stretch:
    """A part of the song with one way of keeping time. ``bpm`` is the median where it is not steady."""

    start_s: float
    end_s: float
    bpm: float
    steady: bool


def strikes(envelope: Floats, beats: Floats) -> Floats:
    """Onset strength at each beat, the greatest within 30 ms; shape (beats,)."""
    reach = int(0.03 * FRAME_RATE)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), reach, len(envelope) - reach - 1)
    return np.asarray(np.max([envelope[frames + k] for k in range(-reach, reach + 1)], axis=0))


def mean_strike(envelope: Floats, beats: Floats) -> float:
    """Mean onset strength at the beats; 0 where there is none."""
    return float(strikes(envelope, beats).mean()) if len(beats) else 0.0


def straight_runs(beats: Floats) -> list[tuple[int, int]]:
    """Runs of followed beats that lie on a straight line: index ranges, end exclusive.

    Least squares in pieces (dynamic programming): a run costs its squared error in units of 12 ms and a
    constant, a beat in no run costs more than an ordinary error.
    """
    count = len(beats)
    i = np.arange(count, dtype=float)
    sums = [np.concatenate([[0.0], np.cumsum(v)]) for v in (i, beats, i * i, i * beats, beats * beats)]
    best, back = np.zeros(count + 1), np.zeros(count + 1, dtype=int)
    for end in range(1, count + 1):
        best[end], back[end] = best[end - 1] + 3.0, end - 1
        starts = np.arange(0, end - _LEAST_BEATS + 1)
        if not len(starts):
            continue
        n = end - starts
        si, sb, sii, sib, sbb = (s[end] - s[starts] for s in sums)
        vii, vib, vbb = sii - si * si / n, sib - si * sb / n, sbb - sb * sb / n
        cost = best[starts] + (vbb - vib * vib / vii) / _SIGMA_S**2 + 14.0
        k = int(np.argmin(cost))
        if cost[k] < best[end]:
            best[end], back[end] = cost[k], starts[k]
    runs, at = [], count
    while at > 0:
        if at - back[at] >= _LEAST_BEATS:
            runs.append((int(back[at]), at))
        at = int(back[at])
    return runs[::-1]


def local_strength(envelope: Floats, beats: Floats, times: Floats, *, width_s: float = 3.0) -> Floats:
    """Mean strike of the beats around each time, weighted by a Gaussian of ``width_s``; shape of ``times``."""
    if not len(beats):
        return np.zeros(len(times))
    values = strikes(envelope, beats)
    weights = np.exp(-0.5 * ((times[:, None] - beats[None]) / width_s) ** 2)
    return np.asarray((weights * values).sum(axis=1) / np.maximum(weights.sum(axis=1), 1e-9))


def choose_over_time(envelope: Floats, ways: list[Floats], factors: list[float]) -> list[tuple[int, float]]:
    """Which way to count holds from when: (index into ``ways``, start second), by the best path (Viterbi).

    Args:
        envelope: Onset strength a frame.
        ways: Beats of each way to count, over the whole song.
        factors: How much the strength of each counts.
    """
    times = np.arange(0, len(envelope) / FRAME_RATE, _STEP_S) + _STEP_S / 2
    strength = np.array([f * local_strength(envelope, w, times) for w, f in zip(ways, factors, strict=True)])
    usual = max(float(strength.max(axis=0).mean()), 1e-9)
    gain = _STEP_S * strength / usual
    total, back = gain[:, 0].copy(), []
    for column in gain[:, 1:].T:
        leader = int(np.argmax(total))
        moved = total[leader] - _CHANGE_S
        back.append(np.where(moved > total, leader, np.arange(len(ways))))
        total = np.maximum(total, moved) + column
    path = [int(np.argmax(total))]
    for pointers in reversed(back):
        path.append(int(pointers[path[-1]]))
    path.reverse()
    return [(k, 0.0 if i == 0 else i * _STEP_S) for i, k in enumerate(path) if i == 0 or k != path[i - 1]]


def join_beats(envelope: Floats, before: Floats, after: Floats, at_s: float) -> tuple[Floats, Floats]:
    """Cut two runs of beats against each other near a time, where strokes and spacing agree best.

    Returns:
        The beats of ``before`` that stay, and those of ``after``.
    """
    period = float(np.median(np.diff(after))) if len(after) > 1 else 0.5
    heard, later = strikes(envelope, before), strikes(envelope, after)
    usual = max(float(np.mean(heard)), float(np.mean(later)), 1e-9)
    best, choice = -np.inf, (len(before), 0)
    for last in np.nonzero(np.abs(before - at_s) < 4.0)[0]:
        first = int(np.searchsorted(after, before[last] + 0.6 * period))
        if first >= len(after):
            continue
        near = (before > at_s - 5.0) & (np.arange(len(before)) <= last)
        then = (after < at_s + 5.0) & (np.arange(len(after)) >= first)
        gap = np.log((after[first] - before[last]) / period)
        value = (heard[near].sum() + later[then].sum()) / usual - 8.0 * gap**2
        if value > best:
            best, choice = float(value), (int(last) + 1, first)
    return before[: choice[0]], after[choice[1] :]
