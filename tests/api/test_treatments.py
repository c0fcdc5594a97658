"""Treatments at the interface: done, told in words, refused, kept as recipes, checked, rendered, and odd values."""

import json
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.api.test_work import URL, edit, media, operate, refused
from tests.edits import told
from tests.media.films import counts
from tests.treating import treatments
from zembi.core.treatments.model import KINDS, treatment_to_dict
from zembi.media.render import render
from zembi.service.edit.recipes import FORMAT
from zembi.service.handoff.films import film_of
from zembi.service.project.workspace import Project


@pytest.fixture
def cut(client: TestClient) -> TestClient:
    """A rough cut with a clip in its second shot."""
    operate(client, "rough cut", beats=8, broll=0.0)
    shots = edit(client)["shots"]
    operate(client, "lay", start=shots[1]["start"], media=media(client, "rope")["id"], speed=0.5)
    return client


def second(client: TestClient) -> dict[str, Any]:
    return dict(edit(client)["shots"][1])


def treat(client: TestClient, *treated: dict[str, Any], **more: Any) -> dict[str, Any]:
    return operate(client, "treat", starts=[second(client)["start"]], treatments=list(treated), **more)


def test_a_treatment_is_told_in_words_drawn_from_curves_and_is_one_step_of_undo(cut: TestClient) -> None:
    before = edit(cut)
    after = treat(
        cut, {"kind": "reverse"}, {"kind": "pulse", "on": {"what": "beat"}}, {"kind": "strobe", "off": True}
    )
    made = second(cut)["treated"]
    assert [t["kind"] for t in made["treatments"]] == ["reverse", "pulse", "strobe"]
    assert made["said"][0] == "backwards"
    assert "on beats" in made["said"][1]
    assert made["wrong"] == ["", "", ""]
    assert [(p["speed"], p["end_speed"]) for p in made["pieces"]] == [(-1.0, -1.0)]
    span = next(s for s in after["programme"]["layers"][0] if s["start"] == second(cut)["start"])
    assert span["time"][0]["speed"] == -0.5, "the clip runs at half speed by itself"
    assert "scale" in span["chain"][0]["curves"]
    assert [s["start"] for s in after["shots"]] == [s["start"] for s in before["shots"]]
    assert after["undo"] == "Treat a shot: reverse, pulse, strobe"
    undone = told(cut.post(f"{URL}/undo", params={"edit": 1}).json())
    assert undone["shots"] == before["shots"]
    assert undone["programme"] == before["programme"]


def test_how_long_frames_in_between_take_is_said_before_they_are_made(cut: TestClient) -> None:
    treat(cut, {"kind": "blend", "how": "moved"})
    made = second(cut)["treated"]
    frames = second(cut)["end"] - second(cut)["start"]
    assert "the page shows both mixed" in made["said"][0]
    # Without another speed the clip's own counts.
    treat(cut, {"kind": "speed", "factor": 0.8}, {"kind": "blend", "how": "moved"})
    said = second(cut)["treated"]["said"][1]
    assert f"{frames} frames made, about " in said
    assert said.endswith(" more for the film)")
    spans = [s for s in edit(cut)["programme"]["layers"][0] if s["start"] == second(cut)["start"]]
    assert [s["blend"] for s in spans] == [True]
    treat(cut, {"kind": "speed", "factor": 2.0}, {"kind": "blend", "how": "moved"})
    assert "nothing is slowed here" in second(cut)["treated"]["said"][1]


def test_what_is_only_looked_at_tells_what_would_change_and_changes_nothing(cut: TestClient) -> None:
    known = edit(cut)
    body = {"op": "treat", "items": [second(cut)["id"]], "treatments": [{"kind": "mirror"}]}
    would = told(cut.post(f"{URL}/edits/1/preview", json=body, params={"since": known["version"]}).json())
    assert [s["start"] for s in would["shots"]] == [second(cut)["start"]], "only what would change"
    whole = told(cut.post(f"{URL}/edits/1/preview", json=body).json())
    assert whole["kept"] is None
    assert len(whole["shots"]) == len(known["shots"])
    assert edit(cut) == known
    # What was looked at is no version to count from.
    after = cut.post(f"{URL}/edits/1", json=body, params={"since": known["version"]}).json()
    assert after["kept"]["version"] == known["version"]


def test_what_cannot_be_done_is_refused_in_words_and_changes_nothing(cut: TestClient) -> None:
    before = edit(cut)
    start = second(cut)["start"]
    assert "no picture for" in refused(
        cut, "treat", starts=[start], treatments=[{"kind": "speed", "factor": 19.0}]
    )
    assert "not in this shot" in refused(
        cut,
        "treat",
        starts=[start],
        treatments=[{"kind": "moment", "moment_s": 3.0, "at": {"bar": 20, "beat": 1}}],
    )
    assert "of one shot" in refused(cut, "treat range", first=0, end=48, treatments=[{"kind": "dissolve"}])
    assert "not there any more" in refused(cut, "treat", starts=[start + 1], treatments=[])
    assert "fade it in" in refused(cut, "treat", starts=[0], treatments=[{"kind": "dissolve"}])
    assert edit(cut) == before


def test_the_film_shows_the_treated_frames(cut: TestClient, project: Project, tmp_path: Path) -> None:
    shot = second(cut)
    film = film_of(project, 1, shot["start"], shot["start"] + 20)
    render(film, tmp_path / "plain.mp4")
    treat(cut, {"kind": "back and forth", "every": {"value": 8, "unit": "frames"}})
    render(film_of(project, 1, shot["start"], shot["start"] + 20), tmp_path / "treated.mp4")
    plain, treated = counts(tmp_path / "plain.mp4"), counts(tmp_path / "treated.mp4")
    assert treated[:8] == plain[:8]
    assert treated[8:16] == plain[7::-1]
    assert treated[16:20] == plain[:4]


def test_flashes_and_lips_off_the_song_are_checks(cut: TestClient) -> None:
    angle = next(s for s in edit(cut)["shots"] if s["source"]["kind"] == "angle")
    after = operate(
        cut,
        "treat",
        starts=[angle["start"]],
        treatments=[{"kind": "speed", "factor": 0.5}, {"kind": "strobe"}],
    )
    found = {f["kind"]: f["text"] for f in after["findings"] if f["start"] == angle["start"]}
    assert "lips do not fit" in found["out of sync"]
    assert "times a second" in found["flashes"]


def test_marks_that_are_gone_take_what_hung_on_them_and_the_grid_takes_treatments_along(
    cut: TestClient,
) -> None:
    place = {"bar": 2, "beat": 3.0}
    start = second(cut)["start"]
    song = cut.get(URL).json()["song"]
    beats = dict(zip(range(len(song["beats"])), song["beat_frames"], strict=True))
    first_bar = next(k for k, b in enumerate(song["bars"]) if beats[b] > start)
    place["bar"] = song["first_bar"] + first_bar
    treat(cut, {"kind": "freeze", "at": place, "over": {"value": 6, "unit": "frames"}})
    frozen = second(cut)["treated"]["pieces"]
    assert [p["speed"] for p in frozen] == [1.0, 0.0, 1.0]
    assert start + frozen[0]["frames"] == beats[song["bars"][first_bar] + 2]


def test_recipes_are_kept_used_written_read_and_undone(cut: TestClient) -> None:
    treated = [{"kind": "punch in", "scale": 1.4}, {"kind": "vignette"}]
    made = cut.post(f"{URL}/recipes", json={"name": " lamp ", "treatments": treated})
    assert made.status_code == 201
    (recipe,) = cut.get(URL).json()["recipes"]
    assert (recipe["name"], [t["kind"] for t in recipe["treatments"]]) == ("lamp", ["punch in", "vignette"])
    assert treat(cut, *recipe["treatments"])
    text = cut.get(f"{URL}/recipes/file").text
    assert json.loads(text)["format"] == FORMAT
    cut.delete(f"{URL}/recipes/{recipe['id']}")
    assert cut.get(URL).json()["recipes"] == []
    answer = cut.post(f"{URL}/recipes/file", json={"text": text})
    assert answer.json()["note"] == "1 recipe taken over"
    again = cut.get(URL).json()["recipes"]
    assert [(r["name"], r["treatments"]) for r in again] == [("lamp", recipe["treatments"])]
    cut.post(f"{URL}/undo")
    assert cut.get(URL).json()["recipes"] == []
    assert cut.delete(f"{URL}/recipes/999").status_code == 404


def test_recipes_for_all_projects_are_a_file_beside_them(cut: TestClient) -> None:
    kept = {"name": "lamp glow", "treatments": [{"kind": "glow"}, {"kind": "slide", "to": "up"}]}
    assert cut.post("/api/v1/recipes", json=kept).status_code == 201
    assert (
        cut.post("/api/v1/recipes", json={"name": "Bars", "treatments": [{"kind": "bars"}]}).status_code
        == 201
    )
    again = cut.post("/api/v1/recipes", json={**kept, "treatments": [{"kind": "grain"}]})
    assert again.status_code == 201
    listed = cut.get("/api/v1/recipes").json()
    assert [(r["name"], [t["kind"] for t in r["treatments"]]) for r in listed] == [
        ("Bars", ["bars"]),
        ("lamp glow", ["grain"]),
    ]
    assert cut.get(URL).json()["recipes"] == [], "none of them is the project's own"
    text = cut.get("/api/v1/recipes/file").text
    assert cut.delete("/api/v1/recipes/lamp glow").status_code == 200
    assert cut.delete("/api/v1/recipes/lamp glow").status_code == 404
    assert [r["name"] for r in cut.get("/api/v1/recipes").json()] == ["Bars"]
    # The same form as of a project's: either takes the other's.
    assert cut.post("/api/v1/recipes/file", json={"text": text}).json()["note"] == "2 recipes taken over"
    assert cut.get("/api/v1/recipes").json() == listed
    assert cut.post(f"{URL}/recipes/file", json={"text": text}).status_code == 200
    assert [r["name"] for r in cut.get(URL).json()["recipes"]] == ["Bars", "lamp glow"]
    file = next(p for p in cut.app.state.studio.workspace.data.glob("recipes.json"))  # type: ignore[attr-defined]
    file.write_text("[1, 2")
    for answer in (cut.get("/api/v1/recipes"), cut.post("/api/v1/recipes", json=kept)):
        assert answer.status_code == 400
        assert "recipes.json cannot be read" in answer.json()["detail"]
    assert file.read_text() == "[1, 2", "what is damaged is not written over"
    file.unlink()


@pytest.mark.parametrize(
    "text",
    ["", "{}", "[]", "words", '{"format": "zembi recipes 1"}', '{"format": "zembi recipes 1", "recipes": [1]}',
     '{"format": "zembi recipes 1", "recipes": [{"name": "", "treatments": [{"kind": "mirror"}]}]}',
     '{"format": "zembi recipes 1", "recipes": [{"name": "x", "treatments": []}]}',
     '{"format": "zembi recipes 1", "recipes": [{"name": "x", "treatments": [{"kind": "magic"}]}]}',
     '{"format": "zembi recipes 1", "recipes": [{"name": "x", "treatments": [{"kind": "speed", "factor": 1e308}]}]}',
     "[" * 5000],
)  # fmt: skip
def test_a_file_that_holds_no_recipes_is_refused_in_words(client: TestClient, text: str) -> None:
    answer = client.post(f"{URL}/recipes/file", json={"text": text})
    assert answer.status_code == 400
    assert len(answer.json()["detail"]) > 10
    assert client.get(URL).json()["recipes"] == []


def test_the_form_of_recipes_names_every_kind(client: TestClient) -> None:
    form = client.get("/api/v1/recipes/form").json()
    kinds = {
        d["properties"]["kind"]["const"] for d in form["$defs"].values() if "kind" in d.get("properties", {})
    }
    assert kinds == set(KINDS)
    used = json.dumps(form)
    named = {part.split('"')[0] for part in used.split("#/$defs/")[1:]}
    assert named <= set(form["$defs"])


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(treatments, min_size=1, max_size=4), st.booleans())
def test_whatever_is_asked_is_done_or_refused_in_words(
    cut: TestClient, asked: list[Any], passage: bool
) -> None:
    shots = edit(cut)["shots"]
    body: dict[str, Any] = {"treatments": [treatment_to_dict(t) for t in asked]}
    if passage:
        body |= {"op": "treat range", "first": 5, "end": shots[2]["end"]}
    else:
        body |= {"op": "treat", "items": [shots[1]["id"]]}
    answer = cut.post(f"{URL}/edits/1", json=body)
    assert answer.status_code in (200, 400, 409), answer.text
    if answer.status_code == 200:
        after = told(answer.json())
        assert [s["start"] for s in after["shots"]] == [s["start"] for s in shots]
        assert after["programme"]["layers"][0][0]["start"] == 0
        cut.post(f"{URL}/undo")
    else:
        assert len(answer.json()["detail"]) > 10
    assert edit(cut)["shots"] == shots
