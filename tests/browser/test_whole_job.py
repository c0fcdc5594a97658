"""The whole job in the real page: from opening the demo to a downloaded film, checked in data and in pictures.

The tests run in order, as an editor works; each begins where the one before ended.
"""

import json
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import RATE, Editor
from tests.media.films import counts
from zembi.core.timebase import frame_at
from zembi.demo.footage import TAKES

pytestmark = [pytest.mark.browser, pytest.mark.clock]


@pytest.fixture(scope="module")
def editor(page: Driver, server: Server) -> Editor:
    return Editor(page, server)


def test_the_demo_is_opened_from_the_list(editor: Editor) -> None:
    editor.page.get(editor.server.url)
    editor.click("open-lamp-room")
    until(lambda: editor.bpm() == "112.00", "the tempo is shown")
    assert "8 of 11 locked" in editor.find("badge-lineup").text
    assert "112.00 BPM" in editor.find("badge-song").text


def test_a_wrong_downbeat_is_corrected_and_undone(editor: Editor) -> None:
    song = editor.server.get()["song"]
    cuts = [s["start"] for s in editor.edit()["shots"]]
    editor.seek(song["beats"][song["bars"][10] + 1])
    editor.click("the-one")
    until(lambda: editor.server.get()["song"]["bars"] != song["bars"], "the bars move")
    moved = editor.server.get()["song"]
    assert song["beats"][song["bars"][10] + 1] in [moved["beats"][i] for i in moved["bars"]]
    assert [s["start"] for s in editor.edit()["shots"]] == cuts
    editor.click("halve")
    until(lambda: editor.bpm() == "56.00", "half as fast")
    editor.click("undo")
    until(lambda: editor.bpm() == "112.00", "half as fast is undone")
    editor.click("undo")
    until(lambda: editor.server.get()["song"]["bars"] == song["bars"], "the one is where it was")


def test_marks_are_tapped_while_playing_and_tidied(editor: Editor) -> None:
    editor.seek(20.0)
    editor.keys(" ")
    until(lambda: editor.find("timecode").text > "00:00:20:12", "the song plays")
    for wanted in (1, 2, 3):
        editor.keys("t")
        until(lambda n=wanted: len(editor.server.get()["song"]["marks"]) == n, f"mark {wanted}")  # type: ignore[misc]
    editor.keys(" ")
    marks = [m["at_s"] for m in editor.server.get()["song"]["marks"]]
    assert marks == sorted(marks)
    assert 20.0 < marks[0] < marks[-1] < 40.0
    until(
        lambda: len(editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=mark]")) == 3, "marks are drawn"
    )
    editor.panel("Marks")
    reach = editor.element('input[aria-label="Reach"]')
    reach.send_keys(Keys.CONTROL, "a")
    reach.send_keys("300", Keys.TAB)
    editor.click("tidy")
    editor.click("tidy-apply")
    beats = editor.server.get()["song"]["beats"]

    def tidied() -> bool:
        now = [m["at_s"] for m in editor.server.get()["song"]["marks"]]
        return all(min(abs(b - m) for b in beats) < 1e-6 for m in now)

    until(tidied, "the marks lie on beats")


def test_a_section_is_renamed(editor: Editor) -> None:
    section = editor.server.get()["song"]["sections"][5]
    ActionChains(editor.page).double_click(editor.find(f"section-{section['id']}")).perform()
    field = until(
        lambda: next(
            iter(editor.page.find_elements(By.CSS_SELECTOR, 'input[aria-label="Section name"]')), None
        ),
        "a name field",
    )
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Turn, turn", Keys.ENTER)
    until(lambda: editor.server.get()["song"]["sections"][5]["name"] == "Turn, turn", "the new name is kept")


def take(editor: Editor, name: str) -> dict[str, Any]:
    state = editor.server.get()
    media = next(m["id"] for m in state["media"] if m["name"] == name)
    return next(t for t in state["takes"] if t["media"] == media)


def test_a_doubtful_take_is_chosen_on_the_bench(editor: Editor) -> None:
    editor.go("lineup")
    editor.click("take-LAMP_03")
    assert "fits 2 places equally well" in editor.find("bench").text
    editor.click("lock-place-1")
    until(lambda: take(editor, "LAMP_03")["status"] == "locked", "the take is locked")
    (p,) = take(editor, "LAMP_03")["passes"]
    plan = next(t for t in TAKES if t.name == "LAMP_03")
    middle = (p["take_start_s"] + p["take_end_s"]) / 2
    truth = plan.song_time(middle)
    assert truth is not None
    assert p["song_start_s"] + p["rate"] * (middle - p["take_start_s"]) == pytest.approx(truth, abs=1e-3)
    editor.click("nudge-ms")
    until(
        lambda: take(editor, "LAMP_03")["passes"][0]["moved_ms"] == pytest.approx(1.0, abs=1e-3),
        "nudged by a millisecond",
    )
    editor.click("revert")
    until(lambda: take(editor, "LAMP_03")["status"] == "choose", "back as found, to be chosen")
    editor.click("undo")
    editor.click("undo")
    until(
        lambda: (
            take(editor, "LAMP_03")["passes"][0]["moved_ms"] == 0
            and take(editor, "LAMP_03")["status"] == "locked"
        ),
        "undone to the choice",
    )


def test_a_take_without_sound_is_locked_by_hand(editor: Editor) -> None:
    editor.click("take-HIGH_02")
    assert "GAL_01 ran at the same time by timecode" in editor.find("bench").text
    editor.find("take-HIGH_02").find_element(By.CSS_SELECTOR, "input").click()
    editor.click("batch-clear")
    until(lambda: "no usable sound" in editor.find("bench").text, "its place by the clock is turned down")
    editor.seek(12.0)
    at = editor.frame() / 24
    if not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=by-hand-wave]"):
        editor.click("mark-both")
    wave = editor.find("by-hand-wave")
    ActionChains(editor.page).move_to_element_with_offset(wave, 0, 0).click().perform()
    editor.click("keep-pair")
    editor.click("lock-by-hand")
    until(lambda: take(editor, "HIGH_02")["status"] == "locked", "locked by hand")
    (p,) = take(editor, "HIGH_02")["passes"]
    # The middle of the wave is four seconds into this eight-second take.
    # The playhead jumped to the nearest stroke of the song.
    assert p["song_start_s"] + 4.0 - p["take_start_s"] == pytest.approx(at, abs=0.13)
    assert p["origin"] == "by hand"


def test_an_angle_is_renamed_and_a_pass_dragged_to_another(editor: Editor) -> None:
    editor.go("coverage")
    lane = editor.find("angle-2")
    bar = editor.find("pass-GAL_02")
    before = next(
        p
        for t in editor.server.get()["takes"]
        for p in t["passes"]
        if p["id"] == take(editor, "GAL_02")["passes"][0]["id"]
    )["angle"]
    chain = ActionChains(editor.page).move_to_element(bar).click_and_hold().move_by_offset(0, 12).pause(0.1)
    chain.move_to_element(lane).pause(0.2).release().perform()
    until(
        lambda: take(editor, "GAL_02")["passes"][0]["angle"] != before, "the pass belongs to the other angle"
    )
    angle = next(a for a in editor.server.get()["angles"] if a["number"] == 2)
    assert take(editor, "GAL_02")["passes"][0]["angle"] == angle["id"]
    editor.click("undo")
    until(lambda: take(editor, "GAL_02")["passes"][0]["angle"] == before, "undone")
    editor.press('[aria-label="Describe angle 2"]')
    field = until(
        lambda: next(
            iter(editor.page.find_elements(By.CSS_SELECTOR, 'input[aria-label="Angle name"]')), None
        ),
        "a name field",
    )
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("By the lamp", Keys.ENTER)
    until(lambda: editor.server.get()["angles"][1]["name"] == "By the lamp", "the angle has its new name")


def test_the_programme_shows_the_very_frame(editor: Editor) -> None:
    editor.go("sheet")
    editor.find("row-5")
    cuts = [s["start"] for s in editor.edit()["shots"]][1:]
    for frame in (cuts[0], cuts[2], cuts[5]):
        editor.seek(frame / 24 + 0.2)
        editor.keys("p")  # to the cut itself
        until(editor.shows_right_frame, f"the frame at a cut near {frame}")
        assert int(editor.programme()["frame"]) in cuts
        for key in (Keys.ARROW_LEFT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT):
            was = int(editor.programme()["frame"])
            editor.keys(key)
            until(lambda was=was: int(editor.programme()["frame"]) != was, "a step")  # type: ignore[misc]
            until(editor.shows_right_frame, "the frame after a step")


RECORD = """
const done = arguments[0], canvas = document.getElementById('programme'), seen = [], end = performance.now() + 4000;
(function tick() {
  const {frame, sourceFrame, media} = canvas.dataset;
  seen.push({now: window.zembi.clock.position(), frame, source: sourceFrame, media});
  if (performance.now() < end) requestAnimationFrame(tick); else done(JSON.stringify(seen));
})();
"""


def test_while_playing_every_drawn_frame_is_the_clocks(editor: Editor) -> None:
    editor.page.set_script_timeout(20)
    editor.seek(24.0)
    until(editor.shows_right_frame, "ready to play")
    editor.keys(" ")
    seen = json.loads(editor.page.execute_async_script(RECORD))
    editor.keys(" ")
    drawn = {(int(s["frame"]), s["source"], s["media"]) for s in seen if s.get("frame")}
    assert [d for d in drawn if (d[2] or None, int(d[1])) != editor.expected(d[0])] == []
    # It moves, and with the clock: at the time of reading it, what is drawn is what the clock says.
    frames = [int(s["frame"]) for s in seen]
    assert len(set(frames)) > 24
    assert frames == sorted(frames)
    behind = [frame_at(s["now"], RATE) - int(s["frame"]) for s in seen]
    assert min(behind) >= -1
    assert sum(b <= 2 for b in behind) > 0.8 * len(behind), behind


def shots(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.edit()["shots"])


def test_angles_are_switched_live_on_the_beat(editor: Editor) -> None:
    before = {s["start"] for s in shots(editor)}
    angles = {a["number"]: a["id"] for a in editor.server.get()["angles"]}
    beats = {round(b * 24) for b in editor.server.get()["song"]["beats"]}
    editor.seek(52.0)
    editor.keys(" ")
    made: list[int] = []

    def made_by(number: int) -> bool:
        fresh = [
            s
            for s in shots(editor)
            if s["start"] not in before | set(made) and s["source"]["angle"] == angles[number]
        ]
        made.extend(s["start"] for s in fresh)
        return bool(fresh)

    def not_on_here() -> int:
        """Give an angle that is on neither here nor in the second around, as a cut may fall between."""
        at = int(editor.programme()["frame"])
        on = {s["source"]["angle"] for s in shots(editor) if s["start"] < at + 24 and s["end"] > at - 24}
        return next(n for n in (1, 3, 2, 4) if angles[n] not in on)

    for _ in range(3):
        # Cuts of the rough cut lie on bars: within a bar a switch makes one of its own.
        until(lambda: not editor.find("bar-beat").text.endswith(".2"), "another beat")
        until(lambda: editor.find("bar-beat").text.endswith(".2"), "the second beat of a bar")
        number = not_on_here()
        editor.keys(str(number))
        until(lambda n=number: made_by(n), f"angle {number}")  # type: ignore[misc]
    editor.keys(" ")
    assert len(made) == 3
    assert set(made) <= beats
    while any(s["start"] in made for s in shots(editor)):
        count = len(shots(editor))
        editor.chord(Keys.CONTROL, key="z")
        until(
            lambda count=count: (
                len(shots(editor)) < count or not any(s["start"] in made for s in shots(editor))
            ),
            "undone",
        )  # type: ignore[misc]
    assert {s["start"] for s in shots(editor)} == before


def test_cuts_are_made_moved_and_joined_by_keys_and_kept_over_a_reload(editor: Editor) -> None:
    before = [s["start"] for s in shots(editor)]
    editor.seek(70.3)
    frame = editor.frame()
    editor.keys("/")
    until(lambda: frame in [s["start"] for s in shots(editor)], "a cut at the playhead")
    until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, f'[data-testid=cut][data-frame="{frame}"]'),
        "the cut is drawn",
    )
    editor.chord(Keys.ALT, key=Keys.ARROW_RIGHT)
    until(lambda: frame + 1 in [s["start"] for s in shots(editor)], "the cut moves a frame")
    editor.chord(Keys.ALT, Keys.SHIFT, key=Keys.ARROW_LEFT)
    until(lambda: not {frame, frame + 1} & {s["start"] for s in shots(editor)}, "the cut moves a beat")
    moved = next(s for s in shots(editor) if s["start"] not in before)
    assert moved["start"] in range(frame - 14, frame - 11)
    editor.page.refresh()
    until(lambda: editor.find("undo").is_enabled(), "undo is there after a reload")
    for _ in range(3):
        was = [s["start"] for s in shots(editor)]
        editor.click("undo")
        until(lambda was=was: [s["start"] for s in shots(editor)] != was, "undo")  # type: ignore[misc]
    assert [s["start"] for s in shots(editor)] == before


def test_a_beat_tick_cuts_and_a_paused_number_changes_what_is_seen(editor: Editor) -> None:
    editor.seek(10.0)
    before = [s["start"] for s in shots(editor)]
    row = editor.find("row-5")
    tick = row.find_elements(By.CSS_SELECTOR, "[data-testid=tick]")[2]
    at = round(float(tick.get_attribute("data-at") or 0) * 24)
    ActionChains(editor.page).move_to_element(tick).click().perform()
    until(lambda: at in [s["start"] for s in shots(editor)], "a cut on the beat")
    assert len(shots(editor)) == len(before) + 1
    shot = until(
        lambda: next(
            iter(editor.page.find_elements(By.CSS_SELECTOR, f'[data-testid=shot][data-start="{at}"]')), None
        ),
        "the new shot",
    )
    ActionChains(editor.page).move_to_element(shot).click().perform()
    # Give it an angle that it does not have.
    angles = {a["number"]: a["id"] for a in editor.server.get()["angles"]}
    had = next(s for s in shots(editor) if s["start"] == at)["source"]["angle"]
    number = next(n for n, angle in angles.items() if angle != had)
    editor.keys(str(number))
    until(
        lambda: next(s for s in shots(editor) if s["start"] == at)["source"]["angle"] == angles[number],
        "the shot has the other angle",
    )
    until(editor.shows_right_frame, "the picture follows")


def test_b_roll_is_laid_over_and_a_short_clip_refused(editor: Editor) -> None:
    editor.seek(93.0)
    clip = next(m for m in editor.server.get()["media"] if m["name"] == "Rope coil")
    editor.choose_clip("Rope coil")
    before = editor.edit()["cutaways"]
    editor.keys("b")
    until(lambda: len(editor.edit()["cutaways"]) == len(before) + 1, "a cutaway")
    new = next(c for c in editor.edit()["cutaways"] if c not in before)
    assert (new["source"]["media"], new["source"]["in_s"]) == (clip["id"], 0.0)
    editor.seek(new["start"] / 24 + 0.5)
    until(editor.shows_right_frame, "the cutaway is on screen")
    assert editor.programme()["media"] == clip["id"]
    # The gulls have three seconds; the first shot is longer.
    editor.choose_clip("Gulls over stern")
    editor.seek(1.0)
    first = shots(editor)[0]
    editor.click("lay-into")
    message = until(
        lambda: next(
            (
                m.text
                for m in editor.page.find_elements(By.CSS_SELECTOR, ".ant-message")
                if "too short" in m.text
            ),
            None,
        ),
        "a refusal",
    )
    assert "frames missing" in message or "frame missing" in message
    assert shots(editor)[0] == first


def test_nothing_is_lost_when_the_server_is_killed(editor: Editor) -> None:
    editor.seek(31.3)
    frame = editor.frame()
    editor.keys("/")
    # As soon as the page has been told of it, it is kept.
    cut = f"[data-testid=cut][data-frame='{frame}']"
    until(lambda: editor.page.find_elements(By.CSS_SELECTOR, cut), "the cut is drawn")
    editor.server.kill()
    editor.keys("/")
    until(
        lambda: any(
            "does not answer" in m.text for m in editor.page.find_elements(By.CSS_SELECTOR, ".ant-message")
        ),
        "the page says so",
    )
    editor.server.start()
    editor.page.refresh()
    editor.find("row-1")
    after = editor.edit()
    assert frame in [s["start"] for s in after["shots"]]
    assert after["undo"] == "Cut"
    editor.click("undo")
    until(lambda: frame not in [s["start"] for s in shots(editor)], "undo reaches it")


def test_a_film_is_rendered_and_downloaded(editor: Editor) -> None:
    song = editor.server.get()["song"]
    start = song["beats"][song["bars"][13]]
    editor.seek(start)
    editor.keys("i")
    editor.seek(start + 5.0)
    editor.keys("o")
    loop = editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=strip-loop]")
    assert loop, "the loop range is shown"
    # A link of the page itself, so that the loop range is kept.
    editor.click("badge-handoff")
    editor.find("render")
    editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=render-panel] .ant-radio-wrapper")[1].click()
    editor.click("render")
    editor.find("download", 120).click()
    folder: Path = editor.page.downloads  # type: ignore[attr-defined]
    film = until(
        lambda: next((p for p in folder.glob("*.mp4") if p.stat().st_size), None),
        "the film is downloaded",
        30,
    )
    until(lambda: not list(folder.glob("*.crdownload")), "the download is complete", 30)
    job = next(j for j in editor.server.get("/jobs") if j["kind"] == "render")
    found = counts(film)
    first = round(song["beats"][song["bars"][13]] * 24)
    assert len(found) == job["result"]["frames"] == pytest.approx(120, abs=14)
    offsets = [
        k
        for k in (first - 1, first, first + 1)
        if found == [editor.expected(k + n)[1] for n in range(len(found))]
    ]
    assert len(offsets) == 1, "the film starts on the loop's first beat, to the frame"


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    serious = [e["message"] for e in editor.page.get_log("browser") if e["level"] == "SEVERE"]
    # While the server was killed on purpose, its connections were refused; refusals in words answer 409.
    assert [
        m
        for m in serious
        if "ERR_CONNECTION_REFUSED" not in m
        and "409" not in m
        and "ERR_INCOMPLETE" not in m
        and "ERR_EMPTY" not in m
    ] == []
