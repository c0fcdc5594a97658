"""Grades: what each control does, held to light as it is; tables, and ``.cube`` files of all habits."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.colour.cube import read_cube, write_cube
from zembi.core.colour.grade import (
    BENDS,
    CONTROLS,
    CURVES,
    LUT_SIZE,
    REST,
    checked_grade,
    graded,
    grid,
    lut_of,
    through,
)
from zembi.core.colour.looks import LOOKS
from zembi.core.colour.spaces import (
    balance,
    from_oklab,
    luminance,
    to_coded,
    to_light,
    to_oklab,
)
from zembi.core.colour.tables import is_known, know, number_of, table_lut
from zembi.core.errors import BadInput
from zembi.core.treatments.looks import look
from zembi.core.treatments.model import Grade, treatment_from_dict, treatment_to_dict
from zembi.core.treatments.music import Music
from zembi.core.treatments.timing import Ground
from zembi.core.treatments.words import said

GREYS = np.repeat(np.linspace(0, 1, 201)[:, None], 3, axis=1)
SOME = np.random.default_rng(7).random((500, 3))


def done(colours: np.ndarray, **values: float) -> np.ndarray:
    return np.asarray(graded(colours, checked_grade(values)))


def test_at_rest_every_colour_comes_back_as_it_is() -> None:
    assert np.abs(done(SOME) - SOME).max() < 1e-9
    ground = Ground(0, 24, Music(Fraction(24)))
    assert look(Grade(), ground, 16 / 9) == ()
    assert look(Grade(strength=0.5, pivot=0.4), ground, 16 / 9) == ()


@pytest.mark.parametrize("stops", [-2.0, -1.0, 0.5, 1.0])
def test_exposure_is_counted_in_stops_of_light(stops: float) -> None:
    dark = SOME * 0.4
    assert np.allclose(to_light(done(dark, exposure=stops)), to_light(dark) * 2**stops, atol=1e-9)


def test_contrast_turns_about_its_pivot_and_no_hue_turns() -> None:
    pivot = to_coded(np.full((1, 3), 0.18))
    assert np.allclose(done(pivot, contrast=2.0), pivot, atol=1e-9)
    light = to_light(done(GREYS[20:120], contrast=1.5))[:, 0]
    assert np.allclose(light / 0.18, (to_light(GREYS[20:120])[:, 0] / 0.18) ** 1.5, atol=1e-6)
    colours = to_light(SOME * 0.5)
    after = to_light(done(SOME * 0.5, contrast=0.7))
    ratio = after / np.maximum(colours, 1e-9)
    assert np.allclose(ratio, ratio[:, :1], atol=1e-6)


def test_white_stays_as_bright_when_it_gets_warmer_or_redder() -> None:
    white = np.ones(3)
    for temperature, tint in ((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0), (0.5, -0.5)):
        assert luminance(balance(temperature, tint) @ white) == pytest.approx(1.0, abs=1e-4)
    assert np.allclose(balance(0.0, 0.0), np.eye(3), atol=1e-9)
    red, _, blue = balance(0.5, 0.0) @ white
    assert red > 1.05 > 0.8 > blue, "warmer: more red, less blue"
    red, green, blue = balance(0.0, 0.5) @ white
    assert min(red, blue) > 1 > green, "redder: towards magenta"


def test_the_white_of_a_reading_lamp_is_what_the_formula_of_daylight_says() -> None:
    # A whole turn warmer lies at 153.7 + 110 reciprocal megakelvins: 3792 K, and back again is where it began.
    there = balance(1.0, 0.0)
    xyz = np.array(
        [
            [0.4123908, 0.3575843, 0.1804808],
            [0.2126390, 0.7151687, 0.0721923],
            [0.0193308, 0.1191948, 0.9505322],
        ]
    )
    x, y, z = xyz @ there @ np.ones(3)
    kelvin = 1e6 / (1e6 / 6504 + 110)
    expected_x = 0.244063 + 0.09911e3 / kelvin + 2.9678e6 / kelvin**2 - 4.6070e9 / kelvin**3
    assert x / (x + y + z) == pytest.approx(expected_x, abs=2e-3)


@pytest.mark.parametrize(
    ("control", "dark", "bright"),
    [("blacks", True, False), ("shadows", True, False), ("highlights", False, True), ("whites", False, True)],
)
def test_tones_lift_their_part_of_the_scale_and_leave_the_other(
    control: str, dark: bool, bright: bool
) -> None:
    lifted = done(GREYS, **{control: 0.8})[:, 0] - GREYS[:, 0]
    assert (lifted[10:60].max() > 0.02) == dark
    assert (lifted[130:195].max() > 0.02) == bright
    assert lifted[0] == pytest.approx(0, abs=1e-9)
    assert np.abs(lifted[140:] if dark else lifted[:60]).max() < 1e-9
    assert lifted.min() > -1e-9


@settings(max_examples=150)
@given(
    st.fixed_dictionaries(
        {
            name: st.floats(CONTROLS[name].least, CONTROLS[name].most)
            for name in ("contrast", "blacks", "shadows", "highlights", "whites", "exposure")
        }
    )
)
def test_no_two_greys_change_places_whatever_is_turned(values: dict[str, float]) -> None:
    after = done(GREYS, **values)[:, 1]
    assert (np.diff(after) > -1e-6).all()


def test_saturation_takes_colour_and_not_light_and_can_be_of_what_is_bright_alone() -> None:
    grey = done(SOME, saturation=0.0)
    assert np.ptp(grey, axis=1).max() < 1e-3
    assert np.allclose(to_oklab(to_light(grey))[:, 0], to_oklab(to_light(SOME))[:, 0], atol=2e-3)
    blues = np.array([[0.1, 0.12, 0.25], [0.75, 0.8, 0.97]])
    chroma = np.hypot(*to_oklab(to_light(blues))[:, 1:].T)
    after = np.hypot(*to_oklab(to_light(done(blues, high_saturation=0.2)))[:, 1:].T)
    assert after[0] == pytest.approx(chroma[0], rel=0.02), "dark blue stays"
    assert after[1] < 0.5 * chroma[1], "blue leaves the highlights"
    dark = np.hypot(*to_oklab(to_light(done(blues, low_saturation=0.2)))[:, 1:].T)
    assert dark[0] < 0.6 * chroma[0]
    assert dark[1] == pytest.approx(chroma[1], rel=0.02)


def test_half_a_strength_is_half_of_the_way() -> None:
    whole = done(SOME, exposure=0.7, temperature=0.3)
    assert np.allclose(done(SOME, exposure=0.7, temperature=0.3, strength=0.5), (whole + SOME) / 2, atol=1e-9)
    assert np.allclose(done(SOME, exposure=2.0, strength=0.0), SOME)


def test_oklab_has_white_at_one_and_comes_back() -> None:
    # Ottosson's own white: L 1, no chroma.
    assert np.allclose(to_oklab(np.ones((1, 3))), [[1.0, 0.0, 0.0]], atol=2e-4)
    assert np.allclose(from_oklab(to_oklab(SOME)), SOME, atol=1e-9)


@pytest.mark.parametrize(
    "wrong",
    [{"exposure": 9.0}, {"saturation": -1.0}, {"gamma": 1.0}, {"tint": float("nan")}, {"contrast": 0.0}],
)
def test_what_cannot_be_is_refused(wrong: dict[str, float]) -> None:
    with pytest.raises(BadInput) as told:
        checked_grade(wrong)
    assert len(str(told.value)) > 20


@pytest.mark.parametrize(("values", "worst"), [
    ({"exposure": 1.0}, 3), ({"contrast": 1.4, "temperature": 0.3}, 3), ({"shadows": 0.6, "highlights": -0.6}, 3),
    ({"exposure": -1.0, "tint": -0.4, "whites": 0.5}, 3),
    # More saturation brings a colour to the edge of what can be shown, where its darkest component falls steeply to nothing.
    ({"saturation": 1.5, "high_saturation": 0.3}, 12),
])  # fmt: skip
def test_the_table_says_what_the_controls_do(values: dict[str, float], worst: float) -> None:
    table = lut_of(values)
    # Away from the faces of the cube, where colours that do not fit are cut off; in values of 8 bit.
    inside = SOME * 0.7 + 0.1
    wrong = np.abs(through(table, inside) - done(inside, **values))
    assert wrong.mean() * 255 < 0.4
    assert np.percentile(wrong, 99) * 255 < worst
    points = grid(LUT_SIZE)
    assert np.allclose(through(table, points), table, atol=1e-6)


def plain(table: np.ndarray, colour: np.ndarray) -> np.ndarray:
    """A colour looked up by the six cases of tetrahedra, written out."""
    size = table.shape[0]
    at = colour * (size - 1)
    low = np.minimum(at.astype(int), size - 2)
    r, g, b = at - low

    def there(x: int, y: int, z: int) -> np.ndarray:
        return np.asarray(table[low[2] + z, low[1] + y, low[0] + x])

    black, white = there(0, 0, 0), there(1, 1, 1)
    if r > g > b:
        return (1 - r) * black + (r - g) * there(1, 0, 0) + (g - b) * there(1, 1, 0) + b * white
    if r > b >= g:
        return (1 - r) * black + (r - b) * there(1, 0, 0) + (b - g) * there(1, 0, 1) + g * white
    if b >= r > g:
        return (1 - b) * black + (b - r) * there(0, 0, 1) + (r - g) * there(1, 0, 1) + g * white
    if b > g >= r:
        return (1 - b) * black + (b - g) * there(0, 0, 1) + (g - r) * there(0, 1, 1) + r * white
    if g >= b > r:
        return (1 - g) * black + (g - b) * there(0, 1, 0) + (b - r) * there(0, 1, 1) + r * white
    return (1 - g) * black + (g - r) * there(0, 1, 0) + (r - b) * there(1, 1, 0) + b * white


def test_between_points_it_is_tetrahedral() -> None:
    table = np.random.default_rng(3).random((5, 5, 5, 3)).astype(np.float32)
    assert np.allclose(through(table, SOME), [plain(table, c) for c in SOME], atol=1e-6)


HABITS = {
    "plain": "LUT_3D_SIZE 2\n{rows}",
    "titled and commented": '# made by nobody\nTITLE "Low light"\n\nLUT_3D_SIZE 2   # small\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n\n# here\n{rows}\n\n# end',
    "windows": "LUT_3D_SIZE 2\r\n{rows}\r\n",
    "byte order mark": "\ufeffLUT_3D_SIZE 2\n{rows}",
    "other words": "LUT_3D_INPUT_RANGE 0.0 1.0\nLUT_3D_SIZE 2\nSOMETHING_ELSE 12\n{rows}",
    "tabs": "LUT_3D_SIZE\t2\n{tabs}",
}


@pytest.mark.parametrize("habit", list(HABITS))
def test_a_cube_is_read_however_it_is_written(habit: str) -> None:
    points = grid(2).reshape(-1, 3) * 0.5
    rows = [" ".join(f"{v:g}" for v in p) for p in points]
    text = (
        HABITS[habit]
        .replace("{rows}", "\n".join(rows))
        .replace("{tabs}", "\n".join(r.replace(" ", "\t") for r in rows))
    )
    found = read_cube(text)
    assert np.allclose(found.lut, grid(2) * 0.5)
    assert (found.low, found.high) == ((0, 0, 0), (1, 1, 1))
    assert found.title == ("Low light" if habit.startswith("titled") else "")


def test_a_table_of_one_dimension_and_a_domain_of_its_own_are_read() -> None:
    found = read_cube("LUT_1D_SIZE 3\nDOMAIN_MIN -0.5 0 0\nDOMAIN_MAX 2 1 1\n0 0 0\n.5 5e-1 0.5\n1 1 1\n")
    assert found.lut.shape == (3, 3)
    assert (found.low, found.high) == ((-0.5, 0, 0), (2, 1, 1))


@settings(max_examples=20)
@given(st.integers(2, 9), st.integers(0, 99))
def test_a_table_comes_back_from_a_file(size: int, seed: int) -> None:
    table = np.random.default_rng(seed).random((size, size, size, 3)).astype(np.float32)
    found = read_cube(write_cube(table, 'a "title"'))
    assert np.allclose(found.lut, table, atol=1e-6)
    assert found.title == "a 'title'"


@pytest.mark.parametrize(("text", "said_"), [
    ("", "its size"), ("LUT_3D_SIZE 2\n0 0 0\n", "1 colours"), ("LUT_3D_SIZE 2\n" + "0 0 0\n" * 9, "line 10"),
    ("LUT_3D_SIZE 2000000000\n", "line 1"), ("LUT_3D_SIZE 66\n", "2 to 65"), ("LUT_3D_SIZE 1\n", "2 to 65"), ("LUT_3D_SIZE x\n", "line 1"),
    ("LUT_3D_SIZE 2\nLUT_1D_SIZE 2\n", "second size"), ("LUT_3D_SIZE 2\n0 0\n", "line 2"), ("LUT_3D_SIZE 2\nnan nan nan\n", "line 2"),
    ("LUT_3D_SIZE 2\n0 0 1e99\n", "no colour"), ("LUT_3D_SIZE 2\n0 0 zero\n", "no number"), ("just words\n", "its size"),
    ("LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1\n", "ends before"), ("\0" * 100, "its size"),
])  # fmt: skip
def test_a_damaged_cube_is_refused_with_its_line(text: str, said_: str) -> None:
    with pytest.raises(BadInput, match=said_):
        read_cube(text)


def test_a_huge_file_is_refused_before_it_is_read() -> None:
    with pytest.raises(BadInput, match="too long"):
        read_cube("0 0 0\n" * 5_000_000)


def test_a_grade_is_stored_and_said_as_it_was_meant() -> None:
    grade = Grade(exposure=0.5, high_saturation=0.4, strength=0.5)
    assert treatment_from_dict(treatment_to_dict(grade)) == grade
    ground = Ground(0, 24, Music(Fraction(24)))
    assert said(grade, ground) == "exposure 0.5, high saturation 0.4, strength 0.5"
    (step,) = look(grade, ground, 16 / 9)
    assert {n: c.keys[0].value for n, c in step.curves} == {
        "exposure": 0.5,
        "high_saturation": 0.4,
        "strength": 0.5,
    }
    with pytest.raises(BadInput):
        look(Grade(exposure=99.0), ground, 16 / 9)
    assert set(REST) == set(CONTROLS)


@pytest.mark.parametrize("name", LOOKS)
def test_every_look_can_be_laid_and_turns_no_grey_over(name: str) -> None:
    after = luminance(to_light(done(GREYS, **LOOKS[name])))
    assert (np.diff(after) >= -1e-9).all()
    assert np.abs(done(SOME, **LOOKS[name]) - SOME).mean() > 0.01


def cube_text(kind: str) -> str:
    """A table that doubles red and halves blue, in one or three dimensions, or over another domain."""
    if kind == "one":
        rows = [f"{min(1.0, 2 * v):.6f} {v:.6f} {v / 2:.6f}" for v in np.linspace(0, 1, 17)]
        return "LUT_1D_SIZE 17\n" + "\n".join(rows)
    size = 9
    low, high = (0.0, 1.0) if kind == "three" else (-0.25, 1.25)
    at = np.linspace(low, high, size)
    rows = [f"{2 * r:.6f} {g:.6f} {b / 2:.6f}" for b in at for g in at for r in at]
    head = "" if kind == "three" else f"DOMAIN_MIN {low} {low} {low}\nDOMAIN_MAX {high} {high} {high}\n"
    return f"# of a camera\nLUT_3D_SIZE {size}\n{head}" + "\n".join(rows)


@pytest.mark.parametrize("kind", ["one", "three", "wide"])
@pytest.mark.parametrize("share", [1.0, 0.5, 0.0])
def test_a_table_of_any_habit_acts_by_its_share(kind: str, share: float) -> None:
    text = cube_text(kind)
    know(number_of(text), text)
    wanted = np.clip(SOME * [2.0, 1.0, 0.5], 0, 1)
    found = through(table_lut(number_of(text), share), SOME)
    assert np.abs(found - (SOME + (wanted - SOME) * share)).max() < 0.02 if kind != "one" else 0.01
    assert np.abs(found - (SOME + (wanted - SOME) * share)).mean() < 1e-3


def test_a_table_is_known_by_its_content_and_one_that_is_not_at_hand_changes_nothing() -> None:
    one, other = cube_text("three"), cube_text("three") + "\n# "
    assert number_of(one) != number_of(other)
    assert 0 < number_of(one) < 2**48
    assert float(number_of(one)) == number_of(one)
    assert not is_known(12345)
    assert np.allclose(through(table_lut(12345, 1.0), SOME), SOME, atol=1e-6)
    with pytest.raises(BadInput):
        know(12345, "LUT_3D_SIZE 2\n0 0 nan")
    assert not is_known(12345)


def test_curves_bend_each_colour_through_their_points_and_never_fall() -> None:
    grey = np.repeat(np.linspace(0, 1, 101)[:, None], 3, axis=1)
    bent = graded(grey, {**REST, "all_50": 0.1, "red_25": -0.1, "blue_100": -0.2})
    assert bent[50, 1] == pytest.approx(0.6, abs=1e-3)
    assert graded(grey, {**REST, "red_25": -0.1})[25] == pytest.approx([0.15, 0.25, 0.25], abs=1e-3)
    assert bent[100] == pytest.approx([1.0, 1.0, 0.8], abs=1e-3)
    assert bent[0] == pytest.approx([0.0, 0.0, 0.0], abs=1e-3)


@given(
    st.dictionaries(
        st.sampled_from([f"{of}_{at}" for of in CURVES for at in BENDS]), st.floats(-0.5, 0.5), min_size=1
    )
)
def test_no_curve_falls_and_colours_that_are_not_bent_stay(shifts: dict[str, float]) -> None:
    grey = np.repeat(np.linspace(0, 1, 65)[:, None], 3, axis=1)
    out = graded(grey, {**REST, **shifts})
    assert (np.diff(out, axis=0) >= -1e-12).all()
    assert out.min() >= 0
    assert out.max() <= 1
    for k, name in enumerate(CURVES[1:]):
        if not any(shift and of.split("_")[0] in ("all", name) for of, shift in shifts.items()):
            assert np.abs(out[:, k] - grey[:, k]).max() < 1e-9
