"""The shot list laid as a first cut: in its order, in its sections, on the music."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_operations import CONTEXT, LENGTH
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty
from zembi.core.edit.operations import Assemble, Hold, Switch, apply
from zembi.core.edit.operations.context import Context, Footage, Line, SectionContext
from zembi.core.errors import Refused

MATERIAL = replace(
    CONTEXT,
    lead=0,
    sections=(SectionContext(0.0, name="Verse"), SectionContext(16.0, name="Chorus")),
    clips={
        "rope": Footage("Rope", 1.0, 4.3, media="rope", seconds=9.0),
        "spark": Footage("Spark", 0.0, 0.2, media="spark", seconds=0.2),
        "chart": Footage("Chart", 0.0, 10_000.0, media="chart", seconds=10_000.0, still=True),
    },
)


def assembled(*lines: Line, unit: str = "beat", edit: Edit | None = None) -> Edit:
    context = replace(MATERIAL, listed=lambda: lines)
    return apply(edit or new_edit(LENGTH), Assemble(unit), context)  # type: ignore[arg-type]


def laid(edit: Edit) -> list[tuple[int, int, object]]:
    return [(s.start, edit.end_of(i), s.source) for i, s in enumerate(edit.shots)]


def test_lines_are_laid_in_their_sections_each_in_its_own_length() -> None:
    edit = assembled(
        Line("Chorus", "a rope", media="rope"),
        Line("Verse", "her close", angle=9),
        Line("Verse", "a hand on the rail"),
        Line("Chorus", "a chart", media="chart"),
    )
    assert laid(edit) == [
        (0, 48, AngleSource(9)),
        (48, 96, Empty("a hand on the rail")),
        (96, 384, Empty()),
        # 3.3 seconds reach for six beats of half a second, and not for seven.
        (384, 456, ClipSource("rope", 1.0)),
        (456, 504, ClipSource("chart", 0.0)),
        (504, LENGTH, Empty()),
    ]


def test_places_are_those_of_the_unit() -> None:
    rope, hand = Line("Chorus", "a rope", media="rope"), Line("Chorus", "a hand")
    assert laid(assembled(rope, hand, unit="bar"))[1:3] == [
        (384, 432, ClipSource("rope", 1.0)),
        (432, 480, Empty("a hand")),
    ]


def test_what_cannot_be_shown_is_a_slot_that_says_what_was_planned() -> None:
    assert laid(assembled(Line("Verse", "sparks", media="spark")))[0] == (0, 12, Empty("sparks"))


def test_a_section_too_short_is_shared_and_lines_without_one_begin_the_song() -> None:
    many = [Line("Chorus", f"rope {n}", media="rope") for n in range(40)]
    edit = assembled(*many, Line("", "the sea", angle=4), unit="bar")
    shots = [(a, b) for a, b, s in laid(edit) if isinstance(s, ClipSource)]
    assert shots == [(384 + 48 * n, 432 + 48 * n) for n in range(12)]
    assert laid(edit)[0] == (0, 48, AngleSource(4))


def test_lines_without_a_section_are_not_laid_over_by_those_of_the_first() -> None:
    lines = [
        Line("", "the sea", angle=4),
        Line("Verse", "her close", angle=9),
        Line("Bridge that is no more", "a hand"),
        Line("", "a chart", media="chart"),
    ]
    assert [source for _, _, source in laid(assembled(*lines, unit="bar"))] == [
        AngleSource(4), Empty("a hand"), ClipSource("chart", 0.0), AngleSource(9), Empty(),
    ]  # fmt: skip


def test_held_shots_stay_and_an_empty_list_is_told() -> None:
    edit = apply(new_edit(LENGTH), Switch(16.5, 4, lead=0), MATERIAL)
    edit = apply(edit, Hold(edit.shots[1].id), MATERIAL)
    after = assembled(Line("Chorus", "a chart", media="chart"), edit=edit)
    assert (396, LENGTH, AngleSource(4)) in laid(after)
    assert (384, 396, ClipSource("chart", 0.0)) in laid(after)
    with pytest.raises(Refused, match="shot list is empty"):
        apply(edit, Assemble(), MATERIAL)


lines = st.builds(
    Line,
    section=st.sampled_from(["Verse", "Chorus", "", "Bridge that is no more"]),
    words=st.just("planned"),
    angle=st.sampled_from([None, 4]),
    media=st.sampled_from([None, "rope", "spark", "chart"]),
)


@settings(deadline=None)
@given(
    st.lists(lines, min_size=1, max_size=30),
    st.sampled_from(["free", "half", "beat", "bar", "phrase", "mark"]),
)
def test_nothing_laid_is_shorter_than_it_is_shown_and_cuts_fall_on_places(
    many: list[Line], unit: str
) -> None:
    edit = assembled(*many, unit=unit)
    context: Context = MATERIAL
    places = {0, 384, *context.falls("beat" if unit == "free" else unit)}  # type: ignore[arg-type]
    assert {s.start for s in edit.shots} <= places
    for start, end, source in laid(edit):
        if isinstance(source, ClipSource):
            assert source.in_s + (end - start) / 24 <= context.clips[source.media].out_s + 1 / 24
