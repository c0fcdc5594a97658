"""The Song view in the real page: the grid by hand, marks, lyrics, and a cutdown that is heard in the film."""

import io
import json
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import RATE, Editor
from zembi.core.timebase import seconds_to_frame
from zembi.demo.song import perform

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def editor(page: Driver, own: Server) -> Iterator[Editor]:
    editor = Editor(page, own)
    editor.go("song")
    until(lambda: editor.bpm() == "112.00", "the tempo is shown")
    yield editor
    # The page is left before its server ends, so that it does not complain of that.
    page.get("about:blank")


def song(editor: Editor) -> Any:
    state = editor.server.get()
    return state["whole"] or state["song"]


def drag(
    editor: Editor, test_id: str, start_s: float, end_s: float, *, shift: bool = False, y: int = 0
) -> None:
    """Drag over a part of the score that shows the whole song, from one song time to another."""
    target = editor.find(test_id)
    width, seconds = target.size["width"], song(editor)["seconds"]
    chain = ActionChains(editor.page)
    if shift:
        chain.key_down(Keys.SHIFT)
    chain.move_to_element_with_offset(target, round(start_s / seconds * width - width / 2), y)
    chain.click_and_hold().move_by_offset(round((end_s - start_s) / seconds * width), 0).release()
    if shift:
        chain.key_up(Keys.SHIFT)
    chain.perform()


def test_a_wrong_octave_is_one_click_away_and_back(editor: Editor) -> None:
    editor.click("halve")
    until(lambda: editor.bpm() == "56.00", "half as fast")
    editor.click("found")
    until(lambda: editor.bpm() == "112.00", "as found")


def test_the_grid_is_dragged_and_cuts_come_along_when_asked(editor: Editor) -> None:
    cuts = [s["start"] for s in editor.edit()["shots"]]
    before = song(editor)["beats"]
    drag(editor, "bar-strip", 40.0, 40.0 + 0.6)
    until(lambda: song(editor)["beats"] != before, "the grid moves")
    offer = until(lambda: editor.find("follow-offer").text, "an offer to bring cuts along")
    assert "no cut has" in offer
    assert [s["start"] for s in editor.edit()["shots"]] == cuts
    editor.click("bring-along")
    until(lambda: [s["start"] for s in editor.edit()["shots"]] != cuts, "the cuts come along")
    beats = {seconds_to_frame(b, RATE) for b in song(editor)["beats"]}
    halves = {
        seconds_to_frame((a + b) / 2, RATE)
        for a, b in zip(song(editor)["beats"], song(editor)["beats"][1:], strict=False)
    }
    after = [s["start"] for s in editor.edit()["shots"]][1:]
    assert all(c in beats | halves for c in after)
    for _ in range(2):
        editor.click("undo")
    until(lambda: [s["start"] for s in editor.edit()["shots"]] == cuts, "both are undone")
    until(lambda: song(editor)["beats"] == before, "the grid is back")


def test_a_beat_is_pinned_by_hand_and_its_pin_taken_off(editor: Editor) -> None:
    before = song(editor)["beats"]
    beat = min(before, key=lambda b: abs(b - 50.0))
    drag(editor, "bar-strip", beat, beat + 0.36, shift=True)
    pins = until(lambda: song(editor)["pins"], "a pin")
    after = song(editor)["beats"]
    assert min(abs(b - pins[0]) for b in after) < 1e-6
    assert pins[0] == pytest.approx(beat + 0.36, abs=0.2)
    assert after[:8] == pytest.approx(before[:8]), "before the song's start nothing bends"
    pin = until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=pin]"), "the pin is drawn")[
        0
    ]
    pin.click()
    until(lambda: song(editor)["beats"] == before, "the grid is straight again")
    for _ in range(2):
        editor.click("undo")


@pytest.mark.clock
def test_a_tempo_is_tapped_along(editor: Editor) -> None:
    """Tapped at half the tempo found, the found grid is counted half as fast, to its own hundredth."""
    editor.panel("Grid")
    editor.seek(30.0)
    editor.press("button", "Tap the tempo")
    editor.keys(" ")
    beats = [b for b in song(editor)["beats"] if b > 0][::2]
    for _ in range(8):
        now = editor.frame() / 24
        due = next(b for b in beats if b > now + 0.1)
        until(lambda due=due: editor.frame() >= seconds_to_frame(due, RATE), "the beat")  # type: ignore[misc]
        editor.keys("t")
    editor.keys(" ")
    editor.press("button", "Use")
    until(lambda: editor.bpm() == "56.00", "half the tempo")
    editor.click("undo")
    until(lambda: editor.bpm() == "112.00", "as it was")


@pytest.mark.clock
def test_a_loop_range_is_tapped_by_itself_and_the_rest_stays(editor: Editor) -> None:
    editor.panel("Grid")
    before = song(editor)["beats"]
    drag(editor, "score", 40.0, 52.0, shift=True)
    editor.press("[data-testid=passage-loop] button", "Tap it")
    editor.keys(" ")
    taps = []
    until(lambda: editor.frame() >= 41 * 24, "inside the range")
    for _ in range(5):
        editor.keys("t")
        taps.append(editor.frame())
        until(lambda: editor.frame() >= taps[-1] + 15, "the next tap")
    editor.keys(" ")
    editor.press("[data-testid=passage-loop] button", "Use")
    tapped = until(lambda: song(editor)["tapped"], "the passage is laid anew")[0]
    after = song(editor)["beats"]
    assert tapped["bpm"] == pytest.approx(60 * 24 / float(np.median(np.diff(taps))), rel=0.08)
    start, end = tapped["start_s"], tapped["end_s"]
    assert (start, end) == (pytest.approx(40, abs=0.6), pytest.approx(52, abs=0.6))
    outside = [b for b in before if b <= start + 1e-6 or b >= end - 1e-6]
    assert [b for b in after if b <= start + 1e-6 or b >= end - 1e-6] == pytest.approx(outside)
    assert after != before
    editor.click("take-off-passage")
    until(lambda: song(editor)["beats"] == before, "the grid as it was")


def test_a_section_and_its_repeats_are_named_together(editor: Editor) -> None:
    chorus = next(s for s in song(editor)["sections"] if s["name"] == "Chorus 1")
    ActionChains(editor.page).double_click(editor.find(f"section-{chorus['id']}")).perform()
    field = until(
        lambda: next(
            iter(editor.page.find_elements(By.CSS_SELECTOR, 'input[aria-label="Section name"]')), None
        ),
        "a name field",
    )
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Refrain")
    editor.press("button", "Name its repeats too")
    wanted = ["Refrain 1", "Refrain 2", "Refrain 3"]
    until(
        lambda: [s["name"] for s in song(editor)["sections"] if "Refrain" in s["name"]] == wanted,
        "all are named",
    )


def test_tidying_is_seen_before_it_is_done(editor: Editor) -> None:
    editor.panel("Marks")
    editor.seek(20.0)
    editor.click("count-in")
    start = editor.frame()
    until(lambda: editor.frame() > start + 12, "it plays after the count-in")
    for wanted in (1, 2, 3):
        editor.keys("t")
        until(lambda n=wanted: len(song(editor)["marks"]) == n, f"mark {wanted}")  # type: ignore[misc]
    editor.click("count-in")
    before = [m["at_s"] for m in song(editor)["marks"]]
    reach = editor.element("input[aria-label='Reach']")
    reach.send_keys(Keys.CONTROL, "a")
    reach.send_keys("300", Keys.TAB)
    editor.click("tidy")
    ghosts = until(
        lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=ghost]"), "where the marks would go"
    )
    assert [m["at_s"] for m in song(editor)["marks"]] == before, "seeing moves nothing"
    editor.click("tidy-apply")
    until(lambda: [m["at_s"] for m in song(editor)["marks"]] != before, "the marks move")
    beats = np.array(song(editor)["beats"])
    after = [m["at_s"] for m in song(editor)["marks"]]
    assert sum(a != b for a, b in zip(after, before, strict=True)) == len(ghosts)
    assert all(np.abs(beats - a).min() < 1e-6 for a, b in zip(after, before, strict=True) if a != b)


@pytest.mark.clock
def test_two_lines_of_lyrics_are_timed_one_of_them_again(editor: Editor) -> None:
    editor.panel("Lyrics")
    editor.click("paste-lyrics")
    area = editor.find("lyrics-text")
    box = area if area.tag_name == "textarea" else area.find_element(By.TAG_NAME, "textarea")
    box.send_keys("burn the fog away\nkeep the dark at bay")
    editor.press(".ant-modal .ant-btn-primary")
    until(lambda: [x["timed"] for x in song(editor)["lyrics"]] == [False, False], "two lines, not timed")
    until(
        lambda: not editor.page.find_elements(By.CSS_SELECTOR, ".ant-modal-wrap:not([style*='none'])"),
        "the dialog closes",
    )
    editor.seek(30.0)
    editor.click("time-lines")
    editor.keys(" ")
    begun = editor.frame()
    until(lambda: editor.frame() > begun + 12, "it plays")
    editor.keys("t", "r")  # the second key before the server can have answered the first
    until(lambda: [x["timed"] for x in song(editor)["lyrics"]] == [True, False], "the first line is timed")
    first = song(editor)["lyrics"][0]["at_s"]
    assert 29.0 < first < 40.0
    until(lambda: editor.frame() < seconds_to_frame(first - 1.0, RATE), "the song goes back for a run-up")
    editor.keys("t")
    until(lambda: song(editor)["lyrics"][0]["at_s"] < first - 0.5, "the first line is timed again")
    editor.keys("t")
    until(lambda: all(x["timed"] for x in song(editor)["lyrics"]), "the second line is timed")
    editor.keys(" ")
    a, b = (x["at_s"] for x in song(editor)["lyrics"])
    assert a < b
    editor.click("lyric-line")
    until(lambda: abs(editor.frame() - seconds_to_frame(a, RATE)) <= 1, "a click on a line goes there")
    rows = [p["lyric"] for p in song(editor)["phrases"]]
    assert any("burn the fog away" in r for r in rows)


@pytest.mark.clock
def test_a_cutdown_is_made_heard_and_its_film_joins_on_the_beat(editor: Editor) -> None:
    whole = song(editor)
    editor.panel("Film")
    lines = [whole["beats"][i] for i in whole["bars"]]
    start, end = (min(lines, key=lambda t: abs(t - x)) for x in (43.2, 60.3))
    drag(editor, "score", start, end, shift=True, y=-60)
    editor.click("leave-out")
    until(lambda: editor.server.get()["left_out"], "a passage is left out")
    state = editor.server.get()
    (left,) = state["left_out"]
    assert min(abs(b - left["start_s"]) for b in whole["beats"]) < 1e-6
    assert min(abs(b - left["end_s"]) for b in whole["beats"]) < 1e-6
    assert state["song"]["seconds"] == pytest.approx(whole["seconds"] - left["end_s"] + left["start_s"])
    # Played in the page, the passage is passed over: from before it straight to after it.
    editor.seek(left["start_s"] - 1.0)
    editor.keys(" ")
    seen: list[int] = []
    until(
        lambda: seen.append(editor.frame()) or seen[-1] > seconds_to_frame(left["end_s"] + 0.5, RATE),
        "it plays on",
    )
    editor.keys(" ")
    assert not [f for f in seen if left["start_s"] + 0.1 < f / 24 < left["end_s"] - 0.1]
    heard, rate = rendered(editor, left["start_s"] - 4.0, left["start_s"] + 4.0)
    first = seconds_to_frame(left["start_s"] - 4.0, RATE) / 24
    master = perform().audio.mean(axis=1)
    at, after = round((left["start_s"] - first) * rate), round(left["end_s"] * rate)
    follows, expected = heard[at + 200 : at + rate], master[after + 200 : after + rate]
    assert np.corrcoef(follows, expected)[0, 1] > 0.99, (
        "from the join on, the song from the beat after the passage"
    )
    shifts = {
        k: np.corrcoef(heard[at + 200 + k : at + rate + k], expected)[0, 1] for k in (-48, -8, 0, 8, 48)
    }
    assert max(shifts, key=lambda k: shifts[k]) == 0, "to a fraction of a millisecond"
    step = np.abs(np.diff(heard[at - rate // 20 : at - 10])).max()
    assert step <= 1.05 * np.abs(np.diff(master)).max(), "and no click"
    editor.click("bring-back")
    until(lambda: not editor.server.get()["left_out"], "the passage is back")
    assert song(editor)["seconds"] == whole["seconds"]


def rendered(editor: Editor, start_s: float, end_s: float) -> tuple[np.ndarray, int]:
    """The sound of a rendered range of the film, mono."""
    body = {"first": seconds_to_frame(start_s, RATE), "end": seconds_to_frame(end_s, RATE)}
    job = editor.server.send("/edits/1/renders", body)["job"]
    done = until(
        lambda: next(
            (j for j in editor.server.get("/jobs") if j["id"] == job and j["state"] == "done"), None
        ),
        "the range is rendered",
        90,
    )
    film = Path(editor.server.data) / "projects" / "lamp-room" / "renders" / done["result"]["file"]
    with av.open(io.BytesIO(film.read_bytes())) as container:
        frames = list(container.decode(audio=0))
    return np.concatenate([f.to_ndarray().mean(axis=0) for f in frames]), frames[0].sample_rate


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    severe = [e for e in editor.page.get_log("browser") if e["level"] == "SEVERE"]
    assert not [e for e in severe if "favicon" not in e["message"]], severe


@pytest.mark.clock
def test_another_way_to_count_is_heard_before_it_is_taken(editor: Editor) -> None:
    editor.go("song")
    until(lambda: editor.bpm() == "112.00", "the tempo is shown")
    editor.click("hear-halve")
    until(lambda: editor.find("hear-halve").text == "stop", "it is heard")
    was = editor.find("timecode").text
    until(lambda: editor.find("timecode").text != was, "the song plays")
    assert editor.bpm() == "112.00", "hearing changes nothing"
    editor.click("halve")
    until(lambda: editor.bpm() == "56.00", "taken")
    editor.keys(" ")
    assert editor.find("counted").text.split("\n")[0] == "half as fast", "what is in force says so"
    assert editor.find("counted").text.endswith("56.00")
    assert not editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=double]")
    editor.click("halve")
    until(lambda: editor.bpm() == "28.00", "half of that")
    editor.click("counted")
    until(lambda: editor.bpm() == "56.00", "taken back by a click on it")
    for was in ("28.00", "56.00", "112.00"):
        editor.click("undo")
        until(lambda bpm=was: editor.bpm() == bpm, f"undone to {was}")  # type: ignore[misc]


#: What is seen of a song that is listened to, each once, in order.
WATCH = """
window.seen = [];
const told = (what) => { if (!window.seen.includes(what)) window.seen.push(what); };
const look = () => {
  const all = document.querySelector("[data-testid=listening]");
  if (all?.querySelector(".ant-progress")) told("progress");
  if (all?.querySelector("canvas")) told("waveform");
  const play = document.querySelector("[data-testid=listening-play]");
  if (play && !play.disabled) told("playing");
  if (document.querySelector("[data-testid=score]")) told("grid");
  requestAnimationFrame(look);
};
look();
"""


@pytest.mark.clock
def test_a_new_song_is_seen_and_can_be_played_while_it_is_listened_to(editor: Editor) -> None:
    body = json.dumps({"name": "New", "rate": "24", "width": 320, "height": 180}).encode()
    asked = urllib.request.Request(
        f"{editor.server.url}/api/v1/projects", body, {"content-type": "application/json"}
    )
    with urllib.request.urlopen(asked) as answer:
        made = json.loads(answer.read())["id"]
    files = Path(editor.server.data) / "projects" / "lamp-room" / "media"
    (editor.server.data / "media" / "Song.flac").write_bytes((files / "Lamp Room.flac").read_bytes())
    editor.page.get(f"{editor.server.url}/p/{made}/song")
    editor.click("add-song")
    editor.press(".ant-modal button", "media")
    editor.press(".ant-modal label", "Song.flac")
    editor.page.execute_script(WATCH)
    editor.click("add-chosen")
    until(lambda: editor.page.execute_script("return window.seen.includes('grid')"), "the grid", 90)
    assert editor.page.execute_script("return window.seen") == ["progress", "waveform", "playing", "grid"]
    assert editor.bpm() == "112.00"


def test_cuts_stand_under_the_waveform_and_are_dragged(editor: Editor) -> None:
    editor.go("song")
    cuts = until(lambda: editor.page.find_elements(By.CSS_SELECTOR, "[data-testid=song-cut]"), "the cuts")
    starts = [s["start"] for s in editor.edit()["shots"]][1:]
    assert [int(c.get_attribute("data-frame") or 0) for c in cuts] == starts
    cut = cuts[3]
    ActionChains(editor.page).move_to_element(cut).click_and_hold().move_by_offset(6, 0).perform()
    assert cut.text.startswith("+")
    by = int(cut.text.strip("+ f"))
    ActionChains(editor.page).release().perform()
    until(lambda: editor.edit()["shots"][4]["start"] == starts[3] + by, "it is moved by what was shown")
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: editor.edit()["shots"][4]["start"] == starts[3], "and back")


def test_strokes_stand_in_rows_and_are_heard_by_name(editor: Editor) -> None:
    detail = editor.server.get("/song/detail")
    drums = ["kick", "snare", "hat", "cymbal", "crash", "tom"]
    assert sum(len(detail["hits"][kind]) for kind in drums) > 100
    for kind in (*drums, "chord", "entry"):
        assert editor.find(f"hear-{kind}").get_attribute("aria-pressed") == "false"
    editor.click("hear-snare")
    editor.click("hear-kick")
    assert editor.find("hear-snare").get_attribute("aria-pressed") == "true"
    editor.click("hear-snare")
    assert [editor.find(f"hear-{k}").get_attribute("aria-pressed") for k in ("kick", "snare")] == [
        "true",
        "false",
    ]
    editor.click("hear-kick")


def test_how_many_hits_count_is_chosen_for_each_instrument(editor: Editor) -> None:
    kept = editor.server.get()["sensitivities"]
    shown = editor.element("[data-testid=hits-row-kick] .soft")
    before = int(shown.text)
    for _ in range(30):
        editor.element("[data-testid=hits-row-kick] [role=slider]").send_keys(Keys.ARROW_RIGHT)
    until(lambda: editor.server.get()["sensitivities"]["kick"] > kept["kick"] + 0.2, "it is kept")
    assert editor.server.get()["sensitivities"]["snare"] == kept["snare"]
    hits = editor.server.get("/song/detail")["hits"]["kick"]
    least = 1 - editor.server.get()["sensitivities"]["kick"]
    until(lambda: int(shown.text) == sum(h["strength"] >= least for h in hits) >= before, "those are shown")
    for _ in range(30):
        editor.element("[data-testid=hits-row-kick] [role=slider]").send_keys(Keys.ARROW_LEFT)
    until(lambda: abs(editor.server.get()["sensitivities"]["kick"] - kept["kick"]) < 0.011, "and back")


def test_the_project_is_renamed_where_it_stands(editor: Editor) -> None:
    editor.click("project")
    name = editor.element("[data-testid=change-project] input")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Lamp Room, long")
    editor.click("keep-project")
    until(lambda: "Lamp Room, long" in editor.find("project").text, "its new name")
    assert editor.server.get()["name"] == "Lamp Room, long"
    editor.chord(Keys.CONTROL, key="z")
    until(lambda: editor.find("project").text.startswith("Lamp Room\n"), "and back")
