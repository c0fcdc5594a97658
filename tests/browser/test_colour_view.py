"""Colour in the real page: a grade on a shot is seen as the film has it, goes to the file, and so to every shot of it."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor
from tests.browser.test_titles_view import picture
from tests.browser.test_treatments import add, close, differences, fill, open_on
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


def light_at(editor: Editor, frame: int) -> float:
    editor.page.execute_script(f"window.zembi.clock.seek({(frame + 0.2) / 24})")
    until(lambda: editor.programme()["frame"] == str(frame), f"frame {frame}")
    return float(picture(editor).mean())


def test_a_shot_is_brought_up_and_seen_as_the_film_has_it(editor: Editor) -> None:
    shot = shots(editor)[4]
    frame = shot["start"] + 10
    before = light_at(editor, frame)
    was = picture(editor)
    open_on(editor, shot)
    add(editor, "grade")
    fill(editor, "exposure", "0.8")
    fill(editor, "temperature", "40")

    def written() -> bool:
        treated = shots(editor)[4]["treated"]
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
    shot = shots(editor)[4]
    alike = [
        s for s in shots(editor) if s["source"]["angle"] == shot["source"]["angle"] and s["id"] != shot["id"]
    ]
    there = alike[-1]["start"] + 10
    before = light_at(editor, there)
    light_at(editor, shot["start"] + 10)
    editor.click("give-to-file")
    until(lambda: not shots(editor)[4]["treated"], "it is off the shot")
    graded = [m for m in editor.server.get()["media"] if m["grade"]]
    assert [m["grade"] for m in graded] == [{"exposure": 0.8, "temperature": 0.4}]
    assert "is graded wherever it is seen" in editor.find("file-grade").text
    spans = editor.edit()["programme"]["layers"][0]
    of_file = [s for s in spans if s["media"] == graded[0]["id"]]
    assert len(of_file) > 1
    if any(s["start"] <= there < s["end"] for s in of_file):
        until(lambda: light_at(editor, there) > 1.1 * before, "another shot of it is lighter")
    close(editor)
    editor.press("button", "Undo")
    until(lambda: bool(shots(editor)[4]["treated"]), "the shot has it again")
    editor.press("button", "Undo")
    until(lambda: not any(m["grade"] for m in editor.server.get()["media"]), "and the file has none")


def test_a_passage_has_half_of_a_look(editor: Editor) -> None:
    first = shots(editor)[4]["start"]
    frame = first + 20
    plain = light_at(editor, frame)
    editor.server.send("/edits/1", {"op": "treat", "items": [shots(editor)[4]["id"]], "treatments": []})
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
    assert lights[1.0] < lights[0.5] < plain * 1.3
    assert np.isfinite(lights[0.5])


def test_the_page_has_complained_of_nothing(editor: Editor) -> None:
    assert [e["message"] for e in editor.page.get_log("browser") if e["level"] == "SEVERE"] == []
