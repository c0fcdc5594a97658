"""Straight stretches and free passages of beats that were followed: known lines come back, and nothing goes aside."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_click import strokes
from zembi.core.song.click import standardised
from zembi.core.song.placing import FLUX_LEAD_S, OnsetStrength
from zembi.core.song.spectrum import FRAME_RATE, Floats
from zembi.core.song.stretches import laid_in_stretches, straight_runs

SECONDS = 120.0


def lines(*pieces: tuple[float, int]) -> Floats:
    """Beats that go on at one tempo after another, each for so many."""
    steps = np.concatenate([np.full(count, 60 / bpm) for bpm, count in pieces])
    return 0.5 + np.concatenate([[0.0], np.cumsum(steps)])[:-1]


def sounding(times: Floats, strength: Floats | float = 1.0) -> OnsetStrength:
    """What is struck at some times, in frames and in milliseconds."""
    frames = strokes(times - FLUX_LEAD_S, SECONDS, strength)
    fine = np.zeros(int(SECONDS * 1000) + 1)
    for at, much in zip(times, np.broadcast_to(strength, len(times)), strict=True):
        fine[max(0, round(at * 1000) - 3) : round(at * 1000) + 4] += (
            float(much) * np.hanning(9)[1:8][: len(fine)]
        )
    return OnsetStrength(frames, fine, 1000.0, 0.0, SECONDS)


@settings(max_examples=25, deadline=None)
@given(
    st.floats(70, 180),
    st.floats(1.08, 1.33),
    st.booleans(),
    st.lists(st.integers(24, 60), min_size=2, max_size=4),
    st.integers(0, 1000),
)
def test_lines_of_different_tempi_are_told_apart_where_they_meet(
    bpm: float, by: float, faster: bool, counts: list[int], seed: int
) -> None:
    """Beats are off by some milliseconds, as followed ones are: a border is found within two beats."""
    other = bpm * by if faster else bpm / by
    beats = lines(*((other if k % 2 else bpm, count) for k, count in enumerate(counts)))
    found = straight_runs(beats + np.random.default_rng(seed).normal(0, 0.004, len(beats)))
    assert len(found) == len(counts)
    borders = np.cumsum(counts)[:-1]
    for (_, end), (first, _), border in zip(found, found[1:], borders, strict=False):
        assert abs(end - border) <= 2
        assert abs(first - border) <= 2


@pytest.mark.parametrize("seed", range(5))
def test_beats_that_wander_are_on_no_line(seed: int) -> None:
    wandering = np.cumsum(0.5 * np.exp(np.random.default_rng(seed).normal(0, 0.15, 200)))
    assert not straight_runs(wandering)


@settings(max_examples=12, deadline=None)
@given(
    st.floats(80, 160),
    st.sampled_from([0.8, 0.85, 1.15, 1.25]),
    st.floats(1.5, 4),
    st.floats(-0.02, 0.02),
    st.integers(0, 99),
)
def test_a_straight_stretch_stays_where_its_pulse_is_though_louder_strokes_lie_half_way(
    bpm: float, ratio: float, louder: float, late: float, seed: int
) -> None:
    seconds = ((bpm, 45), (ratio * bpm, 20), (bpm, 40))
    true = lines(*((tempo, round(length * tempo / 60)) for tempo, length in seconds))
    # Off-beats are the louder ones up to the passage, and missing in it and after it.
    off = (true[:-1] + true[1:])[: round(45 * bpm / 60) - 1] / 2
    order = np.argsort(np.concatenate([true, off]))
    times = np.concatenate([true, off])[order]
    strength = np.concatenate([np.ones(len(true)), np.full(len(off), louder)])[order]
    sound = sounding(times, strength)
    followed = true + late + np.random.default_rng(seed).normal(0, 0.006, len(true))
    beats, stretches = laid_in_stretches(sound, standardised([sound.pulse]), followed)
    near = beats[np.argmin(np.abs(beats[:, None] - true), axis=0)]
    assert np.quantile(np.abs(near - true), 0.9) < 0.012
    steady = [s for s in stretches if s.steady]
    assert len(steady) == 3
    for stretch, tempo in zip(steady, (bpm, ratio * bpm, bpm), strict=True):
        assert stretch.bpm == pytest.approx(tempo, rel=0.002)


def test_stretches_reach_from_end_to_end_without_gaps() -> None:
    true = lines((100.0, 50), (120.0, 50), (100.0, 50))
    true = true[true < SECONDS - 1]
    sound = sounding(true)
    beats, stretches = laid_in_stretches(sound, standardised([sound.pulse]), true)
    assert stretches[0].start_s == 0
    assert stretches[-1].end_s == len(sound.pulse) / FRAME_RATE
    assert all(a.end_s == b.start_s for a, b in pairwise(stretches))
    assert np.all(np.diff(beats) > 0)


def test_a_song_that_never_keeps_a_tempo_is_one_free_stretch() -> None:
    true = 0.5 + np.cumsum(0.5 * np.exp(0.1 * np.sin(np.arange(220) / 9)))
    true = true[true < SECONDS - 1]
    sound = sounding(true)
    beats, stretches = laid_in_stretches(sound, standardised([sound.pulse]), true)
    assert [s.steady for s in stretches] == [False]
    assert len(beats) == len(true)
