"""Takes at other speeds, decoys that share sounds with the song, and takes too long to hold at once."""

from dataclasses import replace

import numpy as np
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_sync import SONG_RATE, Mono, find, piece, quiet, song, song_audio, talk, worst_error
from zembi.core.sync import align as aligning
from zembi.core.sync.align import align
from zembi.core.sync.confidence import LOCK_AT, stretched_confidence
from zembi.core.sync.features import RATE, channel_products, channel_weights, choose_sound
from zembi.core.sync.found import FoundPass, at_take_speed, joined, moved
from zembi.core.sync.speed import rates
from zembi.demo.camera import Room, record, stretch
from zembi.demo.song import PLAN
from zembi.demo.synth import play


def faster(sound: Mono, speed: float) -> Mono:
    return np.asarray(soxr.resample(sound, SONG_RATE * speed, SONG_RATE), dtype=np.float32)


@pytest.mark.parametrize("speed", [0.5, 1.25, 25 / 24, 1.913])
def test_playback_at_another_speed_is_found_and_measured_on_the_waveform(speed: float) -> None:
    found = find(talk(3), faster(piece(30, 85), speed), talk(2))
    assert found.status == "locked"
    (p,) = found.passes
    assert p.rate == pytest.approx(speed, rel=1e-5)
    assert not p.pitch_kept
    assert worst_error(found, lambda t: 30 + speed * (t - 3)) < 1e-3
    assert p.take_end_s - p.take_start_s == pytest.approx(55 / speed, abs=1.0)


@pytest.mark.parametrize("speed", [0.8, 1.5])
def test_playback_with_its_pitch_kept_is_found_by_its_envelopes(speed: float) -> None:
    found = find(talk(3), stretch(piece(30, 85), SONG_RATE, speed), talk(2))
    assert found.status == "locked"
    (p,) = found.passes
    assert p.pitch_kept
    assert p.rate == pytest.approx(speed, rel=3e-4)
    assert worst_error(found, lambda t: 30 + speed * (t - 3)) < 0.015


def test_a_stretched_take_of_two_equal_choruses_is_not_guessed() -> None:
    found = find(talk(2), stretch(piece(27.3, 41.3), SONG_RATE, 0.8), talk(1), room=Room(0.3, -25))
    assert found.status == "choose"
    (p,) = found.passes
    places = [r.song_start_s - p.rate * (r.take_start_s - 2) for r in p.rivals]
    for wanted in (27.3, 27.3 + 34.2857):
        assert any(abs(at - wanted) < 0.05 for at in places), places


def test_another_song_of_the_same_tempo_and_with_the_same_drums_is_never_locked() -> None:
    chords = {"Am": "Dm", "F": "Em", "C": "F", "G": "Am", "Dm": "C", "Em": "G"}
    parts = tuple(
        replace(p, seed=p.seed + 700, lead=p.lead[::-1], chords=tuple(chords[c] for c in p.chords))
        for p in PLAN.parts[1:]
    )
    other = np.asarray(play(replace(PLAN, parts=parts)).audio.mean(axis=1))
    assert not any(p.locked for p in find(talk(2), other).passes)
    assert find(stretch(faster(other, 1.07), SONG_RATE, 1 / 1.07)).status == "unmatched"


def test_a_pass_found_on_a_repeat_keeps_its_head() -> None:
    """The first verse and chorus look like the second; the intro before them does not."""
    found = find(talk(2), piece(2.04, 39.7), talk(5), piece(24.6, 66.0), room=Room(0.7, -20.0))
    assert [p.locked for p in found.passes] == [True, True]
    assert found.passes[0].take_start_s == pytest.approx(2.0, abs=0.5)
    assert worst_error(found, lambda t: t + 0.04 if t < 42 else t - 44.66 + 24.6) < 1e-3


def test_pieces_of_a_long_take_agree_with_the_whole(monkeypatch: pytest.MonkeyPatch) -> None:
    heard = record(np.concatenate([quiet(3), song_audio(), talk(4), piece(0, 60)]), SONG_RATE, Room(), 8)
    sound = soxr.resample(heard, SONG_RATE, RATE).astype(np.float32)
    whole = align(song(), sound)
    monkeypatch.setattr(aligning, "PIECE_S", 70.0)
    monkeypatch.setattr(aligning, "OVERLAP_S", 25.0)
    pieces = align(song(), sound)
    assert pieces.status == whole.status == "locked"
    assert len(pieces.passes) == len(whole.passes) == 2
    for a, b in zip(pieces.passes, whole.passes, strict=True):
        assert (a.take_start_s, a.take_end_s) == (
            pytest.approx(b.take_start_s, abs=0.2),
            pytest.approx(b.take_end_s, abs=0.2),
        )
        middle = (b.take_start_s + b.take_end_s) / 2
        assert a.line.song(middle) == pytest.approx(b.line.song(middle), abs=2e-4)


@pytest.mark.parametrize("holds", ["another speed", "talk"])
def test_progress_never_goes_back_whatever_is_tried(holds: str) -> None:
    told: list[float] = []
    sound = [talk(3), faster(piece(30, 85), 1.25), talk(2)] if holds != "talk" else [talk(40)]
    heard = record(np.concatenate(sound), SONG_RATE, Room(0.3, -25), 1)
    take = np.asarray(soxr.resample(heard, SONG_RATE, RATE), dtype=np.float32)
    align(song(), take, progress=lambda share, _what: told.append(share))
    assert told == sorted(told)
    assert 0 < told[0] < told[-1] <= 1


def test_the_rates_tried_leave_no_gap() -> None:
    tried = rates()
    assert tried[0] == pytest.approx(0.5)
    assert tried[-1] == pytest.approx(2.0)
    # Between two rates the ends of a window of ten seconds move by less than a frame at which they are sifted.
    assert np.all(np.diff(np.log(tried)) / 2 * 5.0 < 1 / 20)


@given(st.floats(0, 60), st.floats(-1, 1), st.floats(0, 0.1), st.floats(0, 200))
def test_stretched_confidence_is_a_share_and_low_tones_never_lock(
    score: float, harmony: float, spread: float, seconds: float
) -> None:
    value = stretched_confidence(score, harmony, spread, seconds)
    assert 0 <= value <= 1
    assert stretched_confidence(score + 1, harmony, spread, seconds + 1) >= value
    assert stretched_confidence(score, min(harmony, 0.45), spread, seconds) < LOCK_AT


@given(st.floats(0.5, 2.0), st.floats(0, 100), st.floats(0, 5000))
def test_a_pass_keeps_its_song_time_whatever_clock_it_is_told_on(
    speed: float, start: float, later: float
) -> None:
    plain = FoundPass(start, start + 20, 7.0, 1.0, 1.0, 50.0, residuals=[(start, 0.0)])
    there = moved(at_take_speed(plain, speed), later)
    for t in (start, start + 10, start + 20):
        assert there.line.song(t / speed + later) == pytest.approx(plain.line.song(t), abs=1e-6)


def test_neighbours_on_one_line_are_one_pass_and_of_two_claims_the_stronger_holds() -> None:
    first = FoundPass(0.0, 20.0, 5.0, 1.0, 1.0, 40.0)
    second = FoundPass(21.0, 50.0, 26.001, 1.0, 1.0, 60.0)
    (one,) = joined([second, first])
    assert (one.take_start_s, one.take_end_s, one.z) == (0.0, 50.0, 60.0)
    assert one.line.song(30.0) == pytest.approx(second.line.song(30.0))
    elsewhere = FoundPass(2.0, 18.0, 60.0, 1.0, 0.95, 15.0)
    assert joined([first, elsewhere]) == [first]


def test_channels_chosen_in_parts_are_those_chosen_at_once() -> None:
    rng = np.random.default_rng(4)
    sound = (0.1 * rng.standard_normal((4000, 3))).astype(np.float32)
    sound[:, 1] = -sound[:, 0]
    sound[:, 2] = 0
    parts = sum(channel_products(sound[a : a + 1000]) for a in range(0, 4000, 1000))
    assert np.allclose(sound @ channel_weights(np.asarray(parts), 4000), choose_sound(sound), atol=1e-6)


def test_the_order_of_takes_does_not_matter() -> None:
    heard = [
        soxr.resample(record(sound, SONG_RATE, Room(0.4), 3), SONG_RATE, RATE).astype(np.float32)
        for sound in (piece(10, 28), faster(piece(44, 74), 1.25), talk(8))
    ]
    forward = [align(song(), sound) for sound in heard]
    backward = [align(song(), sound) for sound in reversed(heard)]
    assert forward == backward[::-1]
    assert [f.status for f in forward] == ["locked", "locked", "unmatched"]
