"""Which places of a click are the beats: on songs whose beats are known, from grids that lie aside of them."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.song.beats import _pulse
from zembi.core.song.changes import changed
from zembi.core.song.places import PARTS, BeatPhase, best_level, between, find_place, half_way, look_at
from zembi.core.song.spectrum import FRAME_RATE, RATE, Spectrum, describe, running_sums
from zembi.demo.song import PLAN
from zembi.demo.synth import play

STYLES = ("straight", "six", "shuffle")


@lru_cache(maxsize=8)
def song(style: str, clap: float = 0.0) -> tuple[Spectrum, np.ndarray, np.ndarray]:
    """A made song with its pulse and beats; ``clap``: how loud it is clapped on the second third of every beat."""
    parts = PLAN.parts[:5]
    if style != "straight":
        parts = tuple(replace(p, style=style) for p in parts)  # type: ignore[arg-type]
    plan = replace(PLAN, bpm=62.0, metre=2, parts=parts) if style == "six" else replace(PLAN, parts=parts)
    performance = play(plan)
    audio, beats, rate = performance.audio.copy(), np.array(performance.beats_s), performance.sample_rate
    length = int(0.06 * rate)
    noise = np.random.default_rng(1).normal(size=(length, 1))
    sound = clap * noise * np.exp(-np.arange(length) / rate / 0.015)[:, None]
    for at in beats[:-1] + np.diff(beats) / 3:
        first = int(at * rate)
        audio[first : first + length] += sound[: len(audio) - first]
    spectrum = describe(soxr.resample(audio.mean(axis=1), rate, RATE).astype(np.float32))
    return spectrum, _pulse(spectrum), beats


def moved(beats: np.ndarray, part: int) -> np.ndarray:
    """A grid that lies a part of a beat after the beats."""
    return np.asarray(beats[:-1] + part / PARTS * np.diff(beats))


@pytest.mark.parametrize("clap", [0.0, 0.4])
@pytest.mark.parametrize("aside", [0, 4, 8])
def test_a_grid_on_the_wrong_third_is_brought_to_the_beat_however_loud_that_third_is(
    aside: int, clap: float
) -> None:
    spectrum, pulse, beats = song("six", clap)
    place = find_place(spectrum, pulse, moved(beats, aside))
    assert place.part == (PARTS - aside) % PARTS
    assert place.ahead > 0


@pytest.mark.parametrize("style", STYLES)
def test_places_half_way_are_told_from_beats(style: str) -> None:
    spectrum, pulse, beats = song(style)
    assert [find_place(spectrum, pulse, moved(beats, part)).part for part in (0, 6)] == [0, 6]


@pytest.mark.parametrize("style", STYLES)
@pytest.mark.parametrize("factor", [0.5, 1.0, 2.0])
def test_whichever_level_is_given_the_beats_are_found_again(style: str, factor: float) -> None:
    spectrum, pulse, beats = song(style)
    given = {0.5: beats[::2], 1.0: beats, 2.0: between(beats)}[factor]
    level = best_level(spectrum, pulse, given)
    assert level.factor == 1 / factor
    assert level.ahead > 0
    assert level.rival in (0.5, 2.0)
    ends = (level.beats > 1) & (level.beats < beats[-1] - 1)
    assert np.abs(level.beats[ends, None] - beats).min(axis=1).max() < 1e-9


def test_a_tempo_out_of_reach_is_not_counted() -> None:
    spectrum, pulse, beats = song("six")
    level = best_level(spectrum, pulse, between(between(beats)))
    assert level.factor == 0.5
    assert level.beats == pytest.approx(between(beats)[: len(level.beats)])


@pytest.mark.parametrize("style", STYLES)
@pytest.mark.parametrize("first_is_late", [False, True])
def test_a_grid_that_slipped_by_half_a_beat_is_mended_where_the_pulse_was_loose(
    style: str, first_is_late: bool
) -> None:
    spectrum, pulse, beats = song(style)
    at = 8 * (len(beats) // 16)
    halves = np.diff(beats) / 2
    slipped = beats[:-1] + halves * ((np.arange(len(halves)) < at) == first_is_late)
    steps = np.diff(slipped)
    late = half_way(spectrum, pulse, slipped, steps)
    mended = slipped + late
    # All are on beats again, but for some about the slip, where half a beat is too few or too many.
    off = np.abs(mended[:, None] - beats).min(axis=1) > 0.02
    assert off.sum() <= 16
    assert np.abs(np.flatnonzero(off) - at).max(initial=0) <= 16
    # Where the pulse kept its pace it cannot have slipped, whatever it sounds like.
    assert not half_way(spectrum, pulse, slipped, np.full(len(steps), float(np.median(steps)))).any()


@pytest.mark.parametrize("style", STYLES)
def test_beats_that_did_not_slip_are_left_where_they_are_however_loose_the_pulse(style: str) -> None:
    spectrum, pulse, beats = song(style)
    loose = np.diff(beats) * np.resize([1.0, 1.0, 1.3, 1.3], len(beats) - 1)
    assert not half_way(spectrum, pulse, beats, loose).any()


def test_too_few_beats_tell_nothing() -> None:
    spectrum, pulse, beats = song("six")
    assert find_place(spectrum, pulse, beats[:12] + 0.2) == BeatPhase(0, 0.0)
    assert best_level(spectrum, pulse, beats[:12]).ahead == 0.0
    assert not half_way(spectrum, pulse, beats[:60] + 0.3, np.linspace(0.5, 0.7, 59)).any()


@given(part=st.integers(0, PARTS - 1), bpm=st.floats(50, 140), start=st.floats(0, 2))
def test_a_stroke_is_found_at_the_part_of_the_beat_that_it_falls_on(
    part: int, bpm: float, start: float
) -> None:
    beats = start + np.arange(24) * 60 / bpm
    frames = int((beats[-1] + 2) * FRAME_RATE)
    pulse = np.zeros(frames)
    pulse[np.round(moved(beats, part) * FRAME_RATE).astype(int)] = 1.0
    quiet = np.zeros(frames)
    spectrum = Spectrum(
        np.zeros((frames, 40), np.float32),
        quiet,
        dict.fromkeys(("low", "mid", "high"), quiet),
        np.zeros((frames, 12), np.float32),
        quiet,
    )
    struck = look_at(spectrum, pulse, beats).strokes["pulse"].mean(axis=0)
    assert struck[part] == struck.max() > 1


@given(at=st.integers(4, 19), reach=st.sampled_from([1.0, 2.0, 4.0]))
def test_what_sounds_otherwise_from_a_beat_on_changes_most_there(at: int, reach: float) -> None:
    beats = np.arange(24) * 0.5
    rows = np.zeros((round(12.5 * FRAME_RATE), 3), np.float32)
    rows[round(beats[at] * FRAME_RATE) :, 1] = 1.0
    change = changed(running_sums(rows), beats, np.arange(24.0), reach)
    assert int(np.nanargmax(change)) == at
    assert np.isnan(change).sum() == 2 * reach
    far = np.abs(np.arange(24) - at) >= reach
    assert np.nanmax(change[far]) == pytest.approx(np.nanmin(change))


def test_where_the_grid_reaches_nowhere_nothing_is_said_to_change() -> None:
    rows = np.ones((500, 3), np.float32)
    assert np.isnan(changed(running_sums(rows), np.arange(6.0), np.arange(6.0), 4.0)).all()
