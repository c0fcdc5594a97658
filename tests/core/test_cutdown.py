"""The cutdown: two clocks that agree, joins that keep the beat and make no click, and an edit that follows."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.edits import over_of
from zembi.core.edit.carry import through_cutdown
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Edit, Item
from zembi.core.errors import Refused
from zembi.core.song.corrections import Corrections, build_grid
from zembi.core.song.cutdown import CROSSFADE_S, SongLevel, SongMap, WorkingSound, merged, song_map
from zembi.core.song.grid import relation, through_map
from zembi.core.timebase import frames_for_length, seconds_to_frame

RATE = Fraction(24000, 1001)
SECONDS = 60.0
BEATS = [0.25 + 0.5 * i for i in range(119)]
GRID = build_grid(BEATS, BEATS[::4], 4, SECONDS, Corrections())
ALL = song_map([], SECONDS)

beat_index = st.integers(0, 118)
passages = st.lists(
    st.tuples(beat_index, beat_index).filter(lambda p: p[1] - p[0] >= 2), min_size=1, max_size=4
).map(lambda ps: [(BEATS[a], BEATS[b]) for a, b in ps])


@given(passages, st.floats(0, SECONDS))
def test_the_two_clocks_agree(left_out: list[tuple[float, float]], at: float) -> None:
    try:
        song = song_map(left_out, SECONDS)
    except Refused:
        assume(False)
    assert song.seconds == pytest.approx(SECONDS - sum(b - a for a, b in merged(left_out)), abs=0.6)
    working = song.to_working(at)
    assert 0 <= working <= song.seconds + 1e-9
    if song.holds(at):
        assert song.to_song(working) == pytest.approx(at, abs=1e-9)
    pieces = song.pieces(0, SECONDS)
    assert sum(b - a for a, b, _ in pieces) == pytest.approx(song.seconds)


def test_leaving_everything_out_is_refused() -> None:
    with pytest.raises(Refused, match="Nothing of the song"):
        song_map([(0.0, 31.0), (30.0, 60.0)], SECONDS)


@given(passages)
def test_the_beat_runs_on_through_every_join(left_out: list[tuple[float, float]]) -> None:
    try:
        song = song_map(left_out, SECONDS)
    except Refused:
        assume(False)
    beats = np.array(through_map(GRID, song).beats)
    inside = beats[(beats > 0) & (beats < song.seconds)]
    assert np.allclose(np.diff(inside), 0.5, atol=1e-6)
    for join in song.joins:
        assert np.abs(beats - join).min() < 1e-6


@settings(max_examples=25, deadline=None)
@given(passages, st.integers(1, 9000))
def test_working_sound_is_the_songs_but_for_the_crossfades(
    left_out: list[tuple[float, float]], block: int
) -> None:
    try:
        song = song_map(left_out, SECONDS)
    except Refused:
        assume(False)
    rate = 1000
    source = np.random.default_rng(3).standard_normal((int(SECONDS * rate), 2)).astype(np.float32)
    sound = WorkingSound(song.kept, SongLevel(), rate)
    out = np.concatenate(list(sound.blocks(source[i : i + block] for i in range(0, len(source), block))))
    assert len(out) == sound.total == round(song.seconds * rate)
    fade = round(CROSSFADE_S * rate)
    for (a, b), start in zip(song.kept, song.starts, strict=True):
        first, last, at = round(a * rate), round(b * rate), round(start * rate)
        assert np.array_equal(out[at : at + last - first - fade], source[first : last - fade])


def test_a_join_makes_no_click_and_loses_no_power() -> None:
    """A tone cut at any phase would step; across the join no step is larger than the tone's own."""
    rate = 48_000
    t = np.arange(10 * rate) / rate
    tone = np.stack([np.sin(2 * np.pi * 441.3 * t)] * 2, axis=1).astype(np.float32)
    song = SongMap(((0.0, 3.0017), (7.00031, 10.0)))
    out = np.concatenate(list(WorkingSound(song.kept, SongLevel(), rate).blocks([tone])))
    own = float(np.abs(np.diff(tone[:, 0])).max())
    assert np.abs(np.diff(out[:, 0])).max() < 1.6 * own
    noise = np.random.default_rng(1).standard_normal((10 * rate, 2)).astype(np.float32)
    joined = np.concatenate(list(WorkingSound(song.kept, SongLevel(), rate).blocks([noise])))
    around = joined[round(3.0017 * rate) - round(CROSSFADE_S * rate) : round(3.0017 * rate)]
    assert float((around**2).mean()) == pytest.approx(1.0, abs=0.15)


def test_gain_and_fades_are_those_of_the_working_song() -> None:
    rate = 1000
    ones = np.ones((10_000, 1), np.float32)
    level = SongLevel(gain_db=-6.0206, fade_in_s=1.0, fade_out_s=2.0, shape="even")
    sound = WorkingSound(((2.0, 8.0),), level, rate)
    out = np.concatenate(list(sound.blocks([ones])))[:, 0]
    assert out[500] == pytest.approx(0.25, abs=1e-3)
    assert out[3000] == pytest.approx(0.5, abs=1e-3)
    assert out[5000] == pytest.approx(0.25, abs=1e-3)
    assert out[0] == 0


def _edit(starts: list[int]) -> Edit:
    length = frames_for_length(SECONDS, RATE)
    starts = sorted({0, *(s for s in starts if 0 < s < length)})
    return new_edit(length, tuple(Item(s, AngleSource(1 + i % 3)) for i, s in enumerate(starts)))


@settings(max_examples=60)
@given(passages, st.lists(st.tuples(beat_index, st.integers(-3, 3)), max_size=30))
def test_an_edit_follows_and_keeps_its_distance_from_the_beat(
    left_out: list[tuple[float, float]], cuts: list[tuple[int, int]]
) -> None:
    try:
        song = song_map(left_out, SECONDS)
    except Refused:
        assume(False)
    edit = _edit([seconds_to_frame(BEATS[i], RATE) + off for i, off in cuts])
    after = through_cutdown(edit, ALL, song, GRID, RATE)
    assert after.length == frames_for_length(song.seconds, RATE)
    grid = through_map(GRID, song)
    seams = [seconds_to_frame(j, RATE) for j in song.joins]
    before = {relation(GRID, s.start, RATE).off_frames for s in edit.shots}
    for shot in after.shots[1:]:
        if all(abs(shot.start - j) > 6 for j in seams) and shot.start < after.length - 8:
            assert relation(grid, shot.start, RATE).off_frames in before


def test_restoring_a_passage_gives_back_all_that_was_outside_it() -> None:
    edit = _edit([seconds_to_frame(BEATS[i], RATE) for i in range(8, 112, 8)])
    song = song_map([(BEATS[40], BEATS[60])], SECONDS)
    there = through_cutdown(edit, ALL, song, GRID, RATE)
    back = through_cutdown(there, song, ALL, through_map(GRID, song), RATE)
    outside = [
        s
        for s in edit.shots
        if not seconds_to_frame(BEATS[40], RATE) <= s.start < seconds_to_frame(BEATS[60], RATE)
    ]
    kept = [s for s in back.shots if s.start != seconds_to_frame(BEATS[60], RATE)]
    assert [s.start for s in kept] == [s.start for s in outside]


def test_clips_and_cutaways_show_the_same_picture_for_the_same_music() -> None:
    start, end = seconds_to_frame(BEATS[10], RATE), seconds_to_frame(BEATS[30], RATE)
    clip = ClipSource("rope", 2.0, 0.5)
    edit = new_edit(
        frames_for_length(SECONDS, RATE), (Item(0, BlackSource()), Item(start, clip), Item(end, BlackSource())),
        (Item(start + 10, clip, end - 10),),
    )  # fmt: skip
    song = song_map([(BEATS[0], BEATS[16])], SECONDS)
    after = through_cutdown(edit, ALL, song, GRID, RATE)
    shot = next(s for s in after.shots if isinstance(s.source, ClipSource))
    assert isinstance(shot.source, ClipSource)
    # Music at the join was 3 s into the clip's shot, at half speed 1.5 s into the clip.
    assert shot.source.in_s == pytest.approx(2.0 + 0.5 * 3.0, abs=0.03)
    assert len(over_of(after)) == 1
    assert over_of(after)[0].start == seconds_to_frame(BEATS[0], RATE)
