"""Open formats both ways: lyrics, marks and sections, and the grid as MIDI."""

import io

import mido
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.errors import BadInput
from zembi.core.interchange.lists import Cue, read_cues_csv, read_vtt, write_cues_csv, write_vtt
from zembi.core.interchange.lyrics import (
    cues_of,
    read_lyrics,
    write_lrc,
    write_srt,
)
from zembi.core.interchange.midi import read_midi, write_midi
from zembi.core.song.corrections import Corrections, build_grid
from zembi.core.song.grid import Grid
from zembi.core.song.lyrics import LyricLine

words = st.text("abc déñ'&<>,.!", min_size=1, max_size=20).map(lambda s: " ".join(s.split())).filter(bool)
times = st.integers(0, 3_000_000).map(lambda ms: ms / 1000)


@st.composite
def timed_lines(draw: st.DrawFn) -> list[LyricLine]:
    starts = sorted(draw(st.lists(times, min_size=1, max_size=8, unique=True)))
    return [LyricLine(draw(st.text("abc dé", min_size=1).map(str.strip).filter(bool)), at) for at in starts]


def plain(lines: list[LyricLine]) -> list[tuple[float, str]]:
    return [(round(line.at_s or 0.0, 3), " ".join(line.text.split())) for line in lines]


@given(timed_lines())
def test_lyrics_come_back_from_every_format(lines: list[LyricLine]) -> None:
    for text in (write_lrc(lines), write_srt(cues_of(lines, 4000.0)), write_vtt(cues_of(lines, 4000.0))):
        assert plain(read_lyrics(text)) == plain(lines)


def test_lrc_keeps_words_with_times_repeats_and_offset() -> None:
    text = "[ti:Lamp Room]\n[offset:+500]\n[00:12.50][01:02.5]<00:12.50> lamp <00:13.10> room\n[00:20.00]keep the dark\n"
    lines = read_lyrics(text)
    assert [(line.at_s, line.text) for line in lines] == [
        (pytest.approx(12.0), "lamp room"), (pytest.approx(19.5), "keep the dark"), (pytest.approx(62.0), "lamp room"),
    ]  # fmt: skip
    assert [(round(t, 3), w) for t, w in lines[0].words] == [(12.0, "lamp"), (12.6, "room")]
    assert [(round(t, 3), w) for t, w in lines[2].words] == [(62.0, "lamp"), (62.6, "room")]
    again = read_lyrics(write_lrc(lines))
    assert [line.words for line in again] == [
        tuple((pytest.approx(t, abs=1e-3), w) for t, w in line.words) for line in lines
    ]


def test_pasted_text_is_lines_and_nothing_is_refused() -> None:
    pasted = "[Chorus]\n\n lamp room, lamp room \r\nkeep the dark at bay\n"
    assert [(x.text, x.at_s) for x in read_lyrics(pasted)] == [
        ("lamp room, lamp room", None),
        ("keep the dark at bay", None),
    ]
    with pytest.raises(BadInput, match=r"words\.txt holds no line"):
        read_lyrics("\n\n", "words.txt")


cues = st.lists(
    st.builds(
        Cue, times, times.map(lambda t: round(t + 5000, 3)), words, st.sampled_from(["section", "mark"])
    ),
    max_size=6,
)


@given(cues)
def test_marks_and_sections_come_back(given_cues: list[Cue]) -> None:
    assert read_cues_csv(write_cues_csv(given_cues)) == given_cues
    assert read_vtt(write_vtt(given_cues)) == given_cues


@pytest.mark.parametrize("text", ["start,name\n1,a\n", "start_s,name\n1.5,a\nx,b\n"])
def test_a_table_that_cannot_be_read_says_where(text: str) -> None:
    with pytest.raises(BadInput, match=r"marks.csv.*(needs a column|line 3)"):
        read_cues_csv(text, "marks.csv")


def moving(seed: int) -> Grid:
    rng = np.random.default_rng(seed)
    beats = 0.37 + np.concatenate([[0], np.cumsum(0.5 + 0.04 * rng.standard_normal(90))])
    downs = [float(beats[i]) for i in (*range(2, 30, 4), *range(32, 60, 3), *range(62, 90, 4))]
    return build_grid([float(b) for b in beats], downs, 4, float(beats[-1]), Corrections())


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_grid_comes_back_from_midi_beat_for_beat_and_bar_for_bar(seed: int) -> None:
    grid = moving(seed)
    marks = [Cue(3.2, 3.3, "kick", "mark"), Cue(10.0, 10.1, "crane – up", "mark")]
    found = read_midi(write_midi(grid, marks))
    ours = [b for b in grid.beats if b > 1e-6]
    count = min(len(ours), len(found.beats))
    assert count >= len(ours) - 1
    assert np.abs(np.array(found.beats[:count]) - ours[:count]).max() < 2e-4
    lines = [grid.beats[i] for i in grid.bars if 1e-6 < grid.beats[i] < 40]
    read = [found.beats[i] for i in found.bars]
    assert all(min(abs(line - r) for r in read) < 2e-4 for line in lines)
    inside = [r for r in read if lines[0] - 0.1 < r < lines[-1] + 0.1]
    assert len(inside) == len(lines)
    assert [m.start_s for m in found.markers] == pytest.approx([3.2, 10.0], abs=1e-3)
    # Latin-1 is all that the format holds: the dash becomes a question mark.
    assert [m.text for m in found.markers] == ["kick", "crane ? up"]


def test_a_steady_grid_needs_one_tempo_and_does_not_drift() -> None:
    beats = [0.35 + i * 60 / 112.03 for i in range(400)]
    grid = build_grid(beats, beats[::4], 4, beats[-1], Corrections())
    data = write_midi(grid, [])
    tempi = [
        m for track in mido.MidiFile(file=io.BytesIO(data)).tracks for m in track if m.type == "set_tempo"
    ]
    assert len(tempi) <= 12
    found = read_midi(data)
    assert max(abs(a - b) for a, b in zip(found.beats, beats, strict=False)) < 1e-4


@pytest.mark.parametrize("data", [b"", b"RIFF....WAVE", b"MThd\0\0\0\6\0\1\0\1\3\xc0MTrk"])
def test_what_is_not_midi_is_refused_by_name(data: bytes) -> None:
    with pytest.raises(BadInput, match=r"song\.mid"):
        read_midi(data, "song.mid")
