"""What was left out or played twice on set, told from the passes of a take."""

from hypothesis import given
from hypothesis import strategies as st

from zembi.core.lineup.joints import Run, agreed, joints
from zembi.core.song.grid import Grid
from zembi.core.sync.refine import Line

#: Bars of two seconds; bar 1 begins at 0.
GRID = Grid(tuple(k * 0.5 for k in range(-8, 240)), tuple(range(0, 248, 4)), -1)


def run(number: int, start: float, end: float, song: float) -> Run:
    return Run(number, start, end, Line(song - start))


def test_bars_left_out_are_told_by_their_numbers() -> None:
    (joint,) = joints([run(7, 3, 35, 0), run(8, 35.1, 70, 48.1)], GRID)
    assert (joint.before, joint.kind, joint.start_s, joint.end_s) == (7, "left out", 32.0, 48.0)
    assert abs(joint.take_s - 35.05) < 1e-9
    assert joint.on_beat_s == 35.0
    assert joint.words == "bars 17 to 24 left out between pass 1 and 2"


def test_a_part_played_twice_and_one_bar_and_beats() -> None:
    (twice,) = joints([run(1, 3, 35, 0), run(2, 35, 70, 30)], GRID)
    assert twice.on_beat_s == 35.0
    assert twice.words == "bar 16 played twice between pass 1 and 2"
    (beats,) = joints([run(1, 3, 35.5, 0), run(2, 35.5, 70, 36)], GRID)
    assert beats.words == "17.2 to 19.1 left out between pass 1 and 2"


def test_a_restart_after_a_pause_or_off_the_beat_is_no_cut_in_the_music() -> None:
    assert joints([run(1, 3, 35, 0), run(2, 38, 70, 48)], GRID) == []
    assert joints([run(1, 3, 35, 0), run(2, 35, 70, 48.2)], GRID) == []
    assert joints([run(1, 3, 35, 0), run(2, 35, 70, 32.01)], GRID) == []
    assert joints([run(1, 3, 35, 0), run(2, 35, 70, 48)], None) == []


@given(st.integers(1, 40), st.integers(-20, 20), st.floats(-0.05, 0.05))
def test_whole_bars_are_found_wherever_the_joint_was_measured(at: int, jump: int, off: float) -> None:
    left = 2.0 * at
    joint_s = 3.0 + left + off
    there = max(0.0, left + 2.0 * jump) + off
    found = joints([run(1, 3, joint_s, 0), run(2, joint_s, joint_s + 20, there)], GRID)
    true = sorted((left, there - off))
    assert [(round(j.start_s, 6), round(j.end_s, 6)) for j in found] == (
        [(round(true[0], 6), round(true[1], 6))] if true[1] - true[0] > 1e-6 else []
    )


def test_takes_agree_that_leave_the_same_out() -> None:
    out = joints([run(1, 3, 35, 0), run(2, 35, 70, 48)], GRID)
    same = joints([run(1, 9, 21, 20.02), run(2, 21, 70, 48.02)], GRID)
    other = joints([run(1, 3, 35, 0), run(2, 35, 70, 50)], GRID)
    (cut,) = agreed({"a": out, "b": same, "c": other}, GRID)
    assert (cut.takes, cut.start_s, cut.end_s, cut.words) == (("a", "b"), 32.0, 48.0, "bars 17 to 24")
    assert agreed({"a": out, "c": other}, GRID) == []
