"""The Line-up view in the real page: doubt is settled, a wrong take is put right by hand, and the lips are checked.

The truth is in the pictures: every frame of the demo footage carries its count.
"""

import base64
import io
import urllib.request
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import RATE, Editor
from zembi.core.timebase import frame_on_display
from zembi.demo.countmarks import read_count
from zembi.demo.footage import TAKES
from zembi.media.probe import frame_times

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("lineup")
    yield made
    # The page is left before its server ends, so that it does not complain of that.
    page.get("about:blank")


def take(editor: Editor, name: str) -> dict[str, Any]:
    state = editor.server.get()
    media = next(m["id"] for m in state["media"] if m["name"] == name)
    return next(t for t in state["takes"] if t["media"] == media)


def take_time(name: str, song_s: float) -> float:
    """The take time at which a song time was filmed, by the plan of the footage."""
    plan = next(t for t in TAKES if t.name == name)
    times = np.arange(0, plan.seconds, 0.001)
    songs = np.array([v if (v := plan.song_time(t)) is not None else np.inf for t in times])
    return float(times[int(np.argmin(np.abs(songs - song_s)))])


def drawn_count(editor: Editor, canvas: str) -> tuple[int, int | None]:
    """The programme frame that a live picture shows, and the count in what is drawn."""
    seen = editor.page.execute_script(
        "const c = document.getElementById(arguments[0]);"
        "return c && {frame: c.dataset.frame, png: c.toDataURL('image/png')};", canvas,
    )  # fmt: skip
    if not seen:
        return -1, None
    picture = Image.open(io.BytesIO(base64.b64decode(seen["png"].split(",")[1])))
    return int(seen["frame"] or -1), read_count(np.asarray(picture.convert("RGB")))


def lips_match(editor: Editor, name: str, canvas: str) -> None:
    """The frame drawn at the playhead is the one filmed at that song time, to within one frame."""
    file = next(m for m in editor.server.get()["media"] if m["name"] == name)
    times = frame_times(Path(file["folder"]) / file["file"]).times

    def right() -> bool:
        frame, count = drawn_count(editor, canvas)
        if count is None or frame != editor.frame():
            return False
        middle = float((frame + 0.5) / RATE)
        return abs(count - frame_on_display(times, take_time(name, middle))) <= 1

    until(right, f"{name} shows the frame filmed at the playhead", 20)


def rows(editor: Editor) -> list[str]:
    found = editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=takes] [data-testid^=take-]")
    return [str(e.get_attribute("data-testid")).removeprefix("take-") for e in found]


def test_the_doubtful_ones_come_first_and_can_be_sifted(editor: Editor) -> None:
    until(lambda: len(rows(editor)) == 11, "all takes are listed")
    first = rows(editor)[:3]
    assert set(first) == {"LAMP_03", "HIGH_02", "LOFT_08"}
    editor.click("sieve-status")
    editor.press(".ant-select-item", "not locked")
    until(lambda: set(rows(editor)) == set(first), "only what is open is listed")


def test_an_ambiguous_take_is_chosen_by_what_the_slate_says(editor: Editor) -> None:
    editor.click("take-LAMP_03")
    assert "fits 2 places equally well" in editor.find("bench").text
    slate = editor.find("slate")
    slate.click()
    slate.send_keys("ch1 tk3", Keys.ENTER)
    until(lambda: "the slate note says Chorus 1" in editor.find("bench").text, "the note is evidence")
    assert take(editor, "LAMP_03")["status"] == "choose"
    editor.click("lock-place-1")
    until(lambda: take(editor, "LAMP_03")["status"] == "locked", "the take is locked")
    (p,) = take(editor, "LAMP_03")["passes"]
    for at in (p["song_start_s"] + 0.5, p["song_end_s"] - 0.5):
        editor.seek(at)
        lips_match(editor, "LAMP_03", "bench-picture")


def test_a_silent_take_is_confirmed_where_the_clock_puts_it(editor: Editor) -> None:
    editor.go("lineup")
    editor.click("take-HIGH_02")
    assert "GAL_01 ran at the same time by timecode" in editor.find("bench").text
    editor.click("lock-here")
    until(lambda: take(editor, "HIGH_02")["status"] == "locked", "confirmed")
    for at in (8.5, 15.5):
        editor.seek(at)
        lips_match(editor, "HIGH_02", "bench-picture")


def stroke(editor: Editor, name: str, beat: int) -> None:
    """Make a pair: click a beat in the take's sound, put the playhead on the same beat of the song, keep it."""
    song = editor.server.get()["song"]
    at = take_time(name, song["beats"][beat])
    seconds = next(m["seconds"] for m in editor.server.get()["media"] if m["name"] == name)
    rail = editor.find("bench").find_element(By.CSS_SELECTOR, "[data-testid=by-hand] .ant-slider")
    across = rail.size["width"]
    ActionChains(editor.page).move_to_element_with_offset(
        rail, round(at / seconds * across - across / 2), 0
    ).click().perform()
    handle = rail.find_element(By.CSS_SELECTOR, "[role=slider]")
    shown = float(handle.get_attribute("aria-valuenow") or "nan")
    assert abs(shown - at) < 5
    start = min(max(0.0, shown - 10), seconds - 20)
    wave = editor.find("by-hand-wave")
    x = (at - start) / 20 * wave.size["width"] - wave.size["width"] / 2
    ActionChains(editor.page).move_to_element_with_offset(wave, round(x), 0).click().perform()
    editor.seek(song["beats"][beat])
    # The first arrow leaves the slider's handle alone: the page has the keys once the strip was clicked.
    before = len(editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=pair]"))
    editor.click("keep-pair")
    until(
        lambda: len(editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=pair]")) == before + 1,
        "the pair is kept",
    )


def test_a_wrong_take_is_put_right_by_two_points(editor: Editor) -> None:
    editor.go("lineup")
    editor.click("take-GAL_02")
    cuts = [s["start"] for s in editor.edit()["shots"]]
    moved = editor.find("moved")
    field = moved if moved.tag_name == "input" else moved.find_element(By.CSS_SELECTOR, "input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("5000", Keys.ENTER)
    until(
        lambda: take(editor, "GAL_02")["passes"][0]["moved_ms"] == pytest.approx(5000, abs=0.1),
        "wrong by five seconds",
    )
    editor.click("mark-both")
    beats = editor.server.get()["song"]["beats"]
    head = next(i for i, b in enumerate(beats) if b > 48)
    tail = next(i for i, b in enumerate(beats) if b > 92)
    stroke(editor, "GAL_02", head)
    stroke(editor, "GAL_02", tail)
    editor.click("lock-by-hand")
    until(lambda: abs(take(editor, "GAL_02")["passes"][0]["moved_ms"]) < 100, "put right")
    (p,) = take(editor, "GAL_02")["passes"]
    assert (p["status"], p["origin"]) == ("locked", "by hand")
    for at in (45.0, 95.0):
        editor.seek(at)
        lips_match(editor, "GAL_02", "bench-picture")
    assert [s["start"] for s in editor.edit()["shots"]] == cuts, "no cut moved"
    editor.click("revert")
    until(lambda: take(editor, "GAL_02")["passes"][0]["moved_ms"] == 0, "back as found")


def test_all_takes_of_a_moment_move_as_one(editor: Editor) -> None:
    editor.go("lineup")
    editor.click("watch-together")
    editor.seek(70.0)
    names = ("GAL_01", "GAL_02", "LAMP_01", "DECK_04", "DECK_07", "PHONE_11", "LOFT_07")
    until(lambda: "7 takes at the playhead" in editor.find("wall").text, "seven takes have picture here")
    for name in names:
        lips_match(editor, name, f"lip-{name}")
    editor.element("#lip-LAMP_01").click()
    until(lambda: "LAMP_01" in editor.find("bench").text, "its bench opens")


def test_marked_takes_are_opened_and_locked_together(editor: Editor) -> None:
    for name in ("GAL_01", "LOFT_07"):
        editor.find(f"take-{name}").find_element(By.CSS_SELECTOR, "input").click()
    assert "2 marked" in editor.find("batch").text
    editor.click("batch-unlock")
    until(lambda: take(editor, "LOFT_07")["status"] == "choose", "unlocked")
    editor.click("batch-accept")
    until(lambda: take(editor, "GAL_01")["status"] == take(editor, "LOFT_07")["status"] == "locked", "locked")
    editor.click("undo")
    until(lambda: take(editor, "GAL_01")["status"] == "choose", "undone as one")
    editor.click("undo")
    until(lambda: take(editor, "GAL_01")["status"] == "locked", "and before that")


def test_the_line_up_is_written_and_fetched(editor: Editor) -> None:
    editor.click("lineup-files")
    editor.click("lineup-out")
    editor.click("lineup-files")

    def address() -> str | None:
        found = editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=lineup-get]")
        return found[0].get_attribute("href") if found else None

    url = until(address, "the files are there", 60)
    with urllib.request.urlopen(url) as answer:
        names = zipfile.ZipFile(io.BytesIO(answer.read())).namelist()
    assert {n.split("/")[-1] for n in names} >= {
        "passes.csv",
        "passes.json",
        "lineup.otio",
        "GAL_01.wav",
        "DECK_04.wav",
    }


def placed(editor: Editor, pass_id: int, **body: Any) -> None:
    editor.server.send(f"/lineup/passes/{pass_id}", body, "PATCH")


def test_a_song_cut_on_set_is_seen_moved_and_offered_as_a_cutdown(editor: Editor) -> None:
    starts = {s["name"]: s["start_s"] for s in editor.server.get()["song"]["sections"]}
    for name in ("LAMP_01", "LOFT_07"):
        (row,) = take(editor, name)["passes"]
        at = row["take_start_s"] + (starts["Verse 2"] - row["song_start_s"]) / row["rate"]
        placed(editor, row["id"], action="split", seconds=at)
        second = take(editor, name)["passes"][1]
        placed(editor, second["id"], action="place", song_start_s=starts["Chorus 2"])
    editor.go("lineup")
    editor.click("take-LAMP_01")
    assert editor.find("joint-words").text == "bars 21 to 28 left out between pass 1 and 2"
    assert editor.find("agreed-cut").text.startswith("LAMP_01 and LOFT_07 leave out bars 21 to 28.")

    def joint() -> float:
        first, second = take(editor, "LAMP_01")["passes"]
        assert first["take_end_s"] == second["take_start_s"]
        line = second["song_start_s"] - second["rate"] * second["take_start_s"]
        assert abs(line + second["rate"] * on_beat - starts["Chorus 2"]) < 1e-6, "it stays on its line"
        return float(first["take_end_s"])

    on_beat = take(editor, "LAMP_01")["passes"][0]["take_end_s"]
    editor.click("joint-on")
    until(lambda: abs(joint() - on_beat - 1 / RATE) < 1e-6, "the joint is a frame later")
    editor.click("joint-on-beat")
    until(lambda: abs(joint() - on_beat) < 1e-3, "it is on the beat again")
    editor.click("hear-joint")
    editor.click("leave-out-too")
    (left_out,) = until(lambda: editor.server.get()["left_out"], "it is left out of the film")
    assert abs(left_out["start_s"] - starts["Verse 2"]) < 0.01
    assert abs(left_out["end_s"] - starts["Chorus 2"]) < 0.01
    until(
        lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=agreed-cut]"), "no more offered"
    )
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: editor.find("agreed-cut"), "taken back, offered again")


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    severe = [e for e in editor.page.get_log("browser") if e["level"] == "SEVERE"]
    assert not [e for e in severe if "favicon" not in e["message"]], severe
