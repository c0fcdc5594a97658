"""The page without a pointer and read aloud: axe-core finds nothing, keys belong to where the focus is, all is found by words."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
RUN = """
const done = arguments[arguments.length - 1];
axe.run(document, { resultTypes: ["violations"] }).then((found) =>
  done(found.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.target.join(" ")}: ${v.help}`))));
"""
VIEWS = ("song", "lineup", "coverage", "sheet", "handoff")


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    page.set_script_timeout(60)
    yield Editor(page, own)
    page.execute_script("localStorage.clear()")
    page.get("about:blank")


def faults(editor: Editor) -> list[str]:
    """What axe-core finds on the page as it is, once nothing moves any more."""
    until(
        lambda: (
            not editor.page.execute_script(
                "return document.getAnimations().some((a) => a.playState === 'running')"
            )
        ),
        "nothing moves",
    )
    editor.page.execute_script(AXE.read_text())
    found: list[str] = editor.page.execute_async_script(RUN)
    return found


def layout(editor: Editor, name: str) -> None:
    editor.press("[data-testid=layout] .ant-segmented-item", name)


def test_the_list_of_projects_and_making_one(editor: Editor) -> None:
    editor.page.get(editor.server.url)
    editor.find("open-lamp-room")
    assert faults(editor) == []
    editor.click("new-project")
    editor.element(".ant-modal-title")
    assert faults(editor) == []


@pytest.mark.parametrize("view", VIEWS)
def test_each_view(editor: Editor, view: str) -> None:
    editor.go(view)
    editor.element("main h1")
    until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "main button"), "it is drawn")
    assert faults(editor) == []


@pytest.mark.parametrize("panel", ["Marks", "Lyrics", "Film"])
def test_each_panel_of_the_song(editor: Editor, panel: str) -> None:
    editor.go("song")
    editor.press(".ant-segmented-item", panel)
    assert faults(editor) == []


@pytest.mark.parametrize("take", ["LAMP_03", "GAL_02"])
def test_a_take_that_is_locked_and_one_to_choose(editor: Editor, take: str) -> None:
    editor.go("lineup")
    editor.click(f"take-{take}")
    assert faults(editor) == []


def test_a_cell_of_the_matrix(editor: Editor) -> None:
    editor.go("coverage")
    editor.press("[data-testid^=cell]")
    editor.find("alternates")
    assert faults(editor) == []


@pytest.mark.parametrize("name", ["rows", "whole song", "compare", "plan", "colour"])
def test_each_layout_of_the_sheet(editor: Editor, name: str) -> None:
    editor.go("sheet")
    layout(editor, name)
    assert faults(editor) == []


def test_the_treatments_of_a_shot(editor: Editor) -> None:
    editor.go("sheet")
    layout(editor, "rows")
    editor.keys("e")
    editor.find("treating")
    assert faults(editor) == []


def focus(editor: Editor, css: str) -> Any:
    """Focus what a selector finds as the tab key does."""
    element = editor.element(css)
    # Chromium shows the focus of what is focused by script after a key only.
    editor.keys(Keys.SHIFT)
    editor.page.execute_script("arguments[0].focus({focusVisible: true})", element)
    return element


def test_space_presses_what_the_keyboard_reached_and_else_plays(editor: Editor) -> None:
    editor.go("song")
    focus(editor, "[data-testid=click]")
    before = editor.find("click").get_attribute("aria-checked")
    editor.keys(" ")
    until(lambda: editor.find("click").get_attribute("aria-checked") != before, "the click is switched")
    assert not editor.page.execute_script("return zembi.clock.isPlaying?.() ?? false")
    play = "section[aria-label='The song'] button[aria-label^='P'][aria-label$='space']"
    assert editor.element(play).get_attribute("aria-label") == "Play, space"
    editor.keys(" ")
    until(lambda: editor.find("click").get_attribute("aria-checked") == before, "and back")
    editor.page.execute_script("document.activeElement.blur()")
    editor.keys(" ")
    until(lambda: editor.element(play).get_attribute("aria-label") == "Pause, space", "it plays")
    editor.keys(" ")
    until(lambda: editor.element(play).get_attribute("aria-label") == "Play, space", "it stops")


def test_the_song_strip_is_a_slider_that_says_where_it_is(editor: Editor) -> None:
    editor.go("song")
    strip = focus(editor, "[data-testid=song-strip]")
    editor.keys(Keys.HOME)
    until(lambda: strip.get_attribute("aria-valuenow") == "0", "at the beginning")
    editor.keys(Keys.ARROW_DOWN)
    until(lambda: "Verse 1" in str(strip.get_attribute("aria-valuetext")), "the section is said")
    editor.keys(Keys.END)
    until(
        lambda: (
            int(str(strip.get_attribute("aria-valuenow"))) == int(str(strip.get_attribute("aria-valuemax")))
        ),
        "the end",
    )


def test_what_can_be_done_is_found_by_its_words_and_done(editor: Editor) -> None:
    editor.go("sheet")
    editor.keys(Keys.HOME, "?")
    words = [
        e.text
        for e in until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=command]"), "a list")
    ]
    assert any(w.startswith("Cut here") for w in words)
    assert faults(editor) == []
    shots = len(editor.edit()["shots"])
    editor.find("find-command").send_keys("next place")
    editor.find("find-command").send_keys(Keys.ENTER)
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=find-command]"), "it is gone")
    editor.keys("?")
    editor.find("find-command").send_keys("cut here")
    editor.find("find-command").send_keys(Keys.ENTER)
    until(lambda: len(editor.edit()["shots"]) == shots + 1, "a cut")
    assert "Cut" in editor.find("told").get_attribute("textContent"), "and it is told"
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: len(editor.edit()["shots"]) == shots, "undone")
    until(lambda: "Undone" in editor.find("told").get_attribute("textContent"), "told, too")


def test_a_key_is_changed_and_kept(editor: Editor) -> None:
    editor.go("sheet")
    editor.keys("?")
    editor.find("find-command").send_keys("next cut")
    editor.click("change-key")
    editor.find("new-key").send_keys("y")
    editor.press(".ant-modal button", "Keep this key")
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=new-key]"), "it is kept")
    editor.find("find-command").send_keys(Keys.ESCAPE)
    until(
        lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=find-command]"), "it is closed"
    )
    editor.page.refresh()
    editor.keys(Keys.HOME)
    before = editor.find("timecode").text
    editor.find("rows")
    editor.keys("y")
    until(lambda: editor.find("timecode").text != before, "the new key goes to the next cut")
    there = editor.find("timecode").text
    editor.keys("n")
    assert editor.find("timecode").text == there, "the old one does nothing"


def test_shots_cutaways_and_marks_are_walked_by_the_arrow_keys(editor: Editor) -> None:
    editor.go("sheet")
    layout(editor, "rows")
    editor.keys(Keys.HOME)
    edit = editor.edit()
    first, second = edit["shots"][:2]
    reached = focus(editor, "[data-testid=shot] [data-testid=reached]")
    assert "Gallery wide, bar" in reached.get_attribute("aria-label")

    def now() -> str:
        return str(editor.page.execute_script("return document.activeElement.getAttribute('aria-label')"))

    was = now()
    editor.keys(Keys.ARROW_RIGHT)
    until(lambda: now() != was, "the next has the focus")
    until(
        lambda: editor.page.execute_script("return document.activeElement.ariaPressed") == "true",
        "it is chosen",
    )
    for _ in range(len(edit["shots"])):
        editor.keys(Keys.ARROW_RIGHT)
    until(lambda: "bar" in now(), "also where rows are drawn on the way")
    editor.keys(Keys.HOME)
    until(lambda: now() == was, "back at the first")
    assert first["start"] == 0 < second["start"]
