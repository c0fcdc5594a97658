"""How pictures lie in the film: known answers, and no edge in a frame that is filled."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.errors import BadInput
from zembi.core.footage.fit import Fit, checked_fit, curves_of, look_of
from zembi.core.programme.curves import AS_IT_IS, PLAIN, Look

FILM = (1920, 1080)


def corners(
    fit: Fit, picture: tuple[int, int], film: tuple[int, int] = FILM
) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of the picture in pixels of the film, by the compositor's rule."""
    look = look_of(fit, picture, film)
    whole = min(film[0] / picture[0], film[1] / picture[1])
    width, height = picture[0] * whole * look.scale, picture[1] * whole * look.scale
    if look.turn % 180:
        width, height = height, width
    x, y = film[0] * (0.5 + look.x), film[1] * (0.5 + look.y)
    return x - width / 2, y - height / 2, x + width / 2, y + height / 2


def test_whole_is_as_it_is_and_turning_keeps_it_whole() -> None:
    assert look_of(Fit(), (1080, 1920), FILM) == AS_IT_IS
    assert corners(Fit(turn=90), (1080, 1920)) == pytest.approx((0, 0, 1920, 1080))
    assert corners(Fit(turn=90), (1920, 1080)) == pytest.approx((656.25, 0, 1263.75, 1080))
    assert look_of(Fit(turn=180), (1920, 1080), FILM) == Look(turn=180.0)


def test_filling_crops_and_its_middle_is_where_it_is_put() -> None:
    assert corners(Fit("fill"), (1440, 1080)) == pytest.approx((0, -180, 1920, 1260))
    assert corners(Fit("fill", y=0.0), (1440, 1080)) == pytest.approx((0, 0, 1920, 1440)), (
        "no farther than its edge"
    )
    left, top, right, bottom = corners(Fit("fill", x=0.4), (3840, 1080))
    assert (right - left, bottom - top) == pytest.approx((3840, 1080))
    assert left + 0.4 * 3840 == pytest.approx(960)


def test_a_scale_of_its_own_is_against_whole() -> None:
    assert corners(Fit("own", scale=2.0), (1080, 1920)) == pytest.approx((352.5, -540, 1567.5, 1620))
    assert corners(Fit("own", scale=0.5, x=0.1), (1920, 1080)) == pytest.approx((480, 270, 1440, 810))


sizes = st.tuples(st.integers(16, 8000), st.integers(16, 8000))


@given(sizes, sizes, st.floats(0, 1), st.floats(0, 1), st.sampled_from([0, 90, 180, 270]))
def test_no_edge_is_seen_in_a_frame_that_is_filled(
    picture: tuple[int, int], film: tuple[int, int], x: float, y: float, turn: int
) -> None:
    left, top, right, bottom = corners(Fit("fill", x, y, turn=turn), picture, film)
    slack = 1e-6 * max(film)
    assert left <= slack
    assert top <= slack
    assert right >= film[0] - slack
    assert bottom >= film[1] - slack
    # It is no larger than it has to be.
    assert min(right - left - film[0], bottom - top - film[1]) == pytest.approx(
        0, abs=1e-6 * max(*film, *picture)
    )


@given(sizes, sizes, st.sampled_from([0, 90, 180, 270]))
def test_bars_show_all_of_it(picture: tuple[int, int], film: tuple[int, int], turn: int) -> None:
    left, top, right, bottom = corners(Fit(turn=turn), picture, film)
    slack = 1e-6 * max(film)
    assert left >= -slack
    assert top >= -slack
    assert right <= film[0] + slack
    assert bottom <= film[1] + slack


def test_a_look_that_stays_is_curves_of_one_key_and_as_it_is_is_none() -> None:
    assert curves_of(AS_IT_IS) is PLAIN
    look = look_of(Fit("fill", x=0.2, turn=90), (1080, 1920), FILM)
    for frame in (0, 7, 900):
        assert curves_of(look).at(frame) == look


@pytest.mark.parametrize(
    ("fit", "said"),
    [
        (Fit(turn=45), "turned by 0, 90"),
        (Fit("own", scale=0.01), "outside 0.1 to 10"),
        (Fit("fill", x=1.2), "middle of the frame"),
    ],
)
def test_what_cannot_be_meant_is_refused(fit: Fit, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        checked_fit(fit)
