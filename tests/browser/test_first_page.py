"""The first page, files dropped on a view, and the whole song in one pane."""

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor

DROP = """
const carried = new DataTransfer();
for (const [name, size] of arguments[0]) carried.items.add(new File([new Uint8Array(size)], name));
for (const type of arguments[1])
  document.body.dispatchEvent(new DragEvent(type, { dataTransfer: carried, bubbles: true, cancelable: true }));
"""


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    yield Editor(page, own)
    page.get("about:blank")


def test_the_list_says_how_far_a_project_is_and_goes_to_each_step(editor: Editor) -> None:
    editor.page.get(editor.server.url)
    until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "nav[aria-label='Steps of Lamp Room']"),
        "its steps",
    )
    steps = editor.element("nav[aria-label='Steps of Lamp Room']")
    badges = editor.server.get()["badges"]
    assert steps.text.split("\n") == [
        "Song", badges["song"], "Line-up", badges["lineup"], "Coverage", badges["coverage"], "Sheet", badges["sheet"],
        "Hand-off", badges["handoff"],
    ]  # fmt: skip
    assert not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=demo]"), "the demo is there already"
    steps.find_elements(By.TAG_NAME, "a")[3].click()
    editor.find("row-1")


def test_the_whole_song_is_seen_at_once(editor: Editor) -> None:
    editor.go("sheet")
    editor.find("row-1")
    whole = [
        e for e in editor.page.find_elements(By.CSS_SELECTOR, ".ant-segmented-item") if e.text == "whole song"
    ]
    whole[0].click()
    rows = [f"row-{p['first_bar']}" for p in editor.server.get()["song"]["phrases"]]
    until(
        lambda: len(editor.page.find_elements(By.CSS_SELECTOR, "[data-testid^='row-']")) == len(rows),
        "all rows",
    )
    pane = editor.find("rows").rect
    for row in rows:
        box = editor.find(row).rect
        assert pane["y"] - 1 <= box["y"]
        assert box["y"] + box["height"] <= pane["y"] + pane["height"] + 1
    fits = "const e = arguments[0]; return e.scrollHeight <= e.clientHeight"
    assert editor.page.execute_script(fits, editor.find("rows"))


def drop(editor: Editor, files: list[tuple[str, int]], *events: str) -> None:
    editor.page.execute_script(DROP, json.loads(json.dumps(files)), events)


def test_dropped_footage_is_added_from_its_media_folder_or_copied_once_agreed(
    editor: Editor, tmp_path: Path
) -> None:
    known = editor.server.data / "media" / "harbour.mp4"
    clip = next((editor.server.data / "projects" / "lamp-room" / "media").glob("Gulls*.mp4"))
    known.write_bytes(clip.read_bytes())
    editor.go("coverage")
    drop(editor, [("x.mp4", 3)], "dragover")
    assert editor.find("drop-here").text == "Let go to add B-roll"
    drop(editor, [("harbour.mp4", known.stat().st_size), ("strange.mp4", 5)], "dragover", "drop")
    until(
        lambda: any(m["name"] == "harbour" for m in editor.server.get()["media"]), "it is added by reference"
    )
    added = next(m for m in editor.server.get()["media"] if m["name"] == "harbour")
    assert (added["kind"], added["folder"]) == ("broll", str(known.parent))
    copy = editor.find("copy-dropped")
    until(lambda: copy.text == "Copy strange.mp4 into the project", "it is asked")
    assert not any("strange" in m["name"] for m in editor.server.get()["media"])
    copy.click()
    # Five zero bytes are no picture: it is copied, looked at, and says so on its card.
    until(
        lambda: next((m for m in editor.server.get()["media"] if m["name"] == "strange"), {}).get("error"),
        "the copied file is looked at",
        30,
    )
