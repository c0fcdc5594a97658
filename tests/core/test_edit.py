"""Operations on an edit: what they do, what they refuse, and what they leave alone."""

from fractions import Fraction

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.edits import over_of
from tests.spans import span
from zembi.core.edit.checks import check
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.items import frames_missing, remove_item
from zembi.core.edit.lanes import base, new_edit
from zembi.core.edit.lanes.over import lay_over
from zembi.core.edit.model import (
    AngleSource,
    BlackSource,
    ClipSource,
    Edit,
    Empty,
    Item,
    checked,
    source_from_dict,
    source_to_dict,
)
from zembi.core.errors import BadInput, Refused, ZembiError
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import Span

RATE = Fraction(24)
LENGTH = 480
sources = st.one_of(
    st.builds(AngleSource, st.integers(1, 4)),
    st.builds(ClipSource, st.sampled_from(["a", "b"]), st.floats(0, 20), st.sampled_from([0.5, 1.0, 2.0])),
    st.just(BlackSource()),
)


def seen(edit: Edit, angles: dict[int, list[Span]]) -> list[Span]:
    return on_screen(compiled(edit, Material(angles, {}, RATE)), RATE)


@st.composite
def edits(draw: st.DrawFn) -> Edit:
    starts = sorted(draw(st.sets(st.integers(1, LENGTH - 1), max_size=12)))
    shots = tuple(Item(s, draw(sources), held=draw(st.booleans())) for s in [0, *starts])
    edges = sorted(draw(st.sets(st.integers(0, LENGTH), max_size=6)))
    cutaways = tuple(Item(a, ClipSource("a", 1.0), b) for a, b in zip(edges[::2], edges[1::2], strict=False))
    return new_edit(LENGTH, shots, cutaways)


@st.composite
def operations(draw: st.DrawFn) -> tuple[str, tuple[int, ...]]:
    kind = draw(st.sampled_from(["cut", "join", "move", "switch", "set", "hold", "over", "off"]))
    return kind, (
        draw(st.integers(-5, LENGTH + 5)),
        draw(st.integers(-5, LENGTH + 5)),
        draw(st.integers(1, 4)),
    )


def _off(edit: Edit, index: int) -> Edit:
    if index >= len(over_of(edit)):
        raise Refused("There is none.")
    return remove_item(edit, edit.lanes[1], index)


def apply(edit: Edit, operation: tuple[str, tuple[int, ...]]) -> Edit:
    kind, (a, b, n) = operation
    index = a % len(edit.shots)
    clip = ClipSource("a", 0.0)
    return {
        "cut": lambda: base.cut(edit, a, RATE),
        "join": lambda: base.join(edit, index),
        "move": lambda: base.move_cut(edit, index, b, RATE),
        "switch": lambda: base.switch(edit, a, n, RATE),
        "set": lambda: base.set_source(edit, index, AngleSource(n)),
        "hold": lambda: base.hold(edit, index, bool(n % 2)),
        "over": lambda: lay_over(edit, edit.lanes[1], a, b, clip, 30.0, "a", RATE),
        "off": lambda: _off(edit, n - 1),
    }[kind]()


@settings(max_examples=300)
@given(edits(), operations())
def test_no_operation_ever_breaks_a_rule_or_moves_another_cut(
    edit: Edit, operation: tuple[str, tuple[int, ...]]
) -> None:
    try:
        after = apply(edit, operation)
    except Refused:
        return
    assert checked(after) is after
    assert after.length == edit.length
    before_cuts, after_cuts = {s.start for s in edit.shots}, {s.start for s in after.shots}
    # One operation touches one place: it adds, takes away or moves a single cut.
    assert len(before_cuts - after_cuts) <= 1
    assert len(after_cuts - before_cuts) <= 1


@settings(max_examples=200)
@given(edits(), st.integers(1, LENGTH - 1))
def test_cutting_changes_no_picture_and_joining_takes_it_back(edit: Edit, frame: int) -> None:
    assume(all(s.start != frame for s in edit.shots))
    spans = {n: [span(0, LENGTH, f"take{n}", 3.0, 1.0)] for n in range(1, 5)}
    after = base.cut(edit, frame, RATE)

    def shown(e: Edit) -> list[tuple[str | None, float]]:
        out: list[tuple[str | None, float]] = []
        for s in seen(e, spans):
            out += [(s.media, at) for at in (s.time.times(RATE) if s.media else [0.0] * s.frames)]
        return out

    for (media, at), (media_before, at_before) in zip(shown(after), shown(edit), strict=True):
        assert media == media_before
        assert abs(at - at_before) < 1e-9
    assert base.join(after, after.index_at(frame)) == edit


def test_switching_live_keeps_the_cuts_that_follow() -> None:
    edit = base.switch(base.switch(new_edit(LENGTH), 100, 1, RATE), 200, 2, RATE)
    edit = base.switch(edit, 150, 3, RATE)
    assert [(s.start, s.source) for s in edit.shots] == [
        (0, Empty()), (100, AngleSource(1)), (150, AngleSource(3)), (200, AngleSource(2)),
    ]  # fmt: skip
    with pytest.raises(Refused, match="on already"):
        base.switch(edit, 160, 3, RATE)


def test_a_clip_too_short_is_refused_with_the_frames_missing() -> None:
    edit = base.cut(new_edit(LENGTH), 100, RATE)
    with pytest.raises(Refused, match=r"“Rope” is too short for this place: 4 frames missing"):
        base.lay_into_shot(edit, 0, ClipSource("r", 1.0), 5.0, "Rope", RATE)
    with pytest.raises(Refused, match="1 frame missing"):
        lay_over(edit, edit.lanes[1], 10, 107, ClipSource("r", 1.0), 5.0, "Rope", RATE)
    laid = lay_over(edit, edit.lanes[1], 10, 106, ClipSource("r", 1.0), 5.0, "Rope", RATE)
    assert over_of(laid) == (Item(10, ClipSource("r", 1.0), 106),)


@given(st.integers(1, 200), st.floats(0.0, 3.0), st.sampled_from([0.5, 1.0, 1.25, 2.0]))
def test_frames_missing_is_exactly_what_lies_beyond_the_clip(frames: int, in_s: float, speed: float) -> None:
    end = 4.0
    beyond = sum(in_s + speed * (n + 0.5) / 24 >= end + 1e-6 for n in range(frames))
    assert frames_missing(ClipSource("m", in_s, speed), frames, end, RATE) == beyond


def test_a_cutaway_pushes_others_aside_and_keeps_their_picture() -> None:
    edit = new_edit(LENGTH, new_edit(LENGTH).shots, (Item(10, ClipSource("b", 2.0), 110),))
    after = lay_over(edit, edit.lanes[1], 50, 70, ClipSource("a", 0.0), 9.0, "a", RATE)
    assert [(c.start, c.end) for c in over_of(after)] == [(10, 50), (50, 70), (70, 110)]
    assert over_of(after)[2].source == ClipSource("b", 2.0 + 60 / 24)


def test_moving_a_cut_keeps_a_clips_picture_in_place() -> None:
    edit = base.set_source(base.cut(new_edit(LENGTH), 100, RATE), 1, ClipSource("a", 2.0))
    assert base.move_cut(edit, 1, 112, RATE).shots[1].source == ClipSource("a", 2.5)
    with pytest.raises(Refused, match="12 frames are missing"):
        base.move_cut(edit, 1, 40, RATE)


@given(sources)
def test_sources_survive_storage(source: AngleSource | ClipSource | BlackSource) -> None:
    assert source_from_dict(source_to_dict(source)) == source


@pytest.mark.parametrize(
    "data", [{}, {"kind": "angle"}, {"kind": "hologram"}, {"kind": "clip", "media": "a", "in_s": "x"}]
)
def test_damaged_sources_are_named(data: dict[str, str]) -> None:
    with pytest.raises(BadInput, match="source"):
        source_from_dict(data)


def whole(*numbers: int) -> dict[int, list[Span]]:
    return {n: [span(0, LENGTH, f"take{n}")] for n in numbers}


def test_checks_find_what_an_editor_would_be_sorry_for() -> None:
    shots = (
        Item(0, AngleSource(1)),
        Item(100, ClipSource("clip", 3.0)),
        Item(200, AngleSource(2)),
        Item(202, AngleSource(1)),
    )
    edit = new_edit(LENGTH, shots)
    angles = {1: [span(0, LENGTH, "take", 0.0)], 2: [span(0, 150, "other")]}
    found = check(
        compiled(edit, Material(angles, {2: "angle 3, Deck,"}, RATE)),
        {"take": 60.0, "clip": 4.0, "other": 9.0},
        {"take": "GAL is offline."},
        {"clip": "Rope", "take": "GAL"},
        RATE,
    )
    kinds = [(f.kind, f.start) for f in found]
    assert ("hole", 200) in kinds
    assert ("too short", 200) in kinds
    assert ("offline", 0) in kinds
    hole = next(f for f in found if f.kind == "hole")
    assert hole.text == "No picture for 2 frames: angle 3, Deck, has no take here."
    short = next(f for f in found if f.kind == "source runs out")
    assert (short.start, short.text) == (100, "Rope has no picture for 76 of 100 frames.")


def test_every_refusal_has_its_own_stable_code() -> None:
    def below(kind: type[ZembiError]) -> list[type[ZembiError]]:
        return [kind, *(k for child in kind.__subclasses__() for k in below(child))]

    codes = [k.code for k in below(ZembiError)]
    assert len(codes) == len(set(codes))
