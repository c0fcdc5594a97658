"""Real files of every awkward kind: probing, deriving, and clear words for what cannot be read."""

import json
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from tests.media.films import counts, film, tone
from tests.spans import of, span
from zembi.core.errors import Cancelled, UnreadableMedia
from zembi.demo.countmarks import draw_count, read_count
from zembi.demo.footage import frame_pts
from zembi.media.derive import (
    DRAWN,
    SOUND_RATE,
    derive_picture,
    derive_song,
    derived_folder,
    facts_of,
    is_derived,
    peaks_of,
    read_wave,
    write_flac,
)
from zembi.media.frames import FrameReader
from zembi.media.probe import content_id, frame_times, probe
from zembi.media.render import Film, render
from zembi.media.sound import read_sound
from zembi.media.spool import spooled_take


def quiet(_share: float, _text: str) -> None:
    pass


def decoded_counts(folder: Path, name: str = "programme") -> list[int | None]:
    """Decode a proxy frame by frame through its index, as the page does."""
    index = json.loads((folder / f"{name}.json").read_text())
    data = (folder / f"{name}.h264").read_bytes()
    out = []
    for offset, size in zip(index["offsets"], index["sizes"], strict=True):
        decoder = av.CodecContext.create("h264", "r")
        frames = [*decoder.decode(av.Packet(data[offset : offset + size])), *decoder.decode(None)]
        assert len(frames) == 1, "a proxy frame has to decode alone"
        out.append(read_count(frames[0].reformat(format="gray").to_ndarray()))
    return out


def test_counts_can_be_read_at_any_size() -> None:
    for width, height in ((320, 180), (768, 432), (180, 320), (1920, 1080)):
        picture = np.full((height, width), 90, np.uint8)
        for count in (0, 1, 1234, 16383):
            draw_count(picture, count)
            assert read_count(picture) == count
    assert read_count(np.full((180, 320), 90, np.uint8)) is None


@pytest.mark.parametrize(
    "rate", [Fraction(24), Fraction(24000, 1001), Fraction(30000, 1001), Fraction(60), Fraction(120)]
)
def test_rates_sizes_and_lengths_are_read(tmp_path: Path, rate: Fraction) -> None:
    facts = probe(film(tmp_path / "a.mp4", rate, 40, sound=tone(1.0, channels=2), timecode="01:00:00:00"))
    assert (facts.rate, facts.frames, facts.width, facts.height) == (rate, 40, 320, 180)
    assert facts.duration_s == pytest.approx(40 / rate, abs=1e-3)
    assert (facts.has_sound, facts.channels, facts.sample_rate, facts.variable) == (True, 2, 48_000, False)
    assert facts.timecode.startswith("01:00:00")
    assert facts.first_frame == 3600 * round(float(rate))


def test_variable_rate_keeps_every_frames_own_time(tmp_path: Path) -> None:
    pts = frame_pts(90, Fraction(30), variable=True, seed=4)
    path = film(tmp_path / "phone.mp4", Fraction(30), 90, pts=pts)
    assert probe(path).variable
    assert np.allclose(frame_times(path).times, pts / 90_000, atol=1e-9)


def test_milliseconds_of_a_container_are_settled(tmp_path: Path) -> None:
    path = film(tmp_path / "a.mkv", Fraction(60000, 1001), 120)
    assert np.allclose(frame_times(path).times, np.arange(120) * 1001 / 60000, atol=1e-9)


@pytest.mark.parametrize("turn", [90, -90, 180])
def test_a_turned_phone_film_stands_upright(tmp_path: Path, turn: int) -> None:
    path = film(tmp_path / "v.mp4", frames=8, turn=turn, size=(640, 360))
    facts = probe(path)
    upright = (360, 640) if abs(turn) == 90 else (640, 360)
    assert (facts.width, facts.height, facts.rotation) == (*upright, turn % 360)
    index = json.loads((derive_picture(path, tmp_path, "v", quiet) / "programme.json").read_text())
    assert (index["width"] < index["height"]) == (abs(turn) == 90)
    if abs(turn) == 90:
        render(
            Film(of([span(0, 8, "v")]), {"v": path}, None, Fraction(24), *upright, 0, 8), tmp_path / "up.mp4"
        )
        assert counts(tmp_path / "up.mp4") == list(range(8))


@pytest.mark.parametrize(("codec", "pixels", "ending"), [
    ("libx264", "yuv420p10le", ".mp4"), ("libx265", "yuv420p10le", ".mp4"), ("prores_ks", "yuv422p10le", ".mov"),
    ("libvpx-vp9", "yuv420p", ".webm"), ("mjpeg", "yuvj420p", ".mov"),
])  # fmt: skip
def test_deep_and_foreign_pictures_make_proxies(tmp_path: Path, codec: str, pixels: str, ending: str) -> None:
    path = film(tmp_path / f"deep{ending}", frames=14, codec=codec, pixels=pixels)
    folder = derive_picture(path, tmp_path, "deep", quiet)
    assert decoded_counts(folder) == list(range(14))
    assert decoded_counts(folder, "wall") == list(range(14))


def test_one_proxy_frame_for_each_source_frame_with_its_time(tmp_path: Path) -> None:
    pts = frame_pts(60, Fraction(30), variable=True, seed=9)
    folder = derive_picture(film(tmp_path / "p.mp4", Fraction(30), 60, pts=pts), tmp_path, "p", quiet)
    index = json.loads((folder / "programme.json").read_text())
    assert index["times"] == pytest.approx((pts / 90_000).tolist(), abs=1e-5)
    assert decoded_counts(folder) == list(range(60))
    facts = json.loads((folder / "done.json").read_text())
    assert facts["frames"] == 60
    assert facts["stills"] == 4
    assert "sound" not in facts


@pytest.mark.parametrize(("ending", "late"), [(".mov", 0.0), (".mov", 0.25), (".mkv", 0.125), (".mp4", 0.2)])
@pytest.mark.parametrize(("rate", "channels"), [(48_000, 2), (44_100, 1)])
def test_sound_lies_on_the_pictures_clock(
    tmp_path: Path, ending: str, late: float, rate: int, channels: int
) -> None:
    path = film(
        tmp_path / f"t{ending}",
        frames=48,
        sound=tone(1.6, rate, channels=channels, click_s=0.5),
        sound_rate=rate,
        late_s=late,
    )
    folder = derive_picture(path, tmp_path, "t", quiet)
    sound, out_rate = read_wave(folder / "sound.wav")
    assert out_rate == SOUND_RATE
    click = int(np.argmax(np.abs(sound))) / SOUND_RATE
    # An MP4 keeps edits in whole milliseconds; the other containers are exact to the resampler's grid.
    assert click == pytest.approx(0.5 + late, abs=1.1e-3 if ending == ".mp4" else 1e-4)
    streamed = spooled_take(path, 0.0, SOUND_RATE, tmp_path)[:]
    assert int(np.argmax(np.abs(streamed))) / SOUND_RATE == pytest.approx(click, abs=1e-4)


def test_any_frame_is_reached_in_any_order(tmp_path: Path) -> None:
    path = film(tmp_path / "long.mp4", Fraction(24), 120, gop=50)
    reader = FrameReader(path)
    for index in (5, 6, 7, 110, 3, 49, 50, 51, 0, 119, 118, 60, 60):
        luma = reader.frame(index).reformat(format="gray").to_ndarray()
        assert read_count(luma) == index
    reader.close()


def test_a_song_is_kept_sample_for_sample(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    sound = (np.clip(0.2 * rng.standard_normal((44_100, 2)), -1, 1) * 32767).round().astype(np.int16).astype(
        np.float32
    ) / 32768
    write_flac(tmp_path / "song.flac", sound, 44_100)
    again, rate = read_sound(tmp_path / "song.flac")
    assert rate == 44_100
    assert np.array_equal(again, sound)
    folder = derive_song(tmp_path / "song.flac", tmp_path, "song", quiet)
    copy, _ = read_sound(folder / "song.flac")
    assert np.array_equal(copy, again)
    table, per_second = peaks_of(sound.mean(axis=1), 44_100)
    assert (folder / "peaks.bin").stat().st_size == table.nbytes
    assert per_second == pytest.approx(44_100 / 110)
    assert is_derived(tmp_path, "song")


def test_a_song_can_be_drawn_before_its_copy_is_made(tmp_path: Path) -> None:
    write_flac(tmp_path / "song.flac", tone(1.0, 44_100, channels=2), 44_100)
    seen: dict[str, set[str]] = {}

    def look(share: float, _words: str) -> None:
        made = derived_folder(tmp_path, "song")
        seen[f"{share:g}"] = {p.name for p in made.iterdir()} if made.exists() else set()

    folder = derive_song(tmp_path / "song.flac", tmp_path, "song", look)
    drawn = seen[f"{DRAWN:g}"]
    assert {"peaks.bin", "sync.wav", "sound.json"} <= drawn
    assert "song.flac" not in drawn
    assert "done.json" not in drawn
    assert facts_of(folder)["peaks_per_s"] == pytest.approx(44_100 / 110)
    assert facts_of(folder)["samples"] == 44_100
    assert [p.name for p in tmp_path.iterdir() if "making" in p.name] == []


def test_a_song_that_is_stopped_on_the_way_leaves_nothing_half_made(tmp_path: Path) -> None:
    write_flac(tmp_path / "song.flac", tone(1.0, 44_100, channels=2), 44_100)

    def stop(share: float, _words: str) -> None:
        if share >= DRAWN:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        derive_song(tmp_path / "song.flac", tmp_path, "song", stop)
    assert not is_derived(tmp_path, "song")
    assert [p.name for p in tmp_path.iterdir() if "making" in p.name] == []
    derive_song(tmp_path / "song.flac", tmp_path, "song", quiet)
    assert is_derived(tmp_path, "song")


@pytest.mark.parametrize("ending", [".mp3", ".m4a", ".ogg", ".wav"])
def test_songs_of_every_kind_can_be_read(tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"s{ending}"
    codec = {".mp3": "libmp3lame", ".m4a": "aac", ".ogg": "libopus", ".wav": "pcm_s16le"}[ending]
    own = 48_000 if ending == ".ogg" else 44_100
    source = tone(2.0, own, channels=2, click_s=1.0)
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=own)
        stream.layout = "stereo"
        form = stream.codec_context.format or "s16"
        resampler = av.AudioResampler(form, "stereo", own, frame_size=stream.codec_context.frame_size or 1024)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(source.T), "fltp", "stereo")
        frame.rate, frame.pts = own, 0
        for piece in [*resampler.resample(frame), *resampler.resample(None)]:
            out.mux(stream.encode(piece))
        out.mux(stream.encode(None))
    sound, rate = read_sound(path)
    assert rate == own
    # What a coder puts before the first sample is skipped: the click stays where it was.
    assert int(np.argmax(np.abs(sound[:, 0]))) == pytest.approx(own, abs=2)
    assert probe(path, need=("sound",)).duration_s == pytest.approx(2.0, abs=0.06)


def test_bad_files_say_what_and_which(tmp_path: Path) -> None:
    (tmp_path / "notes.mp4").write_text("not a film at all, just some words " * 50)
    (tmp_path / "empty.mov").touch()
    whole = film(tmp_path / "whole.mp4", frames=100)
    (tmp_path / "cut.mp4").write_bytes(whole.read_bytes()[: whole.stat().st_size // 3])
    write_flac(tmp_path / "sound.flac", tone(1.0), 48_000)
    cases = {
        "notes.mp4": "not a media file",
        "empty.mov": "empty",
        "cut.mp4": "cut off",
        "gone.mp4": "not there any more",
        "sound.flac": "no picture",
    }
    for name, words in cases.items():
        with pytest.raises(UnreadableMedia, match=words) as caught:
            probe(tmp_path / name, need=("picture",))
        assert name in caught.value.message
    with pytest.raises(UnreadableMedia, match="no sound"):
        probe(whole, need=("sound",))
    with pytest.raises(UnreadableMedia, match="folder"):
        probe(tmp_path)
    assert not len(spooled_take(whole, 0.0, 8000, tmp_path))


def test_a_cut_off_film_with_its_head_gives_what_it_has(tmp_path: Path) -> None:
    whole = film(tmp_path / "whole.mkv", frames=100)
    (tmp_path / "cut.mkv").write_bytes(whole.read_bytes()[: whole.stat().st_size * 2 // 3])
    facts = probe(tmp_path / "cut.mkv", need=("picture",))
    assert 10 < facts.frames < 100
    folder = derive_picture(tmp_path / "cut.mkv", tmp_path, "cut", quiet)
    found = decoded_counts(folder)
    assert found[: len(found) - 2] == list(range(len(found) - 2))


def test_stopping_leaves_nothing_half_made(tmp_path: Path) -> None:
    path = film(tmp_path / "a.mp4", frames=100)

    def stop(share: float, _text: str) -> None:
        if share > 0.2:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        derive_picture(path, tmp_path / "cache", "a", stop)
    assert list((tmp_path / "cache").iterdir()) == []
    assert not derived_folder(tmp_path / "cache", "a").exists()


def test_content_is_known_by_what_it_holds(tmp_path: Path) -> None:
    a, b = film(tmp_path / "a.mp4"), film(tmp_path / "b.mp4", start=1)
    copy = tmp_path / "copy.mp4"
    copy.write_bytes(a.read_bytes())
    assert content_id(a) == content_id(copy) != content_id(b)
    assert counts(a) == list(range(48))


@pytest.mark.parametrize("name", ["A001_C002.R3D", "clip.braw", "photo.CR3"])
def test_a_raw_camera_recording_is_refused_with_the_way_to_convert_it(tmp_path: Path, name: str) -> None:
    path = tmp_path / name
    path.write_bytes(b"RED1" * 4000)
    with pytest.raises(UnreadableMedia, match=r"raw camera recording.*Export it") as refused:
        probe(path)
    assert name in str(refused.value)
