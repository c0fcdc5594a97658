"""Talk, noise and applause around the music: they have no beats, and do not disturb those of the music."""

from functools import cache

import numpy as np
import pytest
from scipy.signal import butter, resample_poly, sosfilt

from zembi.core.song.beats import track_beats
from zembi.core.song.click import standardised
from zembi.core.song.extent import held_pitch, music_extent, regularity
from zembi.core.song.spectrum import FRAME_RATE, RATE, Floats, Singles, describe
from zembi.demo.song import perform


@cache
def song() -> Singles:
    """A minute of the demo's song from its first verse on."""
    made = perform()
    mono = made.audio.mean(axis=1) if made.audio.ndim > 1 else made.audio
    low = resample_poly(mono, RATE, made.sample_rate)
    return np.asarray(low[8 * RATE : 68 * RATE], dtype=np.float32)


def speech(seconds: float, seed: int = 0) -> Singles:
    """Syllables of a voice whose pitch glides, with pauses."""
    rng = np.random.default_rng(seed)
    count = int(seconds * RATE)
    glide = 130 * (1 + 0.25 * np.interp(np.arange(count) / RATE, np.arange(0, seconds + 1, 0.2),
                                        rng.normal(size=len(np.arange(0, seconds + 1, 0.2)))))  # fmt: skip
    source = np.mod(np.cumsum(glide) / RATE, 1) - 0.5 + 0.1 * rng.normal(size=count)
    out, at = np.zeros(count), 0
    while at < count:
        piece = source[at : at + int(rng.uniform(0.12, 0.3) * RATE)]
        for hz in (rng.uniform(300, 800), rng.uniform(900, 2200)):
            out[at : at + len(piece)] += sosfilt(
                butter(2, [hz * 0.85, hz * 1.15], "band", fs=RATE, output="sos"), piece
            ) * np.hanning(len(piece))
        at += len(piece) + int(rng.uniform(0, 0.3) * RATE)
    return np.asarray(out / np.abs(out).max() * 0.3, dtype=np.float32)


def noise(seconds: float) -> Singles:
    return np.asarray(np.random.default_rng(1).normal(size=int(seconds * RATE)) * 0.03, dtype=np.float32)


def lies_on(beats: Floats, wanted: Floats) -> float:
    """Share of wanted beats that have one within 30 ms."""
    return float(np.mean([np.abs(beats - w).min() < 0.03 for w in wanted])) if len(beats) else 0.0


@pytest.fixture(scope="module")
def plain() -> Floats:
    return track_beats(describe(song()), song()).beats


@pytest.mark.parametrize("before", [noise(10), speech(11)], ids=["noise", "speech"])
def test_what_is_not_music_has_no_beats_and_changes_none(before: Singles, plain: Floats) -> None:
    sound = np.concatenate([before, song(), noise(8)])
    starts, ends = len(before) / RATE, (len(before) + len(song())) / RATE
    extent = music_extent(describe(sound), sound)
    assert abs(extent.start_s - starts) < 1.0
    assert abs(extent.end_s - ends) < 1.0
    track = track_beats(describe(sound), sound)
    assert starts - 0.5 < track.beats[0] < starts + 1.5
    assert track.beats[-1] < ends + 0.5
    assert lies_on(track.beats - starts, plain) > 0.97
    assert track.stretches[0].start_s == 0
    assert track.stretches[-1].end_s == pytest.approx(len(sound) / RATE)


def test_drums_alone_before_the_song_are_music() -> None:
    rng = np.random.default_rng(4)
    bars = np.zeros(16 * RATE, dtype=np.float32)
    for n, at in enumerate(np.arange(0, 16, 0.25)):
        stroke = rng.normal(size=RATE // 12) * np.exp(-np.arange(RATE // 12) / 300) * (0.5 if n % 4 else 1.0)
        first = int(at * RATE)
        bars[first : first + len(stroke)] += (0.3 * stroke)[: len(bars) - first].astype(np.float32)
    heard = describe(np.concatenate([bars, noise(10), speech(10)]))
    envelopes = standardised([heard.flux, *heard.band_flux.values()])
    drums, hiss, talk = regularity(envelopes, np.array([8.0, 21.0, 31.0]), 8.0)
    assert drums > 0.4
    assert max(hiss, talk) < 0.3


def test_notes_hold_their_pitch_and_speech_does_not() -> None:
    t = np.arange(6 * RATE) / RATE
    chord = np.sum([np.sin(2 * np.pi * hz * t) for hz in (220.0, 277.2, 329.6)], axis=0) * 0.2
    assert held_pitch(chord.astype(np.float32))[1:].min() > 0.5
    assert held_pitch(speech(6)).mean() < 0.03
    assert held_pitch(noise(6)).max() < 0.02


def test_a_song_that_is_all_music_is_taken_whole() -> None:
    extent = music_extent(describe(song()), song())
    assert (extent.start_s, extent.end_s) == (0.0, len(song()) / RATE)
    assert len(describe(song()).part(100, 400).flux) == 300
    assert describe(song()).frames == pytest.approx(60 * FRAME_RATE, abs=2)
