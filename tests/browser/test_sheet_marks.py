"""Marks on the Sheet in the real page: cuts are pulled to what they fall on, marks are dragged, taken off and gone to."""

from collections.abc import Iterator
from typing import Any

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("sheet")
    yield made
    page.get("about:blank")


def song(editor: Editor) -> dict[str, Any]:
    return dict(editor.server.get()["song"])


def flags(editor: Editor) -> list[WebElement]:
    return editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=row-mark]")


def drag(editor: Editor, element: WebElement, by: int, y: int = 0) -> None:
    ActionChains(editor.page).move_to_element_with_offset(element, 0, y).click_and_hold().move_by_offset(
        by, 0
    ).perform()


def release(editor: Editor) -> None:
    ActionChains(editor.page).release().perform()


def test_a_cut_is_pulled_to_a_mark_and_says_how_far_it_lies_from_it(editor: Editor) -> None:
    verse = next(s for s in song(editor)["sections"] if s["name"] == "Verse 1")
    cut = next(s for s in editor.edit()["shots"] if s["start"] > verse["first_frame"] + 20)
    at = (cut["start"] + 20) / 24
    editor.server.send("/song/marks", {"times_s": [at], "set_id": None, "working": False})
    (mark,) = song(editor)["marks"]
    editor.server.send(f"/song/marks/{mark['id']}", {"name": "turn"}, "PATCH")
    editor.go("sheet")
    editor.seek(verse["start_s"] + 1)
    (flag,) = until(lambda: flags(editor), "the flag")
    assert flag.text == "turn"
    editor.find("unit").find_element(By.XPATH, ".//*[.='marks']").click()
    until(lambda: editor.server.get()["unit"] == "mark", "cuts fall on marks")
    edge = editor.element(f'[data-testid=cut][data-frame="{cut["start"]}"]')
    way = flag.rect["x"] - edge.rect["x"] - edge.rect["width"] / 2
    drag(editor, edge, round(way) + 2)
    assert "the mark" in until(lambda: editor.find("beside").text, "how far it lies")
    release(editor)
    frame = song(editor)["falls"]["mark"][0]
    until(lambda: any(s["start"] == frame for s in editor.edit()["shots"]), "the cut lies on the mark")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: any(s["start"] == cut["start"] for s in editor.edit()["shots"]), "it is taken back")


def test_a_mark_is_gone_to_dragged_along_the_beats_and_taken_off(editor: Editor) -> None:
    (mark,) = song(editor)["marks"]
    editor.seek(mark["at_s"] - 1)
    editor.chord(Keys.CONTROL, key=Keys.ARROW_RIGHT)
    until(lambda: editor.frame() == song(editor)["falls"]["mark"][0], "the playhead is at the mark")
    (flag,) = until(lambda: flags(editor), "the flag")
    beats = song(editor)["beats"]
    beat = next(b for b in beats if b > mark["at_s"] + 0.3)
    row = flag.find_element(By.XPATH, "./..").rect["width"]
    phrase = next(p for p in song(editor)["phrases"] if p["start_s"] <= mark["at_s"] < p["end_s"])
    way = round((beat - mark["at_s"]) / (phrase["end_s"] - phrase["start_s"]) * row)
    head = flag.find_element(By.TAG_NAME, "span")
    drag(editor, head, way)
    release(editor)
    until(lambda: abs(song(editor)["marks"][0]["at_s"] - beat) < 1e-3, "it lies on the beat")
    editor.keys(Keys.DELETE)
    until(lambda: not song(editor)["marks"], "it is taken off")
    until(lambda: not flags(editor), "and gone from the sheet")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: len(song(editor)["marks"]) == 1, "taken back")


def test_cuts_fall_on_hits_and_words_too(editor: Editor) -> None:
    editor.click("unit-other")
    editor.press(".ant-select-item-option", "low attacks", part=True)
    until(lambda: editor.server.get()["unit"] == "low", "cuts fall on low attacks")
    hits = song(editor)["falls"]["low"]
    assert hits
    editor.seek((hits[3] + 1) / 24)
    editor.chord(Keys.CONTROL, key=Keys.ARROW_RIGHT)
    until(lambda: editor.frame() == hits[4], "the next hit")
