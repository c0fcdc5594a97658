"""Versions of the cut in the page: made, compared, taken over from, locked, switched between, thrown away."""

from collections.abc import Iterator
from typing import Any

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Driver, Server, until
from tests.browser.editor import Editor


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("handoff")
    yield made
    # Its server ends with it.
    page.get("about:blank")
    page.get_log("browser")


def version(editor: Editor, edit_id: int) -> dict[str, Any]:
    return next(v for v in editor.server.get("/edits") if v["id"] == edit_id)


def current(editor: Editor) -> int:
    return int(editor.server.get()["edit"])


def press_in(editor: Editor, edit_id: int, what: str) -> None:
    editor.press(f"[data-testid=version-{edit_id}] [data-testid={what}]")


def pictures(editor: Editor) -> list[float]:
    """Mean lightness of the two pictures that lie beside each other."""
    script = """
        return [...document.querySelectorAll("[data-testid=comparing] canvas")].map((canvas) => {
          const paper = new OffscreenCanvas(16, 9).getContext("2d");
          paper.drawImage(canvas, 0, 0, 16, 9);
          const points = paper.getImageData(0, 0, 16, 9).data;
          return points.reduce((sum, v, i) => sum + (i % 4 < 3 ? v : 0), 0) / (16 * 9 * 3);
        });"""
    return [float(v) for v in editor.page.execute_script(script)]


def test_a_version_is_made_of_the_one_that_is_worked_on_and_cut_by_itself(editor: Editor) -> None:
    editor.find("new-name").send_keys("for the band")
    editor.click("new-version")
    until(lambda: current(editor) != 1, "the new one is worked on")
    until(lambda: "for the band" in editor.find("project").text, "the bar names it")
    made = current(editor)
    assert version(editor, made)["parent"] == 1
    first = editor.server.get("/edits/1")
    over = [i for lane in first["lanes"][1:] for i in lane["items"]]
    shot = next(
        s
        for s in first["lanes"][0]["items"][2:]
        if not any(i["start"] < s["end"] and s["start"] < i["end"] for i in over)
    )
    editor.server.send(f"/edits/{made}", {"op": "black", "item": shot["id"]})
    assert editor.server.get("/edits/1")["lanes"] == first["lanes"]


def test_what_differs_is_seen_side_by_side_and_taken_over(editor: Editor) -> None:
    editor.page.refresh()
    press_in(editor, 1, "compare")
    until(lambda: "1 place differs" in editor.find("differ-count").text, "what differs is counted")
    until(lambda: len(pictures(editor)) == 2, "both pictures")
    until(lambda: pictures(editor)[0] < 2 < 8 < pictures(editor)[1], "black here, a picture there")
    row = editor.element("[data-testid=differ] button")
    assert "another picture" in row.text
    editor.click("take-this")
    until(lambda: "differ in nothing" in editor.find("differ-count").text, "it is taken over")
    editor.keys(Keys.ESCAPE)
    until(lambda: not editor.page.find_elements("css selector", "[data-testid=comparing]"), "it is closed")
    made = current(editor)
    assert editor.server.get(f"/edits/{made}/differences?other=1")["differ"] == []
    editor.server.send(f"/undo?edit={made}", {})
    assert len(editor.server.get(f"/edits/{made}/differences?other=1")["differ"]) == 1


def test_a_locked_version_is_not_cut_in_the_page_either(editor: Editor) -> None:
    editor.page.refresh()
    made = current(editor)
    press_in(editor, made, "lock")
    until(lambda: version(editor, made)["locked"], "it is locked")
    editor.go("sheet")
    editor.page.execute_script("window.zembi.clock.seek(20)")
    before = editor.server.get(f"/edits/{made}")["lanes"]
    editor.keys("1")
    editor.keys("2")
    until(lambda: "is locked" in editor.page.page_source, "it says so")
    assert editor.server.get(f"/edits/{made}")["lanes"] == before
    # A refusal is an answer of 409, which the browser notes.
    editor.page.get_log("browser")
    editor.go("handoff")
    press_in(editor, made, "lock")
    until(lambda: not version(editor, made)["locked"], "and can be unlocked")


def test_another_version_is_worked_on_at_once_and_one_is_thrown_away(editor: Editor) -> None:
    made = current(editor)
    editor.go("handoff")
    press_in(editor, 1, "work-on")
    until(lambda: current(editor) == 1, "the first one is worked on again")
    until(lambda: "Edit 1" in editor.find("project").text, "the bar names it")
    press_in(editor, made, "throw-away")
    editor.press(".ant-popconfirm .ant-btn-primary")
    until(lambda: [v["id"] for v in editor.server.get("/edits")] == [1], "it is gone")
    editor.server.send("/undo?edit=1", {})
    assert [v["name"] for v in editor.server.get("/edits")] == ["Edit 1", "for the band"]


def test_a_name_and_a_note_are_typed_over(editor: Editor) -> None:
    editor.page.refresh()
    name = editor.element("[aria-label='Name of Edit 1']")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("rough", Keys.ENTER)
    until(lambda: version(editor, 1)["name"] == "rough", "it has the name")
    editor.element("[aria-label='Note on rough']").send_keys("before the band saw it", Keys.ENTER)
    until(lambda: version(editor, 1)["note"] == "before the band saw it", "and the note")


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    assert [e["message"] for e in editor.page.get_log("browser") if e["level"] == "SEVERE"] == []
