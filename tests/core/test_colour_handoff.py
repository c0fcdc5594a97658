"""Colour for other programs: CDL numbers, tables, and what is said of them."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.spans import span
from zembi.core.colour.cube import read_cube, write_cube
from zembi.core.colour.grade import REST, graded, grid, through
from zembi.core.colour.tables import know, number_of
from zembi.core.interchange.colour import cdl_slope, colour_files, colour_lut, colour_of
from zembi.core.interchange.edl import Reel, write_edl
from zembi.core.interchange.report import not_seen
from zembi.core.interchange.timeline import MediaRef, read_timeline, write_timeline
from zembi.core.picture.chain import Chain
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import BLUR, GRADE, TABLE
from zembi.core.programme.model import Layer, Programme, Span

RATE = Fraction(24)
MEDIA = {"a": MediaRef("file:///a.mp4", "Gallery wide", 60.0), "b": MediaRef("file:///b.mp4", "Loft", 60.0)}
NAMES = {"a": "Gallery wide", "b": "Loft"}
REELS = {"a": Reel("A", "a.mp4", RATE), "b": Reel("B", "b.mp4", RATE)}
BRIGHT: Chain = (GRADE(exposure=0.6),)
WARM: Chain = (GRADE(exposure=0.6), BLUR(amount=0.01), GRADE(temperature=0.3, strength=0.5))
COMES: Chain = (GRADE(temperature=0.4, strength=Curve((Key(0, 0.0, "straight"), Key(20, 0.8, "hold")))),)


def coloured(start: int, end: int, media: str, chain: Chain) -> Span:
    return replace(span(start, end, media, 1.0), chain=chain)


SPANS = [
    coloured(0, 48, "a", BRIGHT), coloured(48, 96, "b", WARM), coloured(96, 120, "a", ()), coloured(120, 168, "a", WARM),
    coloured(168, 200, "b", COMES),
]  # fmt: skip
FILM = Programme(200, (Layer("Shots", tuple(SPANS)),))


@given(st.floats(-6, 6))
def test_exposure_is_a_slope_of_coded_colours(stops: float) -> None:
    slope = cdl_slope(colour_of((GRADE(exposure=stops),)))
    colours = grid(5)
    wanted = graded(colours, {**REST, "exposure": stops})
    assert slope is not None
    assert np.abs(np.clip(colours * slope, 0, 1) - wanted).max() < 1e-9


@pytest.mark.parametrize(
    "chain",
    [
        WARM,
        COMES,
        (GRADE(exposure=0.5, contrast=1.1),),
        (GRADE(exposure=0.5, strength=0.5),),
        (TABLE(number=7.0),),
    ],
)
def test_what_is_more_than_numbers_is_told_by_none(chain: Chain) -> None:
    assert cdl_slope(colour_of(chain)) is None


def test_one_table_is_all_of_a_shots_colour_and_the_same_colour_is_one_file() -> None:
    files = colour_files(FILM, NAMES)
    assert list(files.values()) == ["01_Loft.cube", "02_Loft.cube"]
    lut = read_cube(write_cube(colour_lut(colour_of(WARM)))).lut
    at = np.random.default_rng(1).random((400, 3))
    wanted = graded(graded(at, {**REST, "exposure": 0.6}), {**REST, "temperature": 0.3, "strength": 0.5})
    assert np.abs(through(lut, at) - wanted).mean() < 0.002


def test_a_camera_table_is_in_the_shots_table() -> None:
    text = "LUT_1D_SIZE 2\n0.5 0.5 0.5\n1 1 1\n"
    know(number_of(text), text)
    colour = colour_of((TABLE(number=float(number_of(text))), GRADE(exposure=-1.0)))
    at = np.random.default_rng(2).random((50, 3))
    wanted = graded(0.5 + at / 2, {**REST, "exposure": -1.0})
    assert np.abs(through(colour_lut(colour), at) - wanted).max() < 2e-3


def test_an_edl_tells_numbers_and_names_files_and_the_librarys_reader_finds_the_numbers() -> None:
    text = write_edl("t", SPANS, REELS, RATE, tables=colour_files(FILM, NAMES))
    lines = text.splitlines()
    slope = 2 ** (0.6 / 2.4)
    assert lines.count(f"* ASC_SOP ({slope:.6f} {slope:.6f} {slope:.6f})(0.0 0.0 0.0)(1.0 1.0 1.0)") == 1
    assert [line for line in lines if "LUT" in line] == [
        "* LUT: 01_Loft.cube", "* LUT: 01_Loft.cube", "* LUT: 02_Loft.cube",
    ]  # fmt: skip
    (track,) = otio.adapters.read_from_string(text, "cmx_3600", rate=24).video_tracks()
    first = next(iter(track))
    assert first.metadata["cdl"]["asc_sop"]["slope"] == pytest.approx([slope] * 3, abs=1e-5)
    assert first.metadata["cdl"]["asc_sat"] == 1.0


def test_a_timeline_has_the_same_and_comes_back_exactly() -> None:
    text = write_timeline("t", FILM, MEDIA, RATE, None, tables=colour_files(FILM, NAMES))
    (track,) = otio.adapters.read_from_string(text, "otio_json").video_tracks()
    clips = list(track.find_clips())
    assert [("cdl" in c.metadata, "lut" in c.metadata) for c in clips] == [
        (True, False), (False, True), (False, False), (False, True), (False, True),
    ]  # fmt: skip
    assert [s.chain for s in read_timeline(text).programme.layers[0].spans] == [s.chain for s in SPANS]


def test_the_report_says_how_colour_is_told() -> None:
    for kind in ("otio", "edl"):
        told = not_seen(FILM, kind, RATE)
        assert "The colour of the shot at 00:00:00:00 is told as CDL numbers." in told
        assert any(t.startswith("The colour of 3 shots (00:00:02:00, 00:00:05:00") for t in told)
        assert any(t.startswith("The colour of the shot at 00:00:07:00 changes over the shot") for t in told)
        assert not any("colour of" in t and "not seen" in t for t in told)
