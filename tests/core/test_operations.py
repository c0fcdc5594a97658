"""Operations as data: what each does with the song, what all leave alone, and what they refuse."""

import dataclasses
from fractions import Fraction
from typing import Any, get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.edits import apply, over_of
from tests.spans import span
from tests.treating import treatments
from zembi.core.edit.carry import bring_cuts, fitted, through_cutdown
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.model import (
    AngleSource,
    Beneath,
    BlackSource,
    ClipSource,
    Edit,
    Empty,
    Item,
    Lane,
    checked,
)
from zembi.core.edit.operations import (
    Accept,
    AddLane,
    Assemble,
    Bring,
    ChangeLane,
    Chosen,
    Clear,
    Context,
    Cut,
    CutAs,
    Drop,
    Fill,
    FillByRules,
    FollowLine,
    GradeItems,
    Hold,
    Join,
    Lay,
    LayAt,
    LayCard,
    LayCues,
    LayLyrics,
    LayOver,
    Lift,
    Loosen,
    MakeSlots,
    Move,
    MoveItem,
    Operation,
    OrderLane,
    Push,
    RemoveLane,
    RoughCut,
    SetAngle,
    SetBlack,
    SetCard,
    Slip,
    Slot,
    Split,
    Surround,
    Swap,
    Switch,
    TakeOff,
    TakeOut,
    Tighten,
    Treat,
    TreatRange,
    arguments,
)
from zembi.core.edit.operations.context import AngleCoverage, Footage, SectionContext, SungLine
from zembi.core.edit.operations.titles import TimedWords
from zembi.core.errors import BadInput, Refused, ZembiError
from zembi.core.song.corrections import Corrections, build_grid
from zembi.core.song.cutdown import SongMap
from zembi.core.song.heard import Heard
from zembi.core.titles.card import Card, CardLine
from zembi.core.treatments.model import Mirror
from zembi.core.treatments.music import Length

RATE = Fraction(24)
LENGTH = 960
#: Half a second a beat: twelve frames; two seconds a bar.
GRID = build_grid([i * 0.5 for i in range(81)], [i * 2.0 for i in range(21)], 4, 40.0, Corrections())
CONTEXT = Context(
    rate=RATE,
    grid=GRID,
    phrases=(0.0, 8.0, 16.0, 24.0, 32.0),
    marks=(3.3, 9.1),
    sections=(SectionContext(0.0, -14.0), SectionContext(16.0, -9.0)),
    lead=1,
    angles={4: AngleCoverage(1, [span(0, 500, "wide")]), 9: AngleCoverage(2, [span(0, LENGTH, "close")])},
    clips={"rope": Footage("Rope", 1.0, 9.0, fills=True), "late": Footage("Late", 0.0, 9.0, ready=False)},
    lyrics=lambda: (SungLine(1, "lamp room", 4.0, 6.0), SungLine(2, "burn the fog away", 8.0, 9.0)),
)
CARD = Card((CardLine("Lamp Room"),))


def starts(edit: Edit) -> list[int]:
    return [s.start for s in edit.shots]


def done(*operations: Operation, edit: Edit | None = None) -> Edit:
    edit = edit or new_edit(LENGTH)
    for operation in operations:
        edit = apply(edit, operation, CONTEXT)
    return edit


@pytest.mark.parametrize(("unit", "working_s", "lead", "frame"), [
    ("beat", 2.3, 0, 60), ("beat", 2.2, 0, 48), ("half", 2.3, 0, 54), ("bar", 2.9, 0, 48), ("phrase", 13.0, 0, 384),
    ("mark", 4.0, 0, 79), ("free", 2.3, 5, 55), ("beat", 2.3, 2, 58), ("bar", 2.9, 12, 36), ("beat", 999.0, 0, LENGTH - 1),
])  # fmt: skip
def test_a_cut_falls_on_what_is_chosen_less_the_lead(
    unit: Any, working_s: float, lead: int, frame: int
) -> None:
    assert starts(done(Cut(working_s, unit, lead))) == [0, frame]


def test_a_switch_shows_its_angle_until_the_next_cut() -> None:
    edit = done(Cut(8.0, lead=0), Switch(4.0, 9, lead=0), Switch(2.0, 4, lead=0))
    assert [(s.start, s.source) for s in edit.shots] == [
        (0, Empty()), (48, AngleSource(4)), (96, AngleSource(9)), (192, Empty()),
    ]  # fmt: skip
    assert Switch(4.0, 9, lead=0).named(CONTEXT) == "Switch to angle 2"


def test_a_cut_moves_by_beats_and_keeps_its_distance_from_the_beat() -> None:
    edit = done(Cut(4.0, lead=2), Move(94, beats=3))
    assert starts(edit) == [0, 94 + 36]
    assert starts(done(Move(130, to=131), edit=edit)) == [0, 131]


def test_a_cutaway_lasts_a_bar_or_as_long_as_its_clip_reaches_on_whole_beats() -> None:
    (cutaway,) = over_of(done(LayOver(4.2, "rope", lead=0)))
    assert (cutaway.start, cutaway.end, cutaway.source) == (96, 144, ClipSource("rope", 1.0))
    short = dataclasses.replace(CONTEXT, clips={"rope": Footage("Rope", 1.0, 2.2)})
    (cutaway,) = over_of(apply(new_edit(LENGTH), LayOver(4.2, "rope", lead=0), short))
    assert (cutaway.start, cutaway.end) == (96, 120)
    (cutaway,) = over_of(done(LayOver(4.2, "rope", lead=3)))
    assert (cutaway.start, cutaway.end) == (93, 141)
    (cutaway,) = over_of(done(LayOver(4.0, "rope", lead=0, end_s=6.4)))
    assert (cutaway.start, cutaway.end) == (96, 156)


def test_the_rough_cut_has_shorter_shots_where_the_song_is_loudest() -> None:
    edit = done(RoughCut())
    quiet = [b - a for a, b in zip(starts(edit), starts(edit)[1:], strict=False) if b < 384]
    loud = [b - a for a, b in zip(starts(edit), starts(edit)[1:], strict=False) if a >= 384 and b < 480]
    assert set(quiet[1:]) == {96}
    assert set(loud) <= {47, 48, 49}


REFUSALS: list[tuple[Operation, type[ZembiError], str]] = [
    (Cut(float("nan")), BadInput, "no place in a song"), (Cut(1e12), BadInput, "no place in a song"),
    (Cut(2.0, "beat", 13), BadInput, "outside 0 to 12"), (Cut(0.0, lead=0), Refused, "a cut here already"),
    (Switch(2.0, 77), BadInput, "no such angle"), (SetAngle(0, 77), BadInput, "no such angle"),
    (Join(5), Refused, "not there any more"), (Join(0), Refused, "no cut before it"), (Move(0, beats=65), BadInput, "at most 64"),
    (Hold(1), Refused, "not there"), (SetBlack(3), Refused, "not there"), (TakeOff(3), Refused, "not there"),
    (Lay(0, "song"), BadInput, "no picture to lay"), (Lay(0, "late"), Refused, "not ready yet"),
    (Lay(0, "rope", 0.01), BadInput, "outside 0.05 to 20"), (Lay(0, "rope"), Refused, "768 frames missing"),
    (LayOver(4.0, "rope", lead=0, end_s=4.0), Refused, "at least one frame"),
]  # fmt: skip


@pytest.mark.parametrize(("operation", "kind", "words"), REFUSALS, ids=lambda v: str(v)[:40])
def test_what_cannot_be_done_is_refused_in_words(
    operation: Operation, kind: type[ZembiError], words: str
) -> None:
    with pytest.raises(kind, match=words):
        done(operation)


#: A song with marks, lines of lyrics and hits, two of the low ones weak.
WITH_MARKS = dataclasses.replace(
    CONTEXT,
    lead=0,
    phrases=(0.0, 16.0, 32.0),
    marks=(3.1, 7.4, 20.02),
    heard=lambda: Heard(
        (),
        (),
        (),
        {"low": [(1.0, 0.9), (2.0, 0.3), (3.0, 0.5), (4.1, 0.49)], "mid": [(5.25, 0.8)]},
        (4.4, 10.5),
    ),
)


@pytest.mark.parametrize(
    ("unit", "falls"),
    [
        ("free", []),
        ("bar", list(range(0, LENGTH + 1, 48))),
        ("phrase", [0, 384, 768]),
        ("mark", [74, 178, 480]),
        ("line", [106, 252]),
        ("low", [24, 72]),
        ("mid", [126]),
        ("high", []),
    ],
)
def test_cuts_fall_on_points_of_the_unit_and_no_others(unit: Any, falls: list[int]) -> None:
    assert [f for f in WITH_MARKS.falls(unit) if f <= LENGTH] == falls, "the grid goes on beyond the song"
    for point in [f for f in falls if 0 < f < LENGTH]:
        cut = apply(new_edit(LENGTH), Cut((point + 0.4) / 24, unit, 0), WITH_MARKS)
        assert starts(cut) == sorted({0, point})


def test_a_lead_is_told_with_where_cuts_fall() -> None:
    assert dataclasses.replace(WITH_MARKS, lead=2).falls("mark") == [72, 176, 478]


@pytest.mark.parametrize(
    ("unit", "at", "ends"),
    [("mark", 3.0, 178), ("line", 4.5, 252), ("phrase", 1.0, 192), ("mark", 20.0, 528), ("beat", 3.0, 120)],
)
def test_a_cutaway_lasts_until_the_next_place_or_a_bar(unit: Any, at: float, ends: int) -> None:
    (cutaway,) = over_of(apply(new_edit(LENGTH), LayOver(at, "rope", unit, 0), WITH_MARKS))
    assert cutaway.end == ends


def test_a_clip_too_short_for_the_next_mark_lasts_whole_beats() -> None:
    rope = dataclasses.replace(CONTEXT.clips["rope"], out_s=CONTEXT.clips["rope"].in_s + 1.3)
    short = dataclasses.replace(WITH_MARKS, clips={**CONTEXT.clips, "rope": rope})
    (cutaway,) = over_of(apply(new_edit(LENGTH), LayOver(3.0, "rope", "mark", 0), short))
    assert (cutaway.start, cutaway.end) == (74, 98), "two beats from the mark"


@pytest.mark.parametrize(
    ("unit", "words"),
    [("high", "none is heard"), ("line", "none has a time"), ("mark", "no marks are shown")],
)
def test_where_there_is_nothing_to_fall_on_it_is_said(unit: Any, words: str) -> None:
    bare = dataclasses.replace(WITH_MARKS, marks=(), heard=lambda: Heard())
    with pytest.raises(Refused, match=words):
        apply(new_edit(LENGTH), Cut(4.0, unit), bare)


def test_without_a_grid_only_what_needs_none_is_done() -> None:
    deaf = Context(RATE)
    assert starts(apply(new_edit(LENGTH), Cut(2.0, "free"), deaf)) == [0, 48]
    with pytest.raises(Refused, match="listening"):
        apply(new_edit(LENGTH), Cut(2.0, lead=0), deaf)
    with pytest.raises(Refused, match="no marks are shown"):
        apply(new_edit(LENGTH), Cut(2.0, "mark"), deaf)
    with pytest.raises(Refused, match="nothing to cut with"):
        apply(new_edit(LENGTH), RoughCut(), Context(RATE, GRID))


@dataclasses.dataclass(frozen=True)
class MarkedItem(Item):
    """An item with something that no operation knows."""

    unknown: str = ""


@dataclasses.dataclass(frozen=True)
class MarkedLane(Lane):
    """A lane with something that no operation knows."""

    unknown: str = ""


@dataclasses.dataclass(frozen=True)
class MarkedEdit(Edit):
    """An edit with something that no operation knows."""

    unknown: str = ""


def marked() -> Edit:
    shots = (
        MarkedItem(0, AngleSource(4), unknown="kept"), MarkedItem(192, ClipSource("rope", 3.0), held=True, unknown="kept"),
        MarkedItem(300, AngleSource(9), unknown="kept"),
    )  # fmt: skip
    over = (MarkedItem(96, ClipSource("rope", 1.0), 192, unknown="kept"),)
    ranges = (MarkedItem(48, Beneath(), 240, treatments=(Mirror(),), unknown="kept"),)
    plain = new_edit(LENGTH, shots, over, ranges)
    second = Lane(OVER, (MarkedItem(120, ClipSource("rope", 2.0), 150, unknown="kept"),), "More")
    lanes = (
        MarkedLane(lane.kind, lane.items, lane.name, lane.on, lane.locked, lane.id, unknown="kept")
        for lane in (*plain.lanes, second)
    )
    return checked(MarkedEdit(LENGTH, tuple(lanes), plain.fresh, unknown="kept"))


@st.composite
def operations(draw: st.DrawFn) -> Operation:
    at, unit = (
        draw(st.floats(0, 40)),
        draw(st.sampled_from(["free", "half", "beat", "bar", "phrase", "mark"])),
    )
    start, frame = draw(st.sampled_from([0, 96, 192, 300])), draw(st.integers(0, LENGTH))
    angle, lead = draw(st.sampled_from([4, 9])), draw(st.integers(0, 12))
    made: list[Operation] = [
        Cut(at, unit, lead), Switch(at, angle, unit, lead), Join(start), Move(start, frame), Move(start, beats=draw(st.integers(-8, 8))),
        SetAngle(start, angle), SetBlack(start), Hold(start, draw(st.booleans())), Lay(start, "rope"),
        LayOver(at, "rope", unit, lead), TakeOff(start),
        LayAt(at, "rope", draw(st.sampled_from(["into", "next", "own", "over", "end", "front"])), unit),
        Slip(start, draw(st.integers(-60, 60)), draw(st.booleans())), Swap(start, 192), Bring(start, 300),
        TakeOut(start, draw(st.sampled_from(["before", "after", "up"]))), CutAs(0.0, 8.0, 16.0, 24.0, "next"),
        Push(start, frame, draw(st.integers(-30, 30))), Loosen(start, frame, draw(st.integers(1, 9)), draw(st.integers(0, 9))),
        Tighten(start, frame), MoveItem(96, draw(st.integers(-90, 90)), draw(st.sampled_from(["all", "in", "out"]))),
        Split(96, frame), Lift(start), Drop(96), Clear(start, frame), Fill(start, frame, (Chosen("rope"),)),
        Slot(at, unit, lead),
        RoughCut(start, frame, draw(st.integers(0, 9))), Assemble(unit),
        FillByRules(start, frame, seed=draw(st.integers(0, 9))),
        Treat((start,), draw(st.lists(treatments, max_size=3).map(tuple))),
        GradeItems((start,), {"exposure": draw(st.sampled_from([0.0, 0.5]))}),
        TreatRange(start, frame, draw(st.lists(treatments, max_size=3).map(tuple))),
        LayCard(CARD, at, unit, lead), SetCard((start,), CARD), LayLyrics(start, frame), LayCues((TimedWords(at, at + 1, "words"),)), FollowLine((start,)),
        Surround(Length(draw(st.integers(0, 8)), "bars"), Length(draw(st.integers(0, 90)), "frames")),
        AddLane("over"), ChangeLane(2, locked=True), OrderLane(2, 1), RemoveLane(2), Accept((start,), "jump", draw(st.sampled_from([None, "", "meant"]))),
        MakeSlots(start, frame, draw(st.sampled_from(["beat", "2 beats", "bar", "2 bars", "phrase", "mark", "second", "hit", "line"]))),
    ]  # fmt: skip
    assert {type(o) for o in made} == set(get_args(Operation)), "a new operation belongs in this list"
    return draw(st.sampled_from(made))


@settings(max_examples=400, deadline=None)
@given(operations())
def test_every_operation_keeps_what_it_does_not_know(operation: Operation) -> None:
    before = marked()
    try:
        after = apply(before, operation, CONTEXT)
    except (Refused, BadInput):
        return
    assert getattr(after, "unknown", None) == "kept"
    made = 1 if isinstance(operation, AddLane | LayCard | LayLyrics | LayCues) else 0
    assert [getattr(lane, "unknown", None) for lane in after.lanes].count(None) == made
    assert {i.start for i in before.shots} & {i.start for i in after.shots}
    known = {i.id for lane in before.lanes for i in lane.items}
    laid = isinstance(
        operation, LayAt | LayOver | LayCard | LayLyrics | LayCues | RoughCut | MakeSlots | CutAs | TreatRange
    )
    for item in (i for lane in after.lanes for i in lane.items):
        # What is laid anew is new; what was there, and every part of it, keeps what it carries.
        kept = getattr(item, "unknown", None) == "kept"
        assert kept or (item.id not in known and laid) or isinstance(operation, Drop)
    ids = [lane.id for lane in after.lanes] + [i.id for lane in after.lanes for i in lane.items]
    assert len(set(ids)) == len(ids)
    assert after.fresh > max(ids)
    assert {i for i in ids if i not in known and i >= before.fresh} == set(
        range(before.fresh, after.fresh)
    ) & set(ids)


def test_the_cutdown_the_moved_grid_and_another_song_keep_what_they_do_not_know() -> None:
    edit = marked()
    whole, part = SongMap(((0.0, 40.0),)), SongMap(((0.0, 6.0), (10.0, 40.0)))
    for after in (
        through_cutdown(edit, whole, part, GRID, RATE),
        through_cutdown(through_cutdown(edit, whole, part, GRID, RATE), part, whole, GRID, RATE),
        bring_cuts(edit, [(192, 200)], RATE),
        fitted(edit, 400),
    ):
        assert getattr(after, "unknown", None) == "kept"
        assert {getattr(s, "unknown", None) for lane in after.lanes for s in (lane, *lane.items)} == {"kept"}


def test_an_operation_tells_the_journal_what_it_was() -> None:
    assert arguments(Move(5, beats=2)) == {"item": 5, "to": None, "beats": 2}
    assert arguments(Cut(2.0, "bar")) == {"working_s": 2.0, "unit": "bar", "lead": None}
    assert arguments(Fill(0, 9, (Chosen("rope", 2),)))["clips"] == ({"media": "rope", "select": 2},)


@pytest.mark.parametrize(("by", "first_s"), [("head", 1.0), ("tail", 5.0), ("middle", 3.0)])
def test_a_clip_is_laid_from_its_head_its_tail_or_its_middle(by: Any, first_s: float) -> None:
    edit = done(Cut(8.0, lead=0), Cut(12.0, lead=0))
    (shot,) = (s for s in done(Lay(192, "rope", by=by), edit=edit).shots if s.start == 192)
    assert shot.source == ClipSource("rope", first_s)
    with pytest.raises(Refused, match=r"96 frames missing.*a place of 192 frames"):
        apply(done(Cut(8.0, lead=0), Cut(20.0, lead=0)), Lay(192, "rope", by=by), CONTEXT)


@pytest.mark.parametrize("speed", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("at", [192, 200, 240, 287])
def test_a_marked_moment_is_on_display_in_the_chosen_frame(at: int, speed: float) -> None:
    knows = dataclasses.replace(CONTEXT, clips={"rope": Footage("Rope", 0.0, 60.0, moment_s=20.0)})
    after = apply(
        done(Cut(8.0, lead=0), Cut(12.0, lead=0)), Lay(192, "rope", speed, by="moment", at=at), knows
    )
    (shot,) = (s for s in after.shots if s.start == 192)
    assert isinstance(shot.source, ClipSource)
    assert shot.source.in_s + speed * (at - 192) / 24 == pytest.approx(20.0, abs=1e-9)
    assert after.end_of(after.index_at(192)) == 288, "its length is kept"


def test_a_moment_that_cannot_lie_there_is_said_with_what_would_help() -> None:
    edit = done(Cut(8.0, lead=0), Cut(12.0, lead=0))
    with pytest.raises(Refused, match="No moment is marked"):
        apply(edit, Lay(192, "rope", by="moment", at=200), CONTEXT)
    knows = dataclasses.replace(CONTEXT, clips={"rope": Footage("Rope", 1.0, 60.0, moment_s=2.0)})
    with pytest.raises(BadInput, match="frame of the shot"):
        apply(edit, Lay(192, "rope", by="moment", at=300), knows)
    with pytest.raises(Refused, match=r"24 frames missing. At 0.50 times it reaches"):
        apply(edit, Lay(192, "rope", by="moment", at=240), knows)
    slower = apply(edit, Lay(192, "rope", 0.5, by="moment", at=240), knows)
    assert slower.shots[1].source == ClipSource("rope", 1.0, 0.5)


def test_a_section_may_have_a_lead_of_its_own() -> None:
    led = dataclasses.replace(CONTEXT, sections=(SectionContext(0.0), SectionContext(16.0, lead=4)), lead=1)
    assert (led.cuts.lead_at(15.9), led.cuts.lead_at(16.0), led.cuts.lead_at(30)) == (1, 4, 4)
    made = apply(new_edit(LENGTH), MakeSlots(0, LENGTH, "phrase"), led)
    assert starts(made) == [0, 8 * 24 - 1, 16 * 24 - 4, 24 * 24 - 4, 32 * 24 - 4]
    off = apply(
        new_edit(LENGTH, (Item(0, BlackSource()), Item(193, BlackSource()), Item(381, BlackSource()))),
        Tighten(1, 500),
        led,
    )
    assert starts(off) == [0, 191, 380]
    # Whatever is asked for falls where its point lies: just before the section by the section's own lead.
    for press in (15.9, 16.0, 16.1):
        assert starts(apply(new_edit(LENGTH), Cut(press), led)) == [0, 380]
        assert starts(apply(new_edit(LENGTH), Slot(press), led)) == [0, 380]
        assert over_of(apply(new_edit(LENGTH), LayOver(press, "rope"), led))[0].start == 380
    assert starts(apply(new_edit(LENGTH), Cut(15.5), led)) == [0, 371]
    over = apply(new_edit(LENGTH), Switch(8.0, 4, until_s=16.0), led)
    assert starts(over) == [0, 191, 380], "and so does the end of what is switched over a section"


@given(
    st.integers(0, 12),
    st.integers(0, 12),
    st.floats(0, 39),
    st.sampled_from(["half", "beat", "bar", "phrase"]),
)
def test_everything_that_falls_on_the_grid_falls_on_the_same_frame(
    lead: int, own: int, at: float, unit: Any
) -> None:
    """Cut, slot, cutaway, tightening, slots made by themselves and the frames of sections agree, also at the song's start."""
    led = dataclasses.replace(
        CONTEXT, sections=(SectionContext(0.0), SectionContext(16.0, lead=own)), lead=lead
    )
    frame = led.frame(new_edit(LENGTH), at, unit, None)
    point = led.point(at, unit)
    assert frame == min(LENGTH - 1, max(0, round(point * 24) - (own if point >= 16 else lead)))
    if not 0 < frame < LENGTH - 1:
        return
    assert starts(apply(new_edit(LENGTH), Cut(at, unit), led)) == [0, frame]
    assert starts(apply(new_edit(LENGTH), Slot(at, unit), led)) == [0, frame]
    if unit in ("beat", "bar"):
        assert frame in starts(apply(new_edit(LENGTH), MakeSlots(0, LENGTH, unit), led))
        loose = new_edit(LENGTH, (Item(0, BlackSource()), Item(frame, BlackSource())))
        assert starts(apply(loose, Tighten(1, LENGTH), led)) == [0, frame], "what lies there stays"
    first, end = led.cuts.section_frames(LENGTH)[0]
    assert (first, end) == (0, led.frame(new_edit(LENGTH), 16.0, "beat", None))


SNARES = tuple((float(k), 0.8) for k in range(1, 6))
HEARD = Heard(
    bands={"low": ((2.0, 0.9), (2.1, 0.95), (4.0, 0.4), (7.0, 0.6)), "high": ((5.0, 1.0),), "snare": SNARES},
    lines=(6.5, 30.0),
)


@pytest.mark.parametrize(
    ("slots", "there"),
    [
        (MakeSlots(0, LENGTH, "hit"), [0, 47, 167]),
        (MakeSlots(0, LENGTH, "hit", strength=0.3), [0, 47, 95, 167]),
        (MakeSlots(0, LENGTH, "hit", "high", 1.0), [0, 119]),
        (MakeSlots(0, LENGTH, "hit", "snare", nth=2), [0, 23, 71, 119]),
        (MakeSlots(36, LENGTH, "hit", "snare", nth=2), [0, 36, 47, 95]),
        (MakeSlots(0, LENGTH, "line"), [0, 155, 719]),
        (MakeSlots(160, LENGTH, "line"), [0, 160, 719]),
    ],
)
def test_slots_are_made_on_hits_of_a_band_and_on_lines(slots: MakeSlots, there: list[int]) -> None:
    hears = dataclasses.replace(CONTEXT, heard=lambda: HEARD)
    assert starts(apply(new_edit(LENGTH), slots, hears)) == there, "a hit right after another makes no slot"


def test_slots_on_nothing_are_said_so() -> None:
    hears = dataclasses.replace(CONTEXT, heard=lambda: HEARD)
    for slots, words in (
        (MakeSlots(0, LENGTH, "hit", "mid"), "another kind of hits"), (MakeSlots(0, 100, "line"), "No line"),
    ):  # fmt: skip
        with pytest.raises(Refused, match=words):
            apply(new_edit(LENGTH), slots, hears)
    with pytest.raises(BadInput, match="0 to 1"):
        apply(new_edit(LENGTH), MakeSlots(0, LENGTH, "hit", strength=2), hears)
    with pytest.raises(BadInput, match="every second"):
        apply(new_edit(LENGTH), MakeSlots(0, LENGTH, "hit", nth=0), hears)
