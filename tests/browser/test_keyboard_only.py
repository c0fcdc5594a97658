"""A verse cut without a pointer: angles, clips, a treatment, a title and the film, by keys alone."""

from collections.abc import Iterator
from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("sheet")
    page.execute_script(
        "window.pointed = 0; window.addEventListener('pointerdown', () => { window.pointed += 1; }, true);"
    )
    yield made
    page.get("about:blank")
    page.get_log("browser")


def here(editor: Editor) -> str:
    """What has the focus, by its name or words."""
    return str(
        editor.page.execute_script(
            "const a = document.activeElement; return a.getAttribute('aria-label') || a.textContent || a.tagName"
        )
    )


def tab_to(editor: Editor, css: str, back: bool = False, most: int = 150) -> None:
    """Press Tab until what a selector finds has the focus."""
    for _ in range(most):
        if editor.page.execute_script("return document.activeElement.matches(arguments[0])", css):
            return
        if back:
            editor.chord(Keys.SHIFT, key=Keys.TAB)
        else:
            editor.keys(Keys.TAB)
    raise AssertionError(f"Tab does not reach {css}; it is at {here(editor)}")


def shots(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.edit()["shots"])


def shot_at(editor: Editor, frame: int) -> dict[str, Any]:
    return next(s for s in shots(editor) if s["start"] <= frame < s["end"])


def done_by_words(editor: Editor, words: str) -> None:
    """Find what can be done by its words, and do it."""
    editor.keys("?")
    editor.find("find-command").send_keys(words)
    editor.find("find-command").send_keys(Keys.ENTER)
    until(
        lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=find-command]"),
        "the list is gone",
    )


def test_cuts_and_angles_are_made_on_the_beat(editor: Editor) -> None:
    editor.keys(Keys.HOME)
    editor.keys(Keys.ARROW_DOWN)
    verse = next(s for s in editor.server.get()["song"]["sections"] if s["name"] == "Verse 1")
    until(lambda: abs(editor.frame() - round(verse["start_s"] * 24)) <= 1, "at the verse")
    number = {a["id"]: a["number"] for a in editor.server.get()["angles"]}
    for angle in (2, 1):
        before = len(shots(editor))
        for _ in range(3):
            was = editor.frame()
            editor.chord(Keys.CONTROL, key=Keys.ARROW_RIGHT)
            until(lambda was=was: editor.frame() > was, "the next beat")
        editor.keys("/")
        until(lambda before=before: len(shots(editor)) == before + 1, "a cut")
        editor.keys(str(angle))
        until(
            lambda angle=angle: number.get(shot_at(editor, editor.frame())["source"]["angle"]) == angle,
            f"angle {angle}",
        )
    cut = shot_at(editor, editor.frame())["start"]
    editor.chord(Keys.ALT, key=Keys.ARROW_RIGHT)
    until(lambda: shot_at(editor, editor.frame())["start"] == cut + 1, "a frame later")
    done_by_words(editor, "cut a frame earlier")
    until(lambda: shot_at(editor, editor.frame())["start"] == cut, "and back, by its words")


def test_a_clip_is_reached_chosen_and_laid(editor: Editor) -> None:
    before = len(editor.edit()["cutaways"])
    tab_to(editor, "[data-testid=clip-picture]")
    first = here(editor)
    editor.keys(Keys.ARROW_RIGHT)
    until(lambda: here(editor) != first, "the next clip has the focus")
    name = here(editor)
    editor.keys(Keys.SPACE)
    until(lambda: "on" in (editor.find(f"clip-{name}").get_attribute("class") or "").split(), "it is chosen")
    editor.keys("b")
    until(lambda: len(editor.edit()["cutaways"]) == before + 1, "it is laid over")


def test_a_shot_is_treated(editor: Editor) -> None:
    editor.keys(Keys.ESCAPE)
    editor.keys("e")
    editor.find("treating")
    tab_to(editor, "[data-testid=add-treatment]")
    editor.keys(Keys.ENTER)
    until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid^=add-]:not(button)"), "the kinds")
    for _ in range(60):
        editor.keys(Keys.ARROW_DOWN)
        if editor.page.execute_script(
            "return !!document.activeElement.querySelector(\"[data-testid='add-mirror']\")"
        ):
            break
    editor.keys(Keys.ENTER)

    def treated() -> bool:
        items = [*shots(editor), *editor.edit()["cutaways"]]
        return any(t["kind"] == "mirror" for i in items if i["treated"] for t in i["treated"]["treatments"])

    until(treated, "a treatment")
    editor.keys(Keys.ESCAPE)


def test_a_title_is_laid_and_typed(editor: Editor) -> None:
    tab_to(editor, "[data-testid=titles]")
    editor.keys(Keys.ENTER)
    editor.find("titles-menu")
    tab_to(editor, "[data-testid=preset-caption]")
    editor.keys(Keys.ENTER)
    editor.find("card-bench")
    tab_to(editor, "[data-testid=card-words]")
    editor.chord(Keys.CONTROL, key="a")
    editor.keys("verse")
    until(lambda: [t["source"]["words"] for t in editor.edit()["titles"]] == ["verse"], "typed")


def test_the_film_of_a_loop_is_rendered_and_fetched(editor: Editor) -> None:
    editor.page.execute_script("document.activeElement.blur()")
    editor.keys("i")
    for _ in range(4):
        editor.chord(Keys.SHIFT, key=Keys.ARROW_RIGHT)
    editor.keys("o")
    tab_to(editor, "a[href$='/handoff']", back=True)
    editor.keys(Keys.ENTER)
    editor.find("render-panel")
    tab_to(editor, "[data-testid=render-panel] input[type=radio]")
    editor.keys(Keys.ARROW_DOWN)
    tab_to(editor, "[data-testid=render]")
    editor.keys(Keys.ENTER)
    until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=render-job][data-state=done]"),
        "the film",
        120,
    )
    tab_to(editor, "[data-testid=download]")
    editor.keys(Keys.ENTER)
    downloads = editor.page.downloads  # type: ignore[attr-defined]
    until(lambda: [f for f in downloads.glob("*.mp4") if f.stat().st_size > 10_000], "fetched")
    assert editor.page.execute_script("return window.pointed") == 0, "no pointer was pressed"
