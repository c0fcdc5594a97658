"""How pictures lie in the film: known answers, and no edge in a frame that is filled."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.looks import look_at
from zembi.core.errors import BadInput
from zembi.core.footage.fit import (
    AS_IT_LIES,
    Fit,
    Framing,
    Lie,
    Placed,
    chain_of,
    checked_fit,
    lie_of,
    placed_by,
)
from zembi.core.picture.chain import PLAIN, Chain

FILM = (1920, 1080)


def placed_at(chain: Chain, frame: int, _aspect: float = 16 / 9) -> Placed:
    """Where a chain of one step puts a picture in a frame."""
    look = look_at(chain, frame)
    return Placed(look.scale, look.x, look.y, look.turn)


def corners(
    fit: Fit, picture: tuple[int, int], film: tuple[int, int] = FILM
) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of the picture in pixels of the film, by the compositor's rule."""
    look = placed_by(fit, picture, film)
    whole = min(film[0] / picture[0], film[1] / picture[1])
    width, height = picture[0] * whole * look.scale, picture[1] * whole * look.scale
    if look.turn % 180:
        width, height = height, width
    x, y = film[0] * (0.5 + look.x), film[1] * (0.5 + look.y)
    return x - width / 2, y - height / 2, x + width / 2, y + height / 2


def test_whole_is_as_it_is_and_turning_keeps_it_whole() -> None:
    assert placed_by(Fit(), (1080, 1920), FILM) == Placed()
    assert corners(Fit(turn=90), (1080, 1920)) == pytest.approx((0, 0, 1920, 1080))
    assert corners(Fit(turn=90), (1920, 1080)) == pytest.approx((656.25, 0, 1263.75, 1080))
    assert placed_by(Fit(turn=180), (1920, 1080), FILM) == Placed(turn=180.0)


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


def test_a_smaller_picture_is_put_from_edge_to_edge_and_stays_in_the_middle_where_it_moves() -> None:
    assert corners(Fit("own", scale=0.5, x=0.1), (1920, 1080)) == pytest.approx((96, 270, 1056, 810))
    assert corners(Fit("own", 1.0, 0.0, 0.5), (1920, 1080)) == pytest.approx((960, 0, 1920, 540)), "a corner"
    assert corners(Fit("bars", x=0.1), (1080, 1920)) == corners(Fit(), (1080, 1920)), "bars stay even"
    moving = Fit("own", 0.1, 0.9, 0.5, to=Framing(0.5, 0.5, 1.0))
    assert placed_by(moving, (1920, 1080), FILM) == Placed(scale=0.5)


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


def test_a_look_that_stays_is_chain_of_one_key_and_as_it_is_is_none() -> None:
    assert chain_of(AS_IT_LIES, 25) is PLAIN
    fit = Fit("fill", x=0.2, turn=90)
    look = placed_by(fit, (1080, 1920), FILM)
    for frame in (0, 7, 900):
        assert placed_at(chain_of(lie_of(fit, (1080, 1920), FILM), 25), frame, 16 / 9) == look


MOVE = Fit("own", 0.3, 0.6, 1.2, to=Framing(0.7, 0.5, 2.0))


@pytest.mark.parametrize("length", [2, 3, 50, 251])
def test_a_slow_move_begins_and_ends_at_its_framings(length: int) -> None:
    size = (4000, 3000)
    curves = chain_of(lie_of(MOVE, size, FILM), length)
    assert placed_at(curves, 0) == placed_by(Fit("own", 0.3, 0.6, 1.2), size, FILM, moves=True)
    assert placed_at(curves, length - 1) == placed_by(Fit("own", 0.7, 0.5, 2.0), size, FILM)
    scales = [look_at(curves, n, 16 / 9).scale for n in range(length)]
    assert scales == sorted(scales)


def test_a_move_over_one_frame_shows_where_it_begins() -> None:
    assert placed_at(chain_of(Lie(Placed(scale=1.0), Placed(scale=2.0)), 1), 0).scale == 1.0


framings = st.builds(Framing, st.floats(0, 1), st.floats(0, 1), st.floats(1.0, 10.0))


@given(framings, framings, st.integers(2, 400), st.floats(0, 1))
def test_no_edge_is_seen_on_the_way_where_none_is_at_the_ends(
    one: Framing, other: Framing, length: int, share: float
) -> None:
    fit = Fit("own", one.x, one.y, one.scale, to=other)
    look = placed_at(chain_of(lie_of(fit, FILM, FILM), length), int(share * (length - 1)))
    room = (look.scale - 1) / 2 + 1e-9
    assert abs(look.x) <= room
    assert abs(look.y) <= room


@pytest.mark.parametrize(
    ("fit", "said"),
    [
        (Fit(turn=45), "turned by 0, 90"),
        (Fit("own", scale=0.01), "outside 0.1 to 10"),
        (Fit("fill", x=1.2), "middle of the frame"),
        (Fit("fill", to=Framing()), "one scale of its own"),
        (Fit("own", to=Framing(scale=20)), "outside 0.1 to 10"),
    ],
)
def test_what_cannot_be_meant_is_refused(fit: Fit, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        checked_fit(fit)
