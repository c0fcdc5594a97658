"""One click over a song: its family of tempi, how exactly it is found, and what does and does not break it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.song.click import _HOP, _components, lay_click, standardised
from zembi.core.song.lines import line_evidence, line_spectrum
from zembi.core.song.spectrum import FRAME_RATE, Floats
from zembi.core.song.tempo import family_evidence


def strokes(times: Floats, seconds: float, strength: Floats | float = 1.0) -> Floats:
    """An onset envelope with a stroke at each time, and a little noise."""
    rng = np.random.default_rng(5)
    envelope = 0.05 * rng.random(int(seconds * FRAME_RATE))
    frames = np.arange(-3, 4)
    for at, much in zip(times, np.broadcast_to(strength, len(times)), strict=True):
        centre = at * FRAME_RATE
        near = np.round(centre + frames).astype(int)
        inside = (near >= 0) & (near < len(envelope))
        envelope[near[inside]] += much * np.maximum(0, 1 - np.abs(near[inside] - centre) / 2.5)
    return envelope


def beat(bpm: float, seconds: float, start: float = 0.3) -> Floats:
    return np.arange(start, seconds, 60 / bpm)


@pytest.mark.parametrize("bpm", [76.0, 97.3, 150.0, 171.4])
def test_lines_stand_at_the_beat_and_not_at_two_thirds_or_three_quarters_of_it(bpm: float) -> None:
    seconds = 150.0
    halves = beat(2 * bpm, seconds)
    accents = np.where(np.arange(len(halves)) % 2 == 0, 1.0, 0.5)
    envelope = strokes(halves, seconds, accents)
    lines, step = line_spectrum([envelope])
    true, thirds, quarters = line_evidence(lines, step, bpm * np.array([1.0, 2 / 3, 3 / 4]))
    assert true > 1.3 * max(thirds, quarters)
    family = family_evidence([envelope], bpm * np.array([0.5, 1.0, 2 / 3]))
    assert min(family[:2]) > 1.3 * family[2]


@settings(max_examples=15, deadline=None)
@given(st.floats(62, 190), st.floats(-0.002, 0.002), st.floats(0, 1))
def test_the_exact_tempo_is_found_from_one_a_little_off(bpm: float, off: float, start: float) -> None:
    seconds = 120.0
    envelopes = standardised([strokes(beat(bpm, seconds, start), seconds)])
    click = lay_click(envelopes, bpm * (1 + off))
    assert click.bpm == pytest.approx(bpm, abs=0.02)
    assert click.keeps.all()
    assert click.unlike == []


def test_strokes_half_a_beat_aside_for_a_while_are_another_pattern_on_the_same_click() -> None:
    seconds, bpm = 160.0, 120.0
    on, off = beat(bpm, seconds), beat(bpm, seconds, 0.55)
    times = np.concatenate([on[on < 60], off[(off >= 60) & (off < 90)], on[on >= 90]])
    eighths = strokes(np.sort(np.concatenate([on, off])), seconds, 0.4)
    click = lay_click(standardised([strokes(times, seconds) + eighths]), bpm)
    assert click.keeps.mean() > 0.9
    assert click.bpm == pytest.approx(bpm, abs=0.02)


@pytest.mark.parametrize(("bpm", "length"), [(97.0, 20.0), (150.0, 16.0)])
def test_a_passage_at_another_tempo_breaks_the_click(bpm: float, length: float) -> None:
    seconds = 150.0
    straight = beat(120.0, seconds)
    inside = 70.0 + np.arange(0, length, 60 / bpm)
    times = np.concatenate([straight[straight < 70], inside, straight[straight >= 70 + length]])
    click = lay_click(standardised([strokes(times, seconds)]), 120.0)
    failing = click.times[~click.keeps]
    assert failing.min() > 64
    assert failing.max() < 76 + length
    ((start, end),) = click.unlike
    assert start == pytest.approx(70, abs=4)
    assert end == pytest.approx(70 + length, abs=4)


def test_a_quiet_break_does_not() -> None:
    seconds = 150.0
    times = beat(120.0, seconds)
    click = lay_click(standardised([strokes(times[(times < 60) | (times > 85)], seconds)]), 120.0)
    assert click.keeps.all()


def test_a_drummer_who_sways_by_three_per_cent_keeps_none() -> None:
    seconds = 150.0
    even = np.arange(0.3, seconds, 0.5)
    swayed = even + 0.19 * np.sin(2 * np.pi * even / 40)
    assert lay_click(standardised([strokes(swayed, seconds)]), 120.0).keeps.mean() < 0.6


def test_what_holds_no_stroke_is_left_out() -> None:
    assert standardised([np.zeros(1000)]) == []
    lines, _ = line_spectrum([np.zeros(1000), np.zeros(1000)])
    assert not lines.any()


@given(st.integers(3, 2000), st.floats(0.7, 3.6))
@settings(max_examples=30, deadline=None)
def test_sums_before_each_hop_are_those_of_every_frame(count: int, hz: float) -> None:
    rng = np.random.default_rng(count)
    envelopes = [rng.random(count), rng.random(count)]
    sums = _components(envelopes, hz)
    turn = np.exp(-2j * np.pi * hz / FRAME_RATE * np.arange(count))
    for hop in range(sums.shape[1]):
        heard = slice(0, hop * _HOP)
        direct = [(e * turn**part)[heard].sum() for part in range(1, 9) for e in envelopes]
        assert sums[:, hop] == pytest.approx(np.array(direct), abs=1e-6)
