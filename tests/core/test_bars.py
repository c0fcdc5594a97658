"""How beats group into bars: by known evidence, and on songs that say where they begin."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.song.bars import begins_on_a_beat, find_bars, find_metre, lay_bars, with_odd_bars
from zembi.core.song.spectrum import FRAME_RATE, Spectrum

EVIDENCE = st.lists(st.floats(-5, 5), min_size=12, max_size=60).map(np.array)


def best_of_all(evidence: np.ndarray, metre: int, odd: float, first: np.ndarray) -> float:
    """The most that downbeats collect, by trying each bar's length after each other."""
    costs = dict.fromkeys(range(max(2, metre - 2), metre + 3), 1.25 * odd)
    costs |= {metre // 2: odd, metre - 1: odd, metre: 0.0}
    known: dict[int, float] = {}

    def onwards(at: int) -> float:
        if at >= len(evidence):
            return 0.0 if at < len(evidence) + metre else -np.inf
        if at not in known:
            steps = range(max(2, metre - 2), metre + 3)
            known[at] = float(evidence[at]) + max(onwards(at + step) - costs[step] for step in steps)
        return known[at]

    return max(float(first[at]) + onwards(at) for at in range(metre))


@given(
    EVIDENCE,
    st.sampled_from([2, 3, 4, 5, 7]),
    st.floats(0, 8),
    st.lists(st.floats(0, 9), min_size=7, max_size=7),
)
def test_bars_collect_the_most_evidence_there_is(
    evidence: np.ndarray, metre: int, odd: float, start: list[float]
) -> None:
    first = np.array(start[:metre])
    downs = lay_bars(evidence, metre, odd, first)
    assert downs[0] < metre
    steps = [b - a for a, b in pairwise(downs)]
    assert all(max(2, metre - 2) <= step <= metre + 2 for step in steps)
    costs = [0.0 if s == metre else odd if s in (metre // 2, metre - 1) else 1.25 * odd for s in steps]
    collected = first[downs[0]] + evidence[list(downs)].sum() - sum(costs)
    # The last bar may be odd too, and is not counted among the steps.
    best = best_of_all(evidence, metre, odd, first)
    assert best - 1e-9 <= collected <= best + 1.25 * odd + 1e-9


@given(EVIDENCE, st.sampled_from([3, 4, 5, 7]), st.data())
def test_where_nothing_is_odd_the_likeliest_first_beat_begins_every_bar(
    evidence: np.ndarray, metre: int, data: st.DataObject
) -> None:
    first = np.zeros(metre)
    first[data.draw(st.integers(0, metre - 1))] = data.draw(st.floats(0, 50))
    downs = lay_bars(evidence, metre, 1e6, first)
    told = [first[k] + evidence[k::metre].sum() for k in range(metre)]
    assert told[downs[0]] == pytest.approx(max(told))
    assert set(np.diff(downs)) <= {metre}


@pytest.mark.parametrize("metre", [3, 4, 5, 7])
def test_the_metre_is_that_by_which_a_beats_place_tells_most(metre: int) -> None:
    rng = np.random.default_rng(metre)
    evidence = rng.standard_normal(40 * metre) + 1.5 * (np.arange(40 * metre) % metre == 1)
    beats = 0.5 * np.arange(len(evidence))
    assert find_metre(beats, evidence, 2) == metre


def test_what_groups_in_nothing_is_counted_in_four() -> None:
    """By chance one song in a hundred groups in another number."""
    rng = np.random.default_rng(0)
    counted = [find_metre(0.5 * np.arange(300), rng.standard_normal(300), 2) for _ in range(300)]
    assert np.mean(np.array(counted) == 4) > 0.97


def sounding_from(start_s: float, beats: np.ndarray, *, even: bool) -> Spectrum:
    """A song that is silent until then, and whose beats are all alike or have their own colour on every fourth."""
    count = int((beats[-1] + 1) * FRAME_RATE)
    level = np.where(np.arange(count) / FRAME_RATE >= start_s, 0.3, 0.0)
    at = np.searchsorted(beats, np.arange(count) / FRAME_RATE + 1e-6) - 1
    mel, flux = np.full((count, 40), 0.5, np.float32), np.full(count, 0.1)
    chroma = np.full((count, 12), 0.2, np.float32)
    if not even:
        chroma += np.eye(12, dtype=np.float32)[(at // 4) % 12]
    return Spectrum(mel, flux, dict.fromkeys(("low", "mid", "high"), flux), chroma, level)


BEATS = 2.0 + 0.5 * np.arange(160)


@pytest.mark.parametrize(("start_s", "first"), [(2.0, 0), (3.0, 2), (3.05, 2), (3.25, None), (0.0, None)])
def test_a_song_begins_on_the_beat_of_its_first_sound(start_s: float, first: int | None) -> None:
    assert begins_on_a_beat(sounding_from(start_s, BEATS, even=True), BEATS) == first


@pytest.mark.parametrize("first", [0, 1, 2, 3])
def test_where_nothing_else_tells_a_song_begins_on_the_one(first: int) -> None:
    bars = find_bars(sounding_from(float(BEATS[first]), BEATS, even=True), BEATS)
    assert bars.downs[0] == first
    assert int(np.argmax(bars.scores)) == first


@pytest.mark.parametrize("first", [1, 2, 3])
def test_a_pickup_is_told_by_the_harmony_of_the_bars_after_it(first: int) -> None:
    """The chord changes on every fourth beat, whichever of them the song begins on."""
    bars = find_bars(sounding_from(float(BEATS[first]), BEATS, even=False), BEATS)
    assert bars.downs[0] == 0
    assert int(np.argmax(bars.scores)) == 0


def test_an_odd_bar_next_to_the_last_does_not_break_the_bars() -> None:
    """With nothing after it to speak for it, the slice of what follows is empty."""
    rng = np.random.default_rng(0)
    for count in range(8, 40):
        evidence = rng.standard_normal(count)
        evidence[::4] += 3
        evidence[-5:] = [-1, -1, 4, -1, 4]
        downs = with_odd_bars(evidence - evidence.mean(), 4)
        assert all(b > a for a, b in pairwise(downs))
