"""Alignment: takes made in simulated rooms are found where they were put; what cannot be known is not guessed."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from zembi.core.sync.align import TakeAlignment, align
from zembi.core.sync.confidence import DECIDED, confidence
from zembi.core.sync.features import FINE, RATE, SoundFeatures, choose_sound, is_silent, prepare, whiten
from zembi.core.sync.passes import longest_run, song_under, take_over
from zembi.core.sync.refine import Line
from zembi.core.sync.rivals import compare, other_places
from zembi.core.sync.search import match_over_song, matched_places
from zembi.core.sync.segments import STEP_S, Along, likeliest_path, steadied
from zembi.core.sync.sliding import Sliding
from zembi.demo.camera import Room, chatter, drift, record
from zembi.demo.song import PLAN
from zembi.demo.synth import play

Mono = NDArray[np.float32]
SONG_RATE = 48_000


@lru_cache(maxsize=1)
def song_audio() -> Mono:
    return np.asarray(play(PLAN).audio.mean(axis=1))


@lru_cache(maxsize=1)
def song() -> SoundFeatures:
    return prepare(soxr.resample(song_audio(), SONG_RATE, RATE).astype(np.float32))


def piece(start: float, end: float) -> Mono:
    return song_audio()[int(start * SONG_RATE) : int(end * SONG_RATE)]


def quiet(seconds: float) -> Mono:
    return np.zeros(int(seconds * SONG_RATE), np.float32)


def talk(seconds: float, seed: int = 3) -> Mono:
    return 0.2 * chatter(seconds, SONG_RATE, seed)


def find(*parts: Mono, room: Room | None = None, ppm: float = 0.0, seed: int = 5) -> TakeAlignment:
    heard = record(np.concatenate(parts), SONG_RATE, room or Room(), seed)
    if ppm:
        heard = drift(heard, SONG_RATE, ppm)
    return align(song(), soxr.resample(heard, SONG_RATE, RATE).astype(np.float32))


def worst_error(found: TakeAlignment, truth: Callable[[float], float]) -> float:
    """Largest error in seconds at the ends of all passes."""
    return max(
        abs(p.song_start_s + p.rate * (t - p.take_start_s) - truth(t))
        for p in found.passes
        for t in (p.take_start_s, p.take_end_s)
    )


@pytest.mark.parametrize("room", [
    Room(), Room(1.2, 6.0, None, direct_db=0.0), Room(0.8, -20.0, 3.0, pumping=0.8), Room(0.5, -25.0, clip=0.2),
    Room(0.6, -15.0, None, low_hz=400, high_hz=3000),
], ids=["room", "noise", "talk", "clipped", "telephone"])  # fmt: skip
def test_a_full_take_is_placed_to_a_tenth_of_a_millisecond(room: Room) -> None:
    found = find(talk(5.2), song_audio(), quiet(2), room=room)
    assert found.status == "locked"
    assert len(found.passes) == 1
    assert worst_error(found, lambda t: t - 5.2) < 1e-4
    assert found.passes[0].take_start_s == pytest.approx(5.2, abs=1.0)
    assert found.passes[0].take_end_s == pytest.approx(5.2 + len(song_audio()) / SONG_RATE, abs=1.5)


def test_a_part_of_the_song_amid_talk() -> None:
    found = find(talk(20), piece(48, 58), talk(20))
    assert found.status == "locked"
    (p,) = found.passes
    assert (p.take_start_s, p.take_end_s) == (pytest.approx(20, abs=0.5), pytest.approx(30, abs=0.5))
    assert worst_error(found, lambda t: t + 28) < 1e-3


def test_playback_restarted_gives_two_passes() -> None:
    found = find(talk(3), piece(0, 40), talk(5), piece(26, 70), talk(3))
    assert [p.locked for p in found.passes] == [True, True]
    assert worst_error(found, lambda t: t - 3 if t < 44.5 else t - 22) < 1e-3
    assert found.passes[0].take_end_s == pytest.approx(43, abs=0.5)
    assert found.passes[1].take_start_s == pytest.approx(48, abs=0.5)


def test_a_take_that_fits_two_choruses_is_not_guessed() -> None:
    found = find(talk(2), piece(28, 41), talk(2), room=Room(0.4, -15.0))
    assert found.status == "choose"
    (p,) = found.passes
    starts = [r.song_start_s - (p.take_start_s - 2) for r in p.rivals]
    assert starts == [pytest.approx(28.0, abs=0.002), pytest.approx(62.2857, abs=0.002)]
    assert found.confidence <= 0.5


def test_the_third_chorus_is_told_apart_by_what_it_adds() -> None:
    found = find(talk(2), piece(88, 102), talk(2), room=Room(0.4, -15.0))
    assert found.status == "locked"
    assert worst_error(found, lambda t: t + 86) < 1e-3


@pytest.mark.parametrize("ppm", [120.0, -180.0, 1000.0, -1000.0])
def test_clocks_are_measured(ppm: float) -> None:
    found = find(quiet(2), song_audio(), ppm=ppm)
    assert found.status == "locked"
    assert (found.passes[0].rate - 1) * 1e6 == pytest.approx(ppm, abs=2)
    assert worst_error(found, lambda t: t * (1 + ppm * 1e-6) - 2) < 1e-3


def test_another_song_talk_and_room_tone_are_no_match() -> None:
    # The other song shares no sound with ours: other pitches, other drum strokes, another tempo.
    parts = tuple(
        replace(
            p,
            seed=p.seed + 90,
            level=0.9,
            drums="none",
            bass=False,
            lead=tuple((a, b, n + 3, v) for a, b, n, v in p.lead),
        )
        for p in PLAN.parts
    )
    other = np.asarray(play(replace(PLAN, bpm=95.0, parts=parts[1:5])).audio.mean(axis=1))
    shifted = soxr.resample(other, 48_000, 45_300).astype(np.float32)
    assert find(shifted).status == "unmatched"
    assert find(talk(30)).status == "unmatched"
    noise = 1e-3 * np.random.default_rng(0).standard_normal(20 * SONG_RATE)
    assert find(noise.astype(np.float32)).status == "unmatched"


@pytest.mark.parametrize(
    "sound", [np.zeros(0, np.float32), np.zeros(30 * RATE, np.float32), np.full(30 * RATE, 0.2, np.float32)]
)
def test_no_usable_sound_is_silent_not_unmatched(sound: Mono) -> None:
    assert align(song(), sound).status == "silent"


@settings(max_examples=6, deadline=None)
@given(st.floats(0.0, 9.0), st.integers(0, 3))
def test_shifting_a_take_shifts_its_place_by_the_same(shift: float, seed: int) -> None:
    count = round(shift * SONG_RATE)
    found = find(np.zeros(count, np.float32), piece(44, 62), seed=seed)
    assert found.status == "locked"
    assert worst_error(found, lambda t: t + 44 - count / SONG_RATE) < 5e-4


def test_joined_silence_changes_nothing() -> None:
    plain, joined = find(piece(44, 70)), find(quiet(7), piece(44, 70), quiet(11))
    a, b = plain.passes[0], joined.passes[0]
    assert a.song_start_s - a.take_start_s == pytest.approx(b.song_start_s - b.take_start_s + 7, abs=2e-4)


def test_progress_is_told_and_can_stop_the_work() -> None:
    told: list[float] = []
    sound = soxr.resample(record(piece(0, 30), SONG_RATE, Room()), SONG_RATE, RATE).astype(np.float32)
    align(song(), sound, progress=lambda share, _what: told.append(share))
    assert told == sorted(told)
    assert told[0] >= 0
    assert told[-1] <= 1

    class Stop(Exception):
        pass

    def stop(_share: float, _what: str) -> None:
        raise Stop

    with pytest.raises(Stop):
        align(song(), sound, progress=stop)


def test_channels_are_joined_with_care() -> None:
    rng = np.random.default_rng(1)
    voice = (0.1 * rng.standard_normal(RATE)).astype(np.float32)
    dead, hum = (
        np.zeros(RATE, np.float32),
        (0.8 * np.sin(2 * np.pi * 50 * np.arange(RATE) / RATE)).astype(np.float32),
    )
    assert np.allclose(choose_sound(np.stack([voice, -voice], 1)), voice, atol=1e-6)
    assert np.allclose(choose_sound(np.stack([voice, dead], 1)), voice)
    assert np.corrcoef(whiten(choose_sound(np.stack([hum, voice], 1))), whiten(voice))[0, 1] > 0.9
    assert is_silent(choose_sound(np.stack([dead, dead], 1)))


def test_whitening_evens_spectrum_and_level() -> None:
    rng = np.random.default_rng(2)
    brown = np.cumsum(rng.standard_normal(20 * RATE))
    loud = np.where(np.arange(len(brown)) > len(brown) // 2, 10.0, 1.0) * (
        brown - np.convolve(brown, np.ones(401) / 401, "same")
    )
    white = whiten(loud.astype(np.float32))
    assert white[: 8 * RATE].std() == pytest.approx(white[12 * RATE :].std(), rel=0.1)


def test_a_stretch_fits_where_its_music_comes_again() -> None:
    take = prepare(soxr.resample(piece(28, 41), SONG_RATE, RATE).astype(np.float32))
    places = other_places(song(), take, Line(28.0), 0.0, 13.0)
    assert places[0][0] == pytest.approx(60.35 - 26.0643, abs=0.01)
    assert places[0][1] > 0.8


@settings(deadline=None)
@given(st.floats(-12, 12), st.floats(-3e-4, 3e-4), st.integers(-100, 50_000), st.integers(1, 30_000))
def test_song_and_take_are_laid_on_each_other_to_the_nearest_step(
    offset: float, drifting: float, first: int, count: int
) -> None:
    """Run by run what a lookup of every single sample gives, but where a place lies between two steps."""
    line = Line(offset, 1 + drifting)
    noise = np.random.default_rng(1).standard_normal(10 * RATE).astype(np.float32)
    sound = SoundFeatures(noise, np.zeros((1, 1), np.float32), 10.0, noise)
    dense = sound.fine.T.ravel()
    at = FINE * (offset * RATE + line.rate * (first + np.arange(count)))
    index = np.round(at).astype(int)
    expected = np.where((index >= 0) & (index < len(dense)), dense[np.clip(index, 0, len(dense) - 1)], 0)
    clear = np.abs(at - np.floor(at) - 0.5) > 1e-4
    assert np.array_equal(song_under(sound, line, first, count)[clear], expected[clear])
    over = (first + np.arange(count) - offset * RATE) / line.rate
    index = np.round(over).astype(int)
    expected = np.where((index >= 0) & (index < len(noise)), noise[np.clip(index, 0, len(noise) - 1)], 0)
    clear = np.abs(over - np.floor(over) - 0.5) > 1e-4
    assert np.array_equal(take_over(sound, line, first, count)[clear], expected[clear])


@settings(deadline=None)
@given(st.integers(1, 900), st.integers(1, 3), st.integers(0, 400), st.data())
def test_sliding_gives_what_correlation_gives(
    frames: int, bands: int, hang: int, data: st.DataObject
) -> None:
    length = data.draw(st.integers(1, 200))
    beyond = min(hang, length - 1)
    rng = np.random.default_rng(frames)
    values, piece = rng.standard_normal((frames, bands)), rng.standard_normal((length, bands))
    row = Sliding(values.astype(np.float32), 200).over(piece[None].astype(np.float32), beyond)[0]
    full = sum(np.correlate(values[:, b], piece[:, b], "full") for b in range(bands))
    start = length - 1 - beyond
    expected = full[start : start + frames - length + 2 * beyond + 1]
    assert row[: len(expected)] == pytest.approx(expected, abs=1e-3)


def test_a_take_from_a_loudspeaker_wired_the_other_way() -> None:
    heard = record(np.concatenate([talk(3), piece(20, 70)]), SONG_RATE, Room(), 5)
    found = align(song(), -soxr.resample(heard, SONG_RATE, RATE).astype(np.float32))
    assert found.status == "locked"
    assert worst_error(found, lambda t: t + 17) < 1e-4


def test_a_break_too_quiet_to_be_heard_does_not_end_a_pass() -> None:
    drowned = piece(0, 90).copy()
    drowned[30 * SONG_RATE : 55 * SONG_RATE] *= 0.001
    (p,) = find(talk(3), drowned, talk(2), room=Room(0.6, 0.0)).passes
    assert (p.take_start_s, p.take_end_s) == (pytest.approx(3, abs=1.0), pytest.approx(93, abs=1.0))


def test_a_click_at_the_songs_tempo_is_not_the_song() -> None:
    clicks = np.zeros(60 * SONG_RATE, np.float32)
    for beat in range(int(60 * PLAN.bpm / 60)):
        at = int(beat * 60 / PLAN.bpm * SONG_RATE)
        clicks[at : at + 960] += np.hanning(960)[: len(clicks) - at] * np.sin(
            np.arange(960)[: len(clicks) - at] / 6
        )
    assert find(clicks).status == "unmatched"


def test_the_take_decides_between_places_that_differ() -> None:
    take = prepare(soxr.resample(piece(88, 102), SONG_RATE, RATE).astype(np.float32))
    right, wrong = Line(88.0), Line(88.0 - 60.0)
    assert compare(song(), take, right, wrong, 0, 14).decided > 3 * DECIDED
    assert compare(song(), take, wrong, right, 0, 14).decided < -3 * DECIDED
    curve = match_over_song(song(), take)
    assert np.argmax(curve) / len(curve) * song().seconds == pytest.approx(88.0, abs=0.3)


@given(st.lists(st.floats(-5, 5), min_size=1, max_size=30))
def test_the_best_stretch_has_the_greatest_sum(values: list[float]) -> None:
    start, end = longest_run(np.array(values), 0, len(values))
    best = max(sum(values[a:b]) for a in range(len(values)) for b in range(a, len(values) + 1))
    assert sum(values[start:end]) == pytest.approx(max(best, 0.0), abs=1e-9)


@given(st.floats(0, 200), st.floats(0, 300), st.floats(0, 0.05), *[st.floats(-1, 2)] * 3)
def test_confidence_is_a_share_that_grows_with_evidence(
    z: float, seconds: float, spread: float, soft: float, middle: float, even: float
) -> None:
    value = confidence(z, seconds, spread, soft=soft, middle=middle, evenness=even)
    assert 0 <= value <= 1
    better = confidence(
        z + 5, seconds + 5, spread / 2, soft=soft + 0.1, middle=middle + 0.1, evenness=even + 0.1
    )
    assert better >= value
    assert confidence(8.0, seconds, spread, soft=soft, middle=middle, evenness=even) < 0.1


def test_a_song_cut_differently_on_set_is_two_passes_with_the_joint_where_it_was_cut() -> None:
    # The two choruses have the same backing: along the first one's line the second agrees with half of itself.
    joint = 40.0
    for first, then in ((10.0, 74.0), (60.0, 20.0)):
        found = find(talk(3), piece(first, first + joint - 3), piece(then, then + 35), talk(3))
        assert found.status == "locked"
        a, b = found.passes
        assert abs(a.take_start_s - 3) < 0.5
        assert abs(a.take_end_s - joint) < 0.5
        assert abs(b.take_start_s - joint) < 0.5
        assert abs(a.line.song(20.0) - (first + 17)) < 0.001
        assert abs(b.line.song(50.0) - (then + 10)) < 0.001


@pytest.mark.parametrize("start", [31.1, 66.1, 100.7])
def test_three_seconds_are_enough_where_what_they_hold_is_unique(start: float) -> None:
    found = find(talk(4), piece(start, start + 3), talk(4))
    named = [p.song_start_s - p.take_start_s for p in found.passes] + [
        r.song_start_s - r.take_start_s for p in found.passes for r in p.rivals
    ]
    assert found.passes
    assert any(abs(n - (start - 4)) < 0.002 for n in named)
    assert all(p.locked or p.rivals for p in found.passes)


@pytest.mark.parametrize("off", [0.00133, -0.0045])
def test_a_player_between_normal_speed_and_the_next_is_measured(off: float) -> None:
    played = np.asarray(soxr.resample(piece(10, 75), SONG_RATE * (1 + off), SONG_RATE), np.float32)
    found = find(talk(3), played, talk(3))
    assert found.status == "locked"
    assert abs(found.passes[0].rate - (1 + off)) < 2e-5
    assert worst_error(found, lambda t: 10 + (1 + off) * (t - 3)) < 0.003


def test_a_song_far_below_the_talk_is_found_by_the_sum_of_its_pieces() -> None:
    heard = record(np.concatenate([talk(3), piece(0, 110)]), SONG_RATE, Room(0.5, -20.0, 20.0), 11)
    take = prepare(soxr.resample(heard, SONG_RATE, RATE).astype(np.float32))
    places = matched_places(song(), take, [(0.0, take.seconds)])
    assert any(abs(c.offset_s + 3) < 0.003 for c in places)


def test_a_mix_without_its_middle_is_found_by_what_the_channels_differ_by() -> None:
    rng = np.random.default_rng(2)
    wide = np.asarray(0.5 * soxr.resample(rng.standard_normal(16_000 * 60), 16_000, SONG_RATE), np.float32)
    middle = piece(20, 80)
    left, right = middle + wide[: len(middle)], middle - wide[: len(middle)]

    def ready(sound: Mono) -> SoundFeatures:
        return prepare(soxr.resample(sound, SONG_RATE, RATE).astype(np.float32))

    heard = record(np.concatenate([talk(3), (left - right)[: 40 * SONG_RATE]]), SONG_RATE, Room(), 4)
    take = soxr.resample(heard, SONG_RATE, RATE).astype(np.float32)
    mono = ready((left + right) / 2)
    assert align(mono, take).status == "unmatched"
    found = align(mono, take, others=[lambda: None, lambda: ready(left - right)])
    assert found.status == "locked"
    assert worst_error(found, lambda t: t - 3) < 0.001


@given(st.floats(0.05, 0.9), st.integers(30, 200))
def test_the_path_turns_where_another_line_begins_to_explain_the_take(strong: float, turn: int) -> None:
    before = np.full(260, strong)
    before[turn:] = 0.0
    rows = [Along(before, np.ones(260)), Along(strong - before, np.ones(260))]
    path = steadied(likeliest_path(rows, 0.0, 26.0, strong), rows)
    assert [s.line for s in path] == [0, 1]
    assert abs(path[0].end_s - turn * STEP_S) < 1e-6


def test_the_path_stays_where_another_line_is_hardly_better() -> None:
    usual = np.full(200, 0.3)
    better = usual.copy()
    better[80:140] = 0.33
    rows = [Along(usual, np.ones(200)), Along(better, np.ones(200))]
    assert len(steadied(likeliest_path(rows, 0.0, 20.0, 0.3), rows)) == 1
