"""What becomes of a clip in the film, in words."""

from dataclasses import replace
from fractions import Fraction

import pytest

from zembi.core.footage.fate import fate_of
from zembi.core.footage.files import Facts

CLIP = Facts(duration_s=5, has_video=True, width=1920, height=1080, rate=Fraction(24))


@pytest.mark.parametrize(
    ("rate", "said"),
    [
        (24, []),
        (Fraction(24000, 1001), []),
        (
            120,
            [
                "120 f/s: up to 5 times slower without a doubled frame",
                "at its own speed every 5th frame of the clip shown",
            ],
        ),
        (25, ["at its own speed about every 25th frame left out"]),
        (18, ["at its own speed about every 4th frame shown twice"]),
        (12, ["at its own speed each frame shown about 2.0 times"]),
        (
            60,
            [
                "60 f/s: up to 2.5 times slower without a doubled frame",
                "at its own speed about 60 % of the clip's frames left out",
            ],
        ),
    ],
)
def test_frames_that_are_doubled_or_left_out(rate: Fraction, said: list[str]) -> None:
    assert fate_of(replace(CLIP, rate=Fraction(rate)), (1920, 1080), Fraction(24)) == said


@pytest.mark.parametrize(
    ("size", "said"),
    [
        ((1080, 1920), ["bars at its sides"]),
        ((1920, 800), ["bars above and below"]),
        ((1280, 720), ["enlarged 1.5 times"]),
        ((0, 0), []),
    ],
)
def test_bars_and_enlargement(size: tuple[int, int], said: list[str]) -> None:
    clip = replace(CLIP, width=size[0], height=size[1])
    assert fate_of(clip, (1920, 1080), Fraction(24)) == said


def test_a_still_lasts_and_uneven_frames_keep_their_times() -> None:
    assert fate_of(replace(CLIP, still=True, rate=Fraction(25)), (1920, 1080), Fraction(24)) == [
        "a still: lasts as long as its place"
    ]
    (said,) = fate_of(replace(CLIP, variable=True), (1920, 1080), Fraction(24))
    assert "unevenly" in said
