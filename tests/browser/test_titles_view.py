"""Titles in the real page: laid at the playhead, typed, dragged on the picture, flickered on, and made of the lyrics."""

import base64
import io
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
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
    yield made
    page.get("about:blank")
    page.get_log("browser")


def titles(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.edit()["titles"])


def letters(editor: Editor, left: float, top: float, right: float, bottom: float) -> int:
    """Points as light as letters in a part of the programme, in shares of it."""
    drawn = picture(editor)
    height, width = drawn.shape[:2]
    part = drawn[round(top * height) : round(bottom * height), round(left * width) : round(right * width)]
    return int((part > 235).all(2).sum())


def picture(editor: Editor) -> NDArray[np.int16]:
    drawn = Image.open(io.BytesIO(base64.b64decode(editor.programme()["png"].split(",")[1])))
    return np.asarray(drawn.convert("RGB")).astype(np.int16)


def lay(editor: Editor, preset: str) -> dict[str, Any]:
    before = {t["id"] for t in titles(editor)}
    editor.click("titles")
    editor.click(f"preset-{preset}")
    editor.find("card-bench")
    return next(t for t in titles(editor) if t["id"] not in before)


def test_a_title_is_laid_typed_and_seen_before_it_is_written(editor: Editor) -> None:
    editor.seek(20.0)
    until(lambda: editor.programme()["frame"] == str(editor.frame()), "drawn")
    title = lay(editor, "main-title")
    assert title["source"]["words"].startswith("Lamp Room"), "the song's own name"
    until(lambda: editor.programme()["frame"] == str(title["start"]), "the playhead goes there")
    words = editor.find("card-words")
    words.send_keys(Keys.CONTROL, "a")
    words.send_keys("HHHH")
    until(lambda: letters(editor, 0.35, 0.4, 0.65, 0.6) > 100, "the letters are on the picture")
    until(lambda: titles(editor)[0]["source"]["words"] == "HHHH", "it is written once the hand rests")
    assert editor.server.get()["undo"] == "Change the title “HHHH”"
    assert editor.find("title").text.endswith("HHHH")


def test_it_is_dragged_on_the_picture_to_the_guides(editor: Editor) -> None:
    box = editor.find("card-box")
    frame = editor.element("#programme").size
    chain = ActionChains(editor.page).click_and_hold(box)
    # Down so that its lower edge comes near that of the safe area, and a little aside: the middle holds it.
    by = round(frame["height"] * 0.36)
    chain.move_by_offset(2, by // 2).move_by_offset(0, by - by // 2).perform()
    until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[class*=guide]"), "a guide is seen")
    ActionChains(editor.page).release().perform()
    until(lambda: titles(editor)[0]["source"]["card"].get("y"), "it is written")
    card = titles(editor)[0]["source"]["card"]
    assert card["x"] == pytest.approx(0.0, abs=0.002), "drawn to the middle"
    assert 0.3 < card["y"] < 0.42
    editor.click("anchor-top-left")
    until(lambda: titles(editor)[0]["source"]["card"]["anchor"] == "top left", "a place of the nine")
    assert titles(editor)[0]["source"]["card"]["y"] == 0


def test_it_flickers_on_by_squares_that_are_clicked(editor: Editor) -> None:
    title = titles(editor)[0]
    editor.press("[data-testid=card-bench] button", "Treat it…")
    editor.click("add-treatment")
    editor.press("[data-testid='add-flicker on']")
    squares = until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=pattern] button"), "squares"
    )
    assert [s.get_attribute("aria-pressed") for s in squares] == [str(c == "1").lower() for c in "100110111"]
    squares[1].click()

    def chain() -> Any:
        treated = titles(editor)[0]["treated"]
        return (
            treated
            and treated["treatments"][0]["pattern"] == "110110111"
            and editor.edit()["programme"]["layers"][-1]
        )

    spans = until(chain, "the pattern is written")
    keys = next(s for s in spans[0]["chain"] if s["step"] == "opacity")["curves"]["amount"]
    assert [k["value"] for k in keys][1:10] == [float(c) for c in "110110111"]
    # Frame by frame on the page: there where the square is dark.
    for n, there in ((0, True), (2, False), (3, True), (5, False), (12, True)):
        editor.page.execute_script("window.zembi.clock.seek((arguments[0] + 0.2) / 24)", title["start"] + n)
        until(lambda n=n: editor.programme()["frame"] == str(title["start"] + n), f"frame {n}")
        light = letters(editor, 0.04, 0.04, 0.35, 0.26)
        assert (light > 60) == there, (n, light)
    editor.keys(Keys.ESCAPE)


def test_the_words_of_a_chorus_become_titles_and_follow_their_lines(editor: Editor) -> None:
    before = len(titles(editor))
    editor.click("titles")
    editor.press("[data-testid=lyrics-where]")
    editor.press(".ant-select-item-option", "Chorus 1", part=True)
    until(lambda: "Lay 2 titles" in editor.find("lay-lyrics").text, "as many as it has lines")
    editor.click("lay-lyrics")
    until(lambda: len(titles(editor)) == before + 2, "in one action")
    song = editor.server.get()["song"]
    line = next(x for x in song["lyrics"] if x["text"].startswith("lamp room, lamp room, burn"))
    mine = next(t for t in titles(editor) if t["source"]["line"] == line["id"])
    editor.server.send(
        f"/song/lyrics/{line['id']}", {"song_s": line["at_s"] + 0.5, "text": "lamp room, all of it"}, "PATCH"
    )
    moved = next(t for t in titles(editor) if t["source"]["line"] == line["id"])
    assert (moved["start"] - mine["start"], moved["source"]["words"]) == (12, "lamp room, all of it")
    undone = editor.server.get()["undo"]
    assert undone == "Time a line"


def test_words_come_one_by_one_in_their_frames(editor: Editor) -> None:
    title = titles(editor)[0]
    editor.page.execute_script("window.zembi.clock.seek((arguments[0] + 0.2) / 24)", title["start"] + 20)
    editor.find("title").click()
    editor.press("[data-testid=card-bench] button", "Treated", part=True)
    editor.click("add-treatment")
    editor.press("[data-testid='add-one by one']")
    until(
        lambda: len((titles(editor)[0]["treated"] or {"treatments": []})["treatments"]) == 2, "it is written"
    )
    ids = [title["id"]]
    each = {"kind": "one by one", "by": "letter", "every": {"value": 6, "unit": "frames"}}
    editor.server.send("/edits/1", {"op": "treat", "items": ids, "treatments": [each]})
    editor.page.refresh()
    editor.find("rows")
    seen = []
    for n in (0, 5, 6, 12, 18, 30):
        editor.page.execute_script("window.zembi.clock.seek((arguments[0] + 0.2) / 24)", title["start"] + n)
        until(lambda n=n: editor.programme()["frame"] == str(title["start"] + n), f"frame {n}")
        seen.append(letters(editor, 0.04, 0.04, 0.5, 0.3))
    # HHHH: each letter as light as the next.
    one = seen[0]
    assert one > 20
    assert seen == pytest.approx([one, one, 2 * one, 3 * one, 4 * one, 4 * one], rel=0.15)


def test_a_lead_in_of_four_bars_has_a_card_and_plays_in_silence(editor: Editor) -> None:
    editor.click("titles")
    editor.press("[data-testid=titles-menu] .ant-segmented-item", "bars")
    field = editor.find("around-lead")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("4", Keys.ENTER)
    until(lambda: editor.edit()["lead"] > 0, "it is written")
    song = editor.server.get()["song"]
    bar = song["beats"][song["bars"][1]] - song["beats"][song["bars"][0]]
    lead = editor.edit()["lead"]
    assert lead == pytest.approx(4 * bar * 24, abs=1)
    editor.keys(Keys.ESCAPE)
    editor.page.execute_script("window.zembi.clock.seek(arguments[0])", -2 * bar)
    editor.find("around-lead-in")
    title = lay(editor, "chapter-word")
    assert title["start"] < 0
    assert title["end"] == 0, "up to the song"
    until(lambda: editor.programme()["frame"] == str(title["start"]), "the playhead goes there")
    until(lambda: (picture(editor)[..., 0] > 200).any(), "it is seen over black")
    assert letters(editor, 0.2, 0.3, 0.8, 0.7) == 0, "it is yellow, not white"
    assert editor.find("timecode").text.startswith("−00:00:0")
    undone = editor.server.get()["undo"]
    assert undone.startswith("Lay the title")
    # Nothing inside the song moved.
    assert editor.edit()["shots"][0]["start"] == 0


def test_letters_that_are_selected_have_a_look_of_their_own(editor: Editor) -> None:
    words = editor.find("card-words")
    words.send_keys(Keys.CONTROL, "a")
    words.send_keys("one TWO")
    words.send_keys(Keys.SHIFT, Keys.ARROW_LEFT * 3)
    part = editor.find("card-part")
    assert "TWO" in part.text
    size = part.find_element(By.CSS_SELECTOR, "input[aria-label='Size of the selected letters']")
    size.send_keys(Keys.CONTROL, "a")
    size.send_keys("200", Keys.ENTER)

    def parts() -> Any:
        mine = [t for t in titles(editor) if t["start"] < 0]
        return mine[0]["source"]["card"]["lines"][0].get("parts")

    found = until(parts, "it is written")
    assert [(p["first"], p["end"], p["size"]) for p in found] == [(4, 7, 2.0)]
    editor.keys(Keys.ESCAPE)


def test_titles_are_reached_and_named_by_the_keyboard(editor: Editor) -> None:
    editor.page.refresh()
    editor.find("rows")
    title = titles(editor)[0]
    editor.seek((title["start"] + 2) / 24)
    label = until(
        lambda: [
            e.get_attribute("aria-label")
            for e in editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=title] [aria-label]")
        ],
        "titles on the rows",
    )
    assert any(said.startswith("title HHHH, bar") for said in label), label


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    assert [e["message"] for e in editor.page.get_log("browser") if e["level"] == "SEVERE"] == []
