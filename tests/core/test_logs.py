"""Logarithmic curves: published points, and what is made of them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.colour.cube import read_cube, write_cube
from zembi.core.colour.grade import through
from zembi.core.colour.logs import (
    PLAIN,
    Curve,
    acescct_light,
    curve_lut,
    film_scan_light,
    plain_light,
    shown,
)
from zembi.core.colour.spaces import to_coded


@pytest.mark.parametrize(
    ("coded", "light"),
    [(0.0729055341958355, 0.0), (0.155251141552511, 0.0078125), (0.4135884, 0.18), (0.554794520547945, 1.0)],
)
def test_acescct_at_published_points(coded: float, light: float) -> None:
    assert float(acescct_light(np.array(coded))) == pytest.approx(light, abs=2e-5)


@pytest.mark.parametrize(("code", "light"), [(95, 0.0), (685, 1.0), (470, 0.18)])
def test_a_film_scan_at_published_points(code: int, light: float) -> None:
    """Black, white, and grey of 18 %, which a scan has near 470 (445 to 470 by the stock)."""
    assert float(film_scan_light(np.array(code / 1023))) == pytest.approx(light, abs=0.012)


@given(st.floats(0.02, 0.5), st.floats(-0.5, 1.0), st.floats(0.001, 8))
def test_a_plain_log_is_what_its_constants_say(slope: float, offset: float, light: float) -> None:
    coded = slope * np.log2(light) + offset
    assert float(plain_light(np.array(coded), slope, offset)) == pytest.approx(light, rel=1e-6)


def test_grey_stays_where_it_is_and_the_brightest_never_clips() -> None:
    grey = np.full((1, 3), 0.18)
    assert shown(grey) == pytest.approx(to_coded(grey))
    bright = shown(np.repeat(np.geomspace(0.01, 200, 300)[:, None], 3, axis=1))[:, 0]
    assert (np.diff(bright) >= -1e-12).all()
    assert 0.99 < bright[-1] <= 1
    warm = np.array([[4.0, 2.0, 1.0]])
    done = shown(warm) ** 2.4
    assert done[0] / done[0, 0] == pytest.approx([1.0, 0.5, 0.25], rel=1e-6)


@pytest.mark.parametrize("curve", ["acescct", "film scan", "plain log"])
def test_a_curves_table_has_its_colours_and_survives_a_file(curve: Curve) -> None:
    lut = curve_lut(curve)
    again = read_cube(write_cube(lut, curve))
    assert np.allclose(again.lut, lut, atol=1e-6)
    coded = np.repeat(np.linspace(0.1, 0.9, 60)[:, None], 3, axis=1)
    light = {
        "acescct": acescct_light,
        "film scan": film_scan_light,
        "plain log": lambda c: plain_light(c, **PLAIN),
    }[curve](coded)
    assert np.abs(through(lut, coded) - shown(light)).max() < 0.01
