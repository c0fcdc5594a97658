"""Strokes in a clip's sound: each where it begins, none in what is steady."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from zembi.core.footage.strokes import strokes

RATE = 16_000


def scene(
    at: list[float], seconds: float, *, noise: float = 0.003, level: float = 0.5, seed: int = 1
) -> NDArray[np.float32]:
    """A room with slams in it, each a burst that dies away."""
    rng = np.random.default_rng(seed)
    out = rng.normal(size=int(seconds * RATE)) * noise
    for t in at:
        n = np.arange(int(0.2 * RATE))
        first = int(t * RATE)
        burst = level * rng.normal(size=len(n)) * np.exp(-n / (0.04 * RATE))
        out[first : first + len(n)] += burst[: len(out) - first]
    return np.clip(out, -1, 1).astype(np.float32)


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.integers(2, 38), min_size=1, max_size=12, unique=True),
    st.floats(0.05, 0.9),
    st.integers(0, 99),
)
def test_slams_are_found_where_they_begin_and_nothing_else(
    places: list[int], level: float, seed: int
) -> None:
    at = sorted(p * 0.25 + 0.0131 for p in places)
    found = strokes(scene(at, 10.5, level=level, seed=seed), RATE)
    assert len(found) == len(at)
    assert max(abs(a - b) for a, b in zip(found, at, strict=True)) < 0.012


def test_silence_hum_and_a_slow_swell_have_none() -> None:
    t = np.arange(4 * RATE) / RATE
    hum = (0.3 * np.sin(2 * np.pi * 110 * t)).astype(np.float32)
    swell = (hum * np.linspace(0.02, 1, len(t))).astype(np.float32)
    for sound in (np.zeros(4 * RATE, np.float32), hum[RATE:], scene([], 4), swell, np.zeros(10, np.float32)):
        assert strokes(sound, RATE) == ()


def test_of_too_many_the_strongest_are_told() -> None:
    sound = scene([0.5, 1.5], 3) + scene([1.0, 2.0, 2.5], 3, level=0.05, seed=2)
    assert strokes(sound, RATE, most=2) == pytest.approx((0.5, 1.5), abs=0.012)
