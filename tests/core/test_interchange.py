"""Open formats: what is written can be read back, frame for frame."""

import csv
import io
import re
from fractions import Fraction

import mido
import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.spans import of, span
from zembi.core.errors import BadInput
from zembi.core.interchange.edl import Reel, reel_name, write_edl
from zembi.core.interchange.lists import Cue, write_csv, write_vtt
from zembi.core.interchange.lyrics import read_lyrics
from zembi.core.interchange.midi import write_midi
from zembi.core.interchange.report import not_seen
from zembi.core.interchange.timeline import MediaRef, read_timeline, write_timeline
from zembi.core.interchange.titles import NOT_HELD, title_cues, write_titles
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import OPACITY
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import Programme, Span, Title
from zembi.core.programme.sound import song_sound
from zembi.core.song.corrections import Corrections, build_grid
from zembi.core.song.cutdown import SongMap
from zembi.core.timebase import RATES, timecode_to_frame
from zembi.core.titles.card import Card, CardLine
from zembi.core.titles.presets import PRESETS, worded

MEDIA = {
    "a": MediaRef("file:///footage/GAL_01.mp4", "GAL_01", 120.0),
    "b": MediaRef("clips/rope coil.mp4", "Rope", 9.0),
}
SONG = MediaRef("song.flac", "Lamp Room", 60.0)
GRID = build_grid(
    [0.35 + i * 60 / 112 for i in range(208)],
    [0.35 + i * 240 / 112 for i in range(52)],
    4,
    112.98,
    Corrections(),
)


@st.composite
def programmes(draw: st.DrawFn) -> list[Span]:
    edges = sorted(draw(st.sets(st.integers(1, 999), min_size=1, max_size=8)))
    spans = []
    for start, end in zip([0, *edges], [*edges, 1000], strict=True):
        media = draw(st.sampled_from(["a", "b", None]))
        speed = draw(st.sampled_from([1.0, 0.5, 1.25, 0.99988])) if media else 1.0
        spans.append(span(start, end, media, draw(st.floats(0, 50)) if media else 0.0, speed))
    return spans


@settings(max_examples=60, deadline=None)
@given(programmes(), st.sampled_from(sorted(RATES.values())))
def test_a_timeline_comes_back_frame_for_frame(spans: list[Span], rate: Fraction) -> None:
    read = read_timeline(write_timeline("t", of(spans), MEDIA, rate, SONG))
    assert (read.rate, read.programme.length, read.song_url) == (rate, 1000, "song.flac")
    shown = [s for s in on_screen(read.programme, rate) if s.media]
    wanted = [s for s in spans if s.media]
    assert [(s.start, s.end, s.media, s.time.pieces[0].speed) for s in shown] == [
        (s.start, s.end, MEDIA[s.media or ""].url, s.time.pieces[0].speed) for s in wanted
    ]
    for a, b in zip(shown, wanted, strict=True):
        assert abs(a.time.times(rate) - b.time.times(rate)).max() < 1e-6


def test_upper_tracks_lie_over_and_gaps_let_through() -> None:
    base = [span(0, 100, "a", 5.0)]
    over = [span(40, 60, "b", 1.0)]
    read = read_timeline(write_timeline("t", of(base, over), MEDIA, Fraction(24), None))
    shown = on_screen(read.programme, Fraction(24))
    assert [(s.start, s.end, s.media) for s in shown] == [
        (0, 40, MEDIA["a"].url), (40, 60, MEDIA["b"].url), (60, 100, MEDIA["a"].url),
    ]  # fmt: skip
    assert shown[2].time.start_s == pytest.approx(5.0 + 60 / 24)
    assert read.song_url is None


def test_ranges_in_their_own_rate_and_a_given_rate() -> None:
    timeline = otio.schema.Timeline("t")
    track = otio.schema.Track(kind="Video")
    half = otio.opentime.TimeRange(otio.opentime.RationalTime(30, 30), otio.opentime.RationalTime(60, 30))
    track.append(otio.schema.Clip("x", otio.schema.ExternalReference("x.mp4"), half))
    timeline.tracks.append(track)
    text = otio.adapters.write_to_string(timeline, "otio_json")
    read = read_timeline(text, rate=Fraction(24))
    assert (read.programme.length, read.programme.layers[0].spans[0].time.start_s) == (48, 1.0)
    assert read_timeline(text).rate == Fraction(30)


@pytest.mark.parametrize(("text", "message"), [
    ("not a timeline", "not an OpenTimelineIO file"), ("{}", "not an OpenTimelineIO file with a timeline"),
    ('{"OTIO_SCHEMA": "Clip.2"}', "it holds Clip"),
    (otio.adapters.write_to_string(otio.schema.Clip("x"), "otio_json"), "it holds Clip"),
    (otio.adapters.write_to_string(otio.schema.Timeline("x"), "otio_json"), "no video track"),
])  # fmt: skip
def test_what_is_no_timeline_is_refused(text: str, message: str) -> None:
    with pytest.raises(BadInput, match=re.escape(message)):
        read_timeline(text)


def test_an_edl_names_each_cut_on_both_sides() -> None:
    taken: set[str] = set()
    reels = {
        "a": Reel(
            reel_name("GAL_01 take", taken),
            "GAL_01.mp4",
            Fraction(24),
            timecode_to_frame("01:00:00:00", Fraction(24)),
        ),
        "b": Reel(reel_name("GAL_01 take", taken), "rope.mp4", Fraction(60)),
    }
    spans = [span(0, 48, "a", 2.0), span(48, 72, None), span(72, 96, "b", 1.0, 0.5)]
    text = write_edl(
        "Lamp Room", spans, reels, Fraction(24), first=timecode_to_frame("10:00:00:00", Fraction(24))
    )
    lines = text.splitlines()
    assert lines[0] == "TITLE: Lamp Room"
    assert "001  GAL01TAK V     C        01:00:02:00 01:00:04:00 10:00:00:00 10:00:02:00" in lines
    assert "002  GAL01TA2 V     C        00:00:01:00 00:00:01:12 10:00:03:00 10:00:04:00" in lines
    assert any(line.startswith("M2   GAL01TA2 012.0") for line in lines)
    assert "* FROM CLIP NAME: rope.mp4" in lines


def test_a_table_says_how_each_cut_lies() -> None:
    rows = list(
        csv.DictReader(
            io.StringIO(
                write_csv(
                    [span(0, 8, "a"), span(8, 60, "b", 1.5)],
                    {"a": "GAL, wide.mp4", "b": "b"},
                    GRID,
                    Fraction(24),
                )
            )
        )
    )
    assert rows[0]["file"] == "GAL, wide.mp4"
    assert (rows[1]["bar"], rows[1]["against the grid"], rows[1]["in seconds"]) == ("1", "bar", "1.500000")


def test_cues_in_webvtt() -> None:
    text = write_vtt([Cue(0.35, 8.9214, "Intro"), Cue(3661.5, 3661.5, "mark")])
    assert text.startswith("WEBVTT\n\n00:00:00.350 --> 00:00:08.921\nIntro\n")
    assert "01:01:01.500 --> 01:01:01.501" in text


def test_a_midi_file_lays_the_markers_on_the_beats() -> None:
    cues = [Cue(GRID.bar_time(5), 9.0, "Verse 1"), Cue(GRID.bar_time(13), 30.0, "Chorus 1")]
    document = mido.MidiFile(file=io.BytesIO(write_midi(GRID, cues)))
    assert document.type == 1
    seconds, found = 0.0, {}
    tempo = 500_000
    for message in mido.merge_tracks(document.tracks):
        seconds += mido.tick2second(message.time, document.ticks_per_beat, tempo)
        if message.type == "set_tempo":
            tempo = message.tempo
        elif message.type == "marker":
            found[message.text] = seconds
    assert found["Verse 1"] == pytest.approx(GRID.bar_time(5), abs=2e-3)
    assert found["Chorus 1"] == pytest.approx(GRID.bar_time(13), abs=2e-3)


def test_a_cut_song_is_a_clip_a_range_and_comes_back() -> None:
    song = MediaRef("file:///song.wav", "song", 60.0)
    kept = ((0.0, 10.25), (20.5, 31.0))
    cut = Programme(498, of([]).layers, song_sound("song", SongMap(kept)))
    text = write_timeline("Cut", cut, {}, Fraction(24), song, [(5.0, "a"), (12.0, "b")])
    track = otio.adapters.read_from_string(text, "otio_json").audio_tracks()[0]
    assert [[m.name for m in clip.markers] for clip in track] == [["a"], ["b"]]
    assert track[1].markers[0].marked_range.start_time.to_seconds() == pytest.approx(20.5 + 12.0 - 10.25)
    read = read_timeline(text)
    assert read.song_url == song.url
    assert [t for r in read.programme.sound.kept for t in r] == pytest.approx([t for r in kept for t in r])


def test_titles_come_back_from_a_timeline_exactly_and_are_markers_for_others() -> None:
    fade = (OPACITY(amount=Curve((Key(0, 0.0, "smooth"), Key(12, 1.0, "hold")))),)
    card = worded(PRESETS["main title"], "Lamp Room", "Orrin Vale")
    titles = [Span(24, 96, Title(card), chain=fade), Span(100, 120, Title(PRESETS["caption"]))]
    programme = of([span(0, 240, "a")], titles)
    text = write_timeline("Film", programme, MEDIA, Fraction(24), SONG)
    again = read_timeline(text).programme
    assert [s.content for s in again.layers[1].spans] == [s.content for s in titles]
    assert [(s.start, s.end, s.chain) for s in again.layers[1].spans] == [
        (s.start, s.end, s.chain) for s in titles
    ]
    timeline = otio.adapters.read_from_string(text, "otio_json")
    assert len(timeline.video_tracks()) == 1, "other programs see no empty track"
    markers = [
        (m.name, m.marked_range.start_time.value, m.marked_range.duration.value)
        for m in timeline.tracks.markers
    ]
    assert markers == [("Title: Lamp Room / Orrin Vale", 24, 72), ("Title: Words", 100, 20)]
    assert not_seen(programme, "otio", Fraction(24)) == [
        "2 titles are not seen: other programs get them as markers."
    ]
    for wrong in (
        text.replace('"first": 24', '"first": -3'),
        text.replace('"#ffffff"', '"white"'),
        text.replace('"slab"', '"gothic"'),
    ):
        if wrong != text:
            with pytest.raises(BadInput):
                read_timeline(wrong)


@pytest.mark.parametrize("form", NOT_HELD)
def test_words_of_titles_go_out_and_come_back_as_lyrics(form: str) -> None:
    lines = [("lamp room, lamp room", 24, 96), ("burn the fog\naway", 100, 148)]
    cards = [Span(a, b, Title(Card(tuple(CardLine(t) for t in words.split("\n"))))) for words, a, b in lines]
    cues = title_cues(of([span(0, 240, "a")], cards).layers, Fraction(24))
    again = read_lyrics(write_titles(cues, form), f"x.{form}")
    assert [line.at_s for line in again] == pytest.approx([1.0, 100 / 24], abs=1e-3)
    assert [" ".join(line.text.split()) for line in again] == ["lamp room, lamp room", "burn the fog away"]
    assert not_seen(Programme(1, ()), f"titles.{form}", Fraction(24)) == [NOT_HELD[form]]
