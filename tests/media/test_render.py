"""The rendered film: every frame and every sample where the edit puts it."""

import wave
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from tests.abuse.support import LONGER
from tests.media.films import counts, film, tone
from tests.spans import of, span
from zembi.core.errors import BadInput, Cancelled
from zembi.core.programme.model import Span, source_frames
from zembi.core.timebase import RATES
from zembi.demo.footage import frame_pts
from zembi.media.derive import write_flac
from zembi.media.probe import frame_times
from zembi.media.render import Film, coded_rate, render, song_samples


@pytest.fixture(scope="module")
def sources(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    folder = tmp_path_factory.mktemp("sources")
    return {
        "24": film(folder / "24.mp4", Fraction(24), 120),
        "29.97": film(folder / "2997.mp4", Fraction(30000, 1001), 150),
        "120": film(folder / "120.mkv", Fraction(120), 480),
        "phone": film(
            folder / "phone.mp4",
            Fraction(30),
            150,
            pts=frame_pts(150, Fraction(30), variable=True, seed=7),
            turn=0,
        ),
    }


def expected(spans: list[Span], files: dict[str, Path], rate: Fraction) -> list[int | None]:
    out: list[int | None] = []
    for s in spans:
        if s.media is None:
            out += [None] * s.frames
        else:
            out += [int(i) for i in source_frames(s, rate, frame_times(files[s.media]).times)]
    return out


def edit_of(length: int) -> list[Span]:
    """Short cuts to and fro between all sources, one at half speed, one from before, a black gap."""
    names = ["24", "29.97", "phone", "120", "24", "phone"]
    spans = [span(i * length, (i + 1) * length, n, 0.4 + 0.31 * i, 1.0) for i, n in enumerate(names)]
    spans.append(span(6 * length, 7 * length, None))
    spans.append(span(7 * length, 8 * length, "29.97", 1.1, 0.5))
    spans.append(span(8 * length, 9 * length, "phone", 0.9, 1.00012))
    return spans


@pytest.mark.parametrize("label", RATES)
def test_no_frame_is_off_at_any_rate(tmp_path: Path, sources: dict[str, Path], label: str) -> None:
    rate = RATES[label]
    spans = edit_of(9)
    target = tmp_path / "film.mp4"
    render(Film(of(spans), sources, None, rate, 320, 180, 0, 81), target)
    found = counts(target)
    wanted = expected(spans, sources, rate)
    assert len(found) == 81
    assert [i for i, (a, b) in enumerate(zip(found, wanted, strict=True)) if a != b] == []
    times = frame_times(target)
    assert times.rate == rate
    assert np.allclose(times.times, [float(Fraction(k) / rate) for k in range(81)], atol=1e-4)


def test_a_range_shows_the_same_frames(tmp_path: Path, sources: dict[str, Path]) -> None:
    spans = edit_of(12)
    render(Film(of(spans), sources, None, Fraction(25), 320, 180, 20, 61), tmp_path / "part.mp4")
    assert counts(tmp_path / "part.mp4") == expected(spans, sources, Fraction(25))[20:61]


@pytest.mark.parametrize(("rate", "channels"), [(48_000, 2), (44_100, 1), (44_100, 2)])
def test_the_songs_samples_are_not_moved(tmp_path: Path, rate: int, channels: int) -> None:
    song = tmp_path / "song.flac"
    write_flac(song, tone(3.0, rate, channels=channels, seed=1), rate)
    first, end = Fraction(17) / Fraction(24000, 1001), Fraction(60) / Fraction(24000, 1001)
    taken = np.concatenate([b for b, _ in song_samples(song, first, end)])
    whole = np.concatenate([b for b, _ in song_samples(song, Fraction(0), Fraction(3))])
    assert np.array_equal(taken, whole[round(first * rate) : round(end * rate)])
    longer = np.concatenate([b for b, _ in song_samples(song, Fraction(2), Fraction(4))])
    assert len(longer) == 2 * rate
    assert not longer[rate:].any()


def test_the_film_carries_the_song_in_step_with_the_picture(tmp_path: Path, sources: dict[str, Path]) -> None:
    song = tmp_path / "song.flac"
    write_flac(song, tone(4.0, 48_000, channels=2, click_s=1.5), 48_000)
    render(
        Film(of([span(0, 72, "24", 0.0)]), sources, song, Fraction(24), 320, 180, 24, 72), tmp_path / "f.mp4"
    )
    with av.open(str(tmp_path / "f.mp4")) as container:
        assert container.streams.video[0].codec_context.name == "h264"
        assert [s.codec_context.name for s in container.streams.audio] == ["aac"]
        blocks = [f.to_ndarray()[0] for f in container.decode(audio=0)]
    sound = np.concatenate(blocks)
    # The coder spreads a click by a few samples at most; its place is the song's, counted from the range.
    assert int(np.argmax(np.abs(sound))) == pytest.approx(24_000, abs=4)
    assert len(sound) == pytest.approx(2 * 48_000, abs=1100)


#: "make abuse" draws others.
SONG_RATES = [192_000, 176_400, 96_000, 88_200, 50_000, 44_056, 37_800, 8_000, 100]
if LONGER > 1:
    SONG_RATES += [int(r) for r in np.random.default_rng().integers(100, 384_000, 2 * LONGER)]


@pytest.mark.parametrize("rate", SONG_RATES)
def test_a_song_of_any_rate_is_in_the_film_at_its_time(
    tmp_path: Path, sources: dict[str, Path], rate: int
) -> None:
    song = tmp_path / "song.wav"
    at = np.arange(4 * rate) / rate
    # A tone that the rate holds, loud from a second and a half on.
    turns = 2 * np.pi * min(440, rate / 5)
    wave_of = 0.5 * np.sin(turns * at) * (at >= 1.5)
    with wave.open(str(song), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(rate)
        out.writeframes((wave_of * 32767).astype("<i2").tobytes())
    render(
        Film(of([span(0, 72, "24", 0.0)]), sources, song, Fraction(24), 320, 180, 24, 72), tmp_path / "f.mp4"
    )
    with av.open(str(tmp_path / "f.mp4")) as container:
        coded = container.streams.audio[0].rate
        sound = np.concatenate([f.to_ndarray()[0] for f in container.decode(audio=0)])
    assert coded == coded_rate(rate)
    assert len(sound) == pytest.approx(2 * coded, abs=1100)
    wanted = 0.5 * np.sin(turns * (1.0 + np.arange(len(sound)) / coded))
    first, end = int(0.7 * coded), int(1.7 * coded)
    fits = [
        float(np.corrcoef(sound[first + lag : end + lag], wanted[first:end])[0, 1]) for lag in range(-5, 6)
    ]
    assert int(np.argmax(fits)) == 5, "no sample early or late"
    assert max(fits) > 0.999
    assert np.abs(sound[: int(0.4 * coded)]).max() < 0.02


def test_the_rate_that_a_song_is_coded_at_is_its_own_where_that_can_be() -> None:
    assert {r: coded_rate(r) for r in (44_100, 48_000, 96_000, 176_400, 192_000, 50_000, 100)} == {
        44_100: 44_100, 48_000: 48_000, 96_000: 96_000, 176_400: 88_200, 192_000: 96_000, 50_000: 48_000, 100: 48_000,
    }  # fmt: skip


def test_other_shapes_get_bars_not_stretch(tmp_path: Path) -> None:
    tall = film(tmp_path / "tall.mp4", frames=10, size=(180, 320))
    render(Film(of([span(0, 10, "t")]), {"t": tall}, None, Fraction(24), 640, 320, 0, 10), tmp_path / "f.mp4")
    with av.open(str(tmp_path / "f.mp4")) as container:
        luma = next(container.decode(video=0)).reformat(format="gray").to_ndarray()
    assert luma[100, 20] < 24
    assert luma[100, 620] < 24
    assert luma[100, 320] > 40


def test_cancel_and_failure_leave_no_film_and_keep_the_old_one(
    tmp_path: Path, sources: dict[str, Path]
) -> None:
    target = tmp_path / "film.mp4"
    target.write_bytes(b"the film of yesterday")

    def stop(share: float, _text: str) -> None:
        if share > 0.3:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        render(Film(of(edit_of(12)), sources, None, Fraction(24), 320, 180, 0, 108), target, progress=stop)
    assert target.read_bytes() == b"the film of yesterday"
    with pytest.raises(BadInput, match="empty"):
        render(Film(of(), {}, None, Fraction(24), 320, 180, 5, 5), target)
    with pytest.raises(BadInput, match="even"):
        render(Film(of(), {}, None, Fraction(24), 321, 180, 0, 5), target)
    with pytest.raises(BadInput, match="cannot be written"):
        render(Film(of(), {}, None, Fraction(24), 320, 180, 0, 5), tmp_path / "film.mp4" / "x.mp4")
    assert [p.name for p in tmp_path.iterdir()] == ["film.mp4"]
