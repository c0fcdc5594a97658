"""Segmentation of a song into stretches of one tempo, with beats on straight lines, and of free playing."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from zembi.core.song.placing import FLUX_LEAD_S, OnsetStrength, fine_shift, nearer, settled
from zembi.core.song.pointer import LOOSE, follow_beat, learned_pattern
from zembi.core.song.spectrum import FRAME_RATE, Floats
from zembi.core.song.tempo import refine_tempo

#: Beats that lie on a line for longer than this keep a tempo. A song goes by such lines where half of it lies on ones
#: that are so much longer: what sways is straight for short whiles only.
_LINE_S, _LONG_S = 8.0, 16.0
#: Lines of equal tempo, up to this share and seconds, that follow each other are one.
_SAME_TEMPO, _SAME_PLACE_S = 0.002, 0.025
#: Beats of straight stretches on both sides by which a free passage is joined to them.
_CONTEXT = 8
_SIGMA_S = 0.012
_LEAST_BEATS = 12
#: How far a straight stretch is moved onto its attacks, in seconds: it lies on its pulse already.
_SETTLES_S = 0.03


@dataclass(frozen=True)
class TempoStretch:
    """A part of the song with one way of keeping time. ``bpm`` is the median where it is not steady."""

    start_s: float
    end_s: float
    bpm: float
    steady: bool


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


def _joined(beats: Floats, runs: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Straight runs, those that go on along the same line made one."""
    out: list[tuple[int, int]] = []
    for first, last in runs:
        if out:
            before, end = out[-1]
            slope, there = np.polyfit(np.arange(before, end), beats[before:end], 1)
            own = np.polyfit(np.arange(first, last), beats[first:last], 1)[0]
            off = abs(float(np.median(beats[first:last] - slope * np.arange(first, last) - there)))
            reach = _SAME_PLACE_S + _SAME_TEMPO * float(beats[last - 1] - beats[end - 1]) / 4
            if abs(np.log(own / slope)) < _SAME_TEMPO and off < reach:
                out[-1] = (before, last)
                continue
        out.append((first, last))
    return out


def _freely(envelopes: Sequence[Floats], pattern: Floats, beats: Floats, first: int, last: int) -> Floats:
    """The beats of a free passage between straight ones, followed by the song's pattern with less regard to tempo.

    Args:
        envelopes: Of the whole song.
        pattern: Its strokes over a beat.
        beats: Of the whole song.
        first, last: Indexes of the passage's first beat and of the first one after it.
    """
    a, b = max(0, first - _CONTEXT), min(len(beats), last + _CONTEXT)
    around = np.concatenate([beats[a:first], beats[last:b]])
    if len(around) < 4:
        return beats[first:last]
    start = round(beats[a] * FRAME_RATE) if a else 0
    end = round(beats[b - 1] * FRAME_RATE) if b < len(beats) else len(envelopes[0])
    usual = float(np.median(np.concatenate([np.diff(beats[a:first]), np.diff(beats[last:b])])))
    part = [e[start:end] for e in envelopes]
    run = (
        follow_beat(part, 60 / usual, pattern, rounds=1, cost=LOOSE).times + start / FRAME_RATE + FLUX_LEAD_S
    )
    # It may be on the other half of the beat: the straight ones tell.
    near = run[np.argmin(np.abs(run[:, None] - around[None]), axis=0)]
    if float(np.median(np.abs(near - around))) > usual / 4:
        run = (run[1:] + run[:-1]) / 2
    after = beats[first - 1] + usual / 2 if first else -np.inf
    before = beats[last] - usual / 2 if last < len(beats) else np.inf
    return np.asarray(run[(run > after) & (run < before)])


def _laid_again(sound: OnsetStrength, bpm: float, beats: Floats) -> tuple[float, Floats]:
    """A straight stretch laid by its own strokes alone, near where it was and with as many beats."""
    first, end = max(0, int(beats[0] * FRAME_RATE)), int(beats[-1] * FRAME_RATE)
    exact = refine_tempo(sound.pulse[first:end], bpm)
    numbers = np.arange(len(beats), dtype=float)
    again = float(beats.mean()) + (numbers - numbers.mean()) * 60 / exact
    if np.abs(again - beats).max() > 0.25 * 60 / exact:
        exact, again = bpm, beats
    return exact, again + fine_shift(sound.fine, sound.fine_rate, again, _SETTLES_S)


def laid_in_stretches(
    sound: OnsetStrength, envelopes: Sequence[Floats], beats: Floats
) -> tuple[Floats, list[TempoStretch]]:
    """Beats with those that keep a tempo for long laid on straight lines, and how time is kept from where to where."""
    length = len(sound.pulse) / FRAME_RATE
    runs = [r for r in _joined(beats, straight_runs(beats)) if beats[r[1] - 1] - beats[r[0]] > _LINE_S]
    lasting = [float(beats[last - 1] - beats[first]) for first, last in runs]
    free = nearer(sound, beats)
    if sum(x for x in lasting if x > _LONG_S) < 0.5 * (beats[-1] - beats[0]):
        return free, [TempoStretch(0.0, length, float(60 / np.median(np.diff(beats))), False)]
    pattern = learned_pattern(envelopes, (beats - FLUX_LEAD_S) * FRAME_RATE)
    pieces: list[tuple[Floats, float, bool]] = []
    at = 0
    for first, last in [*runs, (len(beats), len(beats))]:
        if first - at > 2:
            loose = settled(_freely(envelopes, pattern, beats, at, first), sound.fine, sound.fine_rate)
            pieces.append((loose, float(60 / np.median(np.diff(loose))) if len(loose) > 1 else 0.0, False))
        elif first > at and pieces:
            pieces[-1] = (np.concatenate([pieces[-1][0], free[at:first]]), *pieces[-1][1:])
        if last > first:
            guess = 60 * (last - 1 - first) / float(beats[last - 1] - beats[first])
            bpm, laid = _laid_again(sound, guess, beats[first:last])
            pieces.append((laid, bpm, True))
        at = last
    pieces = [p for p in pieces if len(p[0])]
    out = np.concatenate([beats for beats, _, _ in pieces])
    stretches = [TempoStretch(float(beats[0]), length, bpm, steady) for beats, bpm, steady in pieces]
    starts = [0.0, *(s.start_s for s in stretches[1:])]
    ends = [*starts[1:], length]
    kept = [replace(s, start_s=a, end_s=b) for s, a, b in zip(stretches, starts, ends, strict=True)]
    return np.maximum.accumulate(out), kept
