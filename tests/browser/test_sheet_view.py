"""The Sheet in the real page: switching live, shots arranged, slots filled, sections copied, by key and by mouse."""

import time
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import pytest
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
    # What was refused on purpose here is no complaint of what comes next.
    page.get_log("browser")


def shots(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.edit()["shots"])


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
    editor.press(".ant-dropdown-menu-item", words, part=True)


def pick(editor: Editor, label: str, words: str) -> None:
    """Choose from a list of the passage's menu."""
    editor.press(f'[aria-label="{label}"]')
    editor.press(".ant-select-item-option", words, part=True)


@pytest.mark.clock
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
    editor.find("rows")


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
    assert any(f["kind"] == "hole" for f in editor.edit()["findings"])
    editor.click("undo")
    until(lambda: [(s["start"], s["source"]) for s in shots(editor)] == lane, "undone")


def test_two_shots_are_swapped_by_two_clicks_and_one_is_lifted(editor: Editor) -> None:
    before = shots(editor)
    go_to(editor, before[1])
    from_menu(editor, "Swap with another")
    target = editor.element(f'[data-testid="shot"][data-start="{before[3]["start"]}"]')
    editor.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", target)
    target.click()
    until(lambda: shots(editor)[3]["source"] == before[1]["source"], "swapped")
    assert shots(editor)[1]["source"] == before[3]["source"]
    editor.click("undo")
    until(lambda: shots(editor) == before, "undone")
    go_to(editor, before[1])
    cutaways = len(editor.edit()["cutaways"])
    from_menu(editor, "Lift into a cutaway")
    until(lambda: len(editor.edit()["cutaways"]) == cutaways + 1, "lifted")
    lifted = editor.element(f'[data-testid="cutaway"][data-start="{before[1]["start"]}"]')
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
    assert any(f["kind"] == "out of sync" for f in editor.edit()["findings"])
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


@pytest.mark.clock
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
        return int(editor.element("#programme").size["width"])

    small = size(1280, 800)
    assert size(1920, 1080) > 1.3 * small
    assert size(1280, 800) == small
    border = editor.find("border")
    ActionChains(editor.page).click_and_hold(border).move_by_offset(-90, 0).release().perform()
    until(lambda: editor.element("#programme").size["width"] > small + 60, "larger")
    editor.go("sheet")
    until(lambda: editor.element("#programme").size["width"] > small + 60, "and kept")
    ActionChains(editor.page).double_click(editor.find("border")).perform()
    until(lambda: abs(editor.element("#programme").size["width"] - small) < 4, "as usual")


def planned(editor: Editor, name: str) -> list[str]:
    """What the plan would show in a section, shot by shot."""
    return list(
        editor.page.execute_script(
            "return [...document.querySelectorAll(`[data-testid='plan-${arguments[0]}'] [data-testid=strip-planned] "
            "button`)].map((b) => b.title + b.style.left)",
            name,
        )
    )


def inside(editor: Editor, part: dict[str, Any]) -> list[dict[str, Any]]:
    """The shots that begin in a section."""
    return [s for s in shots(editor) if part["start_s"] * 24 - 1 <= s["start"] < part["end_s"] * 24 - 1]


def test_the_plan_is_seen_before_it_is_carried_out_and_a_rule_can_be_off(editor: Editor) -> None:
    layout(editor, "rows")
    before = [s["start"] for s in shots(editor)]
    layout(editor, "plan")
    first = until(lambda: planned(editor, "Verse 1"), "what is planned")
    assert [s["start"] for s in shots(editor)] == before, "only looked at"
    editor.click("shuffle")
    until(lambda: planned(editor, "Verse 1") not in ([], first), "other choices")
    longest = editor.find("plan-Verse 1").find_element(
        By.CSS_SELECTOR, '[aria-label="Longest shots of Verse 1, in beats"]'
    )
    longest.send_keys(Keys.CONTROL + "a")
    longest.send_keys("2" + Keys.ENTER)
    part = section(editor, "Verse 1")
    beats = (part["end_s"] - part["start_s"]) * editor.server.get()["song"]["bpm"] / 60
    until(lambda: abs(len(planned(editor, "Verse 1")) - beats / 2) < 3, "shots of two beats")
    editor.click("rules")
    editor.click("rule-lead")
    until(lambda: "1 off" in editor.find("rules").text, "a rule is off")
    editor.click("take-Verse 1")
    until(lambda: abs(len(inside(editor, part)) - beats / 2) < 3, "carried out")
    outside = {s for s in before if not part["start_s"] * 24 - 1 <= s < part["end_s"] * 24 - 1}
    assert outside <= {s["start"] for s in shots(editor)}, "nothing outside it moves"
    shown = [s["source"] for s in inside(editor, part)]
    assert all(a != b for a, b in pairwise(shown))
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: [s["start"] for s in shots(editor)] == before, "one step of undo")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: not any(p["by_hand"] for p in editor.server.get("/plan")["sections"]), "by its music")


def test_the_choruses_lie_under_each_other(editor: Editor) -> None:
    layout(editor, "compare")
    names = until(
        lambda: editor.page.execute_script(
            "return [...document.querySelectorAll('[data-testid^=row-] strong')].map((e) => e.textContent)"
        ),
        "rows",
    )
    assert {"Chorus 1", "Chorus 2", "Chorus 3"} <= set(names)
    at = names.index("Chorus 1")
    assert names[at : at + 3] == ["Chorus 1", "Chorus 2", "Chorus 3"], "the same phrase of each"
    layout(editor, "rows")
    pick(editor, "What a row holds", "section")
    until(
        lambda: (
            editor.page.execute_script(
                "return [...document.querySelectorAll('[data-testid^=row-]')].map((e) => e.textContent).join()"
            ).find("1–4") >= 0
            and editor.page.execute_script("return document.querySelector('[data-testid=row-5]')?.textContent").find("5–12")
            >= 0
        ),
        "a section a row",
    )  # fmt: skip
    pick(editor, "What a row holds", "a phrase")


def early_cutaway(editor: Editor) -> dict[str, Any] | None:
    return next((c for c in editor.edit()["cutaways"] if c["start"] < 200), None)


def drag_cutaway(editor: Editor, start: int, end: str, by: int) -> None:
    """Drag the cutaway that starts at a frame, or one of its ends."""
    css = f'[data-testid=cutaway][data-start="{start}"]{end}'
    part = until(lambda: next(iter(editor.page.find_elements(By.CSS_SELECTOR, css)), None), css)
    ActionChains(editor.page).move_to_element(part).click_and_hold().move_by_offset(by, 0).release().perform()


def test_a_cutaway_is_dragged_by_its_body_and_by_its_end_along_the_beats(editor: Editor) -> None:
    layout(editor, "rows")
    editor.seek(2.0)
    editor.choose_clip("Wake")
    editor.keys("b")
    laid = until(lambda: early_cutaway(editor), "laid over")
    beats = set(editor.server.get()["song"]["beat_frames"])
    drag_cutaway(editor, laid["start"], "", 44)
    moved = until(lambda: (c := early_cutaway(editor)) and c["start"] > laid["start"] and c, "moved")
    assert moved["end"] - moved["start"] == laid["end"] - laid["start"]
    assert moved["start"] in beats
    drag_cutaway(editor, moved["start"], " [data-testid=cutaway-out]", -44)
    short = until(lambda: (c := early_cutaway(editor)) and c["end"] < moved["end"] and c, "shorter")
    assert short["start"] == moved["start"]
    assert short["end"] in beats
    for _ in range(3):
        editor.chord(Keys.CONTROL, key="z")
    until(lambda: early_cutaway(editor) is None, "undone")


def test_a_marked_moment_is_on_screen_in_the_frame_it_was_laid_on(editor: Editor) -> None:
    editor.go("coverage")
    picture = editor.find("clip-Bell buoy").find_element(By.CSS_SELECTOR, "[data-testid=clip-picture]")
    editor.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", picture)
    picture.click()
    for n in range(21):
        until(lambda n=n: editor.find("look-picture").get_attribute("data-frame") == str(n), f"frame {n}")  # type: ignore[misc]
        editor.keys(Keys.ARROW_RIGHT if n < 20 else "m")
    bell = until(
        lambda: next(
            (m for m in editor.server.get()["media"] if m["name"] == "Bell buoy" and m["said"]["moment_s"]),
            None,
        ),
        "marked",
    )
    editor.go("sheet")
    editor.choose_clip("Bell buoy")
    shot = next(s for s in shots(editor)[2:] if 40 < s["end"] - s["start"] < 80 and not s["held"])
    editor.seek((shot["start"] + 12) / 24)
    at = until(lambda: shot["start"] < editor.frame() < shot["start"] + 20 and editor.frame(), "in the shot")
    editor.click("open-bench")
    editor.press("[data-testid=laid-by] .ant-segmented-item", "moment")
    editor.click("lay-into")
    until(lambda: shot_at(editor, at)["source"].get("media") == bell["id"], "laid")
    programme = editor.element("#programme")
    until(lambda: programme.get_attribute("data-source-frame") == "20", "the marked frame is on screen")
    assert int(programme.get_attribute("data-frame") or -1) == at
    assert (shot_at(editor, at)["start"], shot_at(editor, at)["end"]) == (shot["start"], shot["end"])
    editor.chord(Keys.CONTROL, key="z")
    editor.press("[data-testid=laid-by] .ant-segmented-item", "head")
    editor.click("close-bench")


def test_the_second_window_shows_the_frame_of_the_first(editor: Editor) -> None:
    main = editor.page.current_window_handle
    editor.click("second-window")
    other = until(lambda: next((h for h in editor.page.window_handles if h != main), None), "a second window")
    editor.seek(30.0)
    frame = until(lambda: editor.frame(), "a frame")
    editor.page.switch_to.window(other)
    ask = (
        "const p = document.getElementById('programme'); return p && [p.dataset.frame, p.dataset.sourceFrame]"
    )
    try:
        shown = until(
            lambda: (s := editor.page.execute_script(ask)) and s[0] == str(frame) and s[1] != "-1" and s,
            "the same frame",
        )
        assert shown[1]
    finally:
        editor.page.close()
        editor.page.switch_to.window(main)


def test_shots_are_chosen_together_emptied_and_filled_by_rules_as_was_told(editor: Editor) -> None:
    layout(editor, "whole song")
    all_before = shots(editor)
    bridge = section(editor, "Bridge")
    editor.seek(bridge["start_s"] + 0.2)
    until(lambda: editor.frame() >= round(bridge["start_s"] * 24), "at the bridge")
    first = shot_at(editor, editor.frame())
    second = next(s for s in all_before if s["start"] == first["end"])
    css = f'[data-testid=shot][data-start="{second["start"]}"]'
    cell = until(lambda: next(iter(editor.page.find_elements(By.CSS_SELECTOR, css)), None), "the next shot")
    ActionChains(editor.page).key_down(Keys.SHIFT).move_to_element(cell).click().key_up(Keys.SHIFT).perform()
    assert "2 shots" in until(lambda: editor.find("chosen-shots").text, "both are chosen")
    editor.click("passage")
    pick(editor, "Slots every", "every bar")
    editor.click("make-slots")
    slots = until(
        lambda: [
            s
            for s in shots(editor)
            if s["source"]["kind"] == "empty" and first["start"] <= s["start"] < second["end"]
        ],
        "slots",
    )
    assert slots[0]["start"] == first["start"]
    assert slots[-1]["end"] == second["end"]
    until(lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=passage-menu]"), "it closes")
    editor.click("passage")
    told = until(
        lambda: (w := editor.find("would-fill")).text != "…" and w.get_attribute("title"), "what it would do"
    )
    editor.click("fill-by-rules")
    until(
        lambda: any(s["start"] == slots[0]["start"] and s["source"]["media"] for s in shots(editor)), "filled"
    )
    names = {m["id"]: m["name"] for m in editor.server.get()["media"]}
    filled = [shot_at(editor, s["start"])["source"]["media"] for s in slots]
    assert told == ", ".join(names.get(m, "empty") if m else "empty" for m in filled), "as was told"
    shown = [shot_at(editor, s["start"])["source"] for s in slots]
    assert len({(s["media"], s["in_s"]) for s in shown if s["media"]}) == len([m for m in filled if m]), (
        "no stretch twice"
    )
    outside = [s for s in all_before if s["end"] <= first["start"] or s["start"] >= second["end"]]
    now = {s["start"]: s["source"] for s in shots(editor)}
    assert all(now[s["start"]] == s["source"] for s in outside)
    for _ in range(2):
        editor.chord(Keys.CONTROL, key="z")
    until(lambda: [s["start"] for s in shots(editor)] == [s["start"] for s in all_before], "undone")


def test_key_and_button_cut_and_lay_over_on_the_same_frame(editor: Editor) -> None:
    editor.go("sheet")
    field = editor.element("[aria-label='Lead in frames']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("3", Keys.ENTER)
    until(lambda: editor.server.get()["lead"] == 3, "a lead is set")
    song = editor.server.get()["song"]
    # A little after a beat that is nowhere near a cut.
    cuts = [s["start"] for s in shots(editor)]
    at = next(
        b
        for b, f in zip(song["beats"], song["beat_frames"], strict=True)
        if f > 300 and min(abs(f - c) for c in cuts) > 12
    )
    frame = song["beat_frames"][song["beats"].index(at)]
    editor.choose_clip("Gulls over stern")
    editor.seek(at + 0.03)
    until(lambda: abs(editor.frame() - frame) <= 2, "the playhead is there")

    def places() -> set[tuple[str, int]]:
        edit = editor.edit()
        return {(kind, i["start"]) for kind in ("shots", "cutaways") for i in edit[kind]}

    def made_by(do: Any) -> set[tuple[str, int]]:
        before = places()
        do()
        until(lambda: places() != before, "something is made")
        made = places() - before
        editor.keys(Keys.ESCAPE)
        editor.chord(Keys.CONTROL, key="z")
        until(lambda: places() == before, "and taken back")
        return made

    # At rest a cut falls on the frame at the playhead; a clip is laid from the beat, less the lead.
    cut = made_by(lambda: editor.keys("/"))
    assert cut == made_by(lambda: editor.click("cut-here")) == {("shots", editor.frame())}
    laid = made_by(lambda: editor.keys("b"))
    assert laid == made_by(lambda: editor.click("lay-over"))
    assert ("cutaways", frame - 3) in laid


def test_coming_back_to_the_sheet_it_is_where_the_playhead_is(editor: Editor) -> None:
    last = editor.server.get()["song"]["phrases"][-1]
    its_row = f'[data-testid="row-{last["first_bar"]}"]'
    editor.seek(last["start_s"] + 0.5)

    def in_sight() -> bool:
        box = editor.find("rows").rect
        row = editor.page.find_elements(By.CSS_SELECTOR, its_row)
        return bool(row) and box["y"] <= row[0].rect["y"] < box["y"] + box["height"]

    until(in_sight, "the sheet comes to the playhead")
    for view in ("3", "4"):
        editor.chord(Keys.ALT, key=view)
    until(in_sight, "and is there again")
    layout(editor, "compare")
    layout(editor, "rows")
    until(in_sight, "laid out as before")


def test_a_lane_is_added_named_laid_on_hidden_and_taken_away(editor: Editor) -> None:
    layout(editor, "rows")
    editor.seek(14.5)
    editor.click("lanes")
    editor.click("add-lane")
    until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid='lane-Cutaways 2']"), "a lane more"
    )
    row = editor.find("lane-Cutaways 2")
    name = row.find_element(By.CSS_SELECTOR, "input[type=text]")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Inserts", Keys.ENTER)
    row = editor.find("lane-Inserts")
    row.find_element(By.CSS_SELECTOR, "input[type=radio]").click()
    editor.page.find_element(By.CSS_SELECTOR, "h1, h2, [data-testid=timecode]").click()
    editor.choose_clip("Bell buoy")
    editor.keys("b")

    def inserts() -> Any:
        lanes = editor.server.get("/edits/1")["lanes"]
        return next((lane for lane in lanes if lane["name"] == "Inserts"), None)

    until(lambda: len(inserts()["items"]) == 1, "laid on the lane that was chosen")
    cell = editor.element("[data-lane=Inserts]")
    editor.click("lanes")
    editor.find("lane-Inserts").find_element(By.XPATH, ".//button[.='Hide']").click()
    until(lambda: not inserts()["on"], "hidden")
    until(lambda: "unseen" in (cell.get_attribute("class") or ""), "drawn as what is not seen")
    editor.find("lane-Inserts").find_element(By.XPATH, ".//button[.='Remove']").click()
    until(lambda: inserts() is None, "gone")
    until(
        lambda: not editor.page.find_elements(By.CSS_SELECTOR, "[data-lane=Inserts]"), "with what lay on it"
    )
