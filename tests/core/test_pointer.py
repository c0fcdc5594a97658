"""Following a pulse that moves: it keeps to whole beats, comes to where the strokes are, and tells a click from none."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_click import beat, strokes
from zembi.core.song import pointer
from zembi.core.song.click import lay_click, standardised
from zembi.core.song.families import TELLS_MORE
from zembi.core.song.pointer import (
    PLACES,
    astray,
    click_pattern,
    divides_in_three,
    family_score,
    follow_beat,
    follow_without_slips,
    learned_pattern,
)
from zembi.core.song.spectrum import FRAME_RATE, Floats

SECONDS = 120.0


def played(times: Floats, strength: Floats | float = 1.0) -> list[Floats]:
    return standardised([strokes(times, SECONDS, strength)])


def with_passage(bpm: float, other: float, start: float, length: float) -> Floats:
    """Beats at a tempo, and in a passage from its first beat on at another; the tempo goes on from where that ends."""
    out = [0.3]
    while out[-1] < SECONDS:
        inside = start <= out[-1] < start + length
        out.append(out[-1] + 60 / (other if inside else bpm))
    return np.array(out)


def off_by(run: Floats, beats: Floats) -> Floats:
    """How far each beat of a run is from the nearest of some beats."""
    return np.asarray(np.abs(run[:, None] - beats[None]).min(axis=1))


def plainly(scores: Floats, lengths: np.ndarray, periods: Floats) -> float:
    """The likeliest run's logarithm, by trying every predecessor of every beat."""
    count, longest = scores.shape[1], int(lengths[-1])
    ends = np.full((count + longest, len(periods)), -np.inf)
    for at in range(count):
        for k, period in enumerate(periods):
            change = [
                ends[at, j] - min(pointer._CHANGE * abs(j - k), pointer._JUMP) for j in range(len(periods))
            ]
            begin = max(*change, 0.0 if at < longest else -np.inf)
            for length in {int(period), int(period) + 1}:
                if lengths[0] <= length <= lengths[-1]:
                    value = begin + scores[length - lengths[0], at]
                    ends[at + length, k] = max(ends[at + length, k], value)
    return float(ends[count - 1 :].max())


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(40, 90))
def test_the_likeliest_run_is_as_likely_as_any(seed: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    periods = np.array([11.2, 10.1, 9.4, 8.3])
    lengths = np.arange(8, 13)
    scores = rng.normal(size=(len(lengths), count)).astype(np.float32) * 3
    beats, score = pointer._likeliest(scores, lengths, periods)
    assert score == pytest.approx(plainly(scores, lengths, periods), abs=1e-3)
    # And the beats that are given are that run: each as long as one of its tempi, up to the end.
    assert set(np.diff(beats).astype(int)) <= set(lengths)
    assert beats[-1] >= count - 1
    given_by = sum(scores[int(b - a) - lengths[0], int(a)] for a, b in pairwise(beats))
    assert given_by >= score - 1e-3


@settings(max_examples=8, deadline=None)
@given(st.floats(70, 170), st.floats(0, 0.9), st.floats(-0.03, 0.03))
def test_an_even_pulse_is_met_within_a_frame(bpm: float, start: float, off: float) -> None:
    beats = beat(bpm, SECONDS, start)
    run = follow_beat(played(beats), bpm * (1 + off)).times
    inside = run[(run > beats[0] - 0.05) & (run < beats[-1])]
    assert np.diff(inside).mean() == pytest.approx(60 / bpm, rel=2e-3)
    # A symmetrical pattern leaves open which of the two halves it is; here nothing strikes on the other.
    half = np.sort(np.concatenate([beats, beats + 30 / bpm]))
    assert np.quantile(off_by(inside, half), 0.95) < 1.5 / FRAME_RATE


@settings(max_examples=8, deadline=None)
@given(
    st.floats(85, 150),
    st.sampled_from([0.72, 0.8, 0.88, 1.12, 1.2, 1.3]),
    st.floats(20, 60),
    st.floats(12, 30),
)
def test_a_passage_at_another_tempo_is_gone_along_with(
    bpm: float, ratio: float, start: float, length: float
) -> None:
    beats = with_passage(bpm, bpm * ratio, start, length)
    halves = (beats[:-1] + beats[1:]) / 2
    strong = np.tile([1.0, 0.4], len(halves))
    envelopes = played(np.sort(np.concatenate([beats[:-1], halves])), strong)
    run = follow_beat(envelopes, bpm).times
    inside = run[(run > 1) & (run < SECONDS - 2)]
    assert np.mean(off_by(inside, np.sort(np.concatenate([beats, halves]))) < 0.025) > 0.97
    # Nor is a beat left out or put in at the borders.
    assert len(inside) == pytest.approx(np.sum((beats > 1) & (beats < SECONDS - 2)), abs=2)
    assert astray(run, bpm)


def test_an_off_beat_passage_moves_no_beat() -> None:
    bpm = 120.0
    on, off = beat(bpm, SECONDS), beat(bpm, SECONDS, 0.55)
    times = np.concatenate([on[on < 40], off[(off >= 40) & (off < 75)], on[on >= 75]])
    run = follow_beat(played(times), bpm).times
    late = (run - run[10]) % 0.5
    assert np.minimum(late, 0.5 - late).max() < 0.03
    assert not astray(run, bpm)


@pytest.mark.parametrize("gap", [(50.0, 61.0), (0.0, 8.0)])
def test_a_break_leaves_no_click(gap: tuple[float, float]) -> None:
    bpm = 100.0
    beats = beat(bpm, SECONDS)
    envelopes = played(beats[(beats < gap[0]) | (beats > gap[1])])
    click = lay_click(envelopes, bpm)
    run = follow_beat(envelopes, click.bpm, click_pattern(envelopes, click.bpm), rounds=2)
    assert not astray(run.times, click.bpm)


@pytest.mark.parametrize("much", [0.01, 0.03])
def test_a_tempo_that_sways_leaves_the_click(much: float) -> None:
    even = np.arange(0.3, SECONDS, 0.5)
    swayed = even + much * 40 / 2 / np.pi * np.sin(2 * np.pi * even / 40)
    run = follow_beat(played(swayed), 120.0).times
    assert astray(run, 120.0)
    assert np.quantile(off_by(run[2:-2], np.sort(np.concatenate([swayed, swayed + 0.25]))), 0.9) < 0.03


@settings(max_examples=6, deadline=None)
@given(st.floats(64, 180), st.sampled_from([2 / 3, 3 / 4, 4 / 3, 3 / 2]))
def test_a_song_tells_more_of_its_own_family_than_of_another(bpm: float, ratio: float) -> None:
    quarters = beat(2 * bpm, SECONDS)
    rng = np.random.default_rng(3)
    strong = np.where(np.arange(len(quarters)) % 2 == 0, 1.0, 0.45) * rng.uniform(0.7, 1.0, len(quarters))
    envelopes = played(quarters, strong)
    assert family_score(envelopes, bpm) > TELLS_MORE * family_score(envelopes, bpm * ratio)
    assert family_score(envelopes, bpm) == family_score(envelopes, 2 * bpm)


@settings(max_examples=6, deadline=None)
@given(st.floats(58, 105), st.floats(0.2, 0.95), st.booleans())
def test_six_eighths_are_two_beats_or_three_or_not_told(bpm: float, weak: float, three: bool) -> None:
    """The same strokes, told by their accents alone. Those under 3 dB are limited to next to nothing: nothing is told."""
    eighths = beat(3 * bpm, SECONDS)
    accent = np.arange(len(eighths)) % (3 if three else 2) == 0
    envelopes = played(eighths, np.where(accent, 1.0, weak))
    clearer = divides_in_three(envelopes, bpm)
    if weak < 0.7:
        assert (clearer if three else -clearer) > 1.0
    else:
        assert (clearer if three else -clearer) > -0.3


def slipping(bpm: float, every_s: float) -> tuple[Floats, list[Floats]]:
    """Beats of a swaying song whose strong and weak strokes change over, on the beat and half-way, every few seconds."""
    even = np.arange(0.3, SECONDS, 60 / bpm)
    swayed = even + 0.02 * 40 / 2 / np.pi * np.sin(2 * np.pi * even / 40)
    halves = np.sort(np.concatenate([swayed, (swayed[:-1] + swayed[1:]) / 2]))
    aside = (halves // every_s).astype(int) % 2
    strong = np.where(np.arange(len(halves)) % 2 == aside, 1.0, 0.35)
    return swayed, played(halves, strong)


@settings(max_examples=4, deadline=None)
@given(st.floats(140, 180), st.floats(20, 30))
def test_a_pulse_does_not_go_with_strokes_that_change_over(bpm: float, every_s: float) -> None:
    """Followed at half the tempo, where the change is by a quarter of a beat."""
    beats, envelopes = slipping(bpm, every_s)
    run = follow_without_slips(envelopes, bpm / 2)[2:-2]
    place = np.interp(run, beats, np.arange(len(beats)))
    turns = np.exp(2j * np.pi * place)
    assert np.abs(turns.mean()) > 0.97, "all on beats, or all half-way"
    assert np.quantile(np.abs(np.diff(place) - 2.0), 0.98) < 0.1


def test_a_passage_at_another_tempo_is_followed_where_quarters_tell_nothing() -> None:
    run = follow_without_slips(played(with_passage(100.0, 130.0, 60.0, 16.0)), 100.0)
    inside = (run > 63) & (run < 73)
    assert 60 / np.median(np.diff(run[inside])) == pytest.approx(130.0, rel=0.02)


def test_a_run_is_not_led_to_another_family_of_tempi() -> None:
    """Strokes three by three: at three quarters of the tempo, half-beats lie on each of them too."""
    sixths = beat(4 * 80.0, SECONDS)
    run = follow_without_slips(played(sixths, np.where(np.arange(len(sixths)) % 3 == 0, 1.0, 0.4)), 80.0)
    assert abs(np.log2(60 / np.median(np.diff(run)) / 80.0)) < 0.3


def test_a_pattern_is_learned_though_half_of_the_run_counts_half_a_beat_aside() -> None:
    beats = np.arange(0.0, SECONDS, 0.5)
    envelopes = played(beats, 1.0)
    moved = np.concatenate([beats[beats < 60], beats[beats >= 60] + 0.25])
    pattern = learned_pattern(envelopes, moved * FRAME_RATE)[0]
    top = int(pattern.argmax())
    # One stroke a beat, wherever it is counted from; were the halves mixed, the other place would be as high.
    assert pattern[(top + PLACES // 2) % PLACES] < 0.2 * pattern[top]


def test_hardly_any_song_is_followed_without_fault() -> None:
    short = [np.zeros(250)]
    short[0][::50] = 1.0
    assert len(follow_beat(short, 120.0).times) >= 1
    assert not astray(np.zeros(1), 120.0)
