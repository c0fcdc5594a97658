"""The yardsticks themselves: what a benchmark counts is right on songs whose answer is known."""

import sys
from pathlib import Path

import mido
import numpy as np
import pytest

sys.path.insert(0, str(Path(__file__).parents[1] / "benchmarks"))

from repeats import alike, notes_of, repeats

from zembi.core.song.listen import FoundSection

#: A bar of two seconds; verses and choruses of four bars.
FORM = "VVVV CCCC VVVV CCCC".replace(" ", "")
PITCHES = {"V": (40, 43, 47, 50), "C": (52, 55, 59, 64)}


def played() -> np.ndarray:
    """Four notes a bar, each bar of a part with a figure of its own place in it."""
    return np.array([
        (2.0 * bar + 0.5 * k, 1, pitch + bar % 4)
        for bar, part in enumerate(FORM)
        for k, pitch in enumerate(PITCHES[part])
    ])  # fmt: skip


def sections(groups: list[int]) -> list[FoundSection]:
    long = 32.0 / len(groups)
    return [FoundSection(k * long, (k + 1) * long, "", g, round(long / 2)) for k, g in enumerate(groups)]


DOWNBEATS = np.arange(16) * 2.0


def test_bars_are_alike_that_strike_the_same_notes() -> None:
    likeness = alike(played(), DOWNBEATS)
    assert likeness[0, 8] == likeness[5, 13] == 1.0
    assert likeness[0, 1] == likeness[0, 4] == 0.0


@pytest.mark.parametrize(("groups", "found", "true"), [
    ([0, 1, 0, 1], 1.0, 1.0),
    # Each by itself: nothing false, nothing found.
    ([0, 1, 2, 3], 0.0, float("nan")),
    # A verse named as a chorus: of two repeats one, and three pairs of which one is true.
    ([0, 1, 1, 1], 0.5, 1 / 3),
    # All of one kind: all found, a third of it true.
    ([0, 0, 0, 0], 1.0, 1 / 3),
])  # fmt: skip
def test_sections_are_measured_by_the_songs_own_repeats(groups: list[int], found: float, true: float) -> None:
    measured = repeats(played(), DOWNBEATS, sections(groups))
    assert measured.found == pytest.approx(found)
    assert measured.true == pytest.approx(true, nan_ok=True)


def test_a_repeat_begun_in_the_middle_of_a_section_still_lies_best_where_it_is() -> None:
    """Sections of one kind that are of different lengths are laid on each other where they fit."""
    spans = [
        FoundSection(0.0, 8.0, "", 0, 4),
        FoundSection(8.0, 16.0, "", 1, 4),
        FoundSection(16.0, 32.0, "", 0, 8),
    ]
    measured = repeats(played(), DOWNBEATS, spans)
    assert measured.true == 1.0
    assert measured.found == pytest.approx(0.5)


def test_notes_are_read_in_seconds(tmp_path: Path) -> None:
    file = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("set_tempo", tempo=500_000))
    track.append(mido.Message("note_on", note=60, channel=3, velocity=90, time=0))
    track.append(mido.Message("note_on", note=60, channel=3, velocity=0, time=480))
    track.append(mido.Message("note_on", note=62, channel=3, velocity=90, time=480))
    file.tracks.append(track)
    file.save(tmp_path / "song.mid")
    assert notes_of(tmp_path / "song.mid").tolist() == [[0.0, 3.0, 60.0], [1.0, 3.0, 62.0]]
