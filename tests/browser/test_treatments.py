"""Treatments in the real page: chosen on a shot, tied to the music, seen at once, taken back, and as the film has them."""

import base64
import io
import json
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import av
import numpy as np
import pytest
from av.video.reformatter import Colorspace
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import RATE, Editor
from tests.browser.test_sheet_view import go_to, section
from zembi.core.edit.compiling import compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, ClipSource, Item
from zembi.core.timebase import seconds_to_frame
from zembi.core.treatments import model as m
from zembi.core.treatments.music import Length, On
from zembi.media.render import film_pictures
from zembi.service.handoff.films import film_of
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.workspace import open_folder
from zembi.store.edits import load_edit, save_edit
from zembi.store.entities import Media

pytestmark = pytest.mark.browser
SIZE = (480, 270)


@pytest.fixture(scope="module")
def editor(page: Driver, treated: Server) -> Iterator[Editor]:
    made = Editor(page, treated)
    made.go("sheet")
    yield made
    page.get("about:blank")
    page.get_log("browser")


def shot_of(editor: Editor, start: int) -> dict[str, Any]:
    return next(s for s in editor.edit()["shots"] if s["start"] == start)


def kinds(item: dict[str, Any]) -> list[str]:
    return [t["kind"] for t in (item["treated"] or {"treatments": []})["treatments"]]


def add(editor: Editor, kind: str) -> None:
    editor.click("add-treatment")
    editor.click(f"add-{kind}")


def fill(editor: Editor, field: str, text: str, number: int = 0) -> None:
    box = editor.find(f"field-{field}").find_elements(By.CSS_SELECTOR, "input:not([type=search])")[number]
    box.click()
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(text, Keys.ENTER)


def choose(editor: Editor, field: str, words: str, number: int = 0) -> None:
    editor.find(f"field-{field}").find_elements(By.CSS_SELECTOR, ".ant-select")[number].click()
    editor.press(".ant-select-item-option", words)


def open_on(editor: Editor, shot: dict[str, Any]) -> None:
    """Put the playhead into a shot and look at its treatments, by key."""
    close(editor)
    go_to(editor, shot)
    editor.keys("e")
    editor.find("treating")


def close(editor: Editor) -> None:
    editor.page.execute_script("document.activeElement.blur()")
    editor.keys(Keys.ESCAPE)


def test_the_demos_edit_is_treated_and_the_page_draws_it_as_the_film_has_it(editor: Editor) -> None:
    edit = editor.edit()
    used = {k for item in [*edit["shots"], *edit["cutaways"]] for k in kinds(item)}
    used |= {t["kind"] for r in edit["treated"] for t in r["treated"]["treatments"]}
    assert len(used) >= 6
    assert not any(
        any(i["treated"]["wrong"])
        for i in [*edit["shots"], *edit["cutaways"], *edit["treated"]]
        if i["treated"]
    )
    project = open_folder(editor.server.data / "projects" / "lamp-room")
    rng = np.random.default_rng(7)
    places = [
        20,
        60,
        1150,
        1180,
        1862,
        1840,
        1870,
        2600,
        2680,
        2705,
        *sorted(rng.integers(0, edit["length"], 14).tolist()),
    ]
    low = [h for h in editor.server.get("/song/detail")["hits"]["low"] if h["strength"] >= 0.5]
    frames = [seconds_to_frame(h["song_s"], RATE) for h in low]
    # A pulse's first frame, where it is greatest, in each passage: the second hit, at which no shot begins.
    hits = [[f for f in frames if r["start"] <= f < r["end"]][1] for r in edit["treated"]]
    worst = differences(editor, project, [*places, *hits])
    assert [w for w in worst if w[1] >= 4] == [], json.dumps(worst)


def differences(editor: Editor, project: Any, places: list[int]) -> list[tuple[int, float]]:
    """How far the drawn picture lies from the film's in each place, in 255ths, the best of a short while."""
    out = []
    ordered = sorted(set(places))
    for frame, made in zip(ordered, pictures(project, ordered), strict=True):
        # A frame that was put together does not say by which colours it is coded; the film does.
        wanted = made.reformat(format="rgb24", src_colorspace=Colorspace.ITU709).to_ndarray().astype(np.int16)
        editor.page.execute_script(f"window.zembi.clock.seek({(frame + 0.2) / 24})")
        best = 255.0
        for _ in range(60):
            drawn = editor.programme()
            if drawn["frame"] != str(frame):
                continue
            picture = Image.open(io.BytesIO(base64.b64decode(drawn["png"].split(",")[1]))).convert("RGB")
            best = min(best, float(np.abs(np.asarray(picture).astype(np.int16) - wanted).mean()))
            if best < 4:
                break
        out.append((frame, round(best, 2)))
    return out


def pictures(project: Any, ordered: list[int]) -> Iterator[av.VideoFrame]:
    """The film's pictures in frames that come in order, those near each other in one go."""
    runs: list[list[int]] = []
    for frame in ordered:
        if runs and frame - runs[-1][-1] <= 4:
            runs[-1].append(frame)
        else:
            runs.append([frame])
    for run in runs:
        film = replace(film_of(project, 1, run[0], run[-1] + 1), width=SIZE[0], height=SIZE[1])
        for frame, made in enumerate(film_pictures(film), run[0]):
            if frame in run:
                yield made


#: One of each, on a shot of two seconds.
EACH: list[Any] = [
    (m.Speed(0.3), m.Blend()), m.Speed(0.5), m.FitSlot(0.5, 2.0), m.Ramp((2.0, 0.5)), m.Reverse(), m.Freeze(on=On("beat"), over=Length(0.5)),
    m.BackAndForth(Length(0.5)), m.Stutter(on=On("beat"), piece=Length(0.25), times=None), m.JumpCuts(On("beat"), Length(0.25)),
    m.Strobe(Length(4, "frames")), m.Strobe(Length(6, "frames"), 0.5, "#ffffff"), m.Fade("out", Length(1, "bars"), "#c04020"), m.Fade("in", Length(1, "bars"), beneath=True),
    m.Dissolve(Length(1), "after"), m.Dip(Length(2)), m.Flash(On("beat"), "#ffffff"), m.Pulse("scale", 0.2, On("beat")),
    m.Pulse("lightness", 0.4, On("beat")), m.Pulse("shift", 0.05, On("beat")), m.Pulse("turn", 4.0, On("beat")), m.StepUp("scale", 0.15, On("beat")),
    m.Shake(0.02, 1.0), m.PunchIn(1.6, 0.3, 0.4), m.Drift(1.0, 0.5, 0.5, 1.4, 0.4, 0.6), m.Mirror(), m.Turn(8.0), m.Bars(2.39), m.Vignette(0.7),
    m.Blur(0.03, "in", Length(1, "bars")), m.Blur(0.01, "all"), m.Sharpen(1.0), m.Glow(0.6), m.Grain(0.5), (m.Blur(0.02, "out"), m.PunchIn(1.5), m.Grain(0.3, 7), m.Bars(2.0)),
    m.Grade(exposure=1.2, temperature=0.5), m.Grade(contrast=1.6, saturation=0.2, tint=-0.4), (m.PunchIn(1.3), m.Grade(shadows=0.8, highlights=-0.7, high_saturation=0.1, strength=0.6)),
    m.ComeIn("in", "left", 0.4, 0.5), m.ComeIn("out", "down", 0.3),
]  # fmt: skip


def test_the_page_draws_each_treatment_as_the_film_has_it(editor: Editor) -> None:
    project = open_folder(editor.server.data / "projects" / "lamp-room")
    snapshot = snapshot_of(project)
    clip = next(r.id for r in project.database.all(Media) if r.name == "Gulls over stern")
    angle = next(a.id for a in snapshot.angles if a.number == 1)
    with project.database.reading() as connection:
        before = load_edit(connection, 1)
    shots = []
    for n, t in enumerate(EACH):
        treated = t if isinstance(t, tuple) else (t,)
        source = ClipSource(clip, 0.5, 0.5) if isinstance(treated[0], m.TIME) else AngleSource(angle)
        shots.append(Item(48 * n, source, treatments=treated))
    edit = new_edit(before.length, (*shots, Item(48 * len(EACH), AngleSource(angle))))
    assert compiled(edit, snapshot.material).layers
    with project.database.changing("One of each") as change:
        save_edit(change, 1, edit, before)
    try:
        editor.go("sheet")
        # Every fourth frame, of each treatment from another on.
        places = [48 * n + k for n in range(len(EACH)) for k in range(1 + n % 4, 48, 4)]
        worst = differences(editor, project, places)
        assert [(EACH[f // 48], f, d) for f, d in worst if d >= 4] == []
    finally:
        project.database.undo()
        project.database.close()
        editor.go("sheet")


def test_a_moment_is_put_on_a_beat_by_a_ramp_and_the_picture_there_is_that_of_the_moment(
    editor: Editor,
) -> None:
    verse = section(editor, "Verse 2")
    start = next(s["start"] for s in editor.edit()["shots"] if s["start"] >= round(verse["start_s"] * 24) - 2)
    go_to(editor, shot_of(editor, start))
    editor.choose_clip("Swell slow")
    editor.chord(Keys.SHIFT, key="b")
    until(lambda: shot_of(editor, start)["source"]["kind"] == "clip", "the clip is laid into the shot")
    shot = shot_of(editor, start)
    open_on(editor, shot)
    add(editor, "moment")
    until(lambda: kinds(shot_of(editor, start)) == ["moment"], "a moment is there")
    bar = next(
        p for p in editor.server.get()["song"]["phrases"] if p["first_frame"] <= start < p["end_frame"]
    )["first_bar"]
    at_s = round(shot["source"]["in_s"] + 0.8, 2)
    fill(editor, "at", f"{bar + 1}.1")
    fill(editor, "moment_s", str(at_s))
    until(
        lambda: (
            (t := shot_of(editor, start)["treated"]["treatments"][0])["at"] == {"bar": bar + 1, "beat": 1.0}
            and t["moment_s"] == at_s
        ),
        "the moment and its place are written",
    )
    assert "times" in editor.find("said").text
    song = editor.server.get()["song"]
    frame = song["beat_frames"][song["bars"][bar + 1 - song["first_bar"]]]
    editor.page.execute_script(f"window.zembi.clock.seek({(frame + 0.2) / 24})")
    media, source = editor.expected(frame)
    until(
        lambda: (
            editor.programme()["frame"] == str(frame) and editor.programme()["sourceFrame"] == str(source)
        ),
        "it is drawn",
    )
    assert editor.shows_right_frame()
    times = editor._times[media or ""]
    assert times[source] <= at_s + 1e-6 < times[source + 1], "the frame that is on display at the moment"
    # The place is dragged a bar on: it snaps to beats, and is one step of undo.
    close(editor)
    open_on(editor, shot_of(editor, start))
    handle = editor.find("handle-at").find_element(By.CSS_SELECTOR, "rect")
    width = editor.find("speed-graph").size["width"]
    beat = width / (shot["end"] - shot["start"]) * 12.86
    ActionChains(editor.page).move_to_element(handle).click_and_hold().move_by_offset(round(beat), 0).pause(
        0.3
    ).release().perform()
    until(
        lambda: shot_of(editor, start)["treated"]["treatments"][0]["at"] == {"bar": bar + 1, "beat": 2.0},
        "a beat later",
    )
    editor.chord(Keys.CONTROL, key="z")
    until(
        lambda: shot_of(editor, start)["treated"]["treatments"][0]["at"] == {"bar": bar + 1, "beat": 1.0},
        "taken back",
    )
    close(editor)


def test_strobe_dissolve_jump_cuts_and_pulse_are_chosen_numbered_ordered_switched_off_and_undone(
    editor: Editor,
) -> None:
    before = editor.edit()
    chorus = section(editor, "Chorus 2")
    shot = next(s for s in before["shots"] if s["start"] >= round(chorus["start_s"] * 24) - 2)
    start = shot["start"]
    open_on(editor, shot)
    add(editor, "dissolve")
    until(lambda: kinds(shot_of(editor, start)) == ["dissolve"], "dissolve")
    fill(editor, "over", "2")
    until(lambda: shot_of(editor, start)["treated"]["treatments"][0]["over"]["value"] == 2, "two bars")
    after = editor.edit()["programme"]["layers"][0]
    coming = next(
        s
        for s in after
        if any(c["step"] == "opacity" for c in s["chain"] or ()) and s["start"] < start <= s["end"]
    )
    assert start - coming["start"] == pytest.approx(51, abs=2), "a bar before the bar line"
    add(editor, "pulse")
    until(lambda: kinds(shot_of(editor, start)) == ["dissolve", "pulse"], "pulse on low hits")
    add(editor, "strobe")
    until(lambda: "strobe" in kinds(shot_of(editor, start)), "strobe")
    choose(editor, "every", "frames")
    until(
        lambda: shot_of(editor, start)["treated"]["treatments"][2]["every"]["unit"] == "frames", "in frames"
    )
    fill(editor, "every", "2")
    until(lambda: "1 frames on, 1 off" in editor.find("said").text, "on and off")
    assert any(f["kind"] == "flashes" for f in editor.edit()["findings"])
    editor.press('[aria-label="strobe off"]')
    until(lambda: shot_of(editor, start)["treated"]["treatments"][2]["off"], "switched off and kept")
    editor.press('[aria-label="pulse earlier in the order"]')
    until(lambda: kinds(shot_of(editor, start)) == ["pulse", "dissolve", "strobe"], "another order")
    add(editor, "jump cuts")
    until(lambda: kinds(shot_of(editor, start))[-1] == "jump cuts", "jump cuts on hits")
    assert [s["start"] for s in editor.edit()["shots"]] == [s["start"] for s in before["shots"]]
    assert "lips are off the song" in editor.find("treating").text
    editor.page.execute_script("document.activeElement.blur()")
    for _ in range(9):
        editor.chord(Keys.CONTROL, key="z")
    until(lambda: editor.edit()["shots"] == before["shots"], "all of it undone")
    close(editor)


def test_a_recipe_is_kept_laid_on_all_of_the_angle_in_the_choruses_and_survives_a_restart(
    editor: Editor,
) -> None:
    chorus = section(editor, "Chorus 1")
    edit = editor.edit()
    sections = editor.server.get()["song"]["sections"]
    alike_there = [s for s in sections if s["group"] == chorus["group"]]

    def in_a_chorus(s: dict[str, Any]) -> bool:
        return any(c["start_s"] - 0.1 <= s["start"] / 24 < c["end_s"] - 0.1 for c in alike_there)

    # An angle that is seen in several choruses, and elsewhere too.
    angles = [s["source"]["angle"] for s in edit["shots"] if in_a_chorus(s)]
    elsewhere = {s["source"]["angle"] for s in edit["shots"] if not in_a_chorus(s)}
    shot = next(
        s
        for s in edit["shots"]
        if in_a_chorus(s) and angles.count(s["source"]["angle"]) > 1 and s["source"]["angle"] in elsewhere
    )
    start, angle = shot["start"], shot["source"]["angle"]
    open_on(editor, shot)
    add(editor, "punch in")
    until(lambda: kinds(shot_of(editor, start)) == ["punch in"], "punch in")
    editor.click("keep-recipe")
    name = until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, '[aria-label="Name of the recipe"]'), "its name"
    )[0]
    name.send_keys("close on the lamp", Keys.ENTER)
    until(lambda: [r["name"] for r in editor.server.get()["recipes"]] == ["close on the lamp"], "kept")
    editor.click("lay-on-others")
    editor.press(".ant-dropdown-menu-item", "in Chorus 1", part=True)

    def alike() -> set[int]:
        return {s["start"] for s in editor.edit()["shots"] if kinds(s) == ["punch in"]}

    until(lambda: len(alike()) > 1, "laid on the others")
    names = {s["name"]: s for s in editor.server.get()["song"]["sections"]}
    for s in editor.edit()["shots"]:
        if kinds(s) == ["punch in"]:
            assert s["source"]["angle"] == angle
            assert any(
                names[n]["start_s"] - 0.1 <= s["start"] / 24 < names[n]["end_s"]
                for n in names
                if n.startswith("Chorus")
            )
    editor.server.kill()
    editor.server.start()
    editor.go("sheet")
    assert len(alike()) > 1
    signs = until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=sign]"), "signs on the shots"
    )
    assert all(s.get_attribute("title") for s in signs)
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: alike() == {start}, "one step of undo")
    editor.chord(Keys.CONTROL, key="z")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: not alike() and not editor.server.get()["recipes"], "all undone")


def test_a_number_is_dragged_by_its_word_and_seen_in_the_programme_before_it_is_written(
    editor: Editor,
) -> None:
    shot = next(s for s in editor.edit()["shots"] if s["start"] and not kinds(s))
    start = shot["start"]
    open_on(editor, shot)
    add(editor, "punch in")
    until(lambda: kinds(shot_of(editor, start)) == ["punch in"], "punch in")
    known = until(lambda: editor.programme()["png"], "its picture")
    word = next(
        w for w in editor.find("field-scale").find_elements(By.CSS_SELECTOR, "span") if w.text == "to"
    )
    hand = ActionChains(editor.page).move_to_element(word).click_and_hold()
    for _ in range(6):
        hand = hand.move_by_offset(20, 0).pause(0.05)
    hand.perform()
    shown = editor.find("field-scale").find_element(By.CSS_SELECTOR, "input")
    assert shown.get_attribute("value") == "145"
    until(lambda: editor.programme()["png"] != known, "the programme shows it while it is dragged")
    trial = editor.programme()["png"]
    assert shot_of(editor, start)["treated"]["treatments"][0]["scale"] == 1.25, "nothing is written yet"
    ActionChains(editor.page).release().perform()
    until(lambda: shot_of(editor, start)["treated"]["treatments"][0]["scale"] == 1.45, "written once")
    until(lambda: editor.programme()["png"] == trial, "and it stays so")
    editor.page.execute_script("document.activeElement.blur()")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: shot_of(editor, start)["treated"]["treatments"][0]["scale"] == 1.25, "one step back")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: shot_of(editor, start)["treated"] is None, "none")
    close(editor)


def test_a_passage_runs_back_over_its_cuts(editor: Editor) -> None:
    verse = section(editor, "Verse 2")
    editor.page.execute_script("window.zembi.clock.seek(arguments[0])", verse["start_s"] + 2)
    editor.click("passage")
    editor.click("treat-passage")
    add(editor, "reverse")
    found = until(
        lambda: next(
            (t for t in editor.edit()["treated"] if t["treated"]["treatments"][0]["kind"] == "reverse"),
            None,
        ),
        "the passage runs back",
    )
    assert "lips are off the song" in editor.find("treating").text
    assert editor.find("speed-graph").get_attribute("data-points")
    assert any(f["kind"] == "out of sync" and f["start"] == found["start"] for f in editor.edit()["findings"])
    close(editor)
    for frame in (found["start"] + 1, (found["start"] + found["end"]) // 2, found["end"] - 2):
        editor.page.execute_script("window.zembi.clock.seek(arguments[0])", (frame + 0.2) / 24)
        until(lambda f=frame: editor.programme()["frame"] == str(f), "it is drawn")  # type: ignore[misc]
        drawn = editor.programme()
        assert (drawn["media"], int(drawn["sourceFrame"])) == editor.expected(frame), frame
        assert editor.shows_right_frame()
    editor.chord(Keys.CONTROL, key="z")
    until(
        lambda: not any(t["treated"]["treatments"][0]["kind"] == "reverse" for t in editor.edit()["treated"]),
        "taken back",
    )


def test_a_passage_is_treated_whatever_is_cut_there(editor: Editor) -> None:
    verse = section(editor, "Verse 1")
    count = len(editor.edit()["treated"])
    editor.seek(verse["start_s"] + 3)
    editor.click("passage")
    editor.click("treat-passage")
    add(editor, "vignette")
    until(lambda: len(editor.edit()["treated"]) == count + 1, "a passage more")
    fill(editor, "amount", "60")
    until(
        lambda: 0.6 in [t["treated"]["treatments"][0].get("amount") for t in editor.edit()["treated"]],
        "60 %",
    )
    assert editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=treated-passage]")
    editor.press('[aria-label="Take vignette away"]')
    until(lambda: len(editor.edit()["treated"]) == count, "and gone")
    close(editor)


def test_a_frame_is_dragged_in_the_drawing_of_the_picture(editor: Editor) -> None:
    shot = shot_of(editor, 0)
    assert kinds(shot)[0] == "drift"
    open_on(editor, shot)
    before = shot["treated"]["treatments"][0]
    assert "from 100 %" in str(editor.find("frames").get_attribute("aria-label"))
    frame = editor.find("frame-to")
    ActionChains(editor.page).move_to_element(frame).click_and_hold().move_by_offset(6, 0).perform()
    ActionChains(editor.page).move_by_offset(4, 2).release().perform()

    def now() -> dict[str, Any]:
        return dict(shot_of(editor, 0)["treated"]["treatments"][0])

    until(lambda: now()["to_x"] > before["to_x"], "what is seen at the end lies further to the right")
    assert {k for k, v in now().items() if v != before[k]} <= {"to_x", "to_y"}
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: now() == before, "one step back undoes the whole drag")
