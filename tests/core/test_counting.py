"""Which way a song is counted: in its own time where it sways, the metre its places speak for, and how sure that is."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline

from tests.core.test_click import beat, strokes
from zembi.core.song.bars import place_speaks
from zembi.core.song.beats import Signs, track_beats
from zembi.core.song.bending import Bend, bend_along, lay_bent_click
from zembi.core.song.click import lay_click, standardised
from zembi.core.song.pointer import follow_beat
from zembi.core.song.spectrum import FRAME_RATE, RATE, Floats, describe
from zembi.core.song.sureness import doubt_of, sureness
from zembi.core.song.tempo import refine_tempo
from zembi.demo.song import PLAN
from zembi.demo.synth import play

SECONDS = 120.0


def swaying(much: float, seed: int) -> tuple[Floats, Floats]:
    """(song times, own times) of a clock that sways by about this share of its pace."""
    rng = np.random.default_rng(seed)
    knots = rng.normal(size=int(SECONDS / 8) + 4)
    pace = CubicSpline(np.arange(len(knots)) * 8.0, knots / knots.std() * much)
    times = np.linspace(0, SECONDS, int(SECONDS * 200))
    return times, np.concatenate([[0.0], np.cumsum(1 + pace(times[:-1])) * (times[1] - times[0])])


@settings(max_examples=6, deadline=None)
@given(st.sampled_from([0.005, 0.01, 0.02]), st.integers(0, 50), st.floats(85, 165))
def test_a_swaying_song_keeps_a_click_in_its_own_time(much: float, seed: int, bpm: float) -> None:
    times, own = swaying(much, seed)
    halves = beat(2 * bpm, float(own[-1]))
    at = np.interp(halves, own, times)
    envelope = strokes(at, SECONDS, np.where(np.arange(len(halves)) % 2 == 0, 1.0, 0.5))
    plain = lay_click(standardised([envelope]), bpm)
    first = bend_along(len(envelope), follow_beat(standardised([envelope]), bpm).times)
    bend, click = lay_bent_click([envelope], first, refine_tempo(first.straighten(envelope), bpm))
    assert click.keeps.all()
    assert click.alike.mean() > plain.alike.mean() - 0.02
    straight = bend.to_own(at[::2])
    straight = straight[(at[::2] > 4) & (at[::2] < SECONDS - 4)]
    count = np.arange(len(straight))
    off = straight - np.polyval(np.polyfit(count, straight, 1), count)
    assert np.abs(off).max() < 0.04


def test_own_time_and_song_time_are_each_others_inverse() -> None:
    frames = np.arange(3000)
    bend = Bend(frames + 20 * np.sin(frames / 300))
    at = np.linspace(0.5, 29.0, 77)
    assert np.allclose(bend.to_song(bend.to_own(at)), at, atol=1e-6)
    ramp = np.asarray(np.arange(3000, dtype=float))
    # What lies at a moment of the song lies at that moment's own time.
    straightened = bend.straighten(ramp)
    places = bend.to_own(np.array([10.0, 20.0])) * FRAME_RATE
    assert np.interp(places, np.arange(len(straightened)), straightened) == pytest.approx(
        [10.0 * FRAME_RATE, 20.0 * FRAME_RATE], abs=0.05
    )


@pytest.mark.parametrize("metre", [3, 4, 5, 7])
def test_the_metre_is_the_one_whose_places_speak(metre: int) -> None:
    rng = np.random.default_rng(metre)
    evidence = rng.normal(size=280) + 1.5 * (np.arange(280) % metre == 2)
    speaks = {m: place_speaks(evidence, m) for m in (3, 4, 5, 7)}
    assert max(speaks, key=lambda m: speaks[m]) == metre
    assert speaks[metre] > 10
    assert place_speaks(rng.normal(size=280), metre) < 3.5


CLEAR = Signs(alike=0.98, aside=4.0, level=4.0, rival=0.5, family=2.0, agreement=0.95)


@pytest.mark.parametrize(("signs", "doubt"), [
    (CLEAR, ""), (replace(CLEAR, level=0.1), "half"), (replace(CLEAR, level=0.1, rival=2.0), "double"),
    (replace(CLEAR, aside=0.05), "aside"), (replace(CLEAR, family=0.2), "tempo"), (replace(CLEAR, alike=0.0, family=0.3), "tempo"),
])  # fmt: skip
def test_what_the_doubt_is_about_is_said(signs: Signs, doubt: str) -> None:
    assert doubt_of(signs, 180.0) == doubt
    assert (sureness(signs, 180.0).grid >= 0.9) == (not doubt)


@given(st.floats(0, 1), st.floats(0, 4), st.floats(0, 5), st.floats(0, 3), st.floats(1, 600), st.floats(0, 1))
def test_sureness_is_a_share_and_clearer_signs_never_lower_it(
    alike: float, aside: float, level: float, family: float, seconds: float, more: float
) -> None:
    signs = Signs(alike=alike, aside=aside, level=level, family=family)
    now = sureness(signs, seconds)
    assert 0 <= now.grid <= min(now.place, now.level) <= 1
    for clearer in (
        replace(signs, aside=aside + more),
        replace(signs, level=level + more),
        replace(signs, family=family + more),
    ):
        then = sureness(clearer, seconds)
        assert then.place >= now.place - 1e-12
        assert then.level >= now.level - 1e-12
    assert sureness(signs, seconds + 60 * more).grid >= now.grid - 1e-12


def test_each_thing_that_can_be_wrong_is_sure_by_itself() -> None:
    by_taste = sureness(replace(CLEAR, level=0.0), 180.0, [9.0, 0.0, 1.0, 0.0])
    assert by_taste.place > 0.95
    assert by_taste.bar > 0.95
    assert by_taste.level < 0.6
    aside = sureness(replace(CLEAR, aside=0.0), 180.0, [9.0, 0.0, 1.0, 0.0])
    assert aside.place < 0.6 < aside.level
    either = sureness(CLEAR, 180.0, [3.0, 0.0, 2.9, 0.0])
    assert either.bar < 0.6 < either.grid
    assert sureness(CLEAR, 180.0).bar == 1.0, "where bars are known, nothing is left to doubt"


@pytest.fixture(scope="module")
def song() -> tuple[Floats, Floats]:
    """A made song's mono samples and its beats."""
    made = play(replace(PLAN, parts=PLAN.parts[1:6]))
    step = made.sample_rate // RATE
    mono = made.audio.mean(axis=1)
    mono = mono[: len(mono) // step * step].reshape(-1, step).mean(axis=1)
    return mono.astype(np.float32), np.asarray(made.beats_s, dtype=float)


def beats_of(audio: Floats) -> Floats:
    samples = np.asarray(audio, dtype=np.float32)
    return track_beats(describe(samples), samples).beats


def test_gain_and_silence_before_move_the_grid_by_what_they_should(song: tuple[Floats, Floats]) -> None:
    audio, _ = song
    plain = beats_of(audio)
    quiet = beats_of(0.2 * audio)
    assert len(quiet) == len(plain)
    assert np.abs(quiet - plain).max() < 0.004
    late = beats_of(np.concatenate([np.zeros(int(3.3 * RATE), np.float32), audio]))
    inside = late[late > 3.3 + plain[0] - 0.1][: len(plain)]
    assert np.abs(inside - plain[: len(inside)] - int(3.3 * RATE) / RATE).max() < 0.006


def test_a_song_played_twice_has_the_same_grid_twice(song: tuple[Floats, Floats]) -> None:
    audio, beats = song
    period = float(np.median(np.diff(beats)))
    whole = int(round(len(audio) / RATE / (4 * period)) * 4 * period * RATE)
    once = np.resize(audio, whole) if whole <= len(audio) else np.pad(audio, (0, whole - len(audio)))
    twice = beats_of(np.concatenate([once, once]))
    first = twice[twice < whole / RATE - period / 2]
    second = twice[twice >= whole / RATE - period / 2] - whole / RATE
    near = np.abs(second[:, None] - first[None]).min(axis=1)[1:-1]
    assert np.percentile(near, 95) < 0.012
