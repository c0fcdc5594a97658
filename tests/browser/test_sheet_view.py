"""The Sheet in the real page: switching live, shots arranged, slots filled, sections copied, by key and by mouse."""

import time
from collections.abc import Iterator
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Server, until
from tests.browser.editor import Editor

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: webdriver.Chrome, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("sheet")
    yield made
    page.get("about:blank")
    # What was refused on purpose here is no complaint of what comes next.
    page.get_log("browser")


def shots(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.server.get("/edit")["shots"])


def shot_at(editor: Editor, frame: int) -> dict[str, Any]:
    return next(s for s in shots(editor) if s["start"] <= frame < s["end"])


def section(editor: Editor, name: str) -> dict[str, Any]:
    return next(s for s in editor.server.get()["song"]["sections"] if s["name"] == name)


def layout(editor: Editor, name: str) -> None:
    editor.find("layout").find_element(By.XPATH, f".//*[.='{name}']").click()


def go_to(editor: Editor, shot: dict[str, Any]) -> None:
    """Put the playhead into a shot."""
    editor.seek((shot["start"] + shot["end"]) / 48)
    until(lambda: shot["start"] <= editor.frame() < shot["end"], "the playhead is in the shot")


def from_menu(editor: Editor, words: str) -> None:
    """Choose from what can be done with the selected shot."""
    editor.click("shot-menu")
    item = until(
        lambda: next(
            (
                e
                for e in editor.page.find_elements(By.CSS_SELECTOR, ".ant-dropdown-menu-item")
                if e.is_displayed() and words in e.text
            ),
            None,
        ),
        words,
    )
    item.click()


def pick(editor: Editor, label: str, words: str) -> None:
    """Choose from a list of the passage's menu."""
    editor.page.find_element(By.CSS_SELECTOR, f'[aria-label="{label}"]').click()
    until(
        lambda: next(
            (
                e
                for e in editor.page.find_elements(By.CSS_SELECTOR, ".ant-select-item-option")
                if e.is_displayed() and words in e.text
            ),
            None,
        ),
        words,
    ).click()


def test_the_live_layout_is_large_and_a_switch_is_laid_over_the_section(editor: Editor) -> None:
    layout(editor, "live")
    editor.find("live")
    verse = section(editor, "Verse 2")
    editor.seek(verse["start_s"] + 1.0)
    until(editor.shows_right_frame, "the programme shows its frame")
    wall = until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid^=wall-]"), "the angles")
    assert len(wall) >= 5
    assert min(e.size["width"] for e in wall) > 250
    editor.find("live-over").find_element(By.XPATH, ".//*[.='over this section']").click()
    before = {s["start"] for s in shots(editor)}
    first, last = round(verse["start_s"] * 24), round(verse["end_s"] * 24)
    editor.keys(" ")
    until(lambda: editor.frame() > first + 60, "it plays")
    on = shot_at(editor, editor.frame())["source"]["angle"]
    deck = next(a for a in editor.server.get()["angles"] if a["number"] in (2, 3) and a["id"] != on)
    editor.keys(str(deck["number"]))
    fresh = until(
        lambda: [s for s in shots(editor) if s["source"]["angle"] == deck["id"] and s["end"] == last],
        "laid over",
    )
    editor.keys(" ")
    (shot,) = fresh
    beats = {round(b * 24) for b in editor.server.get()["song"]["beats"]}
    assert shot["start"] in beats
    assert shot["start"] > first
    # What was cut there has given way; what lies outside has not moved.
    assert not {s for s in before if shot["start"] < s < last} & {s["start"] for s in shots(editor)}
    assert {s for s in before if s < shot["start"] or s >= last} <= {s["start"] for s in shots(editor)}
    # Taken back by one key.
    editor.keys(Keys.BACKSPACE)
    until(lambda: {s["start"] for s in shots(editor)} == before, "taken back")
    editor.click("live-end")
    editor.find("row-1")


def test_a_shot_is_taken_out_by_the_way_whose_result_was_seen(editor: Editor) -> None:
    lane = [(s["start"], s["source"]) for s in shots(editor)]
    go_to(editor, shots(editor)[4])
    from_menu(editor, "Take it out")
    ways = editor.find("take-out")
    until(lambda: ways.text.count("shots; here then") == 3, "three results are told")
    assert [(s["start"], s["source"]) for s in shots(editor)] == lane, "looking changes nothing"
    ways.find_element(By.XPATH, ".//button[contains(., 'move up')]").click()
    until(lambda: shots(editor)[-1]["source"]["kind"] == "empty", "the last slot is empty")
    now = shots(editor)
    assert [s["start"] for s in now] == [start for start, _ in lane], "every cut stays on the music"
    assert [s["source"] for s in now[4:-1]] == [source for _, source in lane[5:]]
    assert any(f["kind"] == "hole" for f in editor.server.get("/edit")["findings"])
    editor.click("undo")
    until(lambda: [(s["start"], s["source"]) for s in shots(editor)] == lane, "undone")


def test_two_shots_are_swapped_by_two_clicks_and_one_is_lifted(editor: Editor) -> None:
    before = shots(editor)
    go_to(editor, before[1])
    from_menu(editor, "Swap with another")
    target = editor.page.find_element(
        By.CSS_SELECTOR, f'[data-testid="shot"][data-start="{before[3]["start"]}"]'
    )
    editor.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", target)
    target.click()
    until(lambda: shots(editor)[3]["source"] == before[1]["source"], "swapped")
    assert shots(editor)[1]["source"] == before[3]["source"]
    editor.click("undo")
    until(lambda: shots(editor) == before, "undone")
    go_to(editor, before[1])
    cutaways = len(editor.server.get("/edit")["cutaways"])
    from_menu(editor, "Lift into a cutaway")
    until(lambda: len(editor.server.get("/edit")["cutaways"]) == cutaways + 1, "lifted")
    lifted = editor.page.find_element(
        By.CSS_SELECTOR, f'[data-testid="cutaway"][data-start="{before[1]["start"]}"]'
    )
    lifted.click()
    editor.click("drop")
    until(lambda: shots(editor) == before, "dropped again")


def test_a_clip_slips_by_key_and_an_angle_only_on_purpose(editor: Editor) -> None:
    clip = next(m for m in editor.server.get()["media"] if m["name"] == "Stairwell")
    editor.go("sheet")
    go_to(editor, shots(editor)[2])
    start = shot_at(editor, editor.frame())["start"]
    editor.keys("]")
    until(
        lambda: any(
            "on purpose" in e.text for e in editor.page.find_elements(By.CSS_SELECTOR, ".ant-message")
        ),
        "an angle is refused in words",
    )
    from_menu(editor, "on purpose: a frame later")
    until(lambda: shot_at(editor, start)["source"]["slip"] == 1, "slipped on purpose")
    assert any(f["kind"] == "out of sync" for f in editor.server.get("/edit")["findings"])
    editor.click("undo")
    until(lambda: shot_at(editor, start)["source"]["slip"] == 0, "in sync again")
    editor.choose_clip("Stairwell")
    editor.keys("B")
    editor.chord(Keys.SHIFT, key="b")
    until(lambda: shot_at(editor, start)["source"]["media"] == clip["id"], "a clip in the shot")
    editor.keys("]", "]")
    until(lambda: abs(shot_at(editor, start)["source"]["in_s"] - 2 / 24) < 1e-6, "two frames later")
    editor.keys("[")
    until(lambda: abs(shot_at(editor, start)["source"]["in_s"] - 1 / 24) < 1e-6, "one back")


def test_slots_are_made_and_filled_in_the_order_chosen(editor: Editor) -> None:
    outro = section(editor, "Outro")
    editor.seek(outro["start_s"] + 1.0)
    editor.click("passage")
    until(lambda: "Outro" in editor.find("passage-menu").text, "the passage")
    pick(editor, "Slots every", "every 2 beats")
    editor.click("make-slots")
    first = round(outro["start_s"] * 24)
    until(
        lambda: next(s for s in shots(editor) if s["start"] >= first)["source"]["kind"] == "empty",
        "empty slots",
    )
    empty = [s for s in shots(editor) if s["source"]["kind"] == "empty"]
    assert len(empty) >= 4
    editor.find("shot")
    names = ("Rope coil", "Bell buoy", "Wake")
    for name in names:
        picture = editor.find(f"clip-{name}").find_element(By.CSS_SELECTOR, "[data-testid=clip-picture]")
        editor.page.execute_script(
            "arguments[0].scrollIntoView({block: 'center', inline: 'center'})", picture
        )
        ActionChains(editor.page).key_down(Keys.CONTROL).click(picture).key_up(Keys.CONTROL).perform()
    editor.click("passage")
    until(lambda: "3 chosen" in editor.find("passage-menu").text, "three are chosen")
    editor.click("fill")
    media = {m["name"]: m["id"] for m in editor.server.get()["media"]}
    until(
        lambda: (
            [shot_at(editor, s["start"])["source"]["media"] for s in empty[:3]] == [media[n] for n in names]
        ),
        "filled in that order",
    )
    assert all(shot_at(editor, s["start"])["source"]["kind"] == "empty" for s in empty[3:])


def test_a_chorus_is_cut_as_another(editor: Editor) -> None:
    one, three = section(editor, "Chorus 1"), section(editor, "Chorus 3")
    editor.seek(three["start_s"] + 2.0)
    editor.click("passage")
    until(lambda: "Chorus 3" in editor.find("passage-menu").text, "the chorus")
    pick(editor, "Cut Chorus 3 as", "Chorus 1, the same music")

    def lane(of: dict[str, Any]) -> list[tuple[int, Any]]:
        first, end = round(of["start_s"] * 24), round(of["end_s"] * 24)
        return [
            (s["start"] - first, s["source"]["angle"]) for s in shots(editor) if first <= s["start"] < end
        ]

    until(lambda: [a for _, a in lane(three)] == [a for _, a in lane(one)], "the same angles")
    assert all(abs(a - b) <= 1 for (a, _), (b, _) in zip(lane(one), lane(three), strict=True))


def test_a_cut_is_played_over_while_it_is_moved(editor: Editor) -> None:
    editor.go("sheet")
    cut = shots(editor)[6]["start"]
    editor.seek(cut / 24 + 0.3)
    editor.keys("p", "g")
    until(lambda: editor.frame() < cut, "a bar before the cut")
    editor.keys(" ")
    editor.seek(cut / 24 + 0.3)
    editor.keys("p")
    editor.chord(Keys.ALT, key=Keys.ARROW_RIGHT)
    until(lambda: cut + 1 in [s["start"] for s in shots(editor)], "moved by a frame")
    editor.chord(Keys.ALT, key=Keys.ARROW_LEFT)
    until(lambda: cut in [s["start"] for s in shots(editor)], "and back")


def test_the_viewer_grows_with_the_window_and_its_border_is_kept(editor: Editor) -> None:
    def size(wide: int, high: int) -> int:
        metrics = {"width": wide, "height": high, "deviceScaleFactor": 1, "mobile": False}
        editor.page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        until(lambda: editor.page.execute_script("return innerWidth") == wide, "the window")
        time.sleep(0.3)
        return int(editor.page.find_element(By.ID, "programme").size["width"])

    small = size(1280, 800)
    assert size(1920, 1080) > 1.3 * small
    assert size(1280, 800) == small
    border = editor.find("border")
    ActionChains(editor.page).click_and_hold(border).move_by_offset(-90, 0).release().perform()
    until(lambda: editor.page.find_element(By.ID, "programme").size["width"] > small + 60, "larger")
    editor.go("sheet")
    until(lambda: editor.page.find_element(By.ID, "programme").size["width"] > small + 60, "and kept")
    ActionChains(editor.page).double_click(editor.find("border")).perform()
    until(lambda: abs(editor.page.find_element(By.ID, "programme").size["width"] - small) < 4, "as usual")
