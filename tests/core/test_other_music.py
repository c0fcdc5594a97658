"""Alignment on music unlike the demo song: loops with little changes, held tones, and takes of any level."""

from functools import lru_cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, fftconvolve, sosfilt

from zembi.core.sync.align import TakeAlignment, align
from zembi.core.sync.features import RATE, Singles, SoundFeatures, prepare
from zembi.core.sync.passes import evenness, sounding
from zembi.core.sync.refine import Line
from zembi.core.sync.rivals import other_places

#: Seconds of one loop, and how often it comes.
LOOP_S, TIMES = 2.0, 40


@lru_cache(maxsize=1)
def loops() -> Singles:
    """A beat and a chord that come again sample for sample, under a soft tune that never does."""
    rng = np.random.default_rng(11)
    count = int(LOOP_S * RATE)
    loop = np.zeros(count)
    for k in range(8):
        stroke = rng.standard_normal(1_200) * np.exp(-np.arange(1_200) / 250)
        loop[k * count // 8 :][:1_200] += (1.0 if k % 2 else 0.5) * stroke[: count - k * count // 8]
    t = np.arange(count) / RATE
    loop += sum(0.12 * np.sin(2 * np.pi * round(f * LOOP_S) / LOOP_S * t) for f in (220.0, 277.2, 329.6))
    song = np.tile(loop, TIMES)
    for at in np.arange(0, LOOP_S * TIMES - 0.5, 0.5):
        tone = np.arange(int(0.5 * RATE)) / RATE
        note = 440 * 2 ** (rng.integers(0, 18) / 12)
        shape = np.minimum(1, np.minimum(tone / 0.02, (0.5 - tone) / 0.05))
        voice = sum(np.sin(2 * np.pi * note * h * tone) / h for h in (1, 2, 3, 4))
        song[int(at * RATE) :][: len(tone)] += 0.2 * shape * voice
    return np.asarray(0.2 * song, dtype=np.float32)


@lru_cache(maxsize=1)
def held() -> Singles:
    """Held tones that swell and change, with no stroke anywhere."""
    rng = np.random.default_rng(5)
    song = np.zeros(70 * RATE)
    for at in np.arange(0, 66, 1.3):
        tone = np.arange(int(4 * RATE)) / RATE
        note = 150 * 2 ** (rng.integers(0, 40) / 12)
        swell = np.sin(np.pi * tone / 4) ** 2
        parts = sum(
            np.sin(2 * np.pi * note * h * (1 + 1e-3 * rng.standard_normal()) * tone) / h for h in range(1, 6)
        )
        song[int(at * RATE) :][: len(tone)] += swell * parts
    return np.asarray(0.05 * song, dtype=np.float32)


@lru_cache(maxsize=2)
def prepared(name: str) -> SoundFeatures:
    return prepare({"loops": loops, "held": held}[name]())


def in_a_room(sound: Singles, noise_db: float, seed: int = 3) -> Singles:
    rng = np.random.default_rng(seed)
    tail = rng.standard_normal(4_000) * np.exp(-np.arange(4_000) / 900) * 0.03
    tail[0] = 1.0
    heard = fftconvolve(sound, tail)[: len(sound)]
    noise = sosfilt(butter(1, 900, fs=RATE, output="sos"), rng.standard_normal(len(sound)))
    loud = float(np.sqrt(np.mean(heard[np.abs(heard) > 0] ** 2)))
    return np.asarray(heard + noise / noise.std() * loud * 10 ** (noise_db / 20), dtype=np.float32)


def of(name: str, start: float, end: float, noise_db: float = -20.0) -> TakeAlignment:
    """A take of a part of a song, with three seconds before and two after."""
    part = {"loops": loops, "held": held}[name]()[int(start * RATE) : int(end * RATE)]
    return align(prepared(name), in_a_room(np.pad(part, (3 * RATE, 2 * RATE)), noise_db))


@pytest.mark.parametrize("start", [6.0, 31.3, 58.0])
def test_a_short_take_of_a_loop_is_told_by_the_tune_above_it(start: float) -> None:
    found = of("loops", start, start + 10)
    assert found.status == "locked"
    (p,) = found.passes
    assert p.line.song(3.0) == pytest.approx(start, abs=5e-4)


def test_a_loop_without_its_tune_fits_everywhere_and_is_not_guessed() -> None:
    once = np.tile(loops()[: int(LOOP_S * RATE)] * 0, 1)
    bare = np.tile(_bare_loop(), 30)
    song = prepare(np.asarray(np.concatenate([once, bare]), np.float32))
    found = align(song, in_a_room(np.pad(bare[: 8 * RATE], RATE), -20.0))
    assert found.status == "choose"
    assert found.confidence < 0.5


def _bare_loop() -> Singles:
    rng = np.random.default_rng(2)
    count = int(LOOP_S * RATE)
    out = np.zeros(count, np.float32)
    for k in range(8):
        out[k * count // 8 :][:1_200] += (
            rng.standard_normal(1_200) * np.exp(-np.arange(1_200) / 250)
        ).astype(np.float32)
    return 0.2 * out


@pytest.mark.parametrize("noise_db", [-20.0, 0.0])
def test_music_without_strokes_is_placed(noise_db: float) -> None:
    found = of("held", 8.0, 58.0, noise_db)
    assert found.status == "locked"
    (p,) = found.passes
    assert p.line.song(3.0) == pytest.approx(8.0, abs=1e-3)
    assert (p.take_start_s, p.take_end_s) == (pytest.approx(3, abs=1.0), pytest.approx(53, abs=1.0))


@settings(max_examples=6, deadline=None)
@given(st.floats(-40, 10), st.booleans(), st.floats(-0.2, 0.2))
def test_level_polarity_and_a_constant_part_change_no_place(
    gain_db: float, inverted: bool, constant: float
) -> None:
    heard = in_a_room(np.pad(loops()[20 * RATE : 45 * RATE], (2 * RATE, RATE)), -15.0)
    changed = heard * np.float32(10 ** (gain_db / 20) * (-1 if inverted else 1)) + np.float32(constant)
    (p,) = align(prepared("loops"), np.asarray(changed, np.float32)).passes
    assert p.locked
    assert p.line.song(2.0) == pytest.approx(20.0, abs=5e-4)


def test_a_take_says_where_else_it_fits_as_far_as_the_music_is_alike() -> None:
    take = prepare(in_a_room(loops()[20 * RATE : 30 * RATE], -25.0))
    shifts = sorted(
        abs(s) for s, share in other_places(prepared("loops"), take, Line(20.0), 0.0, 10.0) if share < 1
    )
    assert shifts[:4] == [pytest.approx(k * LOOP_S, abs=1e-3) for k in (1, 1, 2, 2)]


def test_only_the_song_sounds_all_through_and_in_every_second() -> None:
    """The whole song, its strokes alone, and a take that shares every other three seconds with it."""
    song, line = prepared("loops"), Line(0.0)
    true = prepare(in_a_room(loops(), -6.0))
    whole = sounding(song, true, line, 0.0, 80.0)
    assert min(whole.soft, whole.middle) > 0.8
    assert evenness(song, true, line, 0.0, 80.0) > 0.5
    beat = np.zeros(len(loops()), np.float32)
    loud = np.abs(loops()) > 0.25
    beat[loud] = loops()[loud]
    assert sounding(song, prepare(in_a_room(beat, -12.0)), line, 0.0, 80.0).soft < 0.2
    other = held()[: len(loops())]
    shared = np.where((np.arange(len(other)) // (3 * RATE)) % 2 == 0, loops()[: len(other)], other)
    assert evenness(song, prepare(in_a_room(shared.astype(np.float32), -20.0)), line, 0.0, 70.0) < 0.3
