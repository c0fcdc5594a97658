"""Strokes by instrument, the time of attacks, changes of chord and entries."""

from functools import cache

import numpy as np
import pytest
import scipy
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.song import network, strokes
from zembi.core.song.attack import AttackRises, attack_rises
from zembi.core.song.hits import (
    ATTACK_ROWS,
    HIT_KINDS,
    HIT_NAMES,
    STROKE_ROWS,
    TURN_ROWS,
    Hit,
)
from zembi.core.song.spectrum import FRAME_RATE, RATE, Singles, Spectrum, describe
from zembi.core.song.strokes import INSTRUMENTS, find_strokes
from zembi.core.song.turns import chord_changes, entries

BEAT_S, BARS = 0.5, 24


def _burst(seconds: float, dies: float, seed: int, low: float, high: float) -> Singles:
    rng = np.random.default_rng(seed)
    n = int(seconds * RATE)
    sos = scipy.signal.butter(2, (low, high), "band", fs=RATE, output="sos")
    noise = scipy.signal.sosfilt(sos, rng.standard_normal(n))
    return np.asarray(noise / np.abs(noise).max() * np.exp(-np.arange(n) / RATE * dies), np.float32)


def _thump(dies: float = 14.0) -> Singles:
    t = np.arange(int(0.3 * RATE)) / RATE
    turn = 2 * np.pi * (50 * t + 60 / 40 * (1 - np.exp(-40 * t)))
    click = 0.25 * np.exp(-t * 600)
    return np.asarray(np.sin(turn) * np.exp(-t * dies) + click, np.float32)


def _kit(name: str, seed: int) -> Singles:
    if name == "kick":
        return _thump()
    if name == "snare":
        t = np.arange(int(0.2 * RATE)) / RATE
        tone = np.sin(2 * np.pi * 190 * t) * np.exp(-t * 25)
        return np.asarray(0.5 * tone + 0.7 * _burst(0.2, 20, seed, 400, 9_000), np.float32)
    return 0.25 * _burst(0.08, 60, seed, 6_000, 10_800)


def _played(times: dict[str, list[tuple[float, float]]], seconds: float) -> Singles:
    """A kit with a soft pad under it; times and loudness of each stroke."""
    t = np.arange(int(seconds * RATE)) / RATE
    out = 0.02 * sum(np.sin(2 * np.pi * f * t) for f in (220.0, 277.2, 329.6))
    for name, struck in times.items():
        for k, (at, loud) in enumerate(struck):
            sound = loud * _kit(name, k)
            begin = round(at * RATE)
            end = min(len(out), begin + len(sound))
            out[begin:end] += sound[: end - begin]
    return np.asarray(0.5 * out, np.float32)


@cache
def _pattern() -> dict[str, list[tuple[float, float]]]:
    beats = [(bar * 4 + beat) * BEAT_S + 0.5 for bar in range(BARS) for beat in range(4)]
    return {
        "kick": [(t, 1.0) for i, t in enumerate(beats) if i % 4 in (0, 2)],
        "snare": [(t, 0.9) for i, t in enumerate(beats) if i % 4 in (1, 3)],
        "hat": [(t + h * BEAT_S / 2, 0.8) for t in beats for h in (0, 1)],
    }


@cache
def _heard() -> dict[str, list[Hit]]:
    audio = _played(_pattern(), BARS * 4 * BEAT_S + 2)
    downbeats = [0.5 + 4 * BEAT_S * bar for bar in range(BARS)]
    return find_strokes(describe(audio), attack_rises(audio), downbeats)


@pytest.mark.parametrize("name", ["kick", "snare", "hat"])
def test_a_kit_is_told_by_name_and_on_time(name: str) -> None:
    true = np.array([t for t, _ in _pattern()[name]])
    found = np.array([h.at_s for h in _heard()[name]])
    if name == "hat":
        # The noise of the snares is 10 dB above the hats: nobody hears those that are struck with them.
        snares = np.array([t for t, _ in _pattern()["snare"]])
        true = true[np.abs(true[:, None] - snares).min(axis=1) > 0.02]
        found = found[np.abs(found[:, None] - snares).min(axis=1) > 0.02]
    near = np.abs(found[:, None] - true).min(axis=1) < 0.02
    reached = np.abs(found[:, None] - true).min(axis=0) < 0.02
    assert near.mean() > 0.9
    assert reached.mean() > (0.8 if name == "hat" else 0.85)
    errors = (found[:, None] - true)[near].ravel()
    errors = errors[np.abs(errors) < 0.02]
    assert np.median(np.abs(errors)) < 0.004


def test_every_kind_of_hit_has_a_name_and_every_instrument_is_a_kind() -> None:
    assert list(HIT_NAMES) == list(HIT_KINDS)
    assert set(INSTRUMENTS) < set(_heard()) < set(HIT_KINDS)
    assert {*STROKE_ROWS, *ATTACK_ROWS, *TURN_ROWS} < set(HIT_KINDS)


def test_strokes_come_in_order_with_strengths_and_sureness_that_are_shares() -> None:
    for hits in _heard().values():
        assert [h.at_s for h in hits] == sorted(h.at_s for h in hits)
        assert all(0 <= h.strength <= 1 and 0 <= h.sure <= 1 for h in hits)


def test_backbeats_are_shown_at_the_usual_sensitivity_and_a_carpet_of_hats_is_not() -> None:
    assert np.mean([h.strength >= 0.5 for h in _heard()["snare"]]) > 0.9
    assert np.mean([h.strength >= 0.5 for h in _heard()["hat"]]) < 0.2


@settings(max_examples=25, deadline=None)
@given(
    st.floats(0.3, 1.7),
    st.sampled_from(["kick", "snare", "hat"]),
    st.floats(-0.012, 0.012),
    st.integers(0, 99),
)
def test_an_attack_is_found_within_milliseconds(at: float, name: str, off: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    audio = np.asarray(0.01 * rng.standard_normal(2 * RATE), np.float32)
    sound = _kit(name, seed)
    begin = round(at * RATE)
    audio[begin : begin + len(sound)] += sound[: len(audio) - begin]
    found = attack_rises(audio).time_of(np.array([at + off]))[0]
    assert abs(found - at) < 0.008


def test_where_nothing_rises_the_time_stays() -> None:
    rises = AttackRises(np.zeros(2000), np.zeros((3, 2000)))
    assert rises.time_of(np.array([0.0, 0.7, 1.99])) == pytest.approx([0.0, 0.7, 1.99])


def test_blocks_of_a_long_song_say_what_the_whole_says(monkeypatch: pytest.MonkeyPatch) -> None:
    mel = np.random.default_rng(3).uniform(0, 4, (900, 40)).astype(np.float32)
    whole = network.stroke_activations(mel)
    monkeypatch.setattr(network, "_AT_ONCE", 130)
    np.testing.assert_allclose(whole, network.stroke_activations(mel), atol=2e-3)


def test_a_weak_stroke_is_told_where_the_other_bars_have_one(monkeypatch: pytest.MonkeyPatch) -> None:
    """A hat that is half drowned on the second beat of a bar, and as weak a sound where no bar has one."""
    bar_s, bars = 2.0, 20
    heard = np.full((int((bars + 1) * bar_s * FRAME_RATE), len(INSTRUMENTS)), 0.01, np.float32)

    def put(at: float, height: float) -> None:
        k = round(at * FRAME_RATE)
        heard[k - 1 : k + 2, 2] = [height / 2, height, height / 2]

    for bar in range(bars):
        put(bar * bar_s + 0.5, 0.95 if bar != 9 else 0.3)
    put(9 * bar_s + 1.37, 0.3)
    monkeypatch.setattr(Spectrum, "drums", heard)
    audio = np.zeros(int((bars + 1) * bar_s * RATE), np.float32)
    spectrum = describe(
        audio + 1e-3 * np.random.default_rng(1).standard_normal(len(audio)).astype(np.float32)
    )
    found = find_strokes(
        spectrum,
        AttackRises(np.zeros(len(audio) // 22), np.zeros((3, len(audio) // 22))),
        [bar * bar_s for bar in range(bars)],
    )
    times = [h.at_s for h in found["hat"]]
    assert times == pytest.approx([bar * bar_s + 0.5 for bar in range(bars)], abs=0.01)


def test_a_cymbal_is_a_crash_or_a_ride_where_one_of_them_is_clear(monkeypatch: pytest.MonkeyPatch) -> None:
    seconds = 12
    heard = np.full((seconds * int(FRAME_RATE + 1), len(INSTRUMENTS)), 0.01, np.float32)
    for at, crash, ride in ((2, 0.95, 0.2), (4, 0.2, 0.95), (6, 0.8, 0.75)):
        k = round(at * FRAME_RATE)
        for name, height in (("crash", crash), ("ride", ride)):
            heard[k - 1 : k + 2, INSTRUMENTS.index(name)] = [height / 2, height, height / 2]
    monkeypatch.setattr(Spectrum, "drums", heard)
    noise = 1e-3 * np.random.default_rng(1).standard_normal(seconds * RATE).astype(np.float32)
    steps = seconds * 1000 + 100
    found = find_strokes(describe(noise), AttackRises(np.zeros(steps), np.zeros((3, steps))), [])

    def times(kind: str) -> list[float]:
        return [round(h.at_s, 1) for h in found[kind]]

    assert (times("cymbal"), times("crash"), times("ride")) == ([2.0, 4.0, 6.0], [2.0], [4.0])


@pytest.mark.parametrize(("louder", "low", "high"), [(-12.0, 0.0, 0.45), (0.0, 0.5, 0.7), (8.0, 0.75, 1.0)])
def test_ghosts_are_below_what_is_usual_and_accents_above(louder: float, low: float, high: float) -> None:
    loudness = np.zeros(40)
    loudness[7] = louder
    found = strokes._strengths(loudness, np.arange(40) * 1.0, np.arange(20) * 2.0, carpets=False)
    assert low <= found[7] <= high
    assert 0.5 <= found[0] < 0.75


def test_a_kick_that_is_hit_harder_is_stronger_than_all_others() -> None:
    pattern = {name: list(hits) for name, hits in _pattern().items()}
    pattern["kick"] = [(t, 3.0 if k in (10, 30) else 1.0) for k, (t, _) in enumerate(pattern["kick"])]
    audio = 0.4 * _played(pattern, BARS * 4 * BEAT_S + 2)
    found = find_strokes(
        describe(audio), attack_rises(audio), [0.5 + 4 * BEAT_S * bar for bar in range(BARS)]
    )
    strongest = sorted(h.at_s for h in sorted(found["kick"], key=lambda h: -h.strength)[:2])
    assert strongest == pytest.approx([pattern["kick"][k][0] for k in (10, 30)], abs=0.02)


def _chord(hertz: tuple[float, ...], seconds: float) -> Singles:
    t = np.arange(int(seconds * RATE)) / RATE
    tone = sum(np.sin(2 * np.pi * f * m * t) / m for f in hertz for m in (1, 2, 3))
    return np.asarray(0.08 * tone * np.minimum(1, t * 100), np.float32)


def test_chords_change_where_they_do() -> None:
    chords = [(220.0, 261.6, 329.6), (174.6, 220.0, 261.6), (196.0, 246.9, 293.7), (164.8, 207.7, 246.9)]
    # Each for four beats, except one that comes back after two.
    plan = [0, 1, 2, 3, 0, 2, 1, 3, 0, 1]
    audio = np.concatenate([_chord(chords[c], 4 * BEAT_S) for c in plan])
    beats = np.arange(0, len(plan) * 4) * BEAT_S
    hits = chord_changes(describe(audio), beats.tolist(), attack_rises(audio))
    strong = [h.at_s for h in hits if h.strength >= 0.5]
    assert strong == pytest.approx([4 * BEAT_S * k for k in range(1, len(plan))], abs=0.03)


def test_an_instrument_comes_in_and_stops() -> None:
    audio = _played(_pattern(), BARS * 4 * BEAT_S + 2)
    tune = _chord((880.0, 1320.0), 16.0) * 3
    begin = round((0.5 + 8 * 4 * BEAT_S) * RATE)
    audio[begin : begin + len(tune)] += tune
    beats = [0.5 + BEAT_S * k for k in range(BARS * 4)]
    hits = entries(describe(audio), [0.0] * 500, beats, attack_rises(audio))
    strongest = sorted(sorted(hits, key=lambda h: -h.strength)[:2], key=lambda h: h.at_s)
    assert [h.at_s for h in strongest] == pytest.approx([16.5, 32.5], abs=BEAT_S + 0.05)


def test_a_voice_comes_in() -> None:
    voice = np.zeros(600)
    voice[200:380] = 1.0
    audio = (1e-3 * np.random.default_rng(1).standard_normal(60 * RATE)).astype(np.float32)
    hits = entries(describe(audio), voice.tolist(), [], attack_rises(audio))
    assert [h.at_s for h in hits] == pytest.approx([20.0, 38.0], abs=0.3)
