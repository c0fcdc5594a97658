"""The command line: the contracts that other programs read."""

import json
import subprocess
import sys
from fractions import Fraction
from importlib import metadata
from pathlib import Path
from typing import Any

import av
import numpy as np
import opentimelineio as otio
import pytest

from tests.media.films import counts, film
from zembi.core.interchange.timeline import read_timeline
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import source_frames
from zembi.core.song.hits import HIT_KINDS
from zembi.demo.synth import Performance
from zembi.media.probe import frame_times


def zembi(*arguments: object, code: int = 0) -> subprocess.CompletedProcess[str]:
    done = subprocess.run(
        [sys.executable, "-m", "zembi.cli", *map(str, arguments)], capture_output=True, text=True
    )
    assert done.returncode == code, done.stderr
    return done


def test_the_bare_name_says_what_to_do_next_and_which_version_it_is() -> None:
    said = zembi().stdout
    for command in ("zembi demo --open", "zembi serve --open", "zembi doctor", "zembi --help"):
        assert command in said
    assert zembi("--version").stdout.strip() == f"zembi {metadata.version('zembi')}"
    assert "No such command" in zembi("cutt", code=2).stderr


def test_listen_prints_one_object(footage: Path, performance: Performance) -> None:
    done = zembi("listen", footage / "song.flac", "--json")
    found = json.loads(done.stdout)
    assert found["tempo_bpm"] == pytest.approx(120, abs=0.01)
    assert found["tempo_steady"] is True
    assert found["metre"] == 4
    beats = np.array(found["beats"])
    assert np.median([np.abs(beats - t).min() for t in performance.beats_s]) < 0.005
    assert {"tempo_bpm", "shift_beats", "score"} == set(found["readings"][0])
    assert {"start_s", "end_s", "label", "group"} == set(found["sections"][0])
    assert sum(p["bars"] for p in found["phrases"]) == len(
        [b for b in found["downbeats"] if b < found["sections"][-1]["end_s"]]
    )
    assert set(found["hits"]) == set(HIT_KINDS)
    assert len(found["loudness"]["lufs"]) == pytest.approx(
        found["duration_s"] / found["loudness"]["hop_s"], abs=1
    )
    assert set(found) == {
        "duration_s", "tempo_bpm", "tempo_steady", "metre", "sure", "readings", "beats", "downbeats", "phrases",
        "sections", "hits", "loudness", "tempo", "division", "energy", "voice",
    }  # fmt: skip


def test_shots_prints_where_a_file_is_cut(tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    with av.open(str(tmp_path / "film.mp4"), "w") as out:
        stream = out.add_stream("libx264", rate=Fraction(24000, 1001), width=192, height=108)
        stream.options = {"crf": "20"}
        for length in (30, 17, 41):
            scene = np.kron(rng.uniform(0, 255, (9, 16, 3)), np.ones((12, 12, 1))).astype(np.uint8)
            for _ in range(length):
                out.mux(stream.encode(av.VideoFrame.from_ndarray(scene, "rgb24")))
        out.mux(stream.encode(None))
    found = json.loads(zembi("shots", tmp_path / "film.mp4", "--json").stdout)
    assert (found["file"], found["rate"], found["frames"]) == (str(tmp_path / "film.mp4"), "24000/1001", 88)
    assert found["shots"] == [
        {"first": 0, "end": 30, "in": "cut"}, {"first": 30, "end": 47, "in": "cut"},
        {"first": 47, "end": 88, "in": "cut"},
    ]  # fmt: skip
    assert "frames 30 to 47" in zembi("shots", tmp_path / "film.mp4").stdout


def test_group_puts_every_take_in_one_group(footage: Path) -> None:
    files = [footage / n for n in ("GAL_01.mp4", "LAMP_01.mp4", "DECK_02.mp4", "LAMP_03.mp4")]
    files = [f for f in files if f.exists()]
    groups = json.loads(zembi("group", *files, "--json").stdout)["groups"]
    assert sorted(f for g in groups for f in g["files"]) == sorted(map(str, files))
    (lamp,) = (g for g in groups if g["name"] == "LAMP")
    assert [Path(f).name for f in lamp["files"]] == [f.name for f in files if f.name.startswith("LAMP")]
    assert "names begin with LAMP" in lamp["because"]


@pytest.mark.parametrize("command", ["shots", "group"])
def test_what_has_no_picture_is_refused_in_one_line(command: str, footage: Path, tmp_path: Path) -> None:
    (tmp_path / "words.mp4").write_text("no film")
    for path, said in (
        (footage / "song.flac", "no picture"),
        (tmp_path / "gone.mp4", "not there"),
        (tmp_path / "words.mp4", "not a media file"),
    ):
        done = zembi(command, path, "--json", code=2)
        assert said in done.stderr
        assert len(done.stderr.strip().splitlines()) == 1
        assert not done.stdout


def test_align_prints_every_take(footage: Path) -> None:
    names = ["GAL_01.mp4", "LAMP_03.mp4", "LOFT_08.mp4", "HIGH_02.mp4"]
    done = zembi("align", footage / "song.flac", *(footage / n for n in names), "--json")
    takes: dict[str, Any] = {Path(t["file"]).name: t for t in json.loads(done.stdout)["takes"]}
    assert {n: takes[n]["status"] for n in names} == dict(
        zip(names, ["locked", "choose", "unmatched", "silent"], strict=True)
    )
    (p,) = takes["GAL_01.mp4"]["passes"]
    assert p["song_start_s"] - p["rate"] * p["take_start_s"] == pytest.approx(-2.0, abs=5e-4)
    assert p["rate"] == pytest.approx(1.0, abs=3e-6)
    assert len(takes["LAMP_03.mp4"]["candidates"]) == 2
    assert takes["LAMP_03.mp4"]["passes"] == []


@pytest.mark.parametrize(("arguments", "words"), [
    (["listen", "nowhere.wav", "--json"], "nowhere.wav is not there"),
    (["render", "nowhere.otio", "--out", "x.mp4"], "nowhere.otio is not there"),
    (["render", ".", "--out", "x.mp4"], "not a Zembi project"),
    (["render", ".", "--out", "x.avi"], ".mp4"),
    (["export", ".", "--format", "edl", "--out", "x.edl"], "not a Zembi project"),
])  # fmt: skip
def test_wrong_use_is_one_line_and_exit_2(tmp_path: Path, arguments: list[str], words: str) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "zembi.cli", *arguments], capture_output=True, text=True, cwd=tmp_path
    )
    assert done.returncode == 2
    assert done.stdout == ""
    assert words in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert list(tmp_path.iterdir()) == []


def test_a_foreign_timeline_is_rendered_frame_for_frame(tmp_path: Path, footage: Path) -> None:
    """Two tracks, a gap, a speed, relative addresses, ranges in the source's own rate."""
    clips = tmp_path / "clips"
    clips.mkdir()
    a, b = film(clips / "a take.mp4", Fraction(30000, 1001), 150), film(clips / "b.mov", Fraction(25), 100)

    def clip(name: str, start: float, frames: float, rate: float, speed: float = 1.0) -> otio.schema.Clip:
        source = otio.opentime.TimeRange(
            otio.opentime.RationalTime(start, rate), otio.opentime.RationalTime(frames, rate)
        )
        made = otio.schema.Clip(name, otio.schema.ExternalReference(name), source)
        if speed != 1.0:
            made.effects.append(otio.schema.LinearTimeWarp(time_scalar=speed))
        return made

    timeline = otio.schema.Timeline("t")
    low, high = otio.schema.Track(kind="Video"), otio.schema.Track(kind="Video")
    low.extend(
        [
            clip("clips/a%20take.mp4", 12, 48, 24),
            clip(b.resolve().as_uri(), 10, 25, 25, 0.5),
            clip("clips/b.mov", 24, 24, 24),
        ]
    )
    gap = otio.opentime.TimeRange(otio.opentime.RationalTime(0, 24), otio.opentime.RationalTime(20, 24))
    high.extend([otio.schema.Gap(source_range=gap), clip("clips/b.mov", 0, 10, 24)])
    sound = otio.schema.Track(kind="Audio")
    sound.append(clip(str(footage / "song.flac"), 0, 96, 24))
    timeline.tracks.extend([low, high, sound])
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"), adapter_name="otio_json")
    zembi("render", tmp_path / "t.otio", "--out", tmp_path / "out.mp4", "--size", "320x180", "--rate", "24")
    read = read_timeline((tmp_path / "t.otio").read_text(), rate=Fraction(24))
    files = {"clips/a%20take.mp4": a, "clips/b.mov": b, b.resolve().as_uri(): b}
    wanted: list[int] = []
    for span in on_screen(read.programme, Fraction(24)):
        assert span.media is not None
        wanted += source_frames(span, Fraction(24), frame_times(files[span.media]).times).tolist()
    assert wanted[:3] == [int((0.5 + (n + 0.5) / 24) * 30000 / 1001) for n in range(3)]
    assert wanted[20:23] == [int((n + 0.5) / 24 * 25) for n in range(3)]
    assert wanted[48:51] == [int((10 / 25 + 0.5 * (n + 0.5) / 24) * 25) for n in range(3)]
    assert counts(tmp_path / "out.mp4") == wanted


def test_a_project_is_rendered_and_exported_from_its_folder(data: Path, tmp_path: Path) -> None:
    folder = data / "projects" / "small"
    zembi("render", folder, "--out", tmp_path / "part.mp4", "--from", "3:1", "--to", "4:1")
    assert len(counts(tmp_path / "part.mp4")) == 48
    for form, start in (("otio", "{"), ("edl", "TITLE: Small"), ("csv", "start,"), ("vtt", "WEBVTT")):
        zembi("export", folder, "--format", form, "--out", tmp_path / f"x.{form}")
        assert (tmp_path / f"x.{form}").read_text().startswith(start)
    assert "bar:beat" in zembi("render", folder, "--out", tmp_path / "y.mp4", "--from", "soon", code=2).stderr
    assert (
        "--rate cannot differ"
        in zembi("render", folder, "--out", tmp_path / "y.mp4", "--rate", "25", code=2).stderr
    )
    assert (
        "not a format" in zembi("export", folder, "--format", "doc", "--out", tmp_path / "y", code=2).stderr
    )


def test_doctor_says_ok_line_by_line(tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "zembi.cli", "doctor", "--data", str(tmp_path)], capture_output=True, text=True
    )
    lines = done.stdout.splitlines()
    assert all(line.startswith(("ok", "NO")) for line in lines)
    assert (done.returncode == 0) == all(line.startswith("ok") for line in lines)
    assert any("libx264" in line for line in lines)
