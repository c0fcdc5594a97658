"""Files labelled together, their kind changed, and told apart by their sound when they are brought in."""

import shutil
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.api.test_work import URL, edit, media, operate, state, take


def label(client: TestClient, *names: str, **labels: Any) -> None:
    ids = [media(client, n)["id"] for n in names]
    answer = client.patch(f"{URL}/media", json={"ids": ids, **labels})
    assert answer.status_code == 200, answer.text


def test_several_files_get_names_a_camera_a_day_and_a_place_in_one_step(client: TestClient) -> None:
    before = [media(client, n) for n in ("GAL_01", "DECK_02")]
    client.patch(
        f"{URL}/broll/labels",
        json={"media": [media(client, "rope")["id"]], "add_tags": ["place: quay", "wet"]},
    )
    label(client, "GAL_01", "DECK_02", name=" Gallery ", camera="B", day="2", place="Gallery deck")
    one, two = media(client, "Gallery 1"), media(client, "Gallery 2")
    assert [one["id"], two["id"]] == [m["id"] for m in before]
    assert {m["camera"] for m in (one, two)} == {"B"}
    assert one["said"]["tags"] == ["day: 2", "place: Gallery deck"]
    label(client, "rope", place="pier")
    assert media(client, "rope")["said"]["tags"] == ["wet", "place: pier"], "one place, not two"
    label(client, "rope", place="", name="Rope")
    assert media(client, "Rope")["said"]["tags"] == ["wet"]
    for _ in range(3):
        client.post(f"{URL}/undo")
    assert [media(client, n)["camera"] for n in ("GAL_01", "DECK_02")] == [m["camera"] for m in before]


def test_a_wrong_kind_is_changed_in_one_step_and_its_labels_stay(client: TestClient) -> None:
    lamp = media(client, "DECK_02")["id"]
    passes = take(client, "DECK_02")["passes"]
    assert passes
    client.patch(f"{URL}/broll/labels", json={"media": [lamp], "add_tags": ["beam"], "rating": 4})
    label(client, "DECK_02", kind="broll")
    changed = media(client, "DECK_02")
    assert (changed["kind"], changed["said"]["tags"], changed["said"]["rating"]) == ("broll", ["beam"], 4)
    assert lamp not in {t["media"] for t in state(client)["takes"]}
    assert all(p["media"] != lamp for a in state(client)["angles"] for p in a.get("passes", []))
    operate(client, "make slots", first=0, end=state(client)["length"], every="bar")
    operate(client, "lay", start=0, media=lamp)
    assert edit(client)["shots"][0]["source"]["media"] == lamp, "it is laid as any clip"
    label(client, "DECK_02", kind="take")
    again = take(client, "DECK_02")
    assert again["status"] == "locked", "and finds its place again"
    assert again["passes"][0]["song_start_s"] == pytest.approx(passes[0]["song_start_s"], abs=0.001)
    assert edit(client)["shots"][0]["source"]["media"] == lamp
    for _ in range(5):
        client.post(f"{URL}/undo")
    assert (media(client, "DECK_02")["kind"], take(client, "DECK_02")["status"]) == ("take", "locked")


def test_what_cannot_be_labelled_so_is_refused_and_nothing_changes(client: TestClient) -> None:
    song = next(m for m in state(client)["media"] if m["kind"] == "song")["id"]
    rope = media(client, "rope")["id"]
    for ids, labels, code, said in (
        ([rope, song], {"name": "x"}, 409, "is the song or a stem"),
        ([rope, "gone"], {"name": "x"}, 404, ""),
        ([], {"name": "x"}, 422, ""),
    ):
        answer = client.patch(f"{URL}/media", json={"ids": ids, **labels})
        assert answer.status_code == code, answer.text
        assert said in str(answer.json()["detail"])
    assert media(client, "rope")["id"] == rope


def test_files_are_told_apart_by_their_sound_and_what_does_not_hold_the_song_is_offered_as_b_roll(
    client: TestClient, footage: Path
) -> None:
    shoot = footage / "all of it"
    shoot.mkdir(exist_ok=True)
    try:
        for name in ("DECK_02", "LOFT_08", "gulls"):
            shutil.copy(footage / f"{name}.mp4", shoot / f"new {name}.mp4")
        Image.new("RGB", (64, 48), (90, 60, 30)).save(shoot / "new plate.png")
        paths = [str(p) for p in sorted(shoot.iterdir())]
        answer = client.post(f"{URL}/media", json={"paths": paths, "kind": "footage"})
        assert answer.status_code == 201, answer.text
        found = {m["name"]: m for m in state(client)["media"] if m["name"].startswith("new ")}
        kinds = {name: (m["kind"], m["undecided"]) for name, m in found.items()}
        assert kinds == {
            "new DECK_02": ("take", True), "new LOFT_08": ("take", True),
            "new gulls": ("broll", False), "new plate": ("broll", False),
        }  # fmt: skip
        assert take(client, "new DECK_02")["status"] == "locked"
        assert take(client, "new LOFT_08")["status"] == "unmatched"
        # Nothing of it is decided before the editor says so.
        label(client, "new LOFT_08", kind="broll")
        label(client, "new DECK_02", kind="take")
        after = {m["name"]: (m["kind"], m["undecided"]) for m in state(client)["media"]}
        assert after["new LOFT_08"] == ("broll", False)
        assert after["new DECK_02"] == ("take", False)
        assert take(client, "new DECK_02")["status"] == "locked"
        label(client, "new plate", name="plate")
        answer = client.patch(f"{URL}/media", json={"ids": [media(client, "plate")["id"]], "kind": "take"})
        assert "is a still picture, no take" in answer.json()["detail"]
        sound = str(shutil.copy(footage / "song.flac", shoot / "new song.flac"))
        refused = client.post(f"{URL}/media", json={"paths": [sound], "kind": "footage"})
        assert "add it on the Song view" in refused.json()["detail"], "there is a song already"
        again = client.post(f"{URL}/media", json={"paths": paths, "kind": "footage"}).json()
        assert len(set(again)) == 4
        assert {m["id"] for m in state(client)["media"]} >= set(again), "none is added twice"
        assert sum(m["file"].startswith("new ") for m in state(client)["media"]) == 4
    finally:
        shutil.rmtree(shoot)


def test_the_one_sound_of_a_shoot_is_the_song_where_there_is_none(client: TestClient, footage: Path) -> None:
    new = {"name": "Harbour", "rate": "24", "width": 640, "height": 360}
    url = f"/api/v1/projects/{client.post('/api/v1/projects', json=new).json()['id']}"
    paths = [str(footage / n) for n in ("drums.flac", "rope.mp4")]
    assert client.post(f"{url}/media", json={"paths": paths, "kind": "footage"}).status_code == 201
    kinds = {m["name"]: m["kind"] for m in client.get(url).json()["media"]}
    assert kinds == {"drums": "song", "rope": "broll"}


def test_another_rate_is_told_before_and_keeps_cuts_on_the_music(client: TestClient) -> None:
    operate(client, "rough cut")
    before, song = edit(client), state(client)["song"]
    told = client.get(f"{URL}/rate-change", params={"rate": "50"}).json()
    assert told["rate"] == "50"
    assert told["gone"] == 0
    assert "stay on their beats" in told["words"]
    assert client.get(f"{URL}/rate-change", params={"rate": "often"}).status_code == 400
    assert edit(client) == before, "only told"
    assert client.patch(URL, json={"rate": "50"}).status_code == 200
    after, fast = edit(client), state(client)["song"]
    assert (state(client)["rate_label"], len(after["shots"])) == ("50", len(before["shots"]))
    assert after["length"] == state(client)["length"]
    was = {frame: k for k, frame in enumerate(song["beat_frames"])}
    on_beats = [
        (s, t)
        for s, t in zip(before["shots"], after["shots"], strict=True)
        if s["start"] in was and s["start"]
    ]
    assert len(on_beats) > 5
    for s, t in on_beats:
        assert t["start"] == fast["beat_frames"][was[s["start"]]]
        assert t["source"] == s["source"]
    client.post(f"{URL}/undo")
    assert edit(client)["shots"] == before["shots"]
    assert state(client)["rate_label"] != "50"
