"""Footage brought in and sent out in the real page: told apart, labelled, a logo placed, a passage out, another rate."""

import base64
import io
import shutil
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from PIL import Image, ImageDraw
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor

pytestmark = pytest.mark.browser

#: The logo's colour, and where of its picture it is opaque.
CORAL = (200, 67, 43)


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    shoot = own.data / "media" / "harbour"
    shoot.mkdir(parents=True, exist_ok=True)
    footage = own.data / "projects" / "lamp-room" / "media"
    for name in ("GAL_02", "LOFT_08"):
        shutil.copy(footage / f"{name}.mp4", shoot / f"new {name}.mp4")
    logo = Image.new("RGBA", (1920, 1080), (0, 0, 0, 0))
    ImageDraw.Draw(logo).rectangle((480, 270, 1440, 810), fill=(*CORAL, 255))
    logo.save(shoot / "new logo.png")
    made = Editor(page, own)
    made.go("lineup")
    yield made
    page.get("about:blank")


def media(editor: Editor, name: str) -> dict[str, Any]:
    return next(m for m in editor.server.get()["media"] if m["name"] == name)


def test_a_folder_is_told_apart_and_accepted_in_one_click(editor: Editor) -> None:
    editor.click("add-takes")
    editor.press('[data-testid="add-as"] .ant-segmented-item', "tell them apart")
    editor.press(".ant-modal button", "media", part=True)
    editor.press(".ant-modal button", "harbour", part=True)
    editor.press(".ant-modal button", "Choose all 3")
    editor.click("add-chosen")
    undecided = editor.find("undecided", 60)
    until(
        lambda: "does not hold it" in undecided.text and "being listened" not in undecided.text,
        "all heard",
        90,
    )
    assert media(editor, "new logo")["kind"] == "broll"
    assert "new LOFT_08" in undecided.text
    assert "1 of 2 added files hold the song" in undecided.text
    editor.press('[data-testid="accept-kinds"]')
    until(lambda: media(editor, "new LOFT_08")["kind"] == "broll", "it is B-roll")
    until(lambda: not any(m["undecided"] for m in editor.server.get()["media"]), "all are decided")
    assert media(editor, "new GAL_02")["kind"] == "take"


def test_marked_takes_are_named_and_get_a_day_together(editor: Editor) -> None:
    for name in ("DECK_04", "DECK_07"):
        row = next(r for r in editor.find("takes").find_elements(By.XPATH, "./*") if name in r.text)
        editor.page.execute_script(
            "arguments[0].click()", row.find_element(By.CSS_SELECTOR, "input[type=checkbox]")
        )
    editor.click("label-files")
    for field, text in (("name", "Ferry"), ("day", "2")):
        editor.find(f"label-{field}").send_keys(text)
    editor.click("label-give")
    until(
        lambda: {m["name"] for m in editor.server.get()["media"]} >= {"Ferry 1", "Ferry 2"}, "they are named"
    )
    assert media(editor, "Ferry 1")["said"]["tags"] == ["day: 2"]
    editor.server.send("/undo", {})


def pixel(editor: Editor, x: float, y: float) -> tuple[int, ...]:
    """A point of the programme, in shares of it."""
    png = base64.b64decode(editor.programme()["png"].split(",", 1)[1])
    image = np.asarray(Image.open(io.BytesIO(png)).convert("RGB"))
    return tuple(int(v) for v in image[int(y * image.shape[0]), int(x * image.shape[1])])


def near(colour: tuple[int, ...]) -> bool:
    return max(abs(a - b) for a, b in zip(colour, CORAL, strict=True)) < 30


def test_a_logo_lies_over_the_film_and_is_placed_and_sized_on_the_picture(editor: Editor) -> None:
    until(lambda: media(editor, "new logo")["prepared"], "its picture is ready", 60)
    editor.go("sheet")
    shot = editor.edit()["shots"][12]
    editor.seek(shot["start"] / 24 + 0.1)
    editor.choose_clip("new logo")
    editor.keys("b")
    over = until(lambda: next((c for c in editor.edit()["cutaways"] if c["source"]["media"] == media(editor, "new logo")["id"]), None), "laid over")  # fmt: skip
    editor.seek((over["start"] + 6) / 24)
    until(lambda: near(pixel(editor, 0.5, 0.5)), "it is seen")
    assert not near(pixel(editor, 0.1, 0.1)), "and through it the film"
    editor.press("[data-testid=cutaway]", "new logo", part=True)
    ActionChains(editor.page).click_and_hold(editor.find("place-corner")).move_by_offset(
        -110, -62
    ).release().perform()
    small = until(lambda: (f := media(editor, "new logo")["fit"])["how"] == "own" and f, "it is smaller")
    assert 0.3 < small["scale"] < 0.75
    ActionChains(editor.page).click_and_hold(editor.find("place-box")).move_by_offset(
        90, 50
    ).release().perform()
    placed = until(lambda: (p := media(editor, "new logo")["placed"])["x"] > 0.1 and p, "it is moved")
    until(lambda: near(pixel(editor, 0.5 + placed["x"], 0.5 + placed["y"])), "it is seen there")
    assert not near(pixel(editor, 0.3, 0.3))


#: Lets a file go over an element, as the system's own drag does.
DROPPED = """
const [target, name, bytes, x, y] = arguments;
const data = new DataTransfer();
data.items.add(new File([Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))], name));
const at = { bubbles: true, cancelable: true, clientX: x, clientY: y, dataTransfer: data };
for (const kind of ["dragenter", "dragover", "drop"]) target.dispatchEvent(new DragEvent(kind, at));
"""


def test_a_file_dropped_on_a_shot_is_taken_in_and_laid_there(editor: Editor) -> None:
    plate = editor.server.data / "media" / "harbour" / "net plate.png"
    Image.new("RGB", (320, 180), (40, 90, 60)).save(plate)
    shot = editor.edit()["shots"][2]
    editor.go("sheet")
    editor.seek(shot["start"] / 24 + 0.1)
    target = editor.element(f'[data-testid=shot][data-id="{shot["id"]}"]')
    box = target.rect
    editor.page.execute_script(
        DROPPED, target, plate.name, base64.b64encode(plate.read_bytes()).decode(),
        box["x"] + 12 - editor.page.execute_script("return scrollX"), box["y"] + box["height"] / 2,
    )  # fmt: skip

    def laid() -> bool:
        there = next((m for m in editor.server.get()["media"] if m["name"] == "net plate"), None)
        return bool(there) and any(s["source"].get("media") == there["id"] for s in editor.edit()["shots"])

    until(laid, "it is added, and laid once it can be read", 60)


def test_a_passage_is_sent_out_with_its_place(editor: Editor) -> None:
    first = editor.edit()["shots"][3]
    editor.seek(first["start"] / 24 + 0.1)
    editor.keys("i")
    editor.seek(first["start"] / 24 + 2.5)
    editor.keys("o")
    editor.click("passage")
    editor.click("send-passage")
    editor.click("send-it")
    sent = editor.server.data / "projects" / "lamp-room" / "sent"
    until(
        lambda: sent.is_dir() and list(sent.glob("*_p*.json")) and list(sent.glob("*_p*.mov")),
        "it is written",
        90,
    )


def test_another_rate_says_what_becomes_of_the_cuts_and_undo_brings_it_back(editor: Editor) -> None:
    before = editor.edit()
    editor.click("project")
    editor.find("project-rate").click()
    editor.press(".ant-select-item-option", "50")
    until(lambda: "stay on their beats" in editor.find("rate-change").text, "it is told before")
    assert editor.edit()["length"] == before["length"]
    editor.click("keep-project")
    until(lambda: editor.server.get()["rate_label"] == "50", "it is changed")
    after = editor.edit()
    assert len(after["shots"]) == len(before["shots"])
    assert abs(after["length"] / 50 - before["length"] / 24) < 0.05
    editor.keys(Keys.ESCAPE)
    editor.server.send("/undo", {})
    assert editor.edit()["shots"] == before["shots"]
