"""Shot lists as CSV: read as people write them, and back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.edit.model import ClipSource
from zembi.core.edit.rules import RULES, Candidate, Past, SlotContext
from zembi.core.errors import BadInput
from zembi.core.footage.tags import tagged_for
from zembi.core.interchange.limits import cell, from_cell
from zembi.core.interchange.shotlist import ShotPlan, read_shot_list, template, write_shot_list

words = st.text(st.characters(blacklist_categories=("Cs", "Cc", "Zl", "Zp")), max_size=30).map(str.strip)


@given(st.lists(st.builds(ShotPlan, words, words.filter(bool), words, words), max_size=8))
def test_what_is_written_is_read_back(shots: list[ShotPlan]) -> None:
    assert read_shot_list(write_shot_list(shots)) == shots
    assert read_shot_list(write_shot_list(shots, ["never shot"] * len(shots))) == shots


@given(st.text("'=+-@ \nx", max_size=6))
def test_no_cell_is_a_formula_and_each_comes_back(text: str) -> None:
    made = cell(text)
    assert from_cell(made) == text
    assert not made.lstrip().startswith(("=", "+", "-", "@"))


@pytest.mark.parametrize("between", [",", ";", "\t"])
def test_columns_come_in_any_order_and_with_any_sign_between(between: str) -> None:
    text = f"\ufeffNote{between}WHAT{between}Section{between}take\r\nat dusk{between}the pier{between}Verse 1{between}3\r\n\r\n"
    assert read_shot_list(text) == [ShotPlan("Verse 1", "the pier", "", "at dusk")]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "empty"), ("section,camera\nVerse 1,A\n", "no column “what”"),
        ("section,what\nVerse 1,\n", "Row 2 of the shot list does not say"), ("what\n" + "pier\n" * 20_001, "Split it"),
    ],
)  # fmt: skip
def test_what_is_no_shot_list_is_said(text: str, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_shot_list(text)


def test_a_template_can_be_read_and_names_the_sections() -> None:
    assert [s.section for s in read_shot_list(template(["Intro", "Chorus 1"]))] == ["Intro", "Chorus 1"]
    assert read_shot_list(template([]))
    assert "'=" in write_shot_list([ShotPlan("", "=1+1")]), "no spreadsheet takes it for a formula"


@pytest.mark.parametrize(
    ("tags", "for_it"),
    [
        (["section: Chorus"], True), (["section:chorus 1"], True), (["Chorus"], True), (["Section: Verse"], False),
        (["place: Chorus"], False), (["section:"], False), ([], False), (["beam", "chorus 1"], True),
        (["cho"], False), (["section:chorus"], True), (["section : CHORUS"], True), (["chorus 12"], False), ([""], False),
    ],
)  # fmt: skip
def test_tags_that_are_for_a_section(tags: list[str], for_it: bool) -> None:
    assert tagged_for("Chorus 1", tags) == for_it


@pytest.mark.parametrize(
    ("section", "tag", "for_it"),
    [
        ("Verse 1 b", "Verse 1 b", True), ("Verse 1 b", "verse 1", True), ("Verse 1 b", "Verse", True), ("Verse 1 b", "b", False),
        ("Verse 12", "Verse 1", False), ("Pre-chorus", "chorus", False), ("", "verse", False),
    ],
)  # fmt: skip
def test_a_tag_names_a_section_by_all_or_the_first_of_its_words_wherever_it_is_asked(
    section: str, tag: str, for_it: bool
) -> None:
    assert tagged_for(section, [tag]) == tagged_for(section, [f"section: {tag}"]) == for_it
    (rule,) = (r for r in RULES if r.name == "tags")
    place = SlotContext(0, 48, 4.0, section, energy=0.5, sung=0.0, leads=frozenset())
    candidate = Candidate(ClipSource("rope"), tags=frozenset({tag.lower()}))
    assert (rule.points(place, candidate, Past(lambda a, b: float(b - a))) > 0) == for_it
