"""Coverage over the interface of the server: angles, alternates, holes, selects, films, shot lists, files that move."""

import hashlib
import json
import shutil
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.api.test_work import URL, angle, edit, media, operate, refused, state, take
from tests.conftest import add, open_studio
from tests.media.films import film
from tests.rows import NOT_MADE, content, rows
from tests.spans import seen
from zembi.api.app import create_app
from zembi.service.lineup import grouping
from zembi.service.project.workspace import Project
from zembi.store import tables

COVERAGE = f"{URL}/coverage"


def everything(project: Project) -> dict[str, list[dict[str, Any]]]:
    kept = [t for t in tables.metadata.sorted_tables if t.name not in (*NOT_MADE, "lineup")]
    return {t.name: [content(r) for r in rows(project.database, t)] for t in kept}


def pictures(client: TestClient) -> list[tuple[int, int, str | None]]:
    """What is on screen: runs of frames of a file."""
    out: list[tuple[int, int, str | None]] = []
    for s in seen(edit(client)):
        if out and out[-1][2] == s.media and out[-1][1] == s.start:
            out[-1] = (out[-1][0], s.end, s.media)
        else:
            out.append((s.start, s.end, s.media))
    return out


def numbers(client: TestClient) -> dict[str, int]:
    return {a["name"]: a["number"] for a in state(client)["angles"]}


def alternates(client: TestClient, name: str, section: int) -> list[dict[str, Any]]:
    at = state(client)["song"]["sections"][section]
    query = {"angle": angle(client, name)["id"], "start_s": at["start_s"], "end_s": at["end_s"]}
    return list(client.get(f"{COVERAGE}/alternates", params=query).json())


def test_takes_are_grouped_by_camera_with_the_reason_in_words(client: TestClient) -> None:
    angles = state(client)["angles"]
    # The one with most picture is the first.
    assert [a["name"] for a in angles] == ["GAL", "DECK"]
    assert [a["number"] for a in angles] == [1, 2]
    assert "names begin with GAL" in angles[0]["because"]
    assert take(client, "GAL_01")["passes"][0]["angle"] == angles[0]["id"]


def test_a_shoot_has_as_many_angles_as_it_needs_and_no_locked_pass_is_left_without(
    client: TestClient, footage: Path, data: Path
) -> None:
    folder = data / "projects" / "small" / "media"
    folder.mkdir(exist_ok=True)
    names = [f"{chr(65 + n)}CAM_{n:02d}.mp4" for n in range(10)]
    for name in names:
        shutil.copyfile(footage / "DECK_02.mp4", folder / name)
    answer = client.post(f"{URL}/media", json={"paths": [str(folder / n) for n in names], "kind": "take"})
    assert answer.status_code == 201, answer.text
    now = state(client)
    locked = [p for t in now["takes"] for p in t["passes"] if p["status"] == "locked"]
    assert len(locked) == 12
    assert all(p["angle"] is not None for p in locked)
    # Copies of one file show one picture, but their names are of ten cameras.
    assert sorted(a["number"] for a in now["angles"]) == list(range(1, 13))
    crowded = next(k for k in now["keys"] if None not in k)
    assert len(set(crowded)) == 9
    assert operate(client, "rough cut")["shots"]


def test_merging_shows_what_was_shown_and_undoing_gives_the_very_same(
    client: TestClient, project: Project
) -> None:
    operate(client, "rough cut")
    before, shown = everything(project), pictures(client)
    cuts = [s["start"] for s in edit(client)["shots"]]
    first, second = state(client)["angles"]
    body = {"angles": [second["id"]]}
    assert client.post(f"{COVERAGE}/angles/{first['id']}/merge", json=body).status_code == 200
    assert [a["name"] for a in state(client)["angles"]] == ["GAL"]
    assert pictures(client) == shown
    assert [s["start"] for s in edit(client)["shots"]] == cuts
    feeds = sorted(state(client)["feeds"], key=lambda f: f["start_s"])
    assert all(a["end_s"] <= b["start_s"] + 1e-6 for a, b in pairwise(feeds))
    assert client.post(f"{URL}/undo").status_code == 200
    assert everything(project) == before
    assert (
        client.post(f"{COVERAGE}/angles/{first['id']}/merge", json={"angles": [first["id"]]}).status_code
        == 400
    )


def test_splitting_takes_the_shots_along_and_undoing_gives_the_very_same(
    client: TestClient, project: Project
) -> None:
    first, second = (a["id"] for a in state(client)["angles"])
    client.post(f"{COVERAGE}/angles/{first}/merge", json={"angles": [second]})
    operate(client, "rough cut")
    before, shown = everything(project), pictures(client)
    deck, gallery = take(client, "DECK_02")["passes"][0]["id"], take(client, "GAL_01")["passes"][0]["id"]
    for wrong in ([], [deck, gallery], [999]):
        answer = client.post(f"{COVERAGE}/angles/{first}/split", json={"passes": wrong})
        assert answer.status_code in (400, 422), wrong
    made = client.post(f"{COVERAGE}/angles/{first}/split", json={"passes": [deck], "name": "Deck"}).json()
    assert take(client, "DECK_02")["passes"][0]["angle"] == made
    assert numbers(client) == {"GAL": 1, "Deck": 2}
    assert pictures(client) == shown
    client.post(f"{URL}/undo")
    assert everything(project) == before


def test_what_the_editor_put_together_stays_and_can_be_grouped_again(client: TestClient) -> None:
    gallery, deck = angle(client, "GAL")["id"], angle(client, "DECK")["id"]
    (moved,) = take(client, "DECK_02")["passes"]
    client.put(f"{COVERAGE}/passes/{moved['id']}/angle", json={"angle": gallery})
    # Settling another take changes nothing that was put together by hand.
    (lamp,) = take(client, "LAMP_03")["passes"]
    client.patch(f"{URL}/lineup/passes/{lamp['id']}", json={"action": "accept"})
    assert take(client, "LAMP_03")["passes"][0]["angle"] == angle(client, "LAMP")["id"]
    assert take(client, "DECK_02")["passes"][0]["angle"] == gallery
    assert deck in {a["id"] for a in state(client)["angles"]}
    assert client.post(f"{COVERAGE}/groupings").status_code == 200
    assert take(client, "DECK_02")["passes"][0]["angle"] != gallery
    assert sorted(numbers(client)) == ["DECK", "GAL", "LAMP"]
    client.post(f"{URL}/undo")
    assert take(client, "DECK_02")["passes"][0]["angle"] == gallery


def test_an_angle_in_the_edit_is_not_grouped_away(client: TestClient, project: Project) -> None:
    operate(client, "rough cut")
    shown = pictures(client)
    client.patch(f"{URL}/media/{media(client, 'DECK_02')['id']}", json={"camera": "GAL"})
    grouping.look_again(project)
    assert client.post(f"{COVERAGE}/groupings").status_code == 200
    assert pictures(client) == shown


def test_a_tag_of_the_editors_groups_more_than_a_name_does(client: TestClient, project: Project) -> None:
    for name in ("GAL_01", "DECK_02"):
        client.patch(f"{URL}/media/{media(client, name)['id']}", json={"camera": "Rail"})
    client.post(f"{COVERAGE}/groupings")
    assert sorted(numbers(client)) == ["Rail"]
    assert "tagged Rail" in angle(client, "Rail")["because"]


def test_alternates_tell_what_helps_to_choose(client: TestClient) -> None:
    first, second = state(client)["angles"][:2]
    client.post(f"{COVERAGE}/angles/{first['id']}/merge", json={"angles": [second["id"]]})
    found = alternates(client, "GAL", 1)
    assert [a["media"] for a in found] == [media(client, n)["id"] for n in ("GAL_01", "DECK_02")]
    wide, deck = found
    section = state(client)["song"]["sections"][1]
    frames = round((section["end_s"] - section["start_s"]) * 24)
    assert wide["covers"] == 1.0
    assert 0 < wide["sharp"] <= 1
    assert 0 <= wide["burnt"] < 0.2
    assert wide["lips_ms"] < 5
    assert sum(b - a for a, b in wide["feeds"]) == pytest.approx(frames, abs=2)
    assert deck["feeds"] == []
    # By phrase: half of the section is given to the other pass, to the beat.
    phrase = next(p for p in state(client)["song"]["phrases"] if p["section"] == 1)
    body = {
        "angle": first["id"],
        "pass_id": deck["pass_id"],
        "start_s": phrase["start_s"],
        "end_s": phrase["end_s"],
    }
    assert client.post(f"{COVERAGE}/feeds", json=body).status_code == 200
    wide, deck = alternates(client, "GAL", 1)
    assert deck["feeds"] == [[phrase["first_frame"], phrase["end_frame"]]]
    operate(client, "rough cut")


def test_a_circled_pass_comes_first_and_a_rejected_one_feeds_nothing(client: TestClient) -> None:
    first, second = state(client)["angles"][:2]
    client.post(f"{COVERAGE}/angles/{first['id']}/merge", json={"angles": [second["id"]]})
    (deck,) = take(client, "DECK_02")["passes"]
    url = f"{COVERAGE}/passes/{deck['id']}"
    spans = angle(client, "GAL")["spans"]
    assert {s["media"] for s in spans} == {media(client, "GAL_01")["id"]}
    assert client.patch(url, json={"verdict": "circled", "note": " best second line "}).status_code == 200
    (deck,) = take(client, "DECK_02")["passes"]
    assert (deck["verdict"], deck["note"]) == ("circled", "best second line")
    assert angle(client, "GAL")["spans"][0]["media"] == media(client, "DECK_02")["id"]
    assert state(client)["undo"] == "Circle DECK_02"
    client.patch(url, json={"verdict": "rejected"})
    assert angle(client, "GAL")["spans"] == spans
    assert len(alternates(client, "GAL", 1)) == 2, "it is still there to be brought back"
    # What is chosen after all is no longer rejected.
    body = {"angle": first["id"], "pass_id": deck["id"], "start_s": 4.0, "end_s": 8.0}
    client.post(f"{COVERAGE}/feeds", json=body)
    assert take(client, "DECK_02")["passes"][0]["verdict"] == ""
    assert client.patch(url, json={"verdict": "loved"}).status_code == 422


def test_a_hole_says_what_could_fill_it(client: TestClient) -> None:
    deck = angle(client, "DECK")
    (hole,) = [h for h in deck["holes"] if h[1] - h[0] > 100]
    section = next(
        s for s in reversed(state(client)["song"]["sections"]) if s["start_s"] * 24 <= sum(hole) / 2
    )
    rope, gulls = media(client, "rope"), media(client, "gulls")
    client.patch(
        f"{URL}/broll/labels", json={"media": [rope["id"]], "add_tags": [f"section: {section['name']}"]}
    )
    kept = client.post(
        f"{URL}/broll/selects", json={"media": gulls["id"], "ranges": [{"in_s": 1, "out_s": 4}]}
    )
    found = client.get(f"{COVERAGE}/fillers", params={"start": hole[0], "end": hole[1]}).json()
    assert found[0]["angle"] == angle(client, "GAL")["id"]
    assert found[0]["share"] == 1.0
    clips = [(f["media"], f["select"], f["tagged"]) for f in found if f["angle"] is None]
    assert clips == [(rope["id"], None, True), (gulls["id"], kept.json()[0], False)]


def test_selects_are_kept_named_changed_and_laid(client: TestClient, project: Project) -> None:
    rope = media(client, "rope")
    ranges = [
        {"in_s": 0.4, "out_s": 1.4},
        {"in_s": 2.0, "out_s": 9.0, "name": "knot"},
        {"in_s": 3.0, "out_s": 4.0},
    ]
    before = everything(project)
    first, second, third = client.post(
        f"{URL}/broll/selects", json={"media": rope["id"], "ranges": ranges}
    ).json()
    found = {s["id"]: s for s in state(client)["selects"]}
    assert [found[i]["name"] for i in (first, second, third)] == ["rope 1", "knot", "rope 2"]
    assert found[second]["out_s"] == pytest.approx(rope["seconds"]), "a clip has no more than it has"
    assert state(client)["undo"] == "Keep 3 selects of rope"
    operate(client, "rough cut")
    shot = edit(client)["shots"][1]
    laid = operate(client, "lay over", working_s=1.0, media=rope["id"], select=first, end_s=1.5)["cutaways"][
        0
    ]
    assert laid["source"]["in_s"] == 0.4
    assert "missing" in refused(client, "lay over", working_s=6.0, end_s=8.5, media=rope["id"], select=first)
    assert "no such select" in refused(client, "lay", start=shot["start"], media=rope["id"], select=999)
    gulls = media(client, "gulls")["id"]
    assert "no such select" in refused(client, "lay over", working_s=1.0, media=gulls, select=first)
    client.patch(f"{URL}/broll/selects/{first}", json={"name": "coil", "in_s": 0.5})
    assert next(s for s in state(client)["selects"] if s["id"] == first)["name"] == "coil"
    assert edit(client)["cutaways"][0]["source"]["in_s"] == 0.4, "what is laid stays"
    assert client.patch(f"{URL}/broll/selects/{first}", json={"out_s": 0.2}).status_code == 400
    assert client.patch(f"{URL}/broll/selects/{first}", json={"name": " "}).status_code == 400
    assert client.patch(f"{URL}/broll/selects", json={"ids": [first, second, third]}).status_code == 200
    assert state(client)["selects"] == []
    while state(client)["undo"] != "Keep 3 selects of rope":
        client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    assert everything(project) == before


def test_several_clips_are_told_something_at_once_and_undone_at_once(client: TestClient) -> None:
    rope, gulls = media(client, "rope")["id"], media(client, "gulls")["id"]
    (kept,) = client.post(
        f"{URL}/broll/selects", json={"media": gulls, "ranges": [{"in_s": 0, "out_s": 1}]}
    ).json()
    body = {"media": [rope], "selects": [kept], "rating": 4, "add_tags": ["place: pier", "dusk"], "hue": 3}
    assert client.patch(f"{URL}/broll/labels", json=body).status_code == 200
    client.patch(
        f"{URL}/broll/labels", json={"media": [rope], "remove_tags": ["DUSK"], "add_tags": ["Place: Pier"]}
    )
    said = media(client, "rope")["said"]
    assert (said["rating"], said["tags"], said["hue"]) == (4, ["place: pier"], 3)
    assert state(client)["selects"][0]["said"]["tags"] == ["place: pier", "dusk"]
    client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    assert media(client, "rope")["said"]["rating"] == state(client)["selects"][0]["said"]["rating"] == 0
    for wrong in ({}, {"media": [rope], "rating": 6}, {"media": ["nobody"], "rating": 1}):
        assert client.patch(f"{URL}/broll/labels", json=wrong).status_code in (400, 404, 422), wrong


def test_a_select_laid_slowly_is_slow_and_says_what_the_clip_gives(client: TestClient) -> None:
    gulls = media(client, "gulls")
    client.patch(f"{URL}/broll/labels", json={"media": [gulls["id"]], "speed": 0.4})
    operate(client, "rough cut")
    laid = operate(client, "lay over", working_s=1.0, end_s=3.0, media=gulls["id"])["cutaways"][0]
    assert laid["source"]["speed"] == 0.4
    assert (
        operate(client, "lay over", working_s=4.0, end_s=5.0, media=gulls["id"], speed=1.0)["cutaways"][1][
            "source"
        ]["speed"]
        == 1.0
    )


def test_clips_are_measured_and_ordered_by_colour(client: TestClient) -> None:
    rope, gulls = media(client, "rope"), media(client, "gulls")
    assert 0 < rope["said"]["light"] < 1
    assert rope["said"]["motion"] is not None
    near = client.get(f"{URL}/broll/near/{rope['id']}").json()
    assert near[0] == {"media": rope["id"], "unlike": 0.0}
    assert gulls["id"] in [n["media"] for n in near]
    assert client.get(f"{URL}/broll/near/nobody").status_code == 404


def test_a_film_is_split_at_its_cuts_without_touching_it(
    client: TestClient, data: Path, footage: Path
) -> None:
    folder = data / "projects" / "small" / "media"
    folder.mkdir(exist_ok=True)
    path = cut_film(folder / "old.mp4")
    before = path.read_bytes()
    client.post(f"{URL}/media", json={"paths": [str(path)], "kind": "broll"})
    old = media(client, "old")["id"]
    assert client.get(f"{URL}/broll/films/{old}").json() is None
    assert client.post(f"{URL}/broll/films/{old}").status_code == 202
    found = client.get(f"{URL}/broll/films/{old}").json()
    assert [(s["first"], s["end"]) for s in found["shots"]] == [(0, 30), (30, 54), (54, 90)]
    assert [s["in_s"] for s in found["shots"]] == pytest.approx([0, 1.2, 2.16])
    assert found["shots"][-1]["out_s"] == pytest.approx(3.6)
    ranges = [{"in_s": s["in_s"], "out_s": s["out_s"]} for s in found["shots"]]
    assert len(client.post(f"{URL}/broll/selects", json={"media": old, "ranges": ranges}).json()) == 3
    assert path.read_bytes() == before
    assert client.post(f"{URL}/broll/films/{media(client, 'GAL_01')['id']}").status_code == 409


def cut_film(path: Path) -> Path:
    """Three places, 30, 24 and 36 frames at 25 a second."""
    import av

    rng = np.random.default_rng(5)
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        for length in (30, 24, 36):
            place = np.kron(rng.integers(0, 255, (9, 16, 3), np.uint8), np.ones((20, 20, 1), np.uint8))
            for _ in range(length):
                out.mux(video.encode(av.VideoFrame.from_ndarray(place, "rgb24")))
        out.mux(video.encode(None))
    return path


def test_a_shot_list_is_read_ticked_off_and_checked(client: TestClient) -> None:
    text = "section,what,camera,note\nVerse 1,wide,GAL,\nChorus 1,hands,,at dawn\nChorus 1,rope\n"
    assert client.post(f"{URL}/shot-list", json={"text": text}).json() == 3
    assert client.post(f"{URL}/shot-list", json={"text": text}).json() == 0, "none is there twice"
    assert state(client)["badges"]["coverage"].endswith("3 not shot")
    wide, hands, rope = state(client)["shot_list"]
    gallery = take(client, "GAL_01")["passes"][0]["id"]
    tick = f"{URL}/shot-list/shots/{wide['id']}/tick"
    assert client.put(tick, json={"pass_id": gallery}).status_code == 200
    assert client.put(tick, json={"pass_id": gallery, "media": "x"}).status_code == 422
    assert client.put(tick, json={"select": 99}).status_code == 404
    client.patch(f"{URL}/broll/labels", json={"media": [media(client, "rope")["id"]], "add_tags": ["Rope"]})
    wide, hands, rope = state(client)["shot_list"]
    assert (wide["done"], hands["done"], rope["by_tag"]) == (["GAL_01"], [], ["rope"])
    found = [f for f in edit(client)["findings"] if f["kind"] == "never shot"]
    assert [f["text"] for f in found] == ["Chorus 1: hands is on the shot list and was never shot."]
    chorus = state(client)["song"]["sections"][1]
    assert found[0]["start"] == round(chorus["start_s"] * 24)
    assert "hands,,at dawn,never shot" in client.get(f"{URL}/shot-list.csv").text
    assert "Chorus 2," in client.get(f"{URL}/shot-list-template.csv").text
    client.put(tick, json={"pass_id": gallery, "on": False})
    assert state(client)["shot_list"][0]["done"] == []
    client.post(f"{URL}/undo")
    assert state(client)["shot_list"][0]["done"] == ["GAL_01"]
    assert client.post(f"{URL}/shot-list", json={"text": "a,b\n"}).status_code == 400
    number = client.post(f"{URL}/shot-list/shots", json={"what": "pier"}).json()
    client.patch(f"{URL}/shot-list/shots/{number}", json={"section": "Verse 2"})
    assert state(client)["shot_list"][-1]["section"] == "Verse 2"
    assert client.post(f"{URL}/shot-list/shots", json={"what": " "}).status_code == 400
    assert client.delete(f"{URL}/shot-list/shots/{number}").status_code == 200
    assert len(state(client)["shot_list"]) == 3


@pytest.fixture
def own(client: TestClient, footage: Path, tmp_path: Path) -> Path:
    """Three clips in a folder of their own that may be moved, added to the project."""
    folder = footage / f"own-{tmp_path.name}"
    folder.mkdir()
    for n, name in enumerate(("one.mp4", "two.mp4", "three.mp4")):
        film(folder / name, Fraction(25), 50 + n)
    add(client, URL, folder, "broll", "one.mp4", "two.mp4", "three.mp4")
    return folder


def test_files_that_moved_are_found_again_by_their_content(
    client: TestClient, own: Path, footage: Path
) -> None:
    one, two = media(client, "one")["id"], media(client, "two")["id"]
    operate(client, "lay over", working_s=1.0, end_s=2.0, media=one)
    deep = own / "card" / "day 2"
    deep.mkdir(parents=True)
    (own / "one.mp4").rename(deep / "renamed.mp4")
    (own / "two.mp4").rename(deep / "two.mp4")
    (own / "three.mp4").rename(own.parent / f"{own.name}-three.mp4")
    gone = [m["name"] for m in state(client)["media"] if m["condition"] == "offline"]
    assert gone == ["one", "three", "two"]
    assert [f["kind"] for f in edit(client)["findings"]].count("offline") == 1
    answer = client.post(f"{URL}/files/searches", json={"path": str(own)})
    assert answer.json() == {"found": ["one", "two"], "missing": ["three"]}
    assert (media(client, "one")["file"], media(client, "two")["condition"]) == ("renamed.mp4", "ok")
    assert edit(client)["cutaways"][0]["source"]["media"] == one, "the edit keeps its shot"
    assert media(client, "two")["id"] == two
    client.post(f"{URL}/undo")
    assert media(client, "one")["condition"] == "offline"
    assert client.post(f"{URL}/files/searches", json={"path": "/etc"}).status_code == 403


def test_a_better_file_takes_a_files_place_once_it_was_said_what_differs(
    client: TestClient, own: Path
) -> None:
    one = media(client, "one")
    kept = client.post(
        f"{URL}/broll/selects", json={"media": one["id"], "ranges": [{"in_s": 0.4, "out_s": 1}]}
    )
    operate(client, "lay over", working_s=1.0, end_s=2.0, media=one["id"])
    better = film(own / "graded.mp4", Fraction(50), 90, size=(640, 360), start=500)
    url = f"{URL}/media/{one['id']}/replacements"
    told = client.post(url, json={"path": str(better)}).json()
    assert told == {
        "differs": ["0.20 s shorter: 1.80 s", "50 f/s instead of 25", "640x360 instead of 320x180"], "done": False,
    }  # fmt: skip
    assert media(client, "one")["file"] == "one.mp4", "only told"
    assert client.post(url, json={"path": str(better), "accept": True}).json()["done"]
    now = media(client, "one")
    assert (now["file"], now["rate"], now["width"], now["prepared"]) == ("graded.mp4", "50", 640, True)
    assert [s["id"] for s in state(client)["selects"]] == kept.json()
    cutaway = edit(client)["cutaways"][0]["source"]
    assert (cutaway["media"], cutaway["in_s"]) == (one["id"], 0.0)
    client.post(f"{URL}/undo")
    assert media(client, "one")["rate"] == "25"
    assert client.post(url, json={"path": str(own / "none.mp4")}).status_code == 404
    song = next(m for m in state(client)["media"] if m["kind"] == "song")["id"]
    assert client.post(f"{URL}/media/{song}/replacements", json={"path": str(better)}).status_code == 400


def test_what_nothing_uses_is_thrown_out_and_the_files_stay(client: TestClient, own: Path) -> None:
    one, two = media(client, "one")["id"], media(client, "two")["id"]
    operate(client, "lay over", working_s=1.0, end_s=2.0, media=one)
    client.patch(f"{URL}/broll/labels", json={"media": [two], "rating": 1})
    out = client.delete(f"{URL}/files/unused").json()
    assert set(out) == {"three", "rope", "gulls", "LOFT_08", "HIGH_02", "notes"}
    assert {m["name"] for m in state(client)["media"]} == {
        "song",
        "GAL_01",
        "DECK_02",
        "LAMP_03",
        "one",
        "two",
    }
    assert (own / "three.mp4").exists()
    client.post(f"{URL}/undo")
    assert len(state(client)["media"]) == 12


@pytest.mark.parametrize("ending", ["png", "jpg", "tif", "webp"])
def test_a_still_is_b_roll_of_any_length(
    client: TestClient, footage: Path, tmp_path: Path, ending: str
) -> None:
    name = f"chart-{tmp_path.name}-%03d.{ending}"
    picture = np.zeros((180, 320, 3), np.uint8)
    picture[:, 160:] = (200, 100, 40)
    Image.fromarray(picture).save(footage / name)
    add(client, URL, footage, "broll", name)
    still = media(client, Path(name).stem)
    assert (still["still"], still["prepared"], still["width"]) == (True, True, 320)
    operate(client, "lay over", working_s=2.0, end_s=6.5, media=still["id"])
    assert {f["kind"] for f in edit(client)["findings"]} == {"hole"}, "the still itself is long enough"
    shown = rendered(client, footage, 60, 72)
    for frame in shown:
        assert np.abs(frame[90, 250].astype(int) - (200, 100, 40)).max() < 12
        assert frame[90, 60].max() < 20


def frames_of(path: Path) -> list[np.ndarray[Any, np.dtype[np.uint8]]]:
    import av

    with av.open(str(path)) as container:
        return [f.to_ndarray(format="rgb24") for f in container.decode(video=0)]


@pytest.mark.parametrize(
    ("name", "said"), [("moving.gif", "animated picture"), ("moving.png", "animated"), ("moving.webp", "animated"), ("drawn.svg", "drawing")]
)  # fmt: skip
def test_pictures_that_move_or_are_drawn_are_refused_in_words(
    client: TestClient, footage: Path, name: str, said: str
) -> None:
    path = footage / name
    if name.endswith("svg"):
        path.write_text('<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
    else:
        images = [Image.new("RGB", (64, 48), (60 * i, 0, 0)) for i in range(4)]
        images[0].save(path, save_all=True, append_images=images[1:], duration=80)
    add(client, URL, footage, "broll", name)
    refused_file = media(client, path.stem)
    assert refused_file["state"] == "failed"
    assert said in refused_file["error"]
    path.unlink()


def test_a_file_is_fitted_and_turned_in_the_film_and_on_the_wall(client: TestClient, footage: Path) -> None:
    picture = np.zeros((320, 180, 3), np.uint8)
    picture[:, 90:] = (200, 100, 40)
    Image.fromarray(picture).save(footage / "portrait.png")
    add(client, URL, footage, "broll", "portrait.png")
    still = media(client, "portrait")
    operate(client, "lay over", working_s=2.0, end_s=6.5, media=still["id"])
    url = f"{URL}/media/{still['id']}/fit"
    assert client.put(url, json={"how": "fill", "turn": 90}).status_code == 200
    # What was left is now at the top, and the frame is filled.
    (frame, *_) = rendered(client, footage, 60, 62)
    assert frame[40, 10].max() < 20
    assert np.abs(frame[140, 310].astype(int) - (200, 100, 40)).max() < 14
    client.put(url, json={"how": "bars"})
    (frame, *_) = rendered(client, footage, 60, 62)
    assert frame[90, 10].max() < 20
    assert frame[90, 310].max() < 20, "bars"
    assert np.abs(frame[90, 190].astype(int) - (200, 100, 40)).max() < 14
    take_url = f"{URL}/media/{media(client, 'GAL_01')['id']}/fit"
    client.put(take_url, json={"how": "own", "scale": 1.5, "x": 0.4})
    (span, *_) = angle(client, "GAL")["spans"]
    assert span["chain"][0]["curves"]["scale"][0]["value"] == 1.5
    client.post(f"{URL}/undo")
    assert angle(client, "GAL")["spans"][0]["chain"] is None
    for wrong in ({"turn": 45}, {"scale": 0}, {"x": 2}):
        assert client.put(url, json=wrong).status_code == 422
    song = next(m for m in state(client)["media"] if m["kind"] == "song")["id"]
    assert client.put(f"{URL}/media/{song}/fit", json={}).status_code == 400


def test_a_slow_move_over_a_still_goes_from_one_framing_to_the_other(
    client: TestClient, footage: Path
) -> None:
    picture = np.zeros((360, 640, 3), np.uint8)
    picture[:180, :320], picture[:180, 320:] = (200, 40, 40), (40, 200, 40)
    picture[180:, :320], picture[180:, 320:] = (40, 40, 200), (200, 200, 40)
    Image.fromarray(picture).save(footage / "quarters.png")
    add(client, URL, footage, "broll", "quarters.png")
    still = media(client, "quarters")
    url = f"{URL}/media/{still['id']}/fit"
    move = {"how": "own", "x": 0, "y": 0, "scale": 2, "to": {"x": 1, "y": 1, "scale": 4}}
    assert client.put(url, json=move).status_code == 200
    operate(client, "lay over", working_s=2.0, end_s=4.0, media=still["id"])
    (cutaway,) = edit(client)["cutaways"][-1:]
    shown = rendered(client, footage, cutaway["start"], cutaway["end"])
    red, yellow = (200, 40, 40), (200, 200, 40)
    for frame, colour in ((shown[0], red), (shown[-1], yellow)):
        for y, x in ((6, 6), (6, 313), (173, 6), (173, 313)):
            assert np.abs(frame[y, x].astype(int) - colour).max() < 14
    both = [
        np.abs(f[20, 20].astype(int) - red).max() < 14 and np.abs(f[160, 300].astype(int) - yellow).max() < 14
        for f in shown
    ]
    assert any(both[1:-1]), "on its way it sees both"
    clip = f"{URL}/media/{media(client, 'GAL_01')['id']}/fit"
    answer = client.put(clip, json=move)
    assert answer.status_code == 400
    assert "no still" in answer.json()["detail"]


def rendered(
    client: TestClient, folder: Path, first: int, end: int
) -> list[np.ndarray[Any, np.dtype[np.uint8]]]:
    """Frames of the film, as pictures."""
    job = client.post(f"{URL}/edits/1/renders", json={"first": first, "end": end}).json()["job"]
    path = folder / f"film-{job}.mp4"
    path.write_bytes(client.get(f"{URL}/handoff/renders/{job}").content)
    shown = frames_of(path)
    path.unlink()
    assert len(shown) == end - first
    return shown


def test_a_project_is_collected_with_all_that_it_uses_and_opens_elsewhere(
    client: TestClient, own: Path, project: Project, tmp_path: Path
) -> None:
    one = media(client, "one")["id"]
    operate(client, "rough cut", broll=0.0)
    operate(client, "lay over", working_s=1.0, end_s=2.0, media=one)
    shown = pictures(client)
    target = own / "Small collected"
    assert client.post(f"{URL}/handoff/collections", json={"path": str(own)}).status_code == 202
    (job,) = [j for j in client.get(f"{URL}/jobs").json() if j["kind"] == "collect"]
    assert job["state"] == "done", job["error"]
    kept = json.loads((target / "collected.json").read_text())["files"]
    names = {Path(f["path"]).name for f in kept}
    assert {"song.flac", "GAL_01.mp4", "one.mp4"} <= names
    assert not {"three.mp4", "HIGH_02.mp4", "notes.mp4"} & names
    for f in kept:
        copy = (target / f["path"]).read_bytes()
        assert hashlib.sha256(copy).hexdigest() == f["sha256"]
        assert copy == Path(f["source"]).read_bytes()
    listed = client.get(f"{URL}/handoff/used.csv").text
    assert all(f["source"] in listed for f in kept)
    # Taken up again, what is whole is not copied again, and what was damaged is.
    good = next(target / f["path"] for f in kept if f["path"].endswith("one.mp4"))
    before, content = (target / kept[0]["path"]).stat().st_ino, good.read_bytes()
    good.write_bytes(content[:-5] + b"wrong")
    client.post(f"{URL}/handoff/collections", json={"path": str(own)})
    assert (target / kept[0]["path"]).stat().st_ino == before
    assert good.read_bytes() == content
    # The folder is a project: elsewhere, without any of the first files, it shows the same.
    elsewhere = tmp_path / "elsewhere"
    shutil.copytree(target, elsewhere / "projects" / "small")
    with TestClient(create_app(open_studio(elsewhere, tmp_path)), base_url="http://127.0.0.1") as other:
        assert pictures(other) == shown
        used = {Path(f["path"]).stem for f in kept}
        assert {m["condition"] for m in state(other)["media"] if m["name"] in used} == {"ok"}
    assert client.post(f"{URL}/handoff/collections", json={"path": str(project.folder)}).status_code in (
        403,
        409,
    )
    (own / "one.mp4").unlink()
    assert "one.mp4" in client.post(f"{URL}/handoff/collections", json={"path": str(own)}).json()["detail"]
