"""Clips on the Sheet in the real page: the bench, each way of laying by key and by drag, slipping, the drawer, an assembly."""

import shutil
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
    slots(own)
    made = Editor(page, own)
    made.go("sheet")
    yield made
    page.get("about:blank")


@pytest.fixture(autouse=True)
def _slots_again(editor: Editor) -> Iterator[None]:
    """Each test begins with an empty slot in each bar, and with nothing kept of how clips are laid."""
    there = {c["id"] for c in editor.edit()["cutaways"]}
    yield
    ActionChains(editor.page).release().perform()
    editor.page.execute_script("localStorage.removeItem('zembi.laying')")
    for cutaway in editor.edit()["cutaways"]:
        if cutaway["id"] not in there:
            editor.server.send("/edits/1", {"op": "take off", "item": cutaway["id"]})
    slots(editor.server)
    editor.go("sheet")
    editor.find("clip-drawer")


def slots(server: Server, every: str = "bar") -> None:
    server.send("/edits/1", {"op": "make slots", "first": 0, "end": server.get()["length"], "every": every})


def media(editor: Editor, name: str) -> dict[str, Any]:
    return next(m for m in editor.server.get()["media"] if m["name"] == name)


def clips(editor: Editor) -> dict[int, dict[str, Any]]:
    """What is laid on the base lane, by its first frame."""
    return {s["start"]: s for s in editor.edit()["shots"] if s["source"]["kind"] == "clip"}


def ghost(editor: Editor) -> WebElement:
    return editor.find("ghost")


def open_bench(editor: Editor, name: str) -> WebElement:
    editor.choose_clip(name)
    editor.keys(Keys.ENTER)
    return editor.find("clip-bench")


def bar_frame(editor: Editor, bar: int) -> int:
    song = editor.server.get()["song"]
    return int(song["beat_frames"][song["bars"][bar - song["first_bar"]]])


def at_bar(editor: Editor, bar: int, on: float = 0.5) -> int:
    """Put the playhead into a bar; its first frame."""
    frame = bar_frame(editor, bar)
    editor.seek(frame / 24 + on)
    return frame


def test_the_bench_plays_a_clip_and_keeps_its_range_with_it(editor: Editor) -> None:
    bench = open_bench(editor, "Wake")
    assert "Wake" in bench.text
    editor.keys(" ")
    until(lambda: float(bench.text.split(" of ")[0].split()[-1]) > 0.6, "it plays")
    editor.keys("k")
    editor.keys("i")
    in_s = until(lambda: media(editor, "Wake")["select_in_s"], "in is kept")
    assert in_s > 0.4
    for _ in range(12):
        editor.keys(Keys.ARROW_RIGHT)
    editor.keys("o")
    until(lambda: media(editor, "Wake")["select_out_s"] < media(editor, "Wake")["seconds"], "out is kept")
    out_s = media(editor, "Wake")["select_out_s"]
    rate = float(media(editor, "Wake")["rate"])
    assert out_s - in_s == pytest.approx(13 / rate, abs=0.5 / rate)
    editor.keys("m")
    until(lambda: media(editor, "Wake")["said"]["moment_s"], "its moment is kept")
    # Another clip and back, and after a reload: the range is as it was set.
    editor.keys(Keys.ARROW_UP)
    until(lambda: "Wake" not in editor.find("clip-bench").text, "another clip")
    editor.keys(Keys.ARROW_DOWN)
    until(lambda: "Wake" in editor.find("clip-bench").text, "Wake again")
    editor.page.refresh()
    again = open_bench(editor, "Wake")
    assert float(again.get_attribute("data-in") or 0) == pytest.approx(in_s, abs=1e-3)
    assert float(again.get_attribute("data-out") or 0) == pytest.approx(out_s, abs=1e-3)
    # Escape gives the keys back to the song, and again closes it.
    editor.keys(Keys.ESCAPE)
    before = editor.frame()
    editor.keys(Keys.ARROW_RIGHT)
    until(lambda: editor.frame() == before + 1, "the song has the keys")
    editor.keys(Keys.ESCAPE)
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=clip-bench]"), "closed")


@pytest.mark.parametrize(("keys", "way"), [
    (("B",), "into"), (("u",), "next"), (("U",), "own"), (("b",), "over"),
])  # fmt: skip
def test_what_the_ghost_shows_is_what_comes(editor: Editor, keys: tuple[str, ...], way: str) -> None:
    editor.choose_clip("Swell slow")
    editor.keys(Keys.ENTER)
    at_bar(editor, 12)
    hover = editor.find(f"lay-{way}")
    ActionChains(editor.page).move_to_element(hover).perform()
    until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=ghost]"), "the ghost")
    until(lambda: "over" in (ghost(editor).get_attribute("class") or "") or way != "over", "its lane")
    words = until(lambda: editor.find("ghost-words").text, "its words")
    place = (
        int(ghost(editor).get_attribute("data-first") or 0),
        int(ghost(editor).get_attribute("data-end") or 0),
    )
    assert f"{place[1] - place[0]} f from" in words
    before = {
        i["id"]
        for kind in ("shots", "cutaways")
        for i in editor.edit()[kind]
        if i["source"]["kind"] == "clip"
    }
    editor.keys(*keys)

    def made() -> list[dict[str, Any]]:
        edit = editor.edit()
        items = edit["cutaways"] if way == "over" else edit["shots"]
        return [i for i in items if i["source"]["kind"] == "clip" and i["id"] not in before]

    (item,) = until(made, "it is laid")
    assert (item["start"], item["end"]) == place
    assert item["source"]["media"] == media(editor, "Swell slow")["id"]


def test_clips_in_a_row_take_a_key_each(editor: Editor) -> None:
    editor.choose_clip("Beam turn")
    editor.click("then-next")
    first = at_bar(editor, 20)
    for n in range(3):
        until(lambda n=n: editor.frame() >= bar_frame(editor, 20 + n), "the playhead goes on")  # type: ignore[misc]
        editor.keys("B")
        until(lambda n=n: bar_frame(editor, 20 + n) in clips(editor), f"clip {n}")  # type: ignore[misc]
    laid = [clips(editor)[bar_frame(editor, 20 + n)] for n in range(3)]
    assert laid[0]["start"] == first
    assert len({s["source"]["media"] for s in laid}) == 3
    until(lambda: editor.frame() == bar_frame(editor, 23), "at the next slot")


def test_a_clip_too_short_offers_what_helps(editor: Editor) -> None:
    slots(editor.server, "2 bars")
    editor.page.refresh()
    open_bench(editor, "Gulls over stern")
    frame = at_bar(editor, 9)
    until(lambda: "f short" in editor.find("ghost-words").text, "it is told")
    editor.click("slow-to-fit")
    shot = until(lambda: clips(editor).get(frame), "laid slower")
    assert shot["source"]["speed"] < 1
    assert shot["end"] == bar_frame(editor, 11)


DROP = """
const [card, row, x, y, shift] = arguments, data = new DataTransfer();
const fire = (target, type) => {
  const box = row.getBoundingClientRect();
  const event = new DragEvent(type, {
    bubbles: true, cancelable: true, dataTransfer: data, clientX: box.left + x, clientY: box.top + y, shiftKey: shift,
  });
  target.dispatchEvent(event);
  return event.defaultPrevented;
};
if (arguments[5] !== "drop") { fire(card, "dragstart"); window.carried = data; return fire(row, "dragover"); }
const box = row.getBoundingClientRect();
row.dispatchEvent(new DragEvent("drop", {
  bubbles: true, cancelable: true, dataTransfer: window.carried, clientX: box.left + x, clientY: box.top + y, shiftKey: shift,
}));
card.dispatchEvent(new DragEvent("dragend", { bubbles: true, dataTransfer: window.carried }));
"""


@pytest.mark.parametrize("over", [False, True])
def test_a_card_is_dropped_on_a_slot_or_over_it(editor: Editor, over: bool) -> None:
    frame = at_bar(editor, 13)
    card = editor.find("clip-Bell buoy")
    slot = editor.element(f'[data-testid=shot][data-start="{frame}"]')
    lane = slot.find_element(By.XPATH, "../..")
    x = slot.rect["x"] - lane.rect["x"] + 4
    y = 25 if over else slot.rect["y"] - lane.rect["y"] + 20
    assert editor.page.execute_script(DROP, card, lane, x, y, False, "over") is True
    until(lambda: int(ghost(editor).get_attribute("data-first") or 0) == frame, "the ghost is there")
    editor.page.execute_script(DROP, card, lane, x, y, False, "drop")

    def made() -> list[tuple[int, int]]:
        items = editor.edit()["cutaways" if over else "shots"]
        return [
            (i["start"], i["end"]) for i in items if i["source"]["media"] == media(editor, "Bell buoy")["id"]
        ]

    assert until(made, "it is laid") == [(frame, bar_frame(editor, 14))]


def test_a_picture_dragged_along_slips_by_its_frames(editor: Editor) -> None:
    editor.choose_clip("Swell slow")
    frame = at_bar(editor, 13)
    editor.keys("B")
    shot = until(lambda: clips(editor).get(frame), "laid")
    picture = until(
        lambda: editor.page.find_elements(
            By.CSS_SELECTOR, f'[data-testid=shot][data-start="{frame}"] .still'
        ),
        "its picture",
    )[0]
    ActionChains(editor.page).move_to_element(picture).click_and_hold().move_by_offset(-40, 0).perform()
    shown = editor.find("slip-frames")
    by = int(shown.get_attribute("data-by") or 0)
    assert by > 5
    assert f"+{by} f" in shown.text
    ActionChains(editor.page).release().perform()
    until(lambda: clips(editor)[frame]["source"]["in_s"] != shot["source"]["in_s"], "slipped")
    moved = clips(editor)[frame]["source"]["in_s"] - shot["source"]["in_s"]
    assert moved == pytest.approx(by / 24 * shot["source"]["speed"], abs=1e-6)
    assert clips(editor)[frame]["end"] == shot["end"]
    editor.keys("[")
    until(lambda: clips(editor)[frame]["source"]["in_s"] < shot["source"]["in_s"] + moved, "and by its key")


def test_the_drawer_sifts_numbers_what_is_chosen_and_tells_where_it_is_laid(editor: Editor) -> None:
    for name in ("Wake", "Stairwell"):
        card = editor.find(f"clip-{name}").find_element(By.CSS_SELECTOR, "[data-testid=clip-picture]")
        editor.page.execute_script("arguments[0].scrollIntoView({block: 'center', inline: 'center'})", card)
        ActionChains(editor.page).key_down(Keys.CONTROL).click(card).key_up(Keys.CONTROL).perform()
    until(lambda: "2 chosen in order" in editor.find("clip-drawer").text, "two are chosen")
    assert editor.find("clip-Wake").text.split()[0] == "1"
    assert editor.find("clip-Stairwell").text.split()[0] == "2"
    editor.click("fill-slots")
    until(lambda: len(clips(editor)) == 2, "filled in the order")
    assert [s["source"]["media"] for s in clips(editor).values()] == [
        media(editor, name)["id"] for name in ("Wake", "Stairwell")
    ]
    field = editor.find("sift-words")
    field.send_keys("stairw")
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid='clip-Wake']"), "sifted")
    uses = editor.find("clip-Stairwell").find_element(By.CSS_SELECTOR, "[data-testid=uses]")
    assert uses.text == "1×"
    uses.click()
    until(lambda: editor.frame() == list(clips(editor))[1], "the playhead is there")


def test_the_shot_list_is_laid_as_a_first_cut(editor: Editor) -> None:
    before = {s["start"] for s in editor.edit()["shots"]}
    editor.go("coverage")
    editor.click("assemble")
    until(lambda: "shots" in editor.find("assembly").text, "it is seen before")
    assert {s["start"] for s in editor.edit()["shots"]} == before
    planned = [s["what"] for s in editor.server.get()["shot_list"] if not s["done"] and not s["by_tag"]]
    editor.click("lay-assembly")
    words = until(
        lambda: {s["source"]["words"] for s in editor.edit()["shots"]} - {""},
        "slots that say what was planned",
    )
    assert words <= set(planned)
    editor.find("clip-drawer")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: {s["start"] for s in editor.edit()["shots"]} == before, "one undo takes it back")


def lay(editor: Editor, frame: int, name: str) -> dict[str, Any]:
    """Lay a clip into the slot that begins at a frame, whatever range of it was kept."""
    clip = media(editor, name)
    editor.server.send(f"/media/{clip['id']}", {"select": [0.0, clip["seconds"]]}, "PATCH")
    shot = next(s for s in editor.edit()["shots"] if s["start"] == frame)
    editor.server.send("/edits/1", {"op": "lay", "item": shot["id"], "media": clip["id"]})
    return shot


def test_a_shot_dragged_onto_another_changes_places_with_it(editor: Editor) -> None:
    first, second = bar_frame(editor, 5), bar_frame(editor, 7)
    for frame, name in ((first, "Wake"), (second, "Stairwell")):
        lay(editor, frame, name)
    editor.go("sheet")
    at_bar(editor, 5)

    def cell(frame: int) -> WebElement:
        return editor.element(f'[data-testid=shot][data-start="{frame}"]')

    def held(frame: int) -> ActionChains:
        body = cell(frame)
        # Beside its picture, which slips where it is dragged.
        x = body.size["width"] // 2 - 12
        return ActionChains(editor.page).move_to_element_with_offset(body, x, 0).click_and_hold()

    held(first).move_to_element(cell(second)).perform()
    assert "change places" in editor.find("carried").text
    assert list(clips(editor)) == [first, second], "nothing is done before it is let go"
    ActionChains(editor.page).release().perform()
    names = [media(editor, n)["id"] for n in ("Stairwell", "Wake")]
    until(lambda: [s["source"]["media"] for s in clips(editor).values()] == names, "swapped")
    # Let go where it began, it stays.
    before = editor.edit()["version"]
    held(first).move_by_offset(0, 30).move_by_offset(0, -30).release().perform()
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=carried]"), "let go")
    assert editor.edit()["version"] == before


def test_places_and_lengths_are_typed(editor: Editor) -> None:
    editor.keys("w")
    editor.find("go-to").send_keys("nowhere" + Keys.ENTER)
    until(lambda: "no such bar" in editor.page.find_element(By.TAG_NAME, "body").text, "it is told")
    editor.find("go-to").send_keys(Keys.CONTROL, "a")
    editor.find("go-to").send_keys("12.3" + Keys.ENTER)
    until(lambda: editor.find("bar-beat").text == "12.3", "there")
    start, end = bar_frame(editor, 12), bar_frame(editor, 13)
    editor.click("type-length")
    editor.find("typed-length").send_keys("3 beats" + Keys.ENTER)

    def ends() -> int:
        return int(next(s["end"] for s in editor.edit()["shots"] if s["start"] == start))

    until(lambda: ends() != end, "shorter")
    song = editor.server.get()["song"]
    assert ends() == song["beat_frames"][song["bars"][12 - song["first_bar"]] + 3]
    editor.click("type-out")
    editor.find("typed-out").send_keys("13" + Keys.ENTER)
    until(lambda: ends() == end, "until the bar again")


def test_another_clip_is_offered_with_its_reason(editor: Editor) -> None:
    frame = at_bar(editor, 12)
    shot = lay(editor, frame, "Wake")
    editor.go("sheet")
    at_bar(editor, 12)
    editor.click("shot-menu")
    editor.press(".ant-dropdown-menu-item", "Another clip in its place…")
    offered = until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=next-best-one]"),
        "others are offered",
    )
    told = editor.server.get(f"/edits/1/next-best/{shot['id']}")
    assert [o.text.split("\n")[0].split(" from ")[0] for o in offered] == [t["name"] for t in told][
        : len(offered)
    ]
    assert all(t["media"] != media(editor, "Wake")["id"] for t in told)
    offered[0].click()
    until(lambda: clips(editor)[frame]["source"]["media"] == told[0]["media"], "the best of them is laid")


def test_a_folder_is_chosen_with_all_below_it(editor: Editor) -> None:
    shoot = editor.server.data / "media" / "shoot" / "day 1"
    shoot.mkdir(parents=True)
    clip = next((editor.server.data / "projects").glob("*/media/Bell_buoy.mp4"))
    for name in ("A001.mp4", "A002.mp4"):
        shutil.copy(clip, shoot / name)
    before = len(editor.server.get()["media"])
    editor.go("coverage")
    editor.click("add-broll")
    editor.press(".ant-modal .ant-list-item button", "media")
    whole = editor.find("whole-folder")
    row = whole.find_element(By.XPATH, "ancestor::*[contains(@class, 'ant-list-item')]")
    assert "all 2" in row.text
    whole.click()
    until(lambda: "Add 2 files" in editor.find("add-chosen").text, "both are chosen")
    editor.click("add-chosen")
    until(lambda: len(editor.server.get()["media"]) == before + 2, "both are there")
