"""Colour in the real page: a grade on a shot is seen as the film has it, goes to the file, and so to every shot of it."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor
from tests.browser.test_titles_view import picture
from tests.browser.test_treatments import add, close, differences, fill, open_on
from zembi.core.colour.looks import LOOKS
from zembi.service.project.workspace import open_folder

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    made = Editor(page, own)
    made.go("sheet")
    yield made
    page.get("about:blank")
    page.get_log("browser")


def shots(editor: Editor) -> list[dict[str, Any]]:
    return list(editor.edit()["shots"])


def plain(editor: Editor) -> int:
    """Number of a shot on which nothing lies and whose file has no grade, as the demo comes."""
    known = getattr(editor, "plain", None)
    if known is not None:
        return int(known)
    made = editor.edit()
    grades = {m["id"]: m["grade"] for m in editor.server.get()["media"]}
    lies = [(i["start"], i["end"]) for lane in made["lanes"] if lane["kind"] != "base" for i in lane["items"]]
    for number, s in enumerate(made["shots"]):
        clear = not any(a < s["end"] and b > s["start"] for a, b in lies)
        seen = [
            x["media"]
            for x in made["programme"]["layers"][0]
            if x["start"] < s["end"] and x["end"] > s["start"]
        ]
        long = s["end"] - s["start"] > 40
        if clear and long and not s["treated"] and not any(grades.get(m) for m in seen):
            editor.plain = number  # type: ignore[attr-defined]
            return number
    raise AssertionError("no shot is plain")


def light_at(editor: Editor, frame: int) -> float:
    editor.page.execute_script(f"window.zembi.clock.seek({(frame + 0.2) / 24})")

    def there() -> bool:
        drawn = editor.programme()
        # After a jump stills are seen first, which have no frame of their file.
        return drawn["frame"] == str(frame) and drawn["sourceFrame"] != "-1"

    until(there, f"frame {frame}")
    return float(picture(editor).mean())


def test_a_shot_is_brought_up_and_seen_as_the_film_has_it(editor: Editor) -> None:
    shot = shots(editor)[plain(editor)]
    frame = shot["start"] + 10
    before = light_at(editor, frame)
    was = picture(editor)
    open_on(editor, shot)
    add(editor, "grade")
    fill(editor, "exposure", "0.8")
    fill(editor, "temperature", "40")

    def written() -> bool:
        treated = shots(editor)[plain(editor)]["treated"]
        return bool(treated) and treated["treatments"][0].get("temperature") == 0.4

    until(written, "it is written")
    until(lambda: light_at(editor, frame) > 1.15 * before, "it is lighter")
    seen = picture(editor)
    red_by_blue = [p[..., 0].mean() / p[..., 2].mean() for p in (was, seen)]
    assert red_by_blue[1] > 1.1 * red_by_blue[0], "and warmer"
    project = open_folder(editor.server.data / "projects" / "lamp-room")
    worst = differences(editor, project, [frame, frame + 5])
    project.database.close()
    assert [w for w in worst if w[1] >= 4] == []


def test_it_goes_to_the_file_and_so_to_every_shot_of_it(editor: Editor) -> None:
    shot = shots(editor)[plain(editor)]
    alike = [
        s for s in shots(editor) if s["source"]["angle"] == shot["source"]["angle"] and s["id"] != shot["id"]
    ]
    there = alike[-1]["start"] + 10
    before = light_at(editor, there)
    light_at(editor, shot["start"] + 10)
    editor.click("give-to-file")
    until(lambda: not shots(editor)[plain(editor)]["treated"], "it is off the shot")
    graded = [m for m in editor.server.get()["media"] if m["grade"] and not m["name"].startswith("LOFT")]
    assert [m["grade"] for m in graded] == [{"exposure": 0.8, "temperature": 0.4}]
    assert "is graded wherever it is seen" in editor.find("file-grade").text
    spans = editor.edit()["programme"]["layers"][0]
    of_file = [s for s in spans if s["media"] == graded[0]["id"]]
    assert len(of_file) > 1
    if any(s["start"] <= there < s["end"] for s in of_file):
        until(lambda: light_at(editor, there) > 1.1 * before, "another shot of it is lighter")
    close(editor)
    editor.press("button", "Undo")
    until(lambda: bool(shots(editor)[plain(editor)]["treated"]), "the shot has it again")
    editor.press("button", "Undo")
    until(
        lambda: not next(m for m in editor.server.get()["media"] if m["id"] == graded[0]["id"])["grade"],
        "and the file has none",
    )


def test_a_passage_has_half_of_a_look(editor: Editor) -> None:
    first = shots(editor)[plain(editor)]["start"]
    frame = first + 20
    ungraded = light_at(editor, frame)
    editor.server.send(
        "/edits/1", {"op": "treat", "items": [shots(editor)[plain(editor)]["id"]], "treatments": []}
    )
    look = {"kind": "grade", "exposure": -1.5}
    lights = {}
    for strength in (1.0, 0.5):
        body = {
            "op": "treat range",
            "first": first,
            "end": first + 60,
            "treatments": [{**look, "strength": strength}],
        }
        editor.server.send("/edits/1", body)
        editor.page.refresh()
        editor.find("rows")
        lights[strength] = light_at(editor, frame)
        editor.server.send("/undo", {})
    assert lights[1.0] < lights[0.5] < ungraded * 1.3
    assert np.isfinite(lights[0.5])


def jumps(editor: Editor) -> dict[int, dict[str, Any]]:
    return {j["frame"]: j for j in editor.server.get("/edits/1/colour/jumps")}


def item(editor: Editor, id_: int) -> dict[str, Any]:
    return next(i for lane in editor.edit()["lanes"] for i in lane["items"] if i["id"] == id_)


def to_colour(editor: Editor) -> None:
    editor.go("sheet")
    editor.press("[data-testid=layout] .ant-segmented-item", "colour")
    editor.find("colour")


def grade_of(editor: Editor, id_: int) -> dict[str, Any]:
    treated = item(editor, id_)["treated"]
    return next((t for t in (treated or {}).get("treatments", []) if t["kind"] == "grade"), {})


def test_the_worst_cut_is_made_like_what_comes_before_it_and_undone(editor: Editor) -> None:
    before = jumps(editor)
    worst = max(before.values(), key=lambda j: j["jump"])
    to_colour(editor)
    until(lambda: "cuts jump" in editor.find("worst").text, "the cuts are measured")
    editor.click("worst")
    until(lambda: editor.programme()["frame"] == str(worst["frame"]), "the playhead is there")
    picture_before = picture(editor)
    editor.click("match")
    until(lambda: "differs by" in editor.find("matched").text, "it is told what it did")
    values = grade_of(editor, worst["after"]["item"])
    assert values, "it is a grade of the item that is seen, whose controls can be changed"
    until(lambda: jumps(editor)[worst["frame"]]["jump"] < 0.7 * worst["jump"], "the cut jumps less")
    until(lambda: abs(picture(editor).astype(int) - picture_before.astype(int)).mean() > 5, "and it is seen")
    typed = editor.find("control-exposure").get_attribute("aria-valuenow")
    assert float(typed or 0) == pytest.approx(values["exposure"], abs=0.01)
    # As it was filmed, by a key, and back.
    graded = picture(editor)
    editor.keys("v")
    until(lambda: abs(picture(editor).astype(int) - picture_before.astype(int)).mean() < 1, "as filmed")
    editor.keys("v")
    until(lambda: abs(picture(editor).astype(int) - graded.astype(int)).mean() < 1, "as graded")
    editor.press("button", "Undo")
    until(lambda: not grade_of(editor, worst["after"]["item"]), "undone")


def test_a_control_is_dragged_by_its_word_walked_by_arrows_and_put_to_rest(editor: Editor) -> None:
    shot = shots(editor)[plain(editor)]
    to_colour(editor)
    editor.page.execute_script(f"window.zembi.clock.seek({(shot['start'] + 3.2) / 24})")
    until(lambda: editor.programme()["frame"] == str(shot["start"] + 3), "the shot")
    seen = max(
        (
            i
            for lane in editor.edit()["lanes"]
            for i in lane["items"]
            if i["start"] <= shot["start"] + 3 < i["end"]
        ),
        key=lambda i: i["start"],
    )
    word = editor.find("control-exposure")
    before = picture(editor).mean()
    drag = ActionChains(editor.page).move_to_element(word).click_and_hold().move_by_offset(20, 0)
    drag.perform()
    until(lambda: picture(editor).mean() > before + 4, "it is seen while it is dragged")
    assert not grade_of(editor, seen["id"]), "and not written before it is let go"
    ActionChains(editor.page).release().perform()
    until(lambda: grade_of(editor, seen["id"]).get("exposure", 0) > 0.3, "written")
    dragged = grade_of(editor, seen["id"])["exposure"]
    editor.page.execute_script("arguments[0].focus()", word)
    editor.keys(Keys.ARROW_LEFT)
    until(lambda: grade_of(editor, seen["id"])["exposure"] == pytest.approx(dragged - 0.05), "a step less")
    editor.keys(Keys.HOME)
    until(lambda: not grade_of(editor, seen["id"]), "at rest there is no grade")


def test_the_split_shows_as_filmed_on_its_left(editor: Editor) -> None:
    shot = shots(editor)[plain(editor)]
    body = {"op": "treat", "items": [shot["id"]], "treatments": [{"kind": "grade", "exposure": -2.0}]}
    editor.server.send("/edits/1", body)
    editor.page.refresh()
    to_colour(editor)
    light_at(editor, shot["start"] + 12)
    editor.keys("s")
    line = editor.find("split-line")
    left = editor.page.find_element("css selector", "[aria-label='As filmed']")

    def lights() -> tuple[float, float]:
        return tuple(
            float(editor.page.execute_script(
                "const p = document.createElement('canvas').getContext('2d'); p.drawImage(arguments[0], 0, 0, 8, 8);"
                "return p.getImageData(0, 0, 8, 8).data.reduce((a, b, i) => a + (i % 4 < 3 ? b : 0), 0);", of))
            for of in (left, editor.element("#programme"))
        )  # fmt: skip

    until(lambda: lights()[0] > 1.5 * lights()[1] > 0, "the left is as filmed")
    at = line.location["x"]
    ActionChains(editor.page).move_to_element(line).click_and_hold().move_by_offset(60, 0).release().perform()
    until(lambda: abs(editor.find("split-line").location["x"] - at - 60) <= 3, "the line is dragged")
    editor.page.execute_script("arguments[0].focus()", line)
    editor.keys(Keys.ARROW_LEFT)
    until(lambda: editor.find("split-line").location["x"] < at + 58, "and walked")
    editor.server.send("/undo", {})


def test_a_look_over_the_bridge_at_half_its_strength(editor: Editor) -> None:
    editor.page.refresh()
    to_colour(editor)
    bridge = next(s for s in editor.server.get()["song"]["sections"] if s["name"] == "Bridge")
    light_at(editor, bridge["first_frame"] + 20)
    before = picture(editor)

    def ranges() -> list[dict[str, Any]]:
        return [i for lane in editor.edit()["lanes"] if lane["kind"] == "ranges" for i in lane["items"]]

    others = len(ranges())
    choose(editor, "[data-testid=look-passage]", "Wet rope")
    until(lambda: len(ranges()) == others + 1, "it lies over a passage")
    laid = next(r for r in ranges() if r["start"] == bridge["first_frame"])
    assert (laid["start"], laid["end"]) == (bridge["first_frame"], bridge["end_frame"])
    assert laid["treated"]["treatments"][0]["strength"] == 0.5
    assert laid["treated"]["treatments"][0]["contrast"] == LOOKS["Wet rope"]["contrast"]
    until(lambda: abs(picture(editor).astype(int) - before.astype(int)).mean() > 2, "it is seen")
    choose(editor, "[data-testid=look-passage]", "none")
    until(lambda: len(ranges()) == others, "and taken off")


def test_a_curve_is_bent_by_its_point_walked_and_put_to_rest(editor: Editor) -> None:
    editor.page.refresh()
    to_colour(editor)
    shot = shots(editor)[plain(editor)]
    light_at(editor, shot["start"] + 12)
    before = picture(editor).astype(int)
    editor.press("[data-testid=bends] .ant-segmented-item", "curves")
    bend = editor.find("bend-red_50")
    ActionChains(editor.page).move_to_element(bend).click_and_hold().move_by_offset(
        0, -14
    ).release().perform()
    until(lambda: grade_of(editor, shot["id"]).get("red_50", 0) > 0.05, "it is written")
    dragged = grade_of(editor, shot["id"])["red_50"]
    until(lambda: (picture(editor).astype(int) - before)[..., 0].mean() > 3, "there is more red")
    assert abs((picture(editor).astype(int) - before)[..., 2].mean()) < 2, "and as much blue"
    editor.page.execute_script("arguments[0].focus()", editor.find("bend-red_50"))
    for _ in range(4):
        editor.keys(Keys.ARROW_DOWN)
    until(lambda: grade_of(editor, shot["id"])["red_50"] == pytest.approx(dragged - 0.04), "no press is lost")
    editor.keys(Keys.DELETE)
    until(lambda: not grade_of(editor, shot["id"]), "at rest there is no grade")


def test_stages_are_left_out_one_by_one_and_a_still_is_kept_and_compared(editor: Editor) -> None:
    chorus = next(s for s in editor.server.get()["song"]["sections"] if s["name"] == "Chorus 2")
    look = {"kind": "grade", **LOOKS["Old varnish"], "strength": 0.5}
    body = {
        "op": "treat range",
        "first": chorus["first_frame"],
        "end": chorus["end_frame"],
        "treatments": [look],
    }
    editor.server.send("/edits/1", body)
    editor.page.refresh()
    to_colour(editor)
    loft = next(m["id"] for m in editor.server.get()["media"] if m["name"] == "LOFT_07")
    span = next(
        s
        for s in editor.edit()["programme"]["layers"][0]
        if s["media"] == loft and chorus["first_frame"] <= s["start"] and s["end"] - s["start"] > 20
    )
    frame = (span["start"] + span["end"]) // 2
    light_at(editor, frame)
    whole = picture(editor).astype(int)
    editor.keys("F")
    until(
        lambda: abs(picture(editor).astype(int) - whole).mean() > 5, "without the file's grade it is another"
    )
    assert editor.find("stage-file").get_attribute("aria-pressed") == "false"
    editor.keys("F")
    editor.keys("L")
    until(lambda: (picture(editor).astype(int) - whole)[..., 2].mean() > 1, "without the look it is bluer")
    bare = picture(editor).astype(int)
    editor.keys("q")
    editor.keys("L")
    until(lambda: abs(picture(editor).astype(int) - whole).mean() < 0.3, "and back")
    editor.press("[aria-label='Kept stills'] button")
    until(
        lambda: editor.page.find_elements("css selector", "[data-testid=split-line]"), "they lie side by side"
    )
    kept = editor.element("[aria-label='Kept stills'] img")
    colour = editor.page.execute_script(
        "const p = document.createElement('canvas').getContext('2d'); p.drawImage(arguments[0], 0, 0, 16, 9);"
        "const d = p.getImageData(0, 0, 16, 9).data; return [0, 1, 2].map((k) => d.filter((_, i) => i % 4 == k)"
        ".reduce((a, b) => a + b) / 144);", kept)  # fmt: skip
    assert np.abs(np.array(colour) - bare.mean((0, 1))).max() < 3
    editor.keys("c")
    marks = editor.find("clipped")
    until(
        lambda: editor.page.execute_script(
            "const c = arguments[0]; return c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((v) => v)", marks),
        "what is clipped is marked",
    )  # fmt: skip
    editor.keys("c")
    editor.server.send("/undo", {})


def test_a_cut_that_is_meant_to_jump_is_pointed_out_no_more(editor: Editor) -> None:
    editor.page.refresh()
    to_colour(editor)
    worst = max(jumps(editor).values(), key=lambda j: j["jump"])
    until(lambda: "cuts jump" in editor.find("worst").text, "the cuts are measured")
    count = int(editor.find("worst").text.split()[0])
    editor.click("worst")
    until(lambda: editor.programme()["frame"] == str(worst["frame"]), "the playhead is there")
    editor.click("jump-meant")
    until(lambda: jumps(editor)[worst["frame"]]["meant"] == "", "it is written")
    until(lambda: int(editor.find("worst").text.split()[0]) < count, "one less is pointed out")
    editor.go("handoff")
    heading = "//*[@data-testid='findings']//*[.='accepted']"
    until(lambda: editor.page.find_elements("xpath", heading), "it stands among those accepted")
    editor.keys("n")
    focused = "return document.activeElement.hasAttribute('data-finding')"
    until(lambda: editor.page.execute_script(focused), "findings are walked by key")
    editor.server.send("/undo", {})


def test_stills_of_files_are_seen_as_they_will_be(editor: Editor) -> None:
    editor.go("coverage")
    editor.click("as-will-be")
    until(
        lambda: (
            "colour/stills" in editor.page.page_source or "as they will be" in editor.find("as-will-be").text
        ),
        "they are",
    )
    editor.click("as-will-be")
    until(lambda: "as filmed" in editor.find("as-will-be").text, "and back")


def test_a_cameras_table_is_chosen_at_half_its_strength_for_all_of_the_camera(
    editor: Editor, tmp_path: Path
) -> None:
    editor.page.refresh()
    to_colour(editor)
    shot = shots(editor)[plain(editor)]
    light_at(editor, shot["start"] + 10)
    before = picture(editor)
    rows = (f"{1 - r} {1 - g} {1 - b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))
    table = tmp_path / "negative.cube"
    table.write_text("LUT_3D_SIZE 2\n" + "\n".join(rows))
    editor.find("input-file").send_keys(str(table))

    def given() -> list[dict[str, Any]]:
        return [m for m in editor.server.get()["media"] if m["table"]["number"]]

    until(lambda: len(given()) == 1, "the file has it")
    until(lambda: abs(picture(editor).astype(int) - (255 - before.astype(int))).mean() < 6, "it is seen")
    strength = editor.element("[aria-label='How much of the table']")
    strength.send_keys(Keys.CONTROL, "a")
    strength.send_keys("50", Keys.ENTER)
    until(lambda: given()[0]["table"]["share"] == 0.5, "half of it")
    until(lambda: abs(picture(editor).astype(int) - 127.5).mean() < 6, "half of a negative is grey")
    project = open_folder(editor.server.data / "projects" / "lamp-room")
    worst = differences(editor, project, [shot["start"] + 10])
    project.database.close()
    assert [w for w in worst if w[1] >= 4] == []
    broken = tmp_path / "broken.cube"
    broken.write_text("LUT_3D_SIZE 2\n0 0 x")
    editor.find("input-file").send_keys(str(broken))
    until(lambda: "line 2" in editor.element("[aria-label=Input] [role=alert]").text, "told with its line")
    # A refusal is an answer of 400, which the browser notes.
    editor.page.get_log("browser")
    choose(editor, "[data-testid=input-table]", "as its tags say")
    until(lambda: not given(), "and none again")


def test_a_cube_is_laid_as_a_look_over_the_passage(editor: Editor, tmp_path: Path) -> None:
    editor.page.refresh()
    to_colour(editor)
    shot = shots(editor)[plain(editor)]
    light_at(editor, shot["start"] + 10)
    before = picture(editor).astype(int)
    table = tmp_path / "blue hour.cube"
    rows = (f"{r / 2} {g / 2} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))
    table.write_text("LUT_3D_SIZE 2\n" + "\n".join(rows))
    editor.find("look-passage-file").send_keys(str(table))
    until(lambda: "blue hour" in editor.find("look-passage").text, "it is the passage's look")
    until(lambda: (picture(editor) - 0.75 * before)[..., 0].max() < 12, "at half its strength")
    assert np.abs(picture(editor).astype(int) - before)[..., 2].mean() < 3, "blue stays"
    project = open_folder(editor.server.data / "projects" / "lamp-room")
    worst = differences(editor, project, [shot["start"] + 10])
    project.database.close()
    assert [w for w in worst if w[1] >= 4] == []
    editor.keys("L")
    until(lambda: np.abs(picture(editor).astype(int) - before).mean() < 1, "it is the stage of looks")
    editor.keys("L")
    choose(editor, "[data-testid=look-passage]", "none")
    until(lambda: np.abs(picture(editor).astype(int) - before).mean() < 1, "and none again")


def test_a_control_is_dragged_for_an_angle_at_once(editor: Editor) -> None:
    editor.page.refresh()
    to_colour(editor)
    number, angle = next(
        (n, s["source"]["angle"])
        for n, s in enumerate(shots(editor))
        if s["source"]["angle"]
        and [o["source"]["angle"] for o in shots(editor)].count(s["source"]["angle"]) > 2
    )
    shot = shots(editor)[number]
    light_at(editor, (shot["start"] + shot["end"]) // 2)
    editor.press("[data-testid=balance-of] .ant-segmented-item", "its angle")
    word = editor.find("control-temperature")
    ActionChains(editor.page).move_to_element(word).click_and_hold().move_by_offset(40, 0).pause(
        0.3
    ).move_by_offset(20, 0).release().perform()
    alike = [s["id"] for s in shots(editor) if s["source"]["angle"] == angle]
    until(lambda: all(grade_of(editor, i).get("temperature", 0) > 0 for i in alike), "all have it")
    assert len({grade_of(editor, i)["temperature"] for i in alike}) == 1
    others = [s["id"] for s in shots(editor) if s["source"]["angle"] != angle]
    assert not any(grade_of(editor, i).get("temperature") for i in others)
    editor.server.send("/undo", {})


def choose(editor: Editor, css: str, words: str) -> None:
    """Choose from a list of Ant Design."""
    editor.press(css)
    editor.press(".ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option", words)


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    assert [e["message"] for e in editor.page.get_log("browser") if e["level"] == "SEVERE"] == []
