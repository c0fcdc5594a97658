"""What is said of a cut as a whole: known answers."""

from tests.core.test_operations import GRID, LENGTH, RATE
from zembi.core.edit.falls import Falls
from zembi.core.edit.judging import Judgement, judge
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Item, Source

A, B = AngleSource(1), AngleSource(2)
SECTIONS = [("Verse", -18.0), ("Chorus", -9.0)]


def judged(*shots: tuple[int, Source], over: tuple[Item, ...] = (), lead: int = 0) -> Judgement:
    return judge(
        new_edit(LENGTH, tuple(Item(*s) for s in shots), over),
        GRID,
        Falls(RATE, lead, ((0.0, None), (16.0, None))),
        SECTIONS,
    )


def test_where_cuts_fall_is_counted_with_the_lead_allowed_for() -> None:
    # Beats of 12 frames, bars of 48: on a bar, on beats, on a half-beat, and two frames early.
    found = judged((0, A), (48, B), (60, A), (102, B), (190, A))
    assert found.falls == {"bar": 1, "beat": 1, "half-beat": 1, "off": 1}
    assert judged((0, A), (47, B), (59, A), lead=1).falls == {"bar": 1, "beat": 1, "half-beat": 0, "off": 0}


def test_sections_tell_how_many_shots_begin_in_them_and_how_long_they_are() -> None:
    verse, chorus = judged((0, A), (192, B), (384, A), (576, B)).parts
    assert (verse.shots, verse.mean_beats) == (2, 16.0)
    assert (chorus.shots, chorus.mean_beats) == (2, 24.0)
    early = judged((0, A), (383, B), lead=1).parts
    assert [p.shots for p in early] == [1, 1], "a cut with a lead belongs to the section that it begins"


def test_angles_tell_how_much_they_are_seen_and_how_long_they_were_away() -> None:
    found = {a.angle: a for a in judged((0, A), (96, B), (144, A), (192, B), (576, A)).angles}
    assert (found[1].shots, found[1].frames) == (3, 96 + 48 + 384)
    assert (found[1].away_beats, found[1].away_until) == (32.0, 576)
    assert (found[2].shots, found[2].away_beats, found[2].away_until) == (2, 4.0, 192)


def test_a_long_shot_among_short_ones_is_a_place_to_look_at() -> None:
    shots = [(s, A if s % 48 else B) for s in range(0, 192, 24)]
    (place,) = [p for p in judged(*shots, (192, B), (384, A)).places if "long" in p.words]
    assert place.frame == 192
    assert "16 beats long, the others of Verse 2.0" in place.words
    even = judged(*((s, A if s % 96 else B) for s in range(0, LENGTH, 48))).places
    assert even == []


def test_the_same_stretch_of_a_clip_seen_twice_is_told_and_another_stretch_is_not() -> None:
    rope = ClipSource("rope", 1.0)
    over = (Item(300, ClipSource("rope", 1.5), 324), Item(400, ClipSource("rope", 40.0), 424))
    places = judged((0, A), (48, rope), (96, A), over=over).places
    assert [(p.frame, p.words) for p in places if "stretch" in p.words] == [
        (300, "the same stretch of a clip as at frame 48")
    ]


def test_a_quiet_section_that_is_cut_faster_than_the_loudest_is_told() -> None:
    shots = [(s, A if s % 48 else B) for s in range(0, 384, 24)]
    words = [p.words for p in judged(*shots, (384, A), (672, B)).places]
    assert "Verse is cut faster than Chorus, the loudest" in words
    assert not any("faster" in p.words for p in judged((0, BlackSource())).places)
