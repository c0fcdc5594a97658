"""The chain of a picture: the table that the page is held to, composition, order, and what a span keeps when it is cut."""

import json
import math
import pickle

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests import tables
from zembi.core.picture.chain import acts_at, covers, later, opacity_of
from zembi.core.picture.step import Values
from zembi.core.picture.steps import BLUR, OPACITY, PLACE, STEPS

places = st.fixed_dictionaries(
    {
        "scale": st.floats(0.2, 4), "x": st.floats(-1, 1), "y": st.floats(-1, 1), "turn": st.floats(-200, 200),
        "mirror": st.sampled_from([0.0, 1.0]),
    }
)  # fmt: skip


def moved(place: Values, point: tuple[float, float], aspect: float) -> tuple[float, float]:
    """Where a place puts a point; counted from the frame's middle, in its heights."""
    x, y = (-point[0] if place["mirror"] else point[0]), point[1]
    cos, sin = math.cos(math.radians(place["turn"])), math.sin(math.radians(place["turn"]))
    return (
        place["scale"] * (cos * x - sin * y) + place["x"] * aspect,
        place["scale"] * (sin * x + cos * y) + place["y"],
    )


@given(places, places, st.floats(0.4, 2.4), st.floats(-1, 1), st.floats(-1, 1))
def test_two_places_are_composed_to_one_that_does_the_same(
    inner: dict[str, float], outer: dict[str, float], aspect: float, x: float, y: float
) -> None:
    one_by_one = moved(outer, moved(inner, (x, y), aspect), aspect)
    acts = acts_at((PLACE(**inner), PLACE(**outer)), 0, aspect)
    together = (x, y)
    for act in acts:
        together = moved(act.values, together, aspect)
    assert len(acts) <= 1
    assert together == pytest.approx(one_by_one, abs=1e-9)


@given(st.integers(0, 59), st.integers(-20, 30), st.integers(0, 40))
def test_a_chain_that_begins_later_does_the_same_in_the_same_frame(
    row: int, later_by: int, frame: int
) -> None:
    table = json.loads(tables.path_of("chains").read_text())
    chain, aspect = list(tables.CHOSEN.values())[row % len(tables.CHOSEN)]
    assert table[row % len(tables.CHOSEN)]["aspect"] == aspect
    assert acts_at(later(chain, later_by), frame, aspect) == acts_at(chain, frame + later_by, aspect)


def test_steps_act_in_their_order_and_only_neighbours_of_a_kind_are_composed() -> None:
    chain = (PLACE(scale=2.0), BLUR(amount=0.1), PLACE(scale=0.5), PLACE(scale=2.0), OPACITY(amount=0.5))
    # The two places after the blur come to nothing.
    assert [a.kind.name for a in acts_at(chain, 0, 1.0)] == ["place", "blur", "opacity"]
    assert [a.kind.name for a in acts_at(chain[::-1], 0, 1.0)] == ["opacity", "blur", "place"]
    assert not covers(acts_at(chain, 0, 1.0))
    assert covers(acts_at(chain[:2], 0, 1.0))
    assert opacity_of(chain) is chain[-1]
    assert opacity_of(chain[:-1]) is None


def test_a_kind_is_one_object_wherever_it_is_sent() -> None:
    for kind in STEPS.values():
        assert pickle.loads(pickle.dumps(kind)) is kind
    with pytest.raises(TypeError, match="blur has no radius"):
        BLUR(radius=3)
