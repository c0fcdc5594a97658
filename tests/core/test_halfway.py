"""Which places of a click are the beats: on songs whose beats are known, from grids that lie aside of them."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
import soxr

from zembi.core.song.beats import _pulse
from zembi.core.song.halfway import half_way_gain, thirds_aside
from zembi.core.song.spectrum import RATE, Spectrum, describe
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


@pytest.mark.parametrize("clap", [0.0, 0.4])
@pytest.mark.parametrize("aside", [0, 1, 2])
def test_a_grid_on_the_wrong_third_is_brought_to_the_beat_however_loud_that_third_is(
    aside: int, clap: float
) -> None:
    spectrum, pulse, beats = song("six", clap)
    grid = beats[:-1] + aside * np.diff(beats) / 3
    assert thirds_aside(spectrum, pulse, grid) == (3 - aside) % 3


@pytest.mark.parametrize("style", STYLES)
def test_beats_are_not_left_for_thirds_nor_is_half_their_pace(style: str) -> None:
    spectrum, pulse, beats = song(style)
    assert thirds_aside(spectrum, pulse, beats) == 0
    between = (beats[:-1] + beats[1:]) / 2
    if style != "six":
        assert [thirds_aside(spectrum, pulse, grid) for grid in (beats[::2], beats[1::2], between)] == [
            0,
            0,
            0,
        ]


@pytest.mark.parametrize("style", STYLES)
def test_places_half_way_are_told_from_beats(style: str) -> None:
    spectrum, pulse, beats = song(style)
    assert half_way_gain(spectrum, pulse, beats) < 0
    assert half_way_gain(spectrum, pulse, (beats[:-1] + beats[1:]) / 2) > 0


def test_too_few_beats_tell_nothing() -> None:
    spectrum, pulse, beats = song("six")
    assert thirds_aside(spectrum, pulse, beats[:12] + 0.2) == 0
    assert half_way_gain(spectrum, pulse, beats[:12]) == 0.0
