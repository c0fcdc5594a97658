"""Shot lists as CSV: read as people write them, and back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import cell, from_cell
from zembi.core.interchange.shotlist import Planned, read_shot_list, template, write_shot_list
from zembi.service.broll.selects import tagged_for

words = st.text(st.characters(blacklist_categories=("Cs", "Cc", "Zl", "Zp")), max_size=30).map(str.strip)


@given(st.lists(st.builds(Planned, words, words.filter(bool), words, words), max_size=8))
def test_what_is_written_is_read_back(shots: list[Planned]) -> None:
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
    assert read_shot_list(text) == [Planned("Verse 1", "the pier", "", "at dusk")]


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
    assert "'=" in write_shot_list([Planned("", "=1+1")]), "no spreadsheet takes it for a formula"


@pytest.mark.parametrize(
    ("tags", "for_it"),
    [
        (["section: Chorus"], True), (["section:chorus 1"], True), (["Chorus"], True), (["Section: Verse"], False),
        (["place: Chorus"], False), (["section:"], False), ([], False), (["beam", "chorus 1"], True),
    ],
)  # fmt: skip
def test_tags_that_are_for_a_section(tags: list[str], for_it: bool) -> None:
    assert tagged_for("Chorus 1", {"tags": tags}) == for_it
