"""Listening to harder songs: odd bars, other metres, a tempo that changes, a voice, and how loud it is."""

from dataclasses import replace

import numpy as np
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.signal import butter, resample_poly, sosfiltfilt

from zembi.core.song.listen import SongAnalysis, listen
from zembi.core.song.loudness import integrated_loudness, loudness_curve, true_peaks
from zembi.core.song.medians import running_median
from zembi.core.song.placing import BANDS, band_energies
from zembi.core.song.spectrum import RATE
from zembi.core.song.voice import HOP_S, voice_alone, voice_in_mix
from zembi.demo.song import PLAN
from zembi.demo.synth import Performance, SongPart, SongPlan, play

ODD = SongPart("Turn", 1, ("G",), metre=2, pad=0.6, seed=22)
FREE = SongPart("Free intro", 4, ("Am", "F"), drums="none", pad=1.0, sway=0.12, seed=21)


def mono(performance: Performance) -> np.ndarray:
    return soxr.resample(performance.audio.mean(axis=1), performance.sample_rate, RATE).astype(np.float32)


def heard(plan: SongPlan) -> tuple[Performance, SongAnalysis]:
    performance = play(plan)
    return performance, listen(mono(performance))


def hit_share(truth: list[float], found: list[float], within: float = 0.05) -> float:
    a, b = np.array(truth), np.array(found)
    recall = np.mean([np.abs(b - t).min() <= within for t in a])
    precision = np.mean([np.abs(a - t).min() <= within for t in b])
    return float(2 * recall * precision / max(recall + precision, 1e-9))


def test_an_odd_bar_before_a_chorus_shifts_no_bar_after_it() -> None:
    performance, found = heard(replace(PLAN, parts=(*PLAN.parts[:2], ODD, *PLAN.parts[2:5])))
    assert found.metre == 4
    after = [d for d in performance.downbeats_s if d > 30]
    assert hit_share(after, [d for d in found.downbeats if d > 29.5]) > 0.95
    assert sorted(set(np.diff([found.beats.index(d) for d in found.downbeats]))) == [2, 4]


def test_six_eight_is_told_from_four_four() -> None:
    parts = tuple(replace(p, style="six") for p in PLAN.parts[:5])
    performance, found = heard(replace(PLAN, bpm=62.0, metre=2, parts=parts))
    assert (found.metre, found.division) == (2, 3)
    assert hit_share(performance.downbeats_s, found.downbeats) > 0.95


def test_a_tempo_change_is_two_straight_stretches() -> None:
    parts = tuple(replace(p, bpm=98.0) if i >= 3 else p for i, p in enumerate(PLAN.parts[:5]))
    performance, found = heard(replace(PLAN, parts=parts))
    assert [round(s.bpm, 1) for s in found.tempo] == [112.0, 98.0]
    assert all(s.steady for s in found.tempo)
    assert not found.tempo_steady
    border = performance.sections[3][0]
    assert found.tempo[1].start_s == pytest.approx(border, abs=1.5)
    assert hit_share(performance.beats_s, found.beats) > 0.98
    near = [min(abs(b - t) for b in found.beats) for t in performance.beats_s]
    assert np.median(near) < 0.002


def test_a_free_intro_is_followed_and_the_rest_laid_straight() -> None:
    performance, found = heard(replace(PLAN, parts=(FREE, *PLAN.parts[:5])))
    assert [s.steady for s in found.tempo] == [False, True]
    assert found.tempo[1].bpm == pytest.approx(112.0, abs=0.02)
    assert hit_share(performance.beats_s, found.beats, 0.07) > 0.97


def test_listening_twice_gives_the_very_same() -> None:
    performance = play(replace(PLAN, parts=PLAN.parts[:3]))
    assert listen(mono(performance)) == listen(mono(performance))


def test_the_voice_is_likelier_where_it_sings() -> None:
    performance = play(PLAN)
    likely = voice_in_mix(mono(performance))
    at = (np.arange(len(likely)) + 0.5) * HOP_S
    singing = np.zeros(len(likely), dtype=bool)
    for start, end, _ in performance.syllables:
        singing |= (at >= start) & (at < end)
    order = np.argsort(np.argsort(likely))
    n = int(singing.sum())
    area = (order[singing].sum() - n * (n - 1) / 2) / (n * (len(likely) - n))
    assert area > 0.72, "likelier than chance by far"
    assert likely[at < 8].mean() < likely[singing].mean() - 0.2, "the intro has no voice"


def test_a_voice_stem_tells_exactly() -> None:
    silence, tone = (
        np.zeros(2 * RATE, np.float32),
        (0.3 * np.sin(np.arange(3 * RATE) * 0.06)).astype(np.float32),
    )
    sings = voice_alone(np.concatenate([silence, tone, silence])) > 0.5
    assert sings[22:48].all()
    assert not sings[:18].any()
    assert not sings[52:].any()
    assert not voice_alone(silence).any()


def test_loudness_and_true_peak_of_known_signals() -> None:
    """BS.1770: a full-scale 997 Hz sine in one channel is -3.01 LUFS; a sine between samples peaks above them."""
    rate = 48_000
    t = np.arange(5 * rate) / rate
    sine = np.sin(2 * np.pi * 997 * t).astype(np.float32)
    assert integrated_loudness(loudness_curve(sine, rate, window_s=0.4)[4:]) == pytest.approx(-3.01, abs=0.05)
    quarter = (0.5 * np.sin(2 * np.pi * rate / 4 * t + np.pi / 4)).astype(np.float32)
    assert 20 * np.log10(np.abs(quarter).max()) == pytest.approx(-9.03, abs=0.01)
    assert true_peaks(quarter, rate)[5:40].max() == pytest.approx(-6.02, abs=0.1)
    assert integrated_loudness(np.full(10, -70.0)) == -70.0


def test_energy_rises_from_verse_to_chorus() -> None:
    performance, found = heard(PLAN)
    energy = np.array(found.energy)

    def mean(name: str) -> float:
        start, end, _ = next(s for s in performance.sections if s[2] == name)
        return float(energy[int(10 * start) + 20 : int(10 * end)].mean())

    assert mean("Chorus 1") > mean("Verse 1") + 0.1
    assert mean("Bridge") < mean("Chorus 3")


@pytest.mark.parametrize("hz", [997.0, 5_000.0, 11_025.0, 14_000.0])
def test_a_true_peak_is_that_of_the_whole_oversampled(hz: float) -> None:
    rate, rng = 44_100, np.random.default_rng(int(hz))
    t = np.arange(rate) / rate
    sine = np.sin(2 * np.pi * hz * t + rng.uniform(0, 6))
    both = np.stack([0.6 * sine, 0.5 * sine + 0.05 * rng.standard_normal(rate)], axis=1).astype(np.float32)
    fine = np.abs(resample_poly(both, 4, 1, axis=0)).max(axis=1).reshape(10, -1).max(axis=1)
    assert true_peaks(both, rate) == pytest.approx(20 * np.log10(fine), abs=0.02)


@given(
    arrays(np.float32, st.tuples(st.integers(1, 40), st.integers(1, 5)), elements=st.floats(-9, 9, width=32)),
    st.integers(0, 9).map(lambda half: 2 * half + 1),
)
def test_a_running_median_is_the_middle_of_what_lies_around(values: np.ndarray, width: int) -> None:
    around = np.pad(values, ((width // 2, width // 2), (0, 0)), mode="edge")
    expected = [np.median(around[k : k + width], axis=0) for k in range(len(values))]
    assert running_median(values, width) == pytest.approx(np.array(expected))


def test_attacks_between_frames_are_those_of_the_filters_run_both_ways() -> None:
    rng = np.random.default_rng(5)
    audio = (rng.standard_normal(3 * RATE) * (rng.random(3 * RATE) > 0.999)).astype(np.float32)
    steps = len(audio) // 22
    for (low, high), power in zip(BANDS, band_energies(audio, 22), strict=True):
        both_ways = sosfiltfilt(butter(2, [low, high], "band", fs=RATE, output="sos"), audio, padtype=None)
        expected = (both_ways[: steps * 22].reshape(steps, 22) ** 2).mean(axis=1)
        assert power == pytest.approx(expected, abs=1e-3 * expected.max())
