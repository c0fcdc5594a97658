"""Treated films: every frame read back by the count that it shows, at many rates, and through a timeline."""

import dataclasses
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import opentimelineio as otio
import pytest

from tests.core.test_treatments import GRID, music
from tests.looks import look_at
from tests.media.films import counts, film
from tests.test_cli import zembi
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import Beneath, BlackSource, ClipSource, Edit, Item
from zembi.core.interchange.edl import Reel, write_edl
from zembi.core.interchange.report import not_seen
from zembi.core.interchange.timeline import MediaRef, read_timeline, write_timeline
from zembi.core.picture.chain import PLAIN
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import Layer, Picture, Programme, Span, source_mixes
from zembi.core.timebase import frames_on_display
from zembi.core.timemap import playback
from zembi.core.treatments import model as m
from zembi.core.treatments.music import Length, On, Place
from zembi.media.frames import FrameReader
from zembi.media.render import Film, render

#: Programme rates, and what the source keeps.
RATES = [Fraction(24000, 1001), Fraction(25), Fraction(30000, 1001), Fraction(60)]
TIMED = [
    m.Speed(0.5), m.Speed(2.0), m.Speed(0.75, "tail"), m.FitSlot(1.0, 2.3), m.MomentOnBeat(2.0, Place(1, 3), rest="normal"),
    m.Ramp((2.0, 0.4), (Place(1, 3),), Length(1)), m.Ramp((0.3, 1.5, 0.3), (Place(1, 2), Place(1, 4)), Length(1.5), "straight"),
    m.Reverse(), m.Freeze(Place(1, 2), over=Length(0.5)), m.Freeze(on=On("beat"), over=Length(3, "frames"), after="goes on"),
    m.BackAndForth(Length(0.5)), m.Rewind(Place(1, 3), Place(1, 1)), m.Rewind(Place(1, 3), Place(1, 2), grows=True),
    m.Stutter(on=On("beat"), piece=Length(0.25), times=3), m.JumpCuts(On("low"), Length(0.25)),
]  # fmt: skip


@pytest.fixture(scope="module")
def sources(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """Films that count their frames: at 24, 25 and 59.94 frames a second, and one of uneven times."""
    folder = tmp_path_factory.mktemp("sources")
    uneven = np.cumsum([0, *np.random.default_rng(3).integers(1500, 7500, 239)])
    return {
        "24": film(folder / "a24.mp4", Fraction(24), 144),
        "25": film(folder / "a25.mp4", Fraction(25), 150),
        "59.94": film(folder / "a60.mp4", Fraction(60000, 1001), 360),
        "uneven": film(folder / "uneven.mp4", Fraction(24), 240, pts=uneven),
    }


def wanted(programme: Programme, rate: Fraction, files: dict[str, Path]) -> list[int]:
    """The source frame of the topmost picture in each frame."""
    out = []
    for span in on_screen(programme, rate):
        reader = FrameReader(files[span.media or ""])
        out += frames_on_display(reader.times.times, span.time.times(rate)).tolist()
        reader.close()
    return out


@pytest.mark.parametrize("rate", RATES, ids=str)
def test_every_frame_of_treated_shots_is_the_one_that_the_pieces_say(
    rate: Fraction, sources: dict[str, Path], tmp_path: Path
) -> None:
    material = Material({}, {}, rate, music=music(rate))
    long = round(2.4 * rate)
    rows: dict[int, list[int]] = {}
    # Every source at two rates, and every rate of two sources.
    at = RATES.index(rate)
    names = list(sources)
    for name in (names[at], names[(at + 1) % len(names)]):
        path = sources[name]
        # One film of all: each treated shot stands by itself, one after the other.
        spans: list[Span] = []
        for n, treatment in enumerate(TIMED):
            edit = new_edit(long, (Item(0, ClipSource(name, 0.5), treatments=(treatment,)),))
            made = compiled(edit, material).layers[0].spans
            assert made[-1].end == long
            spans += [dataclasses.replace(s, start=s.start + n * long, end=s.end + n * long) for s in made]
        programme = Programme(len(TIMED) * long, (Layer("Shots", tuple(spans)),))
        target = tmp_path / f"{name}.mp4"
        render(Film(programme, {name: path}, None, rate, 320, 180, 0, programme.length), target)
        shown = [c if c is not None else -1 for c in counts(target)]
        assert shown == wanted(programme, rate, {name: path}), f"source {name}"
        rows[len(rows)] = shown
    assert rows[0] != rows[1], "each source is shown at its own rate"


def everything(rate: Fraction) -> tuple[Edit, Material]:
    """An edit with something of everything."""
    second = round(rate)
    shots = (
        Item(0, ClipSource("24", 0.5), treatments=(m.Reverse(), m.Fade("in", Length(6, "frames"), beneath=True))),
        Item(2 * second, ClipSource("25", 1.0), treatments=(m.Dissolve(Length(12, "frames"), shape="straight"), m.Freeze(Place(2, 2)))),
        Item(4 * second, ClipSource("59.94", 1.0), treatments=(m.Ramp((2.0, 0.5), (Place(3, 2),), Length(1)), m.Blend(), m.Pulse(on=On("beat")))),
        Item(6 * second, BlackSource()),
        Item(7 * second, ClipSource("24", 1.0), treatments=(m.Flash(On("beat")), m.Mirror())),
        Item(17 * second // 2, ClipSource("59.94", 2.0), treatments=(m.PunchIn(1.5), m.Whip("up", Length(8, "frames")))),
        Item(9 * second, ClipSource("25", 2.0), treatments=(m.Dissolve(Length(10, "frames"), "after", "smooth"),)),
    )  # fmt: skip
    over = (
        Item(
            second,
            ClipSource("uneven", 0.5),
            round(1.5 * second),
            treatments=(m.Stutter(piece=Length(3, "frames"), times=None),),
        ),
    )
    edit = new_edit(
        10 * second, shots, over, (Item(second, Beneath(), 8 * second, treatments=(m.Vignette(0.4),)),)
    )
    return edit, Material({}, {}, rate, music=music(rate))


@pytest.mark.parametrize("rate", RATES, ids=str)
def test_a_timeline_of_everything_renders_to_the_very_film(
    rate: Fraction, sources: dict[str, Path], tmp_path: Path
) -> None:
    edit, material = everything(rate)
    programme = compiled(edit, material)
    refs = {n: MediaRef(p.as_uri(), n, 6.0) for n, p in sources.items()}
    text = write_timeline("t", programme, refs, rate, None)
    (tmp_path / "t.otio").write_text(text)
    read = read_timeline(text)
    assert read.warnings == ()
    assert [layer.name for layer in read.programme.layers] == [layer.name for layer in programme.layers]
    render(Film(programme, sources, None, rate, 320, 180, 0, edit.length), tmp_path / "a.mp4")
    answer = zembi("render", tmp_path / "t.otio", "--out", tmp_path / "b.mp4", "--size", "320x180")
    assert "not known" not in answer.stderr
    assert (tmp_path / "a.mp4").read_bytes() == (tmp_path / "b.mp4").read_bytes(), "the very same pictures"


def plain(path: Path, clips: list[Any], rate: float = 24.0) -> Path:
    """A timeline that another program could have written: (file, first frame, frames, effects) or a transition."""
    timeline, track = otio.schema.Timeline("t"), otio.schema.Track(kind="Video")
    for clip in clips:
        if isinstance(clip, tuple):
            file, first, frames, *effects = clip
            time = otio.opentime.TimeRange(
                otio.opentime.RationalTime(first, rate), otio.opentime.RationalTime(frames, rate)
            )
            made = otio.schema.Clip("x", otio.schema.ExternalReference(file.as_uri()), time)
            made.effects.extend(effects)
            track.append(made)
        else:
            track.append(clip)
    timeline.tracks.append(track)
    otio.adapters.write_to_file(timeline, str(path))
    return path


def test_another_programs_reverse_freeze_and_speed_are_read_frame_for_frame(
    sources: dict[str, Path], tmp_path: Path
) -> None:
    a = sources["24"]
    path = plain(tmp_path / "x.otio", [
        (a, 10, 6, otio.schema.LinearTimeWarp(time_scalar=-1.0)), (a, 30, 4, otio.schema.FreezeFrame()),
        (a, 40, 5, otio.schema.LinearTimeWarp(time_scalar=2.0)), (a, 60, 4, otio.schema.LinearTimeWarp(time_scalar=-0.5)),
    ])  # fmt: skip
    zembi("render", path, "--out", tmp_path / "x.mp4")
    assert counts(tmp_path / "x.mp4") == [
        15,
        14,
        13,
        12,
        11,
        10,
        30,
        30,
        30,
        30,
        41,
        43,
        45,
        47,
        49,
        61,
        61,
        60,
        60,
    ]


def test_another_programs_dissolve_mixes_each_in_its_own_time(
    sources: dict[str, Path], tmp_path: Path
) -> None:
    a, b = sources["24"], sources["25"]
    half = otio.opentime.RationalTime(4, 24)
    path = plain(
        tmp_path / "x.otio",
        [
            (a, 10, 12),
            otio.schema.Transition("", "SMPTE_Dissolve", half, otio.opentime.RationalTime(2, 24)),
            (b, 50, 12),
        ],
    )
    read = read_timeline(path.read_text())
    one, two = read.programme.layers[0].spans
    assert (one.start, one.end, two.start, two.end) == (0, 14, 8, 24)
    assert [look_at(two.chain, n, 16 / 9).opacity for n in range(7)] == pytest.approx(
        [(n + 0.5) / 6 for n in range(6)] + [1]
    )
    zembi("render", path, "--out", tmp_path / "x.mp4", "--size", "320x180")
    with av.open(str(tmp_path / "x.mp4")) as made:
        means = [f.to_ndarray()[100:170, 20:300].mean() for f in made.decode(video=0)]
    times = two.time.times(Fraction(24))
    for n in range(8, 14):
        first, second = 60 + 10 + n, 60 + int(times[n - 8] * 25 + 1e-6)
        share = (n - 8 + 0.5) / 6
        assert means[n] == pytest.approx(first + share * (second - first), abs=1.5)
    cut = plain(
        tmp_path / "y.otio",
        [
            (a, 10, 130),
            otio.schema.Transition("", "SMPTE_Dissolve", half, otio.opentime.RationalTime(9, 24)),
            (b, 50, 12),
        ],
    )
    answer = zembi("render", cut, "--out", tmp_path / "y.mp4", code=2)
    assert "has 5 too few" in answer.stderr
    assert not (tmp_path / "y.mp4").exists()


def test_what_is_not_known_is_said_never_dropped_without_a_word(
    sources: dict[str, Path], tmp_path: Path
) -> None:
    a = sources["24"]
    blur = otio.schema.Effect("soft", "Blur")
    path = plain(
        tmp_path / "x.otio",
        [
            (a, 10, 6, blur),
            otio.schema.Transition(
                "", "Wipe", otio.opentime.RationalTime(2, 24), otio.opentime.RationalTime(2, 24)
            ),
            (a, 30, 6),
        ],
    )
    answer = zembi("render", path, "--out", tmp_path / "x.mp4")
    assert "“soft” of “x” is not known" in answer.stderr
    assert "“Wipe” is not known" in answer.stderr
    assert counts(tmp_path / "x.mp4") == [10, 11, 12, 13, 14, 15, 30, 31, 32, 33, 34, 35]


def test_an_edl_has_speeds_backwards_and_dissolves_and_the_report_names_the_rest() -> None:
    rate = Fraction(25)
    edit, material = everything(rate)
    programme = compiled(edit, material)
    reels = {n: Reel(n.upper().replace(".", ""), f"{n}.mp4", rate) for n in ("24", "25", "59.94", "uneven")}
    text = write_edl("t", on_screen(programme, rate), reels, rate)
    assert "M2   24       -025.0" in text or "M2   24       -25.0" in text
    assert "D 012" in text
    assert "D 010" in text
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=25)
    (track,) = timeline.video_tracks()
    kinds = [type(i).__name__ for i in track]
    assert kinds.count("Transition") == 2
    told = not_seen(programme, "edl", rate)
    assert any("changing speed" in t for t in told)
    assert any(t.startswith("The mirror of the shot at 00:00:07:00") for t in told)
    assert any("Colours laid over" in t for t in told)
    assert any("not even" in t or "even one" in t for t in told)
    quiet = compiled(new_edit(100, (Item(0, ClipSource("24")),)), material)
    assert (
        not_seen(quiet, "otio", rate)
        == not_seen(quiet, "edl", rate)
        == not_seen(programme, "csv", rate)
        == []
    )


def test_a_clip_that_another_program_made_shorter_is_read_as_it_now_is(sources: dict[str, Path]) -> None:
    edit, material = everything(Fraction(24))
    refs = {n: MediaRef(p.as_uri(), n, 6.0) for n, p in sources.items()}
    timeline = otio.adapters.read_from_string(
        write_timeline("t", compiled(edit, material), refs, Fraction(24), None), "otio_json"
    )
    clips = [
        c for c in timeline.video_tracks()[0] if isinstance(c, otio.schema.Clip) and c.metadata.get("zembi")
    ]
    ramp = next(c for c in clips if "pieces" in c.metadata["zembi"])
    short = otio.opentime.RationalTime(1, 24)
    ramp.source_range = otio.opentime.TimeRange(ramp.source_range.start_time, short)
    read = read_timeline(otio.adapters.write_to_string(timeline, "otio_json"))
    starts = [s.start for s in read.programme.layers[0].spans]
    assert starts == sorted(starts)
    assert dataclasses.replace(read.programme.layers[0].spans[2], chain=PLAIN).frames >= 1
    assert GRID.beats


def test_frames_between_two_are_mixed_by_how_near_each_is(sources: dict[str, Path], tmp_path: Path) -> None:
    """Each frame of the source is one step lighter than the last, so that a mix says by itself how much of which it is."""
    material = Material({}, {}, Fraction(24), music=music())
    for speed in (0.5, 0.3, 1.0):
        edit = new_edit(24, (Item(0, ClipSource("24", 0.5), treatments=(m.Speed(speed), m.Blend())),))
        target = tmp_path / f"{speed}.mp4"
        render(Film(compiled(edit, material), sources, None, Fraction(24), 320, 180, 0, 24), target)
        with av.open(str(target)) as made:
            means = [f.to_ndarray()[100:170, 20:300].mean() for f in made.decode(video=0)]
        # A frame stands for the middle of its time: nothing is mixed where nothing is slowed.
        exact = [60 + 12 + speed * (n + 0.5) - 0.5 for n in range(24)]
        assert means == pytest.approx(exact, abs=0.8)


def test_what_is_mixed_is_counted_from_presentation_times() -> None:
    times = np.array([0.0, 0.04, 0.12, 0.16])
    mixed = Span(0, 4, Picture("a"), playback(4, 0.0, 1.0), blend="mixed")
    shown, share = source_mixes(mixed, Fraction(20), times)
    assert shown.tolist() == [0, 0, 1, 2]
    assert share.tolist() == pytest.approx([1 / 12, 11 / 12, 0.75, 0.875])
    own = dataclasses.replace(mixed, time=playback(4, 0.2, 1.0))
    shown, share = source_mixes(own, Fraction(25), np.arange(20) / 25)
    assert (shown.tolist(), share.tolist()) == ([5, 6, 7, 8], [0.0] * 4)
    plain = dataclasses.replace(mixed, blend="")
    assert source_mixes(plain, Fraction(20), times)[1].tolist() == [0, 0, 0, 0]


def test_a_dissolve_beside_a_gap_is_a_fade_from_or_to_what_lies_beneath(
    sources: dict[str, Path], tmp_path: Path
) -> None:
    a = sources["24"]
    four = otio.opentime.RationalTime(4, 24)
    none = otio.opentime.RationalTime(0, 24)
    gap = otio.schema.Gap(source_range=otio.opentime.TimeRange(none, otio.opentime.RationalTime(10, 24)))
    path = plain(
        tmp_path / "x.otio",
        [
            otio.schema.Transition("", "SMPTE_Dissolve", none, four),
            (a, 10, 12),
            otio.schema.Transition("", "SMPTE_Dissolve", four, none),
            gap,
        ],
    )
    (span,) = read_timeline(path.read_text()).programme.layers[0].spans
    assert (span.start, span.end) == (0, 12)
    shares = [look_at(span.chain, n, 16 / 9).opacity for n in range(12)]
    up = [(n + 0.5) / 4 for n in range(4)]
    assert shares == pytest.approx([*up, 1, 1, 1, 1, *up[::-1]])
    zembi("render", path, "--out", tmp_path / "x.mp4", "--size", "320x180")
    with av.open(str(tmp_path / "x.mp4")) as made:
        means = [f.to_ndarray()[100:170, 20:300].mean() for f in made.decode(video=0)]
    assert len(means) == 22
    assert means[0] == pytest.approx(16 + (70 - 16) / 8, abs=1.5)
    assert means[12:] == pytest.approx([16] * 10, abs=1)
