"""A grade by direct lookup: the codes that the grade itself gives, to little more than their rounding."""

import av
import numpy as np
import pytest

from zembi.core.colour.grade import checked_grade, graded
from zembi.core.colour.tables import know, number_of
from zembi.core.colour.video import codes_of, rgb_of_codes
from zembi.core.picture.chain import Act, acts_at
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import GRADE, PLACE, TABLE
from zembi.media.compositor import CompositeLayer, composed
from zembi.media.render import ahead
from zembi.media.sheet import coded_planes, planes_of, sheet_of
from zembi.media.steps import ACTS
from zembi.media.steps.dense import graded_planes, looked_up, may_look_up

SOME = [
    {"exposure": 3.0},
    {"exposure": 0.5, "contrast": 1.2, "saturation": 1.3, "temperature": 0.2, "shadows": 0.3},
    {"temperature": 0.8, "exposure": -0.5},
    {"contrast": 2.0, "blacks": -0.5},
    {"high_saturation": 0.2, "tint": -0.4},
]


def patches(seed: int, count: int = 900) -> np.ndarray:
    """Codes of colours that there are: even, near grey, and dark."""
    rng = np.random.default_rng(seed)
    third = count // 3
    colours = np.concatenate(
        [
            rng.random((third, 3)),
            rng.random((third, 1)) * 0.9 + rng.normal(0, 0.04, (third, 3)),
            rng.random((third, 3)) ** 3 * 0.5,
        ]
    )
    return np.rint(codes_of(np.clip(colours, 0, 1)))


def planes(codes: np.ndarray) -> list[np.ndarray]:
    """Each colour as a patch of eight by eight points, thirty in a row."""
    large = np.kron(codes.reshape(-1, 30, 3), np.ones((8, 8, 1))).astype(np.uint8)
    return [np.ascontiguousarray(p) for p in (large[..., 0], large[::2, ::2, 1], large[::2, ::2, 2])]


def middles(done: list[np.ndarray]) -> np.ndarray:
    return np.stack([done[0][3::8, 3::8], done[1][1::4, 1::4], done[2][1::4, 1::4]], -1).reshape(-1, 3)


def test_codes_and_colours_come_back() -> None:
    rgb = np.random.default_rng(3).random((50, 3))
    assert np.allclose(rgb_of_codes(codes_of(rgb)), rgb, atol=1e-12)
    # ITU-R BT.709 colour bars at 100 %, as published: white, yellow, cyan, green, magenta, red, blue, black.
    bars = {(1, 1, 1): (235, 128, 128), (1, 1, 0): (219, 16, 138), (0, 1, 1): (188, 154, 16), (0, 1, 0): (173, 42, 26),
            (1, 0, 1): (78, 214, 230), (1, 0, 0): (63, 102, 240), (0, 0, 1): (32, 240, 118), (0, 0, 0): (16, 128, 128)}  # fmt: skip
    for colour, code in bars.items():
        assert tuple(np.rint(codes_of(np.array(colour, float))).astype(int)) == code


@pytest.mark.parametrize("values", SOME)
def test_the_table_has_the_grades_codes(values: dict[str, float]) -> None:
    codes = patches(5)
    whole = checked_grade(values)
    wanted = codes_of(graded(np.clip(rgb_of_codes(codes), 0, 1), whole))
    off = np.abs(middles(looked_up(planes(codes), [Act(GRADE, whole)])) - wanted)
    # A quarter of a value is rounding.
    assert off.mean() < 0.75
    assert np.percentile(off, 99) < 3.5


def test_greys_stay_grey_and_never_change_places() -> None:
    greys = np.stack([np.arange(16, 226.0), np.full(210, 128.0), np.full(210, 128.0)], -1)
    done = middles(
        looked_up(
            planes(greys), [Act(GRADE, checked_grade({"exposure": 0.7, "contrast": 1.4, "saturation": 1.5}))]
        )
    )
    assert np.abs(done[:, 1:].astype(int) - 128).max() <= 1
    assert (np.diff(done[:, 0].astype(int)) >= 0).all()


def test_two_grades_are_one_table() -> None:
    codes = patches(9)
    one, two = checked_grade({"exposure": -0.6}), checked_grade({"temperature": 0.4, "contrast": 1.2})
    wanted = codes_of(graded(graded(np.clip(rgb_of_codes(codes), 0, 1), one), two))
    assert (
        np.abs(middles(looked_up(planes(codes), [Act(GRADE, one), Act(GRADE, two)])) - wanted).mean() < 0.75
    )


def frame_of(given: list[np.ndarray]) -> av.VideoFrame:
    flat = np.concatenate([p.ravel() for p in given]).reshape(-1, given[0].shape[1])
    return av.VideoFrame.from_ndarray(flat, "yuv420p")


def test_a_steady_grade_and_one_that_changes_look_the_same() -> None:
    given = planes(patches(11))
    height, width = given[0].shape
    values = checked_grade({"exposure": 0.4, "saturation": 0.7})
    # Away from the borders of patches, where the order of mixing and grading tells.
    quick, slow = (
        middles(
            planes_of(
                composed([CompositeLayer((Act(GRADE, values, moving),), frame_of(given))], width, height)
            )
        )
        for moving in (frozenset[str](), frozenset({"exposure"}))
    )
    assert np.abs(quick.astype(int) - slow.astype(int)).mean() < 0.8


def test_a_table_of_the_project_is_looked_up_too_and_once_it_is_at_hand() -> None:
    size = 9
    at = np.linspace(0, 1, size)
    text = f"LUT_3D_SIZE {size}\n" + "\n".join(f"{1 - r} {g} {b / 2}" for b in at for g in at for r in at)
    codes = patches(17)
    act = Act(TABLE, {"number": float(number_of(text)), "share": 0.5}, frozenset())
    assert may_look_up(act)
    before = middles(graded_planes(planes(codes), [act]))
    assert np.abs(before.astype(int) - codes).max() <= 1, "not at hand: as it is"
    know(number_of(text), text)
    rgb = np.clip(rgb_of_codes(codes), 0, 1)
    wanted = codes_of(rgb + (np.stack([1 - rgb[:, 0], rgb[:, 1], rgb[:, 2] / 2], -1) - rgb) * 0.5)
    off = np.abs(middles(graded_planes(planes(codes), [act])) - wanted)
    assert off.mean() < 0.75
    # And in floating point, among other steps.
    height, width = planes(codes)[0].shape
    sheet = ACTS["table"](sheet_of(list(planes(codes)), (width, height)), act.values)
    assert np.abs(middles(coded_planes(sheet)) - wanted).mean() < 0.75


def test_a_grade_then_a_punch_in_is_the_punch_in_of_the_grade() -> None:
    given = planes(patches(12))
    height, width = given[0].shape
    grade = Act(GRADE, checked_grade({"exposure": 0.4}), frozenset())
    closer = Act(PLACE, {**PLACE.rest, "scale": 1.5}, frozenset())
    both = composed([CompositeLayer((grade, closer), frame_of(given))], width, height)
    first = composed([CompositeLayer((grade,), frame_of(given))], width, height)
    after = composed([CompositeLayer((closer,), first)], width, height)
    for a, b in zip(planes_of(both), planes_of(after), strict=True):
        assert np.array_equal(a, b)


def test_a_grade_is_looked_up_where_nothing_but_its_strength_moves() -> None:
    comes = Curve((Key(0, 0.0, "straight"), Key(5, 1.0, "hold")))
    for step, may in (
        (GRADE(exposure=1.0), True),
        (GRADE(exposure=1.0, strength=comes), True),
        (GRADE(exposure=comes), False),
    ):
        (act,) = acts_at((step,), 3, 16 / 9)
        assert may_look_up(act) is may


def test_a_strength_that_comes_is_between_none_and_all_of_it() -> None:
    given = planes(patches(13))
    values = checked_grade({"exposure": 0.8, "saturation": 1.4})
    whole = graded_planes(given, [Act(GRADE, values, frozenset())])
    for share in (0.0, 0.3, 1.0):
        half = graded_planes(given, [Act(GRADE, {**values, "strength": share}, frozenset({"strength"}))])
        wanted = [b + (a.astype(float) - b) * share for a, b in zip(whole, given, strict=True)]
        assert max(np.abs(h - w).max() for h, w in zip(half, wanted, strict=True)) <= 0.51
        steady = graded_planes(given, [Act(GRADE, {**values, "strength": share}, frozenset())])
        assert np.abs(middles(half).astype(int) - middles(steady)).mean() < 0.8


def test_what_is_made_ahead_comes_in_order_and_ends() -> None:
    made: list[int] = []

    def numbers():  # type: ignore[no-untyped-def]
        for n in range(20):
            made.append(n)
            yield n

    assert list(ahead(numbers(), 4)) == list(range(20))
    made.clear()
    some = ahead(numbers(), 4)
    assert [next(some), next(some)] == [0, 1]
    some.close()
    assert len(made) <= 6, "no more than four ahead"


def test_what_goes_wrong_ahead_is_raised_where_it_is_used_and_closes() -> None:
    closed = []

    def breaks():  # type: ignore[no-untyped-def]
        try:
            yield 1
            raise ValueError("the second")
        finally:
            closed.append(True)

    made = ahead(breaks(), 3)
    assert next(made) == 1
    with pytest.raises(ValueError, match="the second"):
        next(made)
    assert closed
