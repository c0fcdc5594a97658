"""The yardsticks themselves: what a benchmark counts is right on songs whose answer is known."""

import sys
from pathlib import Path

import mido
import numpy as np
import pytest

sys.path.insert(0, str(Path(__file__).parents[1] / "benchmarks"))

from curve import share_with_bounds, write_curve
from fill import Song, broken, overlaps
from hard import judge
from hard_takes import hard_cases
from repeats import alike, notes_of, repeats
from takes import RATE, Case, Original, TruePass

from zembi.core.edit.model import ClipSource
from zembi.core.edit.stretches import Clip
from zembi.core.song.listen import FoundSection
from zembi.core.sync.found import FoundPass, SongPlace, judged

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


NOISE = np.random.default_rng(1).standard_normal(RATE * 100).astype(np.float32)
ON_SET = (TruePass(2.0, 12.0, 30.0), TruePass(12.0, 22.0, 60.0))


def lies(
    start: float, end: float, song: float, *, sure: float = 1.0, equal: tuple[float, ...] = ()
) -> FoundPass:
    rivals = [SongPlace(start, end, at, 1.0, 1.0) for at in equal]
    return FoundPass(start, end, song, 1.0, sure, 40.0, rivals=rivals)


def outcome(case: Case, *passes: FoundPass) -> str:
    return judge(case, judged(list(passes)), NOISE)[0]


@pytest.mark.parametrize(("passes", "became"), [
    ((lies(2, 12, 30), lies(12, 22, 60)), "right"),
    ((lies(2, 12.4, 30), lies(12.4, 22, 60.4)), "right"),
    # Over the cut by five seconds: sure, and wrong there.
    ((lies(2, 17, 30), lies(17, 22, 65)), "wrong"),
    ((lies(2, 17, 30, sure=0.8), lies(17, 22, 65)), "check"),
    ((lies(2, 12, 30),), "check"),
    ((), "missed"),
    ((lies(2, 12, 30.1), lies(12, 22, 60)), "wrong"),
])  # fmt: skip
def test_a_take_cut_on_set_is_judged_on_both_sides_of_its_cut(
    passes: tuple[FoundPass, ...], became: str
) -> None:
    assert outcome(Case("cut", NOISE, "locked", ON_SET), *passes) == became


def test_what_is_not_the_song_is_told_and_equal_places_have_to_be_listed() -> None:
    other = Case("other", NOISE, "unmatched")
    assert outcome(other) == "told"
    assert outcome(other, lies(2, 9, 30)) == "wrong"
    twice = Case("twice", NOISE, "choose", (TruePass(2.0, 5.0, 30.0),), (30.0, 60.0))
    assert outcome(twice, lies(2, 5, 30, sure=0.5, equal=(30.0, 60.0))) == "told"
    assert outcome(twice, lies(2, 5, 30, sure=0.5, equal=(30.0, 61.0))) == "check"


def test_bounds_of_a_share_are_those_of_the_book() -> None:
    share, least, most = share_with_bounds(10, 10)
    assert (share, most) == (1.0, 1.0)
    assert least == pytest.approx(0.7225, abs=1e-4)
    assert share_with_bounds(1, 2) == pytest.approx((0.5, 0.0945, 0.9055), abs=1e-4)


def test_a_curve_shows_each_gathered_point(tmp_path: Path) -> None:
    said = [(0.995, True)] * 40 + [(0.95, True)] * 3 + [(0.95, False), (0.3, False)]
    write_curve(tmp_path / "curve.svg", said, "45 passes")
    drawn = (tmp_path / "curve.svg").read_text()
    assert drawn.count("<circle") == 3
    assert "0.99 to 1.00: 40 of 40" in drawn
    assert "0.90 to 0.99: 3 of 4" in drawn


def test_what_is_shown_twice_or_too_often_is_counted() -> None:
    song = Song([], [(0, 48), (48, 96), (96, 144)], 144)
    a, b = Clip("a", "A", ((0.0, 9.0),)), Clip("b", "B", ((0.0, 9.0),))
    fine = {0: ClipSource("a", 0.0), 1: ClipSource("b", 0.0), 2: ClipSource("a", 2.0)}
    assert (overlaps(song, fine), broken(song, fine, (a, b))) == (0, 0)
    twice = fine | {2: ClipSource("a", 1.5)}
    assert overlaps(song, twice) == 1
    often = fine | {1: ClipSource("a", 5.0)}
    assert broken(song, often, (a, b)) == 3, "b was never shown"


def test_a_hard_take_is_the_same_each_time_and_says_where_it_was_cut() -> None:
    original = Original("noise", NOISE, downbeats=tuple(np.arange(0.0, 99.0, 2.0).tolist()))
    kinds = dict(hard_cases(original, 3))
    assert {"bars left out", "a part twice", "3 s", "scrubbed", "player off speed"} <= kinds.keys()
    case, again = kinds["bars left out"](), kinds["bars left out"]()
    assert np.array_equal(case.sound, again.sound)
    first, second = case.passes
    assert second.start_s == first.end_s
    assert second.song_s - first.song(first.end_s) in (8.0, 16.0, 32.0)
