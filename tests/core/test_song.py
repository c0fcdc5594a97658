"""Listening: known answers on songs played by the project's own synthesiser, and correcting the grid."""

import itertools
import json
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.errors import BadInput, Refused
from zembi.core.song.attack import AttackRises
from zembi.core.song.beats import UNSIGNED, track_beats
from zembi.core.song.corrections import Corrections, build_grid, double, halve
from zembi.core.song.grid import (
    Grid,
    SectionSpan,
    nearest_bar,
    phrases,
    place_among,
    relation,
    time_at,
)
from zembi.core.song.hits import Hit, accented, pick_hits, strongest_of_each
from zembi.core.song.listen import SongAnalysis, _readings, listen
from zembi.core.song.loudness import loudness_curve
from zembi.core.song.marks import tidy
from zembi.core.song.spectrum import RATE, describe
from zembi.core.timebase import seconds_to_frame
from zembi.demo.song import PLAN
from zembi.demo.synth import Performance, SongPlan, play


def heard(performance: Performance) -> SongAnalysis:
    mono = soxr.resample(performance.audio.mean(axis=1), performance.sample_rate, RATE).astype(np.float32)
    return listen(mono, loudness_audio=performance.audio, loudness_rate=performance.sample_rate)


@lru_cache(maxsize=4)
def demo() -> tuple[Performance, SongAnalysis]:
    performance = play(PLAN)
    return performance, heard(performance)


def share_hit(truth: list[float], found: list[float], within: float) -> float:
    """F-measure of two lists of times."""
    a, b = np.array(truth), np.array(found)
    if not len(a) or not len(b):
        return 0.0
    recall = np.mean([np.abs(b - t).min() <= within for t in a])
    precision = np.mean([np.abs(a - t).min() <= within for t in b])
    return float(2 * recall * precision / max(recall + precision, 1e-9))


@pytest.mark.parametrize("plan", [
    PLAN, replace(PLAN, bpm=84.3, head_s=1.7), replace(PLAN, bpm=151.5), replace(PLAN, bpm=100.0, metre=3, head_s=0.9),
], ids=["112", "84.3", "151.5", "waltz"])  # fmt: skip
def test_a_steady_song_is_counted_to_a_hundredth(plan: SongPlan) -> None:
    truth, found = demo() if plan is PLAN else (played := play(plan), heard(played))
    assert found.tempo_bpm == pytest.approx(plan.bpm, abs=0.01)
    assert found.tempo_steady
    assert found.metre == plan.metre
    assert share_hit(truth.beats_s, found.beats, 0.02) > 0.98
    assert share_hit(truth.downbeats_s, found.downbeats, 0.02) > 0.97
    near = [min(found.beats, key=lambda b: abs(b - t)) - t for t in truth.beats_s]
    assert abs(float(np.median(near))) < 0.005


def test_sections_repeats_and_first_names() -> None:
    truth, found = demo()
    starts = [s for s, _, _ in truth.sections]
    assert share_hit(starts, [s.start_s for s in found.sections], 0.1) == 1.0
    assert [s.label for s in found.sections] == [name for _, _, name in truth.sections]
    groups = {s.label: s.group for s in found.sections}
    assert (
        groups["Chorus 1"]
        == groups["Chorus 2"]
        == groups["Chorus 3"]
        != groups["Verse 1"]
        == groups["Verse 2"]
    )


def test_the_readings_offer_half_double_and_shifted() -> None:
    _, found = demo()
    first = found.readings[0]
    assert (first.tempo_bpm, first.shift_beats) == (found.tempo_bpm, 0.0)
    offered = {(round(r.tempo_bpm / first.tempo_bpm, 1), r.shift_beats) for r in found.readings}
    assert {(0.5, 0.0), (2.0, 0.0), (1.0, 0.5), (1.0, 1.0)} <= offered


def test_each_tempo_is_offered_once_before_any_comes_again_and_the_likeliest_first() -> None:
    signs = replace(UNSIGNED, alike=0.9, aside=0.1, level=3.0, rival=0.5, family=1.0)
    found = _readings([(160.0, 1.0), (120.0, 0.9), (106.0, 0.5)], [0.0, 2.0, 1.0, 0.5], 1, signs)
    assert (found[0].tempo_bpm, found[0].shift_beats) == (160.0, 0.0)
    tempi = [r.tempo_bpm for r in found]
    first = [tempi.index(t) for t in dict.fromkeys(tempi)]
    assert first == list(range(len(first))), "no tempo comes again before all have come"
    for kind in (found[1 : len(first)], found[len(first) :]):
        assert [r.score for r in kind] == sorted((r.score for r in kind), reverse=True)
    # Among those of the same tempo half a beat aside is the likeliest here; and all are there.
    assert found[len(first)].shift_beats == 0.5
    assert {r.shift_beats for r in found if r.tempo_bpm == 160} == {0.0, 0.5, 1.0, 2.0, 3.0}


def test_a_tempo_beyond_what_songs_have_is_offered_last() -> None:
    signs = replace(UNSIGNED, alike=0.9, aside=5.0, level=0.2, rival=0.5, family=1.0)
    found = _readings([(178.0, 1.0), (134.0, 0.3)], [1.0, 0.0, 0.0, 0.0], 0, signs)
    assert [r.tempo_bpm for r in found][:4] == [178.0, 89.0, 134.0, 356.0]
    # Just above what is listened for, it may be.
    found = _readings([(108.0, 1.0), (81.0, 0.02)], [1.0, 0.0, 0.0, 0.0], 0, signs)
    assert [r.tempo_bpm for r in found][:3] == [108.0, 54.0, 216.0]


def moved(performance: Performance, amount: float) -> Performance:
    """The same song with its tempo swaying by a share of ``amount`` over forty seconds."""
    n, rate = len(performance.audio), performance.sample_rate
    old = np.arange(n)
    new = np.cumsum(1 / (1 + amount * np.sin(2 * np.pi * old / rate / 40))) / rate
    source = np.interp(np.arange(int(new[-1] * rate)) / rate, new, old)
    audio = np.stack([np.interp(source, old, performance.audio[:, c]) for c in (0, 1)], axis=1)

    def at(times: list[float]) -> list[float]:
        return np.interp(np.array(times) * rate, old, new).tolist()

    return replace(
        performance,
        audio=audio.astype(np.float32),
        beats_s=at(performance.beats_s),
        downbeats_s=at(performance.downbeats_s),
    )


@pytest.mark.parametrize("amount", [0.02, 0.07])
def test_a_moving_tempo_is_followed(amount: float) -> None:
    performance = moved(demo()[0], amount)
    found = heard(performance)
    assert not found.tempo_steady
    assert share_hit(performance.beats_s, found.beats, 0.05) > 0.95
    assert share_hit(performance.downbeats_s, found.downbeats, 0.05) > 0.9


@pytest.mark.parametrize("bpm", [84.3, 151.5])
def test_half_or_double_is_told_as_clearly_of_a_song_that_sways(bpm: float) -> None:
    straight = play(replace(PLAN, bpm=bpm))

    def level(performance: Performance) -> float:
        mono = soxr.resample(performance.audio.mean(axis=1), performance.sample_rate, RATE).astype(np.float32)
        return track_beats(describe(mono), mono).signs.level

    assert level(moved(straight, 0.02)) == pytest.approx(level(straight), rel=0.09)


def test_a_passage_at_another_tempo_has_its_borders_and_is_no_doubt() -> None:
    slower = (*PLAN.parts[1:3], replace(PLAN.parts[3], bpm=88.0), *PLAN.parts[4:7:2])
    performance = play(replace(PLAN, parts=slower))
    found = heard(performance)
    assert share_hit(performance.beats_s, found.beats, 0.05) > 0.98
    assert [round(t.bpm) for t in found.tempo] == [112, 88, 112]
    assert all(t.steady for t in found.tempo)
    bar = 4 * 60 / 112
    true = [s for s, _, name in performance.sections if name in ("Verse 2", "Chorus 2")]
    assert [t.start_s for t in found.tempo[1:]] == pytest.approx(true, abs=bar)
    assert found.doubtful == []


def test_where_the_tempo_moves_freely_is_marked_and_only_there() -> None:
    free = replace(PLAN.parts[3], sway=0.12, bars=8)
    performance = play(replace(PLAN, parts=(*PLAN.parts[1:3], free, *PLAN.parts[2:5:2])))
    found = heard(performance)
    start, end = next((a, b) for a, b, name in performance.sections if name == "Verse 2")
    assert found.doubtful
    for passage in found.doubtful:
        assert start - 4 < passage.start_s < passage.end_s < end + 4
        assert passage.start_s in found.beats
        assert passage.end_s in found.beats
    assert sum(p.end_s - p.start_s for p in found.doubtful) > 0.4 * (end - start)
    assert demo()[1].doubtful == []


def test_listening_twice_gives_the_same() -> None:
    performance, found = demo()
    assert heard(performance) == found


def test_what_cannot_be_listened_to_says_so() -> None:
    with pytest.raises(BadInput, match="at least 2 s"):
        listen(np.zeros(RATE, np.float32))


def test_silence_and_noise_do_not_break_listening() -> None:
    rng = np.random.default_rng(0)
    for audio in (np.zeros(RATE * 20, np.float32), (0.1 * rng.standard_normal(RATE * 20)).astype(np.float32)):
        assert 0 <= listen(audio).sure.grid <= 1


def test_loudness_of_the_standards_own_tone() -> None:
    # A 997 Hz sine at -20 dBFS in one channel reads -23.0 LUFS (EBU Tech 3341, by arithmetic from BS.1770).
    t = np.arange(48_000 * 5) / 48_000
    tone = (0.1 * np.sin(2 * np.pi * 997 * t)).astype(np.float32)
    curve = loudness_curve(tone, 48_000, window_s=3.0)
    assert curve[-1] == pytest.approx(-23.0, abs=0.1)
    assert loudness_curve(np.stack([tone, tone], axis=1), 48_000, window_s=0.4)[-1] == pytest.approx(
        -20.0, abs=0.1
    )
    assert loudness_curve(np.zeros(48_000, np.float32), 48_000, window_s=0.4).max() == -70.0


def test_hits_are_where_the_strokes_are() -> None:
    envelope = np.zeros(1000)
    envelope[[100, 104, 300, 600]] = [1.0, 0.4, 0.5, 0.03]
    rises = np.zeros(10_000)
    # What rises in the waveform says when: 12 ms after the first frame, 8 ms before the second.
    attacks = np.array([1.010, 2.998])
    rises[np.round((attacks + 0.001) * 1000 * RATE / 22_000).astype(int)] = 1.0
    hits = pick_hits(envelope, AttackRises(rises, np.zeros((3, len(rises)))))
    assert [h.at_s for h in hits] == pytest.approx(attacks, abs=0.001)
    assert hits[0].strength > hits[1].strength > 0


@pytest.mark.parametrize("a_bar", [3, 8, 16])
def test_strengths_are_as_useful_on_dense_music_as_on_sparse(a_bar: int) -> None:
    """A carpet of equal strokes with an accent every other bar, on the third stroke of it."""
    rng = np.random.default_rng(a_bar)
    downbeats = [2.0 * k for k in range(60)]
    times = [2.0 * k + 2.0 * j / a_bar for k in range(60) for j in range(a_bar)]
    hard = rng.uniform(0.55, 0.65, len(times))
    accents = [k * a_bar + 2 for k in range(0, 60, 2)]
    hard[accents] = 0.95
    found = {"low": [Hit(t, float(h)) for t, h in zip(times, hard, strict=True)]}
    strengths = [h.strength for h in accented(found, downbeats, 120.0)["low"]]
    assert sum(s >= 0.5 for s in strengths) / 60 == pytest.approx(0.75, abs=0.05)
    # All accents come before all of the carpet, whose strokes on the one come before its others.
    assert min(strengths[i] for i in accents) > max(s for i, s in enumerate(strengths) if i not in accents)
    on_one = [s for i, s in enumerate(strengths) if i % a_bar == 0]
    rest = [s for i, s in enumerate(strengths) if i % a_bar != 0 and i not in accents]
    assert np.median(on_one) > np.median(rest)


def test_an_accent_is_told_by_what_lies_around_it() -> None:
    quiet = [Hit(0.5 * k, 0.2) for k in range(40)]
    loud = [Hit(20 + 0.5 * k, 0.8) for k in range(40)]
    quiet[20] = Hit(10.0, 0.6)
    low = accented({"low": [*quiet, *loud]}, [], 80.0)["low"]
    # As hard as half of what comes later, but alone: stronger than all of that.
    assert low[20].strength > max(h.strength for h in low[48:])


def test_few_weak_strokes_are_no_strong_hits() -> None:
    low = accented({"low": [Hit(3.0, 0.09), Hit(9.0, 0.1)], "high": []}, [], 60.0)
    assert max(h.strength for h in low["low"]) < 0.51
    assert low["high"] == []


def test_the_strongest_of_each_bar() -> None:
    hits = [Hit(0.99, 0.9), Hit(1.5, 0.4), Hit(2.2, 0.7), Hit(2.9, 0.7), Hit(5.0, 1.0), Hit(0.2, 1.0)]
    found = strongest_of_each(hits, [1.0, 2.0, 3.0, 4.0])
    # A stroke just before the bar line is the bar's; what lies outside the bars is of none.
    assert [(h.at_s, h.strength) for h in found] == [(0.99, 0.9), (2.2, 0.7)]


BEATS = [0.35 + i * 60 / 112 for i in range(208)]
DURATION = 112.98


def grid(corrections: Corrections | None = None) -> Grid:
    return build_grid(BEATS, BEATS[::4], 4, DURATION, corrections or Corrections())


@given(st.integers(1, 52), st.floats(1.0, 4.99))
def test_positions_go_both_ways(bar: int, beat: float) -> None:
    g = grid()
    place = g.position(g.time_of(bar, beat) + 1e-9)
    assert place.bar + (place.beat - 1) / 4 == pytest.approx(bar + (beat - 1) / 4, abs=1e-5)


def test_the_grid_reaches_past_both_ends() -> None:
    g = grid()
    assert g.beats[0] < 0
    assert g.beats[-1] > DURATION
    assert (g.bar_time(1), g.metre) == (0.35, 4)
    assert g.bpm == pytest.approx(112.0)


def test_the_one_moves_every_bar_and_no_beat() -> None:
    g = grid(Corrections(one_s=BEATS[2] + 0.01))
    assert g.bar_time(1) == pytest.approx(BEATS[2])
    assert set(np.round(g.beats, 6)) == set(np.round(grid().beats, 6))
    assert g.position(BEATS[2]).beat == 1.0


def test_half_and_double_keep_the_one() -> None:
    assert grid(Corrections(factor=2.0)).bpm == pytest.approx(224.0)
    half = grid(Corrections(factor=0.5))
    assert half.bpm == pytest.approx(56.0)
    assert any(abs(half.beats[i] - 0.35) < 1e-9 for i in half.bars)
    assert halve(double(Corrections())) == Corrections()
    with pytest.raises(Refused):
        halve(halve(halve(Corrections())))


def test_half_beat_shift_and_nudge() -> None:
    assert grid(Corrections(half_shift=True)).nearest(0.35, "beat") != pytest.approx(0.35)
    assert grid(Corrections(half_shift=True)).nearest(0.6, "beat") == pytest.approx(0.35 + 30 / 112)
    assert grid(Corrections(nudge_s=0.01)).nearest(0.35, "beat") == pytest.approx(0.36)
    with pytest.raises(BadInput, match="bar of 40 beats"):
        grid(Corrections(metre=40))


@pytest.mark.parametrize(("unit", "at", "expected"), [
    ("free", 3.21, 3.21), ("beat", 0.5, 0.35), ("half", 0.6, 0.35 + 30 / 112), ("bar", 2.6, 0.35 + 4 * 60 / 112),
    ("phrase", 12.0, 8.92),
])  # fmt: skip
def test_what_cuts_fall_on(unit: str, at: float, expected: float) -> None:
    assert grid().nearest(at, unit, (0.35, 8.92, 17.5)) == pytest.approx(expected)  # type: ignore[arg-type]


@pytest.mark.parametrize(("offset", "label"), [(0, "bar"), (-1, "−1 f"), (2, "+2 f")])
def test_a_cut_says_how_it_lies_against_the_grid(offset: int, label: str) -> None:
    rate = Fraction(24)
    frame = seconds_to_frame(grid().bar_time(5), rate) + offset
    r = relation(grid(), frame, rate)
    assert (r.bar, r.beat, r.off_frames, r.label) == (5, 1, offset, label)


def test_half_beats_are_named() -> None:
    rate = Fraction(24)
    r = relation(grid(), seconds_to_frame(grid().time_of(5, 2.5), rate), rate)
    assert (r.bar, r.beat, r.label) == (5, 2.5, "½ after 2")


@settings(max_examples=100)
@given(
    st.lists(st.integers(1, 50), min_size=1, max_size=6, unique=True),
    st.sampled_from([1, 2, 4, 8]),
    st.floats(-0.2, 0.2),
)
def test_phrases_cover_the_song_once(bars: list[int], length: int, slip: float) -> None:
    g = grid()
    sections = [SectionSpan(g.bar_time(b) + slip, f"s{b}", length, 0) for b in sorted(bars)]
    rows = phrases(sections, g, DURATION)
    assert rows[0].start_s == 0.0
    assert rows[-1].end_s == DURATION
    assert all(a.end_s == b.start_s for a, b in itertools.pairwise(rows))
    assert all(r.end_s > r.start_s and r.bars >= 1 for r in rows)
    assert nearest_bar(g, g.bar_time(7) + 0.3) == 7


@given(st.lists(st.floats(0, 100), max_size=20), st.lists(st.floats(0, 100), max_size=20), st.floats(0.01, 2))
def test_tidying_moves_to_the_nearest_within_reach(
    marks: list[float], targets: list[float], reach: float
) -> None:
    for before, after in zip(marks, tidy(marks, targets, reach), strict=True):
        near = min((abs(t - before) for t in targets), default=np.inf)
        assert abs(after - before) == (pytest.approx(near) if near <= reach else 0)


def test_a_song_with_no_beat_says_what_to_do() -> None:
    with pytest.raises(BadInput, match="tap the tempo"):
        build_grid([1.0], [1.0], 4, 10.0, Corrections())


BEAT_CASES = json.loads((Path(__file__).parents[1] / "cases" / "beats.json").read_text())


@pytest.mark.parametrize("case", BEAT_CASES, ids=lambda c: str(c["name"]))
def test_the_place_of_a_time_among_beats_is_that_of_the_table(case: dict[str, Any]) -> None:
    for at, place in case["at"]:
        assert place_among(case["beats"], at) == pytest.approx(place, abs=1e-6)
        assert time_at(case["beats"], place) == pytest.approx(at, abs=1e-6)


def test_a_length_is_counted_in_the_beats_that_are_there() -> None:
    rising = Grid(tuple(BEAT_CASES[1]["beats"]), (0, 4, 8, 12), 1)
    assert [rising.beats_between(rising.beats[k], rising.beats[k + 4]) for k in (0, 8, 20)] == pytest.approx(
        [4, 4, 4]
    )
