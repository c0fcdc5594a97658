"""What is heard on beats and lines: known answers."""

import pytest

from zembi.core.song.cutdown import song_map
from zembi.core.song.grid import Grid
from zembi.core.song.heard import (
    Curves,
    energy_on_beats,
    hits_on_beats,
    sung_by_lines,
    sung_by_voice,
    working_hits,
)
from zembi.core.song.hits import Hit
from zembi.core.song.lyrics import LyricLine, line_ends

SONG = song_map([], 40.0)
#: Seconds 10 to 20 are left out.
CUT = song_map([(10.0, 20.0)], 40.0)
GRID = Grid(tuple(0.5 * k for k in range(81)), tuple(range(0, 81, 4)), 1)


def test_a_line_ends_where_the_next_begins_and_in_an_instrumental_by_itself() -> None:
    lines = [
        LyricLine("one", 2.0), LyricLine("two", 4.0), LyricLine("not timed"), LyricLine("three", 20.0),
        LyricLine("long", 30.0, ((30.0, "a"), (37.5, "b"))), LyricLine("last", 39.0),
    ]  # fmt: skip
    assert line_ends(lines, 40.0) == [4.0, 10.0, None, 26.0, 38.5, 40.0]
    assert line_ends([], 40.0) == []
    assert line_ends([LyricLine("beyond", 50.0)], 40.0) == [50.0], "never before it begins"


def test_what_is_sung_is_what_is_kept_of_the_lines() -> None:
    lines = [LyricLine("one", 2.0), LyricLine("gone", 12.0), LyricLine("two", 25.0)]
    assert sung_by_lines(lines, SONG, 40.0) == ((2.0, 8.0), (12.0, 18.0), (25.0, 31.0))
    assert sung_by_lines(lines, CUT, 40.0) == ((2.0, 8.0), (15.0, 21.0))


def test_without_lines_it_is_where_a_voice_is_likely() -> None:
    voice = [0.0] * 20 + [0.9] * 10 + [0.2] * 70 + [0.8] * 20
    assert sung_by_voice(voice, SONG) == (pytest.approx((2.0, 3.0)), pytest.approx((10.0, 12.0)))
    assert sung_by_voice([0.9] * 400, CUT) == (pytest.approx((0.0, 10.0)), pytest.approx((10.0, 30.0)))


def test_energy_goes_from_the_songs_quiet_to_its_loud() -> None:
    curves = Curves([-20.0] * 200 + [-8.0] * 200, [0.2] * 200 + [0.8] * 200, 0.1)
    energy = energy_on_beats(GRID, curves, SONG, 40.0)
    assert energy[:40] == (0.0,) * 40
    assert set(energy[41:79]) == {1.0}
    assert curves.mean(SONG, 0.0, 20.0) == pytest.approx((-20.0, 0.2))
    assert curves.mean(CUT, 10.0, 30.0) == pytest.approx((-8.0, 0.8)), "what is left out is not heard"
    assert curves.mean(SONG, 5.0, 5.0) == (-70.0, 0.5)


def test_the_strongest_hit_near_a_beat_is_its_own() -> None:
    bands = {"low": [Hit(1.02, 0.4), Hit(1.25, 0.9)], "high": [Hit(0.98, 0.7), Hit(12.0, 1.0)]}
    hits = hits_on_beats(GRID, bands, SONG, 40.0)
    assert (hits[2], hits[1], hits[3], hits[24]) == (0.7, 0.0, 0.0, 1.0)
    assert working_hits(bands, CUT) == {"low": ((1.02, 0.4), (1.25, 0.9)), "high": ((0.98, 0.7),)}
