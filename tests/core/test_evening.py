"""A file that drifted as it was filmed, brought to its own middle."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.colour.evening import EVENED, Evening, evening_of
from zembi.core.colour.grade import REST, graded
from zembi.core.colour.spaces import Colours, luminance, to_light, to_oklab
from zembi.core.edit.compiling.evening import evened_step
from zembi.core.timemap import Piece, TimeMap, playback

RATE = Fraction(24)
SECONDS = 120


def scene(seed: int) -> Colours:
    """Points of a picture whose people move about: always the same things, never in the same amount."""
    rng = np.random.default_rng(seed)
    things = np.array(
        [[0.55, 0.42, 0.35], [0.2, 0.3, 0.42], [0.6, 0.62, 0.58], [0.12, 0.1, 0.09], [0.45, 0.5, 0.3]]
    )
    share = rng.dirichlet([8, 12, 10, 6, 8])
    which = rng.choice(len(things), 400, p=share)
    return np.clip(things[which] + rng.normal(0, 0.02, (400, 3)), 0, 1)


def filmed(drift: dict[str, float]) -> tuple[list[float], list[Colours]]:
    """Pictures twice a second, whose controls go from one end of a drift to the other."""
    times = [k / 2 for k in range(2 * SECONDS)]
    made = []
    for k, at in enumerate(times):
        share = at / SECONDS - 0.5
        made.append(graded(scene(k), {**REST, **{name: share * whole for name, whole in drift.items()}}))
    return times, made


def spread(colours: list[Colours]) -> np.ndarray:
    """Range of mean light in stops, and of both axes of colour, over thirds of the file."""
    parts = [np.concatenate(colours[k : k + 40]) for k in range(0, len(colours), 40)]
    light = [to_light(p) for p in parts]
    found = np.array([[np.log2(luminance(x)).mean(), *to_oklab(x)[:, 1:].mean(axis=0)] for x in light])
    return np.ptp(found, axis=0)


def evened(evening: Evening, times: list[float], colours: list[Colours]) -> list[Colours]:
    step = evened_step(evening, playback(24 * SECONDS, 0.0), RATE)
    return [graded(c, step.at(round(24 * at))) for at, c in zip(times, colours, strict=True)]


@pytest.mark.parametrize(
    "drift", [{"exposure": 1.6}, {"temperature": 0.8}, {"exposure": -1.2, "temperature": 0.6, "tint": 0.2}]
)
def test_a_drift_is_taken_out_to_less_than_a_fifth(drift: dict[str, float]) -> None:
    times, colours = filmed(drift)
    evening = evening_of(times, colours)
    before, after = spread(colours), spread(evened(evening, times, colours))
    still = spread([scene(k) for k in range(2 * SECONDS)])
    for k, name in enumerate(("exposure", "temperature", "tint")):
        if name in drift:
            assert after[k] < 0.2 * before[k] + still[k], name
    middle = evened(evening, times, colours)[len(times) // 2]
    assert np.abs(middle - colours[len(times) // 2]).mean() < 0.02, "its own middle is what it comes to"


def test_what_does_not_drift_is_left_alone_and_a_short_file_has_no_corrections() -> None:
    evening = evening_of(*filmed({}))
    assert max(abs(v) for row in evening for v in row[1:]) < 0.2
    times, colours = filmed({"exposure": 1.0})
    assert evening_of(times[:20], colours[:20]) == ()


EVENING: Evening = tuple((float(t), 0.01 * t, -0.002 * t, 0.0) for t in range(0, 101, 5))


@given(st.integers(0, 400), st.integers(1, 300), st.floats(0, 60), st.sampled_from([1.0, 0.5, -1.0, 2.0]))
def test_a_moment_of_the_file_has_one_correction_whatever_is_cut_of_it(
    first: int, frames: int, at_s: float, speed: float
) -> None:
    whole = TimeMap((Piece(800, at_s, speed, speed),))
    part = whole.cut(first, first + frames, RATE)
    all_of_it, cut = evened_step(EVENING, whole, RATE), evened_step(EVENING, part, RATE)
    for frame in {0, frames // 2, frames - 1}:
        assert cut.at(frame) == all_of_it.at(first + frame)


def test_corrections_stand_between_steps_that_are_not_seen() -> None:
    step = evened_step(EVENING, playback(2400, 0.0), RATE)
    assert step.moving == frozenset()
    values = np.array([[step.at(f)[name] for name in EVENED] for f in range(0, 2400, 7)])
    assert np.abs(np.diff(values, axis=0)).max() <= 0.02 + 1e-9
    assert values[-1, 0] == pytest.approx(1.0, abs=0.02)
