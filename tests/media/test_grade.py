"""A grade in the film: the core's table on every point, whatever the picture is laid on."""

import numpy as np
import pytest

from zembi.core.colour.grade import REST, checked_grade, graded
from zembi.media.sheet import Sheet, even
from zembi.media.steps import ACTS
from zembi.media.steps.glow import planes_of_rgb, rgb_of

SIZE = (64, 32)


def sheet_of_colours(seed: int = 1) -> tuple[Sheet, np.ndarray]:
    """A picture of flat colours, eight by eight points each, and those."""
    colours = (
        np.random.default_rng(seed).random((SIZE[1] // 8, SIZE[0] // 8, 3)).astype(np.float32) * 0.4 + 0.2
    )
    large = np.kron(colours, np.ones((8, 8, 1), np.float32))
    return Sheet(SIZE, planes_of_rgb([np.ascontiguousarray(large[..., k]) for k in range(3)])), colours


@pytest.mark.parametrize(
    "values", [{"exposure": 0.7}, {"temperature": 0.5, "contrast": 1.3}, {"saturation": 0.2, "shadows": 0.5}]
)
def test_the_film_has_the_cores_colours(values: dict[str, float]) -> None:
    sheet, colours = sheet_of_colours()
    done = rgb_of(ACTS["grade"](sheet, checked_grade(values)))
    # The middles of the patches, away from where chroma of two is mixed.
    seen = np.stack([c[3::8, 3::8] + c[4::8, 4::8] for c in done], axis=-1) / 2
    wanted = graded(colours, checked_grade(values))
    assert np.abs(seen - wanted).mean() * 255 < 2.5


def test_a_flat_colour_is_exact_to_a_value() -> None:
    for code, values in (
        ((120, 110, 150), {"exposure": 0.5}),
        ((60, 140, 120), {"tint": -0.6, "contrast": 1.5}),
    ):
        sheet = even(SIZE, code)
        before = np.array([c[4, 4] for c in rgb_of(sheet)])
        after = np.array([c[4, 4] for c in rgb_of(ACTS["grade"](sheet, checked_grade(values)))])
        assert after * 255 == pytest.approx(graded(before, checked_grade(values)) * 255, abs=0.6)


def test_what_is_seen_through_keeps_how_much_it_hides() -> None:
    sheet = even(SIZE, (150, 120, 140))
    half = Sheet(
        SIZE, [p * np.float32(0.5) for p in sheet.planes], [np.full_like(p, 0.5) for p in sheet.planes]
    )
    values = checked_grade({"exposure": 0.6})
    whole, through = ACTS["grade"](sheet, values), ACTS["grade"](half, values)
    assert through.cover is not None
    assert np.array_equal(through.cover[0], half.cover[0] if half.cover else 0)
    for a, b in zip(whole.planes, through.planes, strict=True):
        assert np.allclose(a * 0.5, b, atol=0.05)


def test_nothing_at_all_stays_nothing() -> None:
    empty = Sheet(
        SIZE,
        [np.zeros_like(p) for p in even(SIZE, (16, 128, 128)).planes],
        [np.zeros_like(p) for p in even(SIZE, (16, 128, 128)).planes],
    )
    done = ACTS["grade"](empty, {**REST, "blacks": 1.0, "exposure": 1.0})
    assert max(np.abs(p).max() for p in done.planes) < 1e-6
