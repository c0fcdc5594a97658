"""Arranging, timing and slots: known answers, and what every one of these leaves alone."""

import dataclasses
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_operations import CONTEXT, LENGTH, RATE
from tests.edits import apply, over_of
from tests.spans import span
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.base import around_held, move_cuts
from zembi.core.edit.model import (
    AngleSource,
    BlackSource,
    ClipSource,
    Edit,
    Empty,
    Item,
    Source,
    source_from_dict,
    source_to_dict,
)
from zembi.core.edit.operations import (
    Bring,
    Chosen,
    Clear,
    CutAs,
    Drop,
    Fill,
    Lift,
    Loosen,
    MakeSlots,
    MoveItem,
    Operation,
    Push,
    RoughCut,
    Slip,
    Slot,
    Split,
    Swap,
    Switch,
    TakeOut,
    Tighten,
)
from zembi.core.edit.operations.context import Footage
from zembi.core.errors import BadInput, Refused, ZembiError
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import Hole

A, B = AngleSource(4), AngleSource(9)
ROPE = ClipSource("rope", 3.0)


def edit_of(*shots: tuple[int, Source] | tuple[int, Source, bool], over: tuple[Item, ...] = ()) -> Edit:
    return new_edit(LENGTH, tuple(Item(at, source, held=any(held)) for at, source, *held in shots), over)


def lane(edit: Edit) -> list[tuple[int, Source]]:
    return [(s.start, s.source) for s in edit.shots]


def done(edit: Edit, *operations: Operation) -> Edit:
    for operation in operations:
        edit = apply(edit, operation, CONTEXT)
    return edit


FOUR = edit_of((0, A), (96, ROPE), (192, B), (288, A))


def test_a_clip_slips_under_fixed_cuts_as_far_as_it_has_picture() -> None:
    assert lane(done(FOUR, Slip(96, 12)))[1] == (96, ClipSource("rope", 3.5))
    assert lane(done(FOUR, Slip(96, 12), Slip(96, -12))) == lane(FOUR)
    slow = edit_of((0, A), (96, ClipSource("rope", 3.0, 0.5)), (192, B))
    assert lane(done(slow, Slip(96, 24)))[1] == (96, ClipSource("rope", 3.5, 0.5))
    with pytest.raises(Refused, match="no picture before its start"):
        done(FOUR, Slip(96, -80))
    # Nine seconds may be used: two are left behind the four that it lasts.
    assert lane(done(FOUR, Slip(96, 48)))[1] == (96, ClipSource("rope", 5.0))
    with pytest.raises(Refused, match="2 frames missing"):
        done(FOUR, Slip(96, 50))
    over = edit_of((0, A), over=(Item(48, ROPE, 96),))
    assert over_of(done(over, Slip(48, -24))) == (Item(48, ClipSource("rope", 2.0), 96),)


def test_an_angle_slips_only_on_purpose_and_shows_what_it_shows_later() -> None:
    with pytest.raises(Refused, match="on purpose"):
        done(FOUR, Slip(192, 3))
    slipped = done(FOUR, Slip(192, 3, on_purpose=True), Slip(192, 2, on_purpose=True))
    assert lane(slipped)[2] == (192, AngleSource(9, 5))
    assert source_from_dict(source_to_dict(AngleSource(9, 5))) == AngleSource(9, 5)
    material = Material(
        {4: [span(0, LENGTH, "wide")], 9: [span(0, 240, "close"), span(260, LENGTH, "near", 7.0)]}, {}, RATE
    )
    seen = {s.start: s for s in on_screen(compiled(slipped, material), RATE)}
    plain = {s.start: s for s in on_screen(compiled(FOUR, material), RATE)}
    # The hole of frames 240 to 260 comes five frames sooner.
    assert sorted(seen) == [0, 96, 192, 235, 255, 288]
    assert sorted(plain) == [0, 96, 192, 240, 260, 288]
    for frame in (0, 10, 42):
        assert seen[192].time.times(RATE)[frame] == pytest.approx(plain[192].time.times(RATE)[frame + 5])


def test_an_empty_slot_is_a_hole_that_says_so() -> None:
    (seen,) = on_screen(compiled(edit_of((0, Empty())), Material({}, {}, RATE)), RATE)
    assert isinstance(seen.content, Hole)
    assert seen.content.reason == "an empty slot"
    assert source_from_dict(source_to_dict(Empty())) == Empty()


def test_two_shots_change_pictures_and_a_short_clip_is_refused() -> None:
    assert lane(done(FOUR, Swap(96, 192))) == [(0, A), (96, B), (192, ROPE), (288, A)]
    assert done(FOUR, Swap(96, 192), Swap(96, 192)) == FOUR
    with pytest.raises(Refused, match="528 frames are missing"):
        done(FOUR, Swap(96, 288))
    with pytest.raises(BadInput, match="itself"):
        done(FOUR, Swap(96, 96))


def test_a_shot_is_brought_elsewhere_and_the_one_before_runs_on() -> None:
    assert lane(done(FOUR, Bring(96, 192))) == [(0, A), (192, ROPE), (288, A)]
    assert lane(done(FOUR, Bring(0, 192)))[0] == (0, Empty())


def test_a_shot_is_taken_out_in_three_ways() -> None:
    assert lane(done(FOUR, TakeOut(96))) == [(0, A), (192, B), (288, A)]
    assert lane(done(FOUR, TakeOut(96, "after"))) == [(0, A), (96, B), (288, A)]
    assert lane(done(FOUR, TakeOut(96, "up"))) == [(0, A), (96, B), (192, A), (288, Empty())]
    held = edit_of((0, A), (96, ROPE), (192, B, True), (288, BlackSource()))
    assert lane(done(held, TakeOut(96, "up"))) == [(0, A), (96, BlackSource()), (192, B), (288, Empty())]
    for wrong in (TakeOut(0), TakeOut(288, "after")):
        with pytest.raises(Refused):
            done(FOUR, wrong)
    with pytest.raises(Refused, match="frames are missing"):
        done(edit_of((0, A), (500, B), (700, ROPE)), TakeOut(500, "after"))


def test_a_passage_is_cut_as_another_beat_for_beat() -> None:
    # Bars of 48 frames; the lead is one frame. The model: cuts on beat 3, on bar 2, and two frames early of bar 4.
    model = edit_of((0, A), (23, B), (47, ROPE), (142, A), (192, BlackSource()), (383, B))
    made = done(model, CutAs(0.0, 8.0, 16.0, 24.0))
    assert lane(made)[:5] == lane(model)[:5]
    assert [(s, x) for s, x in lane(made) if s >= 383] == [
        (383, A), (384 + 23, B), (384 + 47, ROPE), (384 + 142, A), (575, B),
    ]  # fmt: skip
    turned = done(model, CutAs(0.0, 8.0, 16.0, 24.0, "next"))
    assert [x for s, x in lane(turned) if 383 <= s < 575] == [B, A, ROPE, B]
    with pytest.raises(Refused, match="share"):
        done(model, CutAs(0.0, 8.0, 4.0, 12.0))


def test_cuts_are_pushed_together_and_back() -> None:
    pushed = done(FOUR, Push(90, 200, 7))
    assert lane(pushed) == [(0, A), (103, ClipSource("rope", 3.0 + 7 / 24)), (199, B), (288, A)]
    back = done(pushed, Push(97, 207, -7))
    assert [x for x, _ in lane(back)] == [0, 96, 192, 288]
    assert back.shots[1].source == ClipSource("rope", pytest.approx(3.0))  # type: ignore[arg-type]
    with pytest.raises(Refused, match="meet its neighbour"):
        done(FOUR, Push(90, 200, 96))
    with pytest.raises(Refused, match="no cut in that passage"):
        done(FOUR, Push(300, 400, 2))


def cut_every(frames: int, held: int | None = None) -> Edit:
    return edit_of(*((s, A if s % (2 * frames) else B, s == held) for s in range(0, LENGTH, frames)))


@given(st.integers(1, 5), st.integers(0, 1000))
def test_loosened_cuts_are_off_by_no_more_than_said_and_no_two_alike_and_come_back(
    frames: int, seed: int
) -> None:
    edit = done(cut_every(24), Push(1, LENGTH, -1))
    loose = done(edit, Loosen(1, LENGTH, frames, seed))
    off = [b.start - a.start for a, b in zip(edit.shots[1:], loose.shots[1:], strict=True)]
    assert all(1 <= abs(o) <= frames for o in off)
    if frames > 1:
        assert all(a != b for a, b in pairwise(off))
    assert loose == done(edit, Loosen(1, LENGTH, frames, seed)), "the same seed, the same cuts"
    assert done(loose, Tighten(1, LENGTH)) == edit, "back on the beat, less the lead"


def test_cuts_of_held_shots_are_not_loosened() -> None:
    edit = cut_every(48, held=480)
    loose = done(edit, Loosen(400, 600, 4, 3))
    moved = [a.start for a, b in zip(edit.shots, loose.shots, strict=True) if a.start != b.start]
    assert moved == [432, 576]


def test_slots_lie_on_the_music_and_what_is_held_or_outside_stays() -> None:
    slots = done(FOUR, MakeSlots(192, 432, "bar"))
    assert lane(slots) == [
        (0, A), (96, ROPE), (192, Empty()), (239, Empty()), (287, Empty()), (335, Empty()), (383, Empty()), (431, Empty()),
        (432, A),
    ]  # fmt: skip
    held = edit_of((0, A), (200, B, True), (260, A))
    assert lane(done(held, MakeSlots(144, 300, "2 bars"))) == [
        (0, A), (144, Empty()), (191, Empty()), (200, B), (260, Empty()), (287, Empty()), (300, A),
    ]  # fmt: skip
    assert [s for s, _ in lane(done(FOUR, MakeSlots(0, LENGTH, "mark")))] == [0, 78, 217]
    with pytest.raises(Refused, match="No mark"):
        done(FOUR, MakeSlots(300, 400, "mark"))
    with pytest.raises(BadInput, match="passage is empty"):
        done(FOUR, MakeSlots(300, 300))


def test_slots_are_tapped_on_the_grid_with_the_lead() -> None:
    tapped = done(new_edit(LENGTH), Slot(2.1, "beat", 1), Slot(4.3, "bar", 1))
    assert lane(tapped) == [(0, Empty()), (47, Empty()), (95, Empty())]
    assert lane(done(FOUR, Slot(4.0, lead=0)))[1] == (96, Empty()), "on a cut there is the slot begins there"
    with pytest.raises(Refused, match="held shot"):
        done(edit_of((0, A, True)), Slot(3.0))


def test_slots_are_filled_in_order_and_one_too_long_for_all_stays_empty() -> None:
    context = dataclasses.replace(
        CONTEXT,
        clips={
            "rope": Footage("Rope", 0.0, 3.0),
            "gull": Footage("Gull", 0.0, 1.0),
            "sea": Footage("Sea", 0.0, 90.0),
        },
        selects={7: Footage("Sea 1", 4.0, 6.5, media="sea")},
    )
    edit = edit_of((0, Empty()), (240, Empty()), (264, A), (300, Empty()), (360, Empty(), True))
    filled = apply(edit, Fill(0, LENGTH, (Chosen("rope"), Chosen("gull"), Chosen("sea", 7))), context)
    assert lane(filled) == [
        (0, Empty()), (240, ClipSource("rope", 0.0)), (264, A), (300, ClipSource("sea", 4.0)), (360, Empty()),
    ]  # fmt: skip
    with pytest.raises(Refused, match="long enough"):
        apply(edit, Fill(0, 240, (Chosen("gull"),)), context)
    for clips in ((), (Chosen("gull"),) * 2001):
        with pytest.raises(BadInput, match="1 to 2,000 clips"):
            apply(edit, Fill(0, 240, clips), context)
    with pytest.raises(Refused, match="no empty slot"):
        apply(edit, Fill(250, 300, (Chosen("gull"),)), context)
    assert lane(done(FOUR, Clear(96, 288))) == [(0, A), (96, Empty()), (192, Empty()), (288, A)]


def test_cutaways_are_moved_trimmed_split_lifted_and_dropped() -> None:
    over = edit_of((0, A), (192, B), over=(Item(96, ROPE, 144), Item(200, ClipSource("rope", 1.0), 240)))
    assert over_of(done(over, MoveItem(96, 12)))[0] == Item(108, ROPE, 156)
    assert over_of(done(over, MoveItem(96, 12, "in")))[0] == Item(108, ClipSource("rope", 3.5), 144)
    assert over_of(done(over, MoveItem(96, -24, "in")))[0] == Item(72, ClipSource("rope", 2.0), 144)
    assert over_of(done(over, MoveItem(96, 24, "out")))[0] == Item(96, ROPE, 168)
    for wrong, words in (
        (MoveItem(96, 70), "overlap"), (MoveItem(96, 60, "in"), "at least one frame"), (MoveItem(200, -30, "in"), "before its start"),
        (MoveItem(200, 700, "out"), "frames missing"), (MoveItem(96, -97), "inside the song"), (MoveItem(5, 1), "not there"),
    ):  # fmt: skip
        with pytest.raises(Refused, match=words):
            done(over, wrong)
    assert over_of(done(over, Split(96, 120)))[:2] == (
        Item(96, ROPE, 120), Item(120, ClipSource("rope", 4.0), 144),
    )  # fmt: skip
    lifted = done(FOUR, Lift(96))
    assert (lane(lifted), over_of(lifted)) == ([(0, A), (192, B), (288, A)], (Item(96, ROPE, 192),))
    assert done(lifted, Drop(96)) == FOUR
    with pytest.raises(Refused, match="lies over this shot"):
        done(over, Lift(192))


sources = st.sampled_from([A, B, ROPE, BlackSource(), Empty()])


@st.composite
def edits(draw: st.DrawFn) -> Edit:
    starts = [0, *sorted(draw(st.sets(st.integers(1, LENGTH - 1), max_size=12)))]
    return new_edit(LENGTH, tuple(Item(s, draw(sources), held=draw(st.booleans())) for s in starts))


def frames_of(edit: Edit) -> list[tuple[Source, bool]]:
    """What the base lane shows in each frame, clips by where they are."""
    out: list[tuple[Source, bool]] = []
    for i, shot in enumerate(edit.shots):
        for frame in range(shot.start, edit.end_of(i)):
            source = shot.source
            if isinstance(source, ClipSource):
                source = dataclasses.replace(
                    source, in_s=round(source.in_s + (frame - shot.start) / 24 * source.speed, 6)
                )
            out.append((source, shot.held))
    return out


@settings(max_examples=200)
@given(
    edits(), st.integers(0, LENGTH - 1), st.integers(1, LENGTH), st.lists(st.integers(0, LENGTH), max_size=5)
)
def test_what_is_laid_in_a_range_changes_nothing_outside_and_nothing_held(
    edit: Edit, first: int, length: int, cuts: list[int]
) -> None:
    end = min(LENGTH, first + length)
    shots = [Item(s, AngleSource(77)) for s in sorted({first, *(c for c in cuts if first < c < end)})]
    after = around_held(edit, first, end, shots, RATE)
    before = frames_of(edit)
    for frame, (shown, was) in enumerate(zip(frames_of(after), before, strict=True)):
        if first <= frame < end and not was[1]:
            assert shown == (AngleSource(77), False)
        else:
            assert shown == was


@settings(max_examples=200)
@given(edits(), st.integers(0, LENGTH), st.integers(0, LENGTH), st.integers(-40, 40))
def test_pushing_and_pulling_back_is_nothing_and_other_cuts_stay(
    edit: Edit, first: int, last: int, by: int
) -> None:
    try:
        pushed = done(edit, Push(first, last, by))
    except ZembiError:
        return
    cuts = [s.start for s in edit.shots]
    assert [s.start for s in pushed.shots] == [c + by if c and first <= c <= last else c for c in cuts]
    back = move_cuts(pushed, {c + by: c for c in cuts if c and first <= c <= last}, RATE)
    assert [s.start for s in back.shots] == cuts
    for a, b in zip(back.shots, edit.shots, strict=True):
        if isinstance(b.source, ClipSource):
            assert isinstance(a.source, ClipSource)
            assert a.source.in_s == pytest.approx(b.source.in_s)
        else:
            assert a.source == b.source


automatic = st.sampled_from([
    MakeSlots(100, 800, "bar"), Clear(50, 900), Fill(0, LENGTH, (Chosen("rope"),)), Loosen(0, LENGTH, 5, 2), Tighten(0, LENGTH),
    CutAs(0.0, 10.0, 20.0, 30.0, "next"),
])  # fmt: skip


@settings(max_examples=200)
@given(edits(), automatic)
def test_nothing_automatic_touches_a_held_shot(edit: Edit, operation: Operation) -> None:
    try:
        after = done(edit, operation)
    except ZembiError:
        return
    before = [(f, s) for f, (s, held) in enumerate(frames_of(edit)) if held]
    now = frames_of(after)
    assert all(now[f] == (s, True) for f, s in before)


def test_a_rate_of_its_own_does_not_matter() -> None:
    context = dataclasses.replace(CONTEXT, rate=Fraction(30000, 1001), lead=0)
    slots = apply(new_edit(1190), MakeSlots(0, 1190, "bar"), context)
    assert [s.start for s in slots.shots][:4] == [0, 60, 120, 180]


def test_a_live_switch_is_laid_over_what_was_cut_up_to_its_end() -> None:
    edit = edit_of((0, A), (96, B), (120, A), (144, B, True), (168, A), (400, B))
    over = done(edit, Switch(3.0, 4, lead=0, until_s=12.0))
    assert lane(over) == [(0, A), (144, B), (168, A), (288, A), (400, B)]
    later = done(over, Switch(8.0, 9, lead=0, until_s=12.0))
    assert lane(later) == [(0, A), (144, B), (168, A), (192, B), (288, A), (400, B)]
    with pytest.raises(Refused, match="ends before"):
        done(edit, Switch(13.0, 4, lead=0, until_s=12.0))


def test_a_rough_cut_of_a_passage_has_its_own_pace_and_leaves_the_rest() -> None:
    edit = done(FOUR, RoughCut(192, 576, beats=4, without=("over",)))
    assert [x for x in lane(edit) if x[0] < 192] == lane(FOUR)[:2]
    inside = [s for s, _ in lane(edit) if 192 < s < 383]
    assert inside == [239, 287, 335], "a bar each, less the lead"
    assert frames_of(edit)[576:] == frames_of(FOUR)[576:]
    for wrong in (RoughCut(beats=0), RoughCut(broll=2.0), RoughCut(300, 300)):
        with pytest.raises(BadInput):
            done(FOUR, wrong)


def test_a_share_of_a_rough_cut_is_b_roll_evenly_and_none_twice_in_a_row() -> None:
    context = dataclasses.replace(
        CONTEXT,
        clips={n: Footage(n, 0.0, s, fills=True) for n, s in (("rope", 9.0), ("sea", 5.0), ("gull", 0.5))},
    )
    made = apply(new_edit(LENGTH), RoughCut(beats=4, broll=0.25), context)
    clips = [i for i, s in enumerate(made.shots) if isinstance(s.source, ClipSource)]
    # Of its bars: neighbours that show the same angle are one shot.
    assert sum(made.end_of(i) - made.shots[i].start for i in clips) / LENGTH == pytest.approx(0.25, abs=0.05)
    assert 0 not in clips
    names = [made.shots[i].source.media for i in clips]  # type: ignore[union-attr]
    assert all(a != b for a, b in pairwise(names))
    assert set(names) == {"rope", "sea"}, "half a second is too short for a bar"
    assert made == apply(new_edit(LENGTH), RoughCut(beats=4, broll=0.25), context), "the same cut again"
    plain = apply(new_edit(LENGTH), RoughCut(beats=4, broll=0.0), context)
    assert not any(isinstance(s.source, ClipSource) for s in plain.shots[:5])


def test_a_section_is_rough_cut_with_the_lead_and_leaves_no_sliver() -> None:
    # The second section begins at frame 384; with a lead of one, at 383.
    whole = done(new_edit(LENGTH), RoughCut())
    again = done(whole, RoughCut(383, LENGTH, beats=4))
    assert frames_of(again)[:383] == frames_of(whole)[:383]
    lengths = [b.start - a.start for a, b in pairwise(again.shots)]
    assert min(lengths) >= 12
    first = done(whole, RoughCut(0, 383, beats=8))
    assert frames_of(first)[383:] == frames_of(whole)[383:]
    assert min(b.start - a.start for a, b in pairwise(first.shots)) >= 12
