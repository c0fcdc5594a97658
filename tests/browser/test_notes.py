"""Notes on a version in the page: pasted and walked, answered, written at the playhead, seen over the rows."""

from collections.abc import Iterator
from typing import Any

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Driver, Server, until
from tests.browser.editor import Editor

LIST = "we love it\n1:12 more of the guitar\nOrrin: bar 33 - lips?\nchorus 2: too dark"


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("handoff")
    yield made
    # Its server ends with it.
    page.get("about:blank")
    page.get_log("browser")


def notes(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.server.get("/notes"))


def test_a_list_is_pasted_understood_before_it_is_taken_and_walked(editor: Editor) -> None:
    editor.click("paste-notes")
    editor.find("notes-text").send_keys(LIST)
    rows = "[data-testid=understood] li"
    until(lambda: len(editor.page.find_elements("css selector", rows)) == 4, "all four are understood")
    shown = [e.text for e in editor.page.find_elements("css selector", rows)]
    assert "the film" in shown[0]
    assert "33.1" in shown[2]
    assert "Orrin" in shown[2]
    assert notes(editor) == [], "nothing is taken yet"
    editor.click("take-notes")
    until(lambda: len(notes(editor)) == 4, "they are taken")
    until(lambda: len(editor.page.find_elements("css selector", "[data-testid=notes] li")) == 4, "and listed")
    until(
        lambda: not editor.page.find_elements("css selector", ".ant-modal-wrap:not([style*=none])"), "closed"
    )
    editor.page.execute_script("document.activeElement.blur()")
    editor.keys("b")
    editor.keys("b")
    script = (
        "return document.activeElement.hasAttribute('data-note') ? document.activeElement.textContent : ''"
    )
    until(lambda: editor.page.execute_script(script), "a note is reached by key")
    text = editor.page.execute_script(script)
    editor.keys(Keys.ENTER)
    there = next(n for n in notes(editor) if n["text"] in text)
    until(lambda: abs(editor.frame() - there["first"]) <= 1, "and gone to")


def test_a_note_is_answered_and_one_is_written_at_the_playhead(editor: Editor) -> None:
    wanted = next(n for n in notes(editor) if n["text"] == "lips?")
    row = editor.page.find_element("xpath", "//*[@data-testid='notes']//li[contains(., 'lips?')]")
    row.find_element("css selector", "[data-testid=note-wont]").click()
    why = editor.element("[aria-label='Why not']")
    why.send_keys("they are right", Keys.ENTER)

    def state() -> tuple[str, str]:
        return next((n["state"], n["why"]) for n in notes(editor) if n["id"] == wanted["id"])

    until(lambda: state() == ("will not do", "they are right"), "it is answered with a word")
    editor.page.execute_script("window.zembi.clock.seek(30.01)")
    until(lambda: editor.frame() == 720, "the playhead is there")
    editor.find("note-text").send_keys("a slam here", Keys.ENTER)
    until(
        lambda: any(n["text"] == "a slam here" and n["first"] == 720 for n in notes(editor)), "it is written"
    )


def test_open_notes_are_seen_over_the_rows(editor: Editor) -> None:
    editor.go("sheet")
    seen = "[data-testid=row-note]"
    until(lambda: editor.page.find_elements("css selector", seen), "they are drawn")
    words = {e.get_attribute("title") for e in editor.page.find_elements("css selector", seen)}
    assert "a slam here" in words
    assert not any("lips?" in w for w in words), "what is answered is not"


def test_the_picture_then_lies_beside_the_one_now(editor: Editor) -> None:
    editor.go("handoff")
    editor.find("new-name").send_keys("after the notes")
    editor.click("new-version")
    until(lambda: editor.server.get()["edit"] != 1, "a new version")
    wanted = "//*[@data-testid='notes']//button[contains(., 'a slam here')]"
    until(lambda: editor.page.find_elements("xpath", wanted), "the note is listed")
    editor.page.find_element("xpath", wanted).click()
    canvases = "[data-testid=then-and-now] canvas"
    until(lambda: len(editor.page.find_elements("css selector", canvases)) == 2, "both pictures are there")
    until(
        lambda: all(
            e.get_attribute("data-frame") == "720"
            for e in editor.page.find_elements("css selector", canvases)
        ),
        "of its frame",
    )


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    assert [e["message"] for e in editor.page.get_log("browser") if e["level"] == "SEVERE"] == []
