"""Which family of tempi a song is in, from what each tells of its strokes."""

from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.song import families
from zembi.core.song.families import akin, by_family
from zembi.core.song.tempo import TempoReading


def chosen(
    monkeypatch: pytest.MonkeyPatch, rows: Sequence[tuple[float, float, float]], in_three: float = 0.0
) -> tuple[float, float]:
    """The tempo that is read first of (tempo, score, what it tells), and how far ahead its family is."""
    told = {bpm: tells for bpm, _, tells in rows}
    monkeypatch.setattr(families, "family_score", lambda _envelopes, bpm: told[bpm])
    monkeypatch.setattr(families, "divides_in_three", lambda _envelopes, _bpm: in_three)
    readings, ahead = by_family([TempoReading(bpm, score) for bpm, score, _ in rows], [np.zeros(8)])
    assert sorted(r.bpm for r in readings) == sorted(bpm for bpm, _, _ in rows)
    return readings[0].bpm, ahead


@pytest.mark.parametrize(("score", "tells", "expected"), [
    (1.0, 1.2, 120.0), (1.0, 1.4, 170.0), (0.4, 1.4, 120.0), (0.4, 1.8, 170.0), (0.1, 2.0, 120.0), (0.1, 2.6, 170.0),
])  # fmt: skip
def test_another_family_has_to_tell_the_more_the_less_its_reading_scores(
    monkeypatch: pytest.MonkeyPatch, score: float, tells: float, expected: float
) -> None:
    first, ahead = chosen(monkeypatch, [(120.0, 1.0, 100.0), (170.0, score, 100.0 * tells)])
    assert first == expected
    assert ahead == pytest.approx(np.log(tells) if expected == 170.0 else 0.0)


@pytest.mark.parametrize(("score", "tells", "in_three", "expected"), [
    (0.35, 2.0, 2.3, 84.0),  # A beat in three, whose thirds two by two tell more, as they always do.
    (0.35, 2.0, -2.0, 126.0),  # The same, but its thirds are none.
    (0.97, 2.3, 1.3, 126.0),  # All else speaks for the faster.
    (0.97, 2.3, 6.0, 84.0),  # It divides in three beyond doubt.
    (0.9, 9.0, 6.0, 126.0),  # Thirds never tell so much.
])  # fmt: skip
def test_thirds_of_a_beat_are_told_from_halves_of_a_faster_one(
    monkeypatch: pytest.MonkeyPatch, score: float, tells: float, in_three: float, expected: float
) -> None:
    assert chosen(monkeypatch, [(84.0, 1.0, 50.0), (126.0, score, 50.0 * tells)], in_three)[0] == expected


def test_a_reading_that_hardly_scores_is_no_family(monkeypatch: pytest.MonkeyPatch) -> None:
    assert chosen(monkeypatch, [(120.0, 1.0, 10.0), (170.0, 0.04, 900.0)]) == (120.0, 4.0)


def test_where_no_reading_scores_the_only_one_is_taken(monkeypatch: pytest.MonkeyPatch) -> None:
    assert chosen(monkeypatch, [(120.0, 0.0, 3.0)]) == (120.0, 4.0)


@given(st.floats(40, 200), st.integers(-2, 2), st.floats(-0.01, 0.01))
def test_halves_and_doubles_are_akin_and_thirds_are_not(bpm: float, octaves: int, off: float) -> None:
    assert akin(bpm, bpm * 2.0 ** (octaves + off))
    assert not akin(bpm, bpm * 1.5 * 2.0 ** (octaves + off))
    assert not akin(bpm, bpm * 4 / 3 * 2.0 ** (octaves + off))
