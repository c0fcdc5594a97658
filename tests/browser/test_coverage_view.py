"""Coverage in the real page: angles, alternates, selects by keyboard, a film split, a shot list, a file lost and found."""

import base64
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor
from zembi.demo.countmarks import read_count

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("coverage")
    yield made
    page.get("about:blank")


def angle_named(editor: Editor, name: str) -> dict[str, Any]:
    return next(a for a in editor.server.get()["angles"] if a["name"] == name)


def passes(editor: Editor, name: str) -> list[dict[str, Any]]:
    state = editor.server.get()
    media = next(m["id"] for m in state["media"] if m["name"] == name)
    return list(next(t for t in state["takes"] if t["media"] == media)["passes"])


def first(editor: Editor, css: str) -> WebElement:
    return until(lambda: next(iter(editor.page.find_elements(By.CSS_SELECTOR, css)), None), css)


def on_picture(editor: Editor, canvas: str) -> int | None:
    """The count of the frame that a canvas shows."""
    png = editor.page.execute_script(
        "return document.getElementById(arguments[0])?.toDataURL('image/png')", canvas
    )
    if not png:
        return None
    picture = Image.open(io.BytesIO(base64.b64decode(png.split(",")[1]))).convert("RGB")
    try:
        return read_count(np.asarray(picture))
    except ValueError:
        return None


def test_set_ups_of_one_camera_are_angles_of_their_own_with_the_reason(editor: Editor) -> None:
    angles = editor.server.get()["angles"]
    close = next(a for a in angles if a["id"] == passes(editor, "GAL_05")[0]["angle"])
    wide = angle_named(editor, "Gallery wide")
    assert close["id"] != wide["id"]
    assert wide["number"] == 1
    assert "tagged Gallery wide" in wide["because"]
    row = editor.find(f"angle-{close['number']}")
    assert close["name"] in row.text
    assert "1 pass" in row.text


def test_an_angle_is_merged_and_parted_again_by_undo(editor: Editor) -> None:
    before = editor.server.get()["angles"]
    close = next(a for a in before if a["id"] == passes(editor, "GAL_05")[0]["angle"])
    editor.press('[aria-label="Describe angle 1"]')
    editor.click("merge")
    editor.press(".ant-select-item-option", f"{close['number']} {close['name']}")
    until(lambda: len(editor.server.get()["angles"]) == len(before) - 1, "merged")
    assert passes(editor, "GAL_05")[0]["angle"] == before[0]["id"]
    editor.go("coverage")
    assert "Merge" in editor.server.get()["undo"]
    editor.click("undo")
    until(lambda: editor.server.get()["angles"] == before, "parted again")


@pytest.mark.clock
def test_alternates_play_in_step_and_the_better_one_is_circled_and_chosen(editor: Editor) -> None:
    editor.go("coverage")
    song = editor.server.get()["song"]
    verse = next(s for s in song["sections"] if s["name"] == "Verse 2")
    editor.seek((verse["start_s"] + verse["end_s"]) / 2)
    editor.click("compare")
    panel = editor.find("alternates")
    until(lambda: "Angle 1 in Verse 2" in panel.text, "the cell with most passes")
    until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "#alternate-picture-2"), "two pictures")
    # Both show the frame that belongs to the moment, each from its own take.
    shown = until(
        lambda: (
            [c for n in (1, 2) if (c := on_picture(editor, f"alternate-picture-{n}")) is not None]
            if all(on_picture(editor, f"alternate-picture-{n}") is not None for n in (1, 2))
            else None
        ),
        "both are drawn",
    )
    drawn = [
        int(editor.page.execute_script(f"return document.getElementById('alternate-picture-{n}').dataset.sourceFrame"))
        for n in (1, 2)
    ]  # fmt: skip
    assert shown == drawn
    editor.keys("2")
    until(
        lambda: any(f["pass_id"] == passes(editor, "GAL_02")[0]["id"] for f in editor.server.get()["feeds"]),
        "fed",
    )
    until(lambda: "feeds" in editor.find("alternate-GAL_02").text, "and said so")
    editor.keys("c")
    until(lambda: passes(editor, "GAL_02")[0]["verdict"] == "circled", "circled")
    until(lambda: editor.find("alternate-GAL_02").get_attribute("data-verdict") == "circled", "and drawn")
    word = editor.find("alternate-GAL_02").find_element(By.CSS_SELECTOR, "input[aria-label^='A word']")
    word.send_keys("best second line", Keys.ENTER)
    until(lambda: passes(editor, "GAL_02")[0]["note"] == "best second line", "noted")
    # Enter plays the section and space stops.
    ActionChains(editor.page).move_to_element(panel).perform()
    editor.page.execute_script("document.activeElement.blur()")
    was = editor.frame()
    editor.keys(Keys.ENTER)
    until(lambda: editor.frame() > was + 12, "it plays")
    editor.keys(" ")
    # Rejected, it is hidden and counted, and can be brought back.
    editor.keys("2", "x")
    until(lambda: passes(editor, "GAL_02")[0]["verdict"] == "rejected", "rejected")
    until(
        lambda: not editor.page.find_elements(By.CSS_SELECTOR, '[data-testid="alternate-GAL_02"]'), "hidden"
    )
    assert "1 rejected" in editor.find("angle-1").text
    editor.click("undo")
    until(lambda: passes(editor, "GAL_02")[0]["verdict"] == "circled", "brought back")
    # Arrows walk the cells.
    editor.keys(Keys.ARROW_RIGHT)
    until(lambda: "Angle 1 in Chorus 2" in editor.find("alternates").text, "the next section")
    editor.keys(Keys.ARROW_DOWN)
    until(lambda: "Angle 2 in Chorus 2" in editor.find("alternates").text, "the next angle")
    editor.keys(Keys.ESCAPE)
    editor.find("broll")


def test_a_hole_on_an_angle_says_what_could_fill_it(editor: Editor) -> None:
    editor.go("coverage")
    deck = angle_named(editor, "Ferry deck")
    gap = first(editor, f'[aria-label^="Hole on angle {deck["number"]} "]')
    assert "beat" in str(gap.get_attribute("title")) or "bar" in str(gap.get_attribute("title"))
    gap.click()
    panel = editor.find("fillers")
    until(lambda: "Gallery wide" in panel.text and "fills it" in panel.text, "an angle that covers it")
    cutaways = len(editor.edit()["cutaways"])
    button = until(
        lambda: next(iter(panel.find_elements(By.XPATH, ".//button[.='Lay over the hole']")), None), "a clip"
    )
    editor.page.execute_script("arguments[0].scrollIntoView({inline: 'center'})", button)
    button.click()
    until(lambda: len(editor.edit()["cutaways"]) == cutaways + 1, "laid")
    editor.click("undo")
    until(lambda: len(editor.edit()["cutaways"]) == cutaways, "taken off")


def selects(editor: Editor, name: str) -> list[dict[str, Any]]:
    state = editor.server.get()
    media = next(m["id"] for m in state["media"] if m["name"] == name)
    return sorted((s for s in state["selects"] if s["media"] == media), key=lambda s: float(s["in_s"]))


def look_frame(editor: Editor) -> int:
    return int(editor.find("look-picture").get_attribute("data-frame") or -1)


def look_at(editor: Editor, name: str) -> None:
    card = editor.find(f"clip-{name}").find_element(By.CSS_SELECTOR, "[data-testid=clip-picture]")
    editor.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", card)
    card.click()
    until(lambda: look_frame(editor) == 0, f"{name} is looked at")


def test_three_selects_are_kept_by_keyboard_alone_to_the_frame(editor: Editor) -> None:
    editor.go("coverage")
    look_at(editor, "Rope coil")
    rate, at = 25, 0
    for frames in (5, 10, 8):
        # A few frames on: in; some more: out; and keep.
        for n in range(frames):
            editor.keys(Keys.ARROW_RIGHT)
            until(lambda n=n, at=at: look_frame(editor) == at + n + 1, "a frame on")  # type: ignore[misc]
        start = look_frame(editor)
        editor.keys("i")
        for n in range(4):
            editor.keys(Keys.ARROW_RIGHT)
            until(lambda n=n, start=start: look_frame(editor) == start + n + 1, "a frame on")  # type: ignore[misc]
        at = look_frame(editor)
        editor.keys("o", Keys.ENTER)
        until(
            lambda start=start: any(round(s["in_s"] * rate) == start for s in selects(editor, "Rope coil")),
            "kept",
        )  # type: ignore[misc]
    kept = selects(editor, "Rope coil")
    assert [(round(s["in_s"] * rate), round(s["out_s"] * rate)) for s in kept] == [
        (5, 10),
        (19, 24),
        (31, 36),
    ]
    editor.keys("4")
    until(
        lambda: (
            next(m for m in editor.server.get()["media"] if m["name"] == "Rope coil")["said"]["rating"] == 4
        ),
        "rated",
    )
    # The next clip without leaving the keyboard, and back to all.
    editor.keys(Keys.ARROW_DOWN)
    until(lambda: "Stairwell" in editor.find("clip-look").text, "the next clip")
    editor.keys(Keys.ESCAPE)
    until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, '[data-testid="clip-Rope coil 2"]'),
        "its selects are cards",
    )
    # Laid from the sheet: the select's own range.
    editor.go("sheet")
    editor.choose_clip("Rope coil 2")
    editor.seek(30.0)
    editor.keys("B")
    assert "missing" in until(
        lambda: next(
            (
                e.text
                for e in editor.page.find_elements(By.CSS_SELECTOR, ".ant-message")
                if "missing" in e.text
            ),
            "",
        ),
        "five frames do not fill a shot",
    )


def test_a_still_is_moved_over_slowly_by_the_frames_laid_on_it(editor: Editor) -> None:
    editor.go("coverage")
    look_at(editor, "Chart photograph")
    fit = lambda: next(m for m in editor.server.get()["media"] if m["name"] == "Chart photograph")["fit"]  # noqa: E731
    editor.click("slow-move")
    until(lambda: fit()["to"] is not None, "a move is there")
    before = fit()["to"]
    end = editor.find("frame-end")
    ActionChains(editor.page).move_to_element(end).click_and_hold().move_by_offset(40, 30).release().perform()
    until(
        lambda: fit()["to"]["x"] > before["x"] and fit()["to"]["y"] > before["y"],
        "it ends farther right and down",
    )
    corner = editor.find("corner-end")
    ActionChains(editor.page).move_to_element(corner).click_and_hold().move_by_offset(
        -150, -80
    ).release().perform()
    until(lambda: fit()["to"]["scale"] > 1.4 * before["scale"], "and closer")
    assert (fit()["x"], fit()["y"], fit()["scale"]) == (0.5, 0.5, 1), "where it begins stays"
    editor.keys(Keys.SPACE)
    until(
        lambda: float(editor.find("look-picture").get_attribute("data-share") or 0) > 0.3,
        "it is shown moving",
    )
    editor.keys(Keys.SPACE)
    for _ in range(3):
        editor.chord(Keys.CONTROL, key="z")
    until(lambda: fit()["to"] is None, "three steps of undo")
    editor.keys(Keys.ESCAPE)


def test_clips_are_sifted_and_told_something_together(editor: Editor) -> None:
    editor.go("coverage")
    for name in ("Swell slow", "Wake"):
        picture = editor.find(f"clip-{name}").find_element(By.CSS_SELECTOR, "[data-testid=clip-picture]")
        editor.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", picture)
        ActionChains(editor.page).key_down(Keys.CONTROL).click(picture).key_up(Keys.CONTROL).perform()
    until(lambda: "2 chosen" in editor.find("together").text, "two are chosen")
    field = first(editor, 'input[aria-label="Tag to add"]')
    field.send_keys("place: open sea", Keys.ENTER)
    tagged = lambda: sorted(  # noqa: E731
        m["name"] for m in editor.server.get()["media"] if m["said"]["tags"] == ["place: open sea"]
    )
    until(lambda: tagged() == ["Swell slow", "Wake"], "both are tagged")
    words = first(editor, 'input[aria-label="Sift B-roll by words and tags"]')
    words.send_keys("open sea")
    until(
        lambda: len(editor.page.find_elements(By.CSS_SELECTOR, '[data-testid="broll"] [data-testid^="clip-"]:not([data-testid="clip-picture"])')) == 2,
        "only these are shown",
    )  # fmt: skip
    editor.click("undo")
    until(lambda: tagged() == [], "one undo for both")


def film_of_three(path: Path) -> None:
    """Three drawn places of 24, 30 and 20 frames."""
    rng = np.random.default_rng(3)
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        for length in (24, 30, 20):
            place = np.kron(rng.integers(0, 255, (9, 16, 3), np.uint8), np.ones((20, 20, 1), np.uint8))
            for _ in range(length):
                out.mux(video.encode(av.VideoFrame.from_ndarray(place, "rgb24")))
        out.mux(video.encode(None))


def add(editor: Editor, path: Path) -> None:
    editor.page.execute_async_script(
        "const done = arguments[1];"
        "fetch('/api/v1/projects/lamp-room/media', {method: 'POST', headers: {'content-type': 'application/json'},"
        " body: JSON.stringify({paths: [arguments[0]], kind: 'broll'})}).then(done)", str(path),
    )  # fmt: skip
    until(
        lambda: any(m["name"] == path.stem and m["prepared"] for m in editor.server.get()["media"]),
        f"{path.name} is prepared", 30,
    )  # fmt: skip


def test_finished_footage_is_split_at_its_cuts(editor: Editor) -> None:
    path = editor.server.data / "media" / "old film.mp4"
    film_of_three(path)
    add(editor, path)
    editor.go("coverage")
    look_at(editor, "old film")
    editor.click("film-cuts")
    editor.click("find-cuts")
    until(
        lambda: len(editor.page.find_elements(By.CSS_SELECTOR, '[data-testid="found-shot"]')) == 3,
        "its shots",
        30,
    )
    # A border is put right by a frame, then all are kept.
    editor.press('[aria-label="Border 1 a frame later"]')
    editor.click("keep-shots")
    until(lambda: len(selects(editor, "old film")) == 3, "three selects")
    kept = [(round(s["in_s"] * 25), round(s["out_s"] * 25)) for s in selects(editor, "old film")]
    assert kept == [(0, 25), (25, 54), (54, 74)]


def test_a_shot_list_is_ticked_off(editor: Editor) -> None:
    editor.go("coverage")
    panel = editor.find("shot-list")
    assert "1 never shot" in panel.text
    assert "1 not shot" in editor.find("badge-coverage").text
    row = editor.find("listed-hands on the lamp")
    assert "never shot" in row.text
    editor.click("tick-hands on the lamp")
    field = first(editor, 'input[aria-label="What shows hands on the lamp"]')
    field.send_keys("Stairwell", Keys.ENTER)
    until(lambda: "never shot" not in editor.find("listed-hands on the lamp").text, "ticked off")
    until(lambda: "not shot" not in editor.find("badge-coverage").text, "and counted")
    editor.click("undo")
    until(lambda: "never shot" in editor.find("listed-hands on the lamp").text, "and back")


def test_a_file_that_is_lost_is_said_so_and_found_again(editor: Editor) -> None:
    path = editor.server.data / "media" / "lost.mp4"
    film_of_three(path)
    with path.open("ab") as more:
        more.write(b"\0" * 32)
    add(editor, path)
    moved = path.parent / "card 2" / "found.mp4"
    moved.parent.mkdir()
    path.rename(moved)
    editor.go("coverage")
    until(lambda: "One file is not as added: lost" in editor.find("gone-files").text, "it is said")
    assert "offline" in editor.find("clip-lost").text
    editor.click("find-again")
    editor.press(".ant-modal button", "media")
    until(lambda: "card 2" in editor.element(".ant-modal").text, "is open")
    editor.click("take-place")
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, '[data-testid="gone-files"]'), "found again")
    assert next(m for m in editor.server.get()["media"] if m["name"] == "lost")["file"] == "found.mp4"


def test_nothing_was_complained_of(editor: Editor) -> None:
    severe = [e for e in editor.page.get_log("browser") if e["level"] == "SEVERE"]
    # A refused operation is an answer, not a fault: the five frames that did not fill a shot.
    assert [e["message"] for e in severe if "409 (Conflict)" not in e["message"]] == []
