"""The line-up in open files, places by the clock, moments in the picture, and what else speaks for a place."""

import csv
import io
import json
from dataclasses import asdict
from fractions import Fraction
from typing import Any

import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from zembi.core.errors import BadInput
from zembi.core.footage.files import Facts, SaidOfFile
from zembi.core.interchange.lineup import (
    PassRow,
    TakeRef,
    read_lineup,
    write_lineup,
    write_passes_csv,
    write_passes_json,
)
from zembi.core.interchange.timeline import MediaRef
from zembi.core.sync.clock import Clocked, LockedRun, place_by_clock
from zembi.core.sync.moments import find_moments
from zembi.core.sync.refine import Line
from zembi.service.lineup.evidence import Spot, reasons, says_section
from zembi.store.entities import Media, Pass

SONG = MediaRef("file:///m/song.flac", "song", 60.0)


def row(start: float = 3.25, song: float = 10.0, seconds: float = 20.0, rate: float = 1.0) -> PassRow:
    return PassRow(
        "GAL_01", "/m/GAL_01.mp4", start, start + seconds, song, song + rate * seconds, rate, "locked", 0.998, "found",
        "01:00:03:06",
    )  # fmt: skip


def ref(first_frame: int = 86_400, rate: Fraction = Fraction(24)) -> TakeRef:
    return TakeRef(MediaRef("file:///m/GAL_01.mp4", "GAL_01", 40.0), rate, first_frame)


@example(0.0, 41.0, 20.0, 2.0, Fraction(24))
@given(
    st.floats(0, 15), st.floats(-3, 50), st.floats(2, 20), st.sampled_from([1.0, 1.00012, 0.5, 2.0, 1.25]),
    st.sampled_from([Fraction(24), Fraction(24000, 1001), Fraction(60)]),
)  # fmt: skip
def test_a_line_up_comes_back_exactly(
    start: float, song: float, seconds: float, rate: float, own: Fraction
) -> None:
    # A pass that is over before the song begins has nothing to be written.
    assume(song + rate * seconds > 0.2)
    given_row = row(start, song, seconds, rate)
    length = 24 * 80
    text = write_lineup("Film", [given_row], [ref(rate=own)], SONG, Fraction(24), length)
    (back,) = read_lineup(text)
    said, meant = asdict(back), asdict(given_row)
    for name in ("take_start_s", "take_end_s", "song_start_s", "song_end_s", "rate", "confidence"):
        assert said.pop(name) == pytest.approx(meant.pop(name), abs=1e-9)
    assert {**said, "file": meant["file"]} == meant


def test_the_timeline_is_frame_accurate_for_other_programs() -> None:
    text = write_lineup("Film", [row(song=10.02)], [ref()], SONG, Fraction(24), 1440)
    timeline: Any = otio.adapters.read_from_string(text, "otio_json")
    (track,) = timeline.video_tracks()
    gap, clip = track
    # The pass begins at frame 240.48: its clip begins on the next whole frame, 241, at the take time of that frame.
    assert gap.source_range.duration.value == 241
    in_s = 3.25 + 241 / 24 - 10.02
    assert clip.source_range.start_time.to_seconds() == pytest.approx(3600 + in_s, abs=1e-9)
    assert clip.media_reference.available_range.start_time.value == 86_400
    (sound,) = timeline.audio_tracks()
    assert sound[0].media_reference.target_url == SONG.url


def test_a_clip_moved_elsewhere_is_read_by_its_ranges() -> None:
    text = write_lineup("Film", [row()], [ref()], SONG, Fraction(24), 1440)
    timeline: Any = otio.adapters.read_from_string(text, "otio_json")
    timeline.video_tracks()[0][0].source_range = otio.opentime.TimeRange(
        otio.opentime.RationalTime(0, 24), otio.opentime.RationalTime(252, 24)
    )
    (back,) = read_lineup(otio.adapters.write_to_string(timeline, "otio_json"))
    assert (back.origin, back.status) == ("by hand", "locked")
    assert back.song_start_s - back.take_start_s == pytest.approx(10.5 - 3.25)
    for bad in ("nothing", "{}", otio.adapters.write_to_string(otio.schema.Timeline(name="x"), "otio_json")):
        with pytest.raises(BadInput):
            read_lineup(bad)


def test_tables_hold_every_pass() -> None:
    rows = [row(), row(30.0, 40.0, 5.0, 1.00012)]
    table = list(csv.DictReader(io.StringIO(write_passes_csv(rows))))
    assert [float(r["song_start_s"]) for r in table] == [10.0, 40.0]
    assert float(table[1]["rate"]) == pytest.approx(1.00012, abs=1e-9)
    document = json.loads(write_passes_json("/m/song.flac", rows))
    assert [PassRow(**p) for p in document["passes"]] == rows


def test_a_camera_beside_a_locked_one_is_placed_by_timecode_before_creation_time() -> None:
    gallery = Clocked("GAL_01", 115.0, 3600.0, 1_000_000.0)
    run = LockedRun(gallery, 3.2, 115.0, Line(-3.2))
    (place,) = place_by_clock(Clocked("HIGH_02", 8.0, 3611.2, 1_000_050.0), [run])
    assert (place.by, place.beside) == ("timecode", "GAL_01")
    assert (place.start_s, place.end_s) == (0.0, 8.0)
    assert place.line.song(0.0) == pytest.approx(8.0)
    (rough,) = place_by_clock(Clocked("HIGH_02", 8.0, None, 1_000_050.0), [run])
    assert rough.by == "creation time"
    assert rough.line.song(0.0) == pytest.approx(46.8)
    # Before the song began there is nothing to lie on; without a clock nothing is said.
    assert place_by_clock(Clocked("EARLY", 3.5, 3600.0, None), [run]) == []
    assert place_by_clock(Clocked("NONE", 8.0, None, None), [run]) == []


def test_a_clap_and_a_flash_stand_out_and_steady_pictures_have_none() -> None:
    rng = np.random.default_rng(1)
    times = np.arange(240) / 24
    light = 0.4 + 0.001 * rng.standard_normal(240)
    motion = 0.004 + 0.0008 * np.abs(rng.standard_normal(240))
    assert find_moments(times, light, motion) == []
    light[60:62] += 0.3
    motion[118:121] = (0.02, 0.05, 0.06)
    found = find_moments(times, light, motion)
    assert [(m.kind, m.at_s) for m in found if m.kind == "clap"] == [("clap", pytest.approx(5.0))]
    assert any(m.kind == "flash" and m.at_s == pytest.approx(2.5) for m in found)
    assert len(found) == 2


def test_a_countdown_in_the_picture_is_told_from_a_clap() -> None:
    times = np.arange(400) / 25
    light = np.full(400, 0.4)
    motion = np.full(400, 0.001)
    for frame in (50, 75, 100, 125, 260):
        motion[frame] = 0.1
    found = find_moments(times, light, motion)
    assert [(m.at_s, m.kind) for m in found] == [
        (2.0, "count"), (3.0, "count"), (4.0, "count"), (5.0, "count"), (10.4, "clap")
    ]  # fmt: skip


@pytest.mark.parametrize(("note", "section", "told"), [
    ("ch2", "Chorus 2", True), ("CHORUS_2 tk4", "Chorus 2", True), ("cho 2", "Chorus 1", False),
    ("bridge pickup", "Bridge", True), ("take 2", "Chorus 2", False), ("", "Chorus 2", False), ("v1", "Verse 1", False),
    ("ve1", "Verse 1", True),
])  # fmt: skip
def test_slate_notes_name_sections(note: str, section: str, told: bool) -> None:
    assert says_section(note, section) is told


def test_only_what_tells_places_apart_is_said() -> None:
    def take(name: str, slate: str = "") -> Media:
        said = SaidOfFile(camera="Lamp", slate=slate)
        return Media(name, "take", name, "project", f"{name}.mp4", "", Facts(), said, "ready", "", 0)

    def lies(media: str, start: float, song: float, number: int, status: str = "locked") -> Pass:
        return Pass(number, media, start, start + 10, song, 1.0, status, 1.0, "found", {}, None, 0, "", "")  # type: ignore[arg-type]

    media = {m.id: m for m in (take("LAMP_01"), take("LAMP_03", "ch2"), take("LAMP_04"))}
    row = lies("LAMP_03", 30.0, 28.0, 1, "choose")
    spots = [Spot(28.0, "Chorus 1"), Spot(62.0, "Chorus 2")]
    assert reasons(row, spots, [row], media) == [[], ["the slate note says Chorus 2"]]
    first = lies("LAMP_03", 2.0, 0.0, 2)
    others = [row, first, lies("LAMP_01", 0.0, 5.0, 3), lies("LAMP_04", 0.0, 50.0, 4)]
    said = reasons(row, spots, others, media)
    assert said[0] == [
        "it goes on from another pass of this take",
        "Lamp was shot in order, and it falls between LAMP_01 and LAMP_04",
    ]
    assert said[1] == ["the slate note says Chorus 2"]
    both = [Spot(28.0, "Chorus 2"), Spot(62.0, "Chorus 2")]
    assert reasons(row, both, [row], media) == [[], []], "what is said of every place tells none apart"
