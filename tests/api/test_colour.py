"""The tables of grades over the API, and a grade in the film."""

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from fastapi.testclient import TestClient
from numpy.typing import NDArray
from PIL import Image

from tests.api.test_titles import URL
from tests.api.test_work import edit
from zembi.core.colour.cube import read_cube
from zembi.core.colour.grade import LUT_SIZE, checked_grade, graded, lut_of
from zembi.media.derive import STILL_COLUMNS, STILL_EVERY_S, STILL_SIZE, STILLS_SHEET
from zembi.service.colour.flat import _looks_flat


def table(client: TestClient, form: str, values: Any) -> Any:
    return client.get(f"/api/v1/grade.{form}", params={"values": json.dumps(values)})


def test_the_page_gets_the_cores_table(client: TestClient) -> None:
    answer = table(client, "lut", {"exposure": 1.0, "saturation": 0.5})
    assert "max-age" in answer.headers["cache-control"]
    points = np.frombuffer(answer.content, np.float16).reshape(LUT_SIZE, LUT_SIZE, LUT_SIZE, 4)
    wanted = lut_of({"exposure": 1.0, "saturation": 0.5})
    assert np.abs(points[..., :3].astype(np.float32) - wanted).max() < 6e-4
    assert (points[..., 3] == 1).all()


def test_a_grade_goes_out_as_a_cube(client: TestClient) -> None:
    answer = table(client, "cube", {"temperature": 0.4})
    assert np.allclose(read_cube(answer.text).lut, lut_of({"temperature": 0.4}), atol=1e-6)


@pytest.mark.parametrize("wrong", [{"exposure": 99}, {"gamma": 1}, {"exposure": "much"}, [], "x", None])
def test_values_that_are_none_are_refused(client: TestClient, wrong: Any) -> None:
    assert table(client, "lut", wrong).status_code == 400


def light(client: TestClient) -> float:
    job = client.post(f"{URL}/edits/1/renders", json={"first": 100, "end": 104}).json()["job"]
    film = client.get(f"{URL}/handoff/renders/{job}")
    with av.open(io.BytesIO(film.content)) as opened:
        return float(np.mean([f.to_ndarray(format="gray").mean() for f in opened.decode(video=0)]))


def test_a_grade_of_a_shot_is_in_the_film_and_one_of_a_passage_too(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    before = light(client)
    shot = next(
        i
        for lane in edit(client)["lanes"]
        if lane["kind"] == "base"
        for i in lane["items"]
        if i["start"] <= 100 < i["end"]
    )
    body = {"op": "treat", "items": [shot["id"]], "treatments": [{"kind": "grade", "exposure": -1.5}]}
    assert client.post(f"{URL}/edits/1", json=body).status_code == 200
    darker = light(client)
    assert darker < 0.8 * before
    client.post(f"{URL}/undo")
    range_ = {
        "op": "treat range",
        "first": 90,
        "end": 120,
        "treatments": [{"kind": "grade", "exposure": -1.5, "strength": 0.5}],
    }
    assert client.post(f"{URL}/edits/1", json=range_).status_code == 200
    assert darker < light(client) < before
    refused = client.post(f"{URL}/edits/1", json={**body, "treatments": [{"kind": "grade", "exposure": 50}]})
    assert refused.status_code in (400, 409)


def test_the_grade_of_a_file_is_in_every_shot_of_it_and_undone_as_one_step(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    media = {m["name"]: m["id"] for m in client.get(URL).json()["media"] if m["kind"] == "take"}
    before = edit(client)["programme"]["layers"][0]
    for name, take in media.items():
        answer = client.put(f"{URL}/media/{take}/grade", json={"values": {"exposure": -1.0, "contrast": 1.0}})
        assert answer.status_code == 200, (name, answer.text)
    now = edit(client)["programme"]["layers"][0]
    assert [(s["start"], s["end"], s["media"]) for s in now] == [
        (s["start"], s["end"], s["media"]) for s in before
    ]
    graded_ = [s for s in now if s["media"] in media.values()]
    assert graded_
    assert all(s["chain"][0]["step"] == "grade" for s in graded_)
    assert graded_[0]["chain"][0]["curves"]["exposure"][0]["value"] == -1.0
    told = {m["id"]: m["grade"] for m in client.get(URL).json()["media"]}
    assert all(told[take] == {"exposure": -1.0} for take in media.values())
    # A cut, a slip or another angle changes nothing of it.
    frame = graded_[0]["start"] + 7
    client.post(f"{URL}/edits/1", json={"op": "cut", "working_s": (frame + 0.1) / 24, "unit": "free"})
    after = edit(client)["programme"]["layers"][0]
    assert all(s["chain"][0]["step"] == "grade" for s in after if s["media"] in media.values())
    client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    assert [bool(m["grade"]) for m in client.get(URL).json()["media"] if m["kind"] == "take"].count(
        False
    ) == 1


@pytest.mark.parametrize("values", [{"exposure": 99}, {"gamma": 1}, {"exposure": "x"}, {"exposure": None}])
def test_a_file_takes_no_grade_that_cannot_be(client: TestClient, values: Any) -> None:
    take = next(m["id"] for m in client.get(URL).json()["media"] if m["kind"] == "take")
    assert client.put(f"{URL}/media/{take}/grade", json={"values": values}).status_code in (400, 422)
    song = next(m["id"] for m in client.get(URL).json()["media"] if m["kind"] == "song")
    assert client.put(f"{URL}/media/{song}/grade", json={"values": {}}).status_code == 400


def jumps(client: TestClient) -> list[dict[str, Any]]:
    answer = client.get(f"{URL}/edits/1/colour/jumps")
    assert answer.status_code == 200, answer.text
    return list(answer.json())


def match(client: TestClient, **asked: Any) -> Any:
    return client.get(f"{URL}/edits/1/colour/match", params=asked)


def test_a_cut_jumps_more_once_one_side_is_dark_and_no_more_once_it_is_made_like_the_other(
    client: TestClient,
) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    shots = [i for lane in edit(client)["lanes"] if lane["kind"] == "base" for i in lane["items"]]
    before = {j["frame"]: j for j in jumps(client)}
    assert set(before) <= {s["start"] for s in shots}
    cut = min(before.values(), key=lambda j: j["jump"])
    dark = {"kind": "grade", "exposure": -2.0}
    shot = cut["after"]["item"]
    client.post(f"{URL}/edits/1", json={"op": "treat", "items": [shot], "treatments": [dark]})
    there = next(j for j in jumps(client) if j["frame"] == cut["frame"])
    assert there["jump"] > cut["jump"] + 5
    found = match(client, item=shot, like=cut["before"]["item"]).json()
    assert found["after"] < found["before"]
    like = {"kind": "grade", **found["values"]}
    client.post(f"{URL}/edits/1", json={"op": "treat", "items": [shot], "treatments": [like]})
    after = next(j for j in jumps(client) if j["frame"] == cut["frame"])
    assert after["jump"] < there["jump"]
    # Once more: it is as near as it gets.
    again = match(client, item=shot, like=cut["before"]["item"]).json()
    assert again["after"] == again["before"] <= found["after"] + 0.05
    assert again["values"] == found["values"]
    # Of the file itself, with nothing but it: the same, since no file is graded yet.
    assert match(client, item=shot, like=cut["before"]["item"], of="file").json()["values"] == found["values"]
    assert match(client, item=shot).status_code == 200


def test_a_match_that_cannot_be_is_refused(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    shots = [i for lane in edit(client)["lanes"] if lane["kind"] == "base" for i in lane["items"]]
    one = shots[0]["id"]
    assert match(client, item=one, like=one).status_code == 400
    assert match(client, item=10_000).status_code == 404
    assert match(client, item=one, like=10_000).status_code == 404
    assert match(client, item=one, of="camera").status_code == 422
    assert client.get(f"{URL}/edits/99/colour/jumps").status_code == 404


def test_a_cut_over_which_a_picture_comes_in_is_none(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    for cut in jumps(client):
        body = {"op": "treat", "items": [cut["after"]["item"]], "treatments": [{"kind": "dissolve"}]}
        # Some have too little footage beside the cut.
        if client.post(f"{URL}/edits/1", json=body).status_code == 200:
            break
    else:
        pytest.fail("no cut takes a dissolve")
    assert cut["frame"] not in {j["frame"] for j in jumps(client)}


#: A table that makes everything half as bright, as it is coded.
HALF = "TITLE half\nLUT_3D_SIZE 2\n" + "\n".join(
    f"{r / 2} {g / 2} {b / 2}" for b in (0, 1) for g in (0, 1) for r in (0, 1)
)


def keep(client: TestClient, text: str, name: str = "net loft.cube") -> Any:
    return client.post(f"{URL}/tables", json={"kind": "cube", "name": name, "text": text})


def test_a_table_of_a_camera_is_kept_given_to_its_files_and_in_the_film(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    before = light(client)
    kept = keep(client, HALF)
    assert kept.status_code == 201, kept.text
    number = kept.json()["number"]
    code = f"{number:012x}"
    assert keep(client, HALF, "again.cube").json() == kept.json()
    assert kept.json() == {"number": number, "name": "net loft", "code": code}
    assert client.get(f"{URL}/tables").json() == [kept.json()]
    files = [m for m in client.get(URL).json()["media"] if m["kind"] in ("take", "broll")]
    for m in files:
        body = {"number": number, "share": 0.5}
        assert client.put(f"{URL}/media/{m['id']}/table", json=body).status_code == 200
    now = {m["id"]: m["table"] for m in client.get(URL).json()["media"]}
    assert all(now[m["id"]] == {"number": number, "share": 0.5} for m in files)
    half = light(client)
    assert half == pytest.approx(0.75 * before, rel=0.02)
    client.put(f"{URL}/media/{files[0]['id']}/grade", json={"values": {"exposure": 0.5}})
    spans = [s for s in edit(client)["programme"]["layers"][0] if s["media"] == files[0]["id"]]
    assert all([step["step"] for step in s["chain"][:2]] == ["table", "grade"] for s in spans)
    client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    now = {m["id"]: m["table"]["number"] for m in client.get(URL).json()["media"]}
    assert [now[m["id"]] for m in files] == [*[number] * (len(files) - 1), 0]


def test_a_table_is_a_look_over_a_passage_or_a_shots_own_and_one_that_is_gone_is_told(
    client: TestClient,
) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    before = light(client)
    kept = keep(client, HALF + "\n#look").json()
    look = {"kind": "table", "code": kept["code"], "strength": 0.5}
    length = edit(client)["lanes"][0]["items"][-1]["end"]
    body = {"op": "treat range", "first": 0, "end": length, "item": None, "treatments": [look]}
    assert client.post(f"{URL}/edits/1", json=body).status_code == 200
    assert light(client) == pytest.approx(0.75 * before, rel=0.02)
    shot = edit(client)["lanes"][0]["items"][0]
    client.post(f"{URL}/edits/1", json={"op": "treat", "items": [shot["id"]], "treatments": [look]})
    steps = [step["step"] for step in edit(client)["programme"]["layers"][0][0]["chain"]]
    assert steps == ["table", "table"], "the shot's own, then the passage's"
    wrong = {"kind": "table", "code": "no code"}
    refused = client.post(
        f"{URL}/edits/1", json={"op": "treat", "items": [shot["id"]], "treatments": [wrong]}
    )
    assert refused.status_code == 409
    assert "Choose a table of colours" in refused.json()["detail"]
    gone = {"kind": "table", "code": "0000deadbeef"}
    client.post(f"{URL}/edits/1", json={"op": "treat", "items": [shot["id"]], "treatments": [gone]})
    (told,) = [f for f in edit(client)["findings"] if "table of colours" in f["text"]]
    assert (told["start"], told["items"]) == (0, [shot["id"]])


def test_all_shots_of_an_angle_get_a_grade_at_once_and_keep_what_else_is_done_to_them(
    client: TestClient,
) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    shots = edit(client)["lanes"][0]["items"]
    angle = shots[0]["source"]["angle"]
    items = [s["id"] for s in shots if s["source"]["angle"] == angle]
    client.post(
        f"{URL}/edits/1", json={"op": "treat", "items": items[:1], "treatments": [{"kind": "mirror"}]}
    )

    def treated() -> dict[int, list[Any]]:
        return {
            s["id"]: [
                (t["kind"], t.get("exposure")) for t in (s["treated"] or {"treatments": []})["treatments"]
            ]
            for s in edit(client)["lanes"][0]["items"]
        }

    for exposure in (0.5, -0.25):
        body = {"op": "grade", "items": items, "values": {"exposure": exposure}}
        assert client.post(f"{URL}/edits/1", json=body).status_code == 200
        now = treated()
        assert now[items[0]] == [("grade", exposure), ("mirror", None)]
        assert all(now[i] == [("grade", exposure)] for i in items[1:])
        assert all(now[s["id"]] == [] for s in shots if s["id"] not in items)
    client.post(f"{URL}/edits/1", json={"op": "grade", "items": items, "values": {}})
    assert treated()[items[0]] == [("mirror", None)], "all at rest: no grade"
    client.post(f"{URL}/undo")
    assert treated()[items[-1]] == [("grade", -0.25)], "taken back in one step"
    body = {"op": "grade", "items": items, "values": {"exposure": 99}}
    assert "-99" not in client.post(f"{URL}/edits/1", json=body).json()["detail"]


def test_the_page_gets_a_table_mixed_by_its_share(client: TestClient) -> None:
    number = keep(client, HALF).json()["number"]
    answer = client.get(f"{URL}/tables/{number}.lut", params={"share": 0.5})
    points = np.frombuffer(answer.content, np.float16).reshape(LUT_SIZE, LUT_SIZE, LUT_SIZE, 4)
    assert points[-1, -1, -1].tolist() == [0.75, 0.75, 0.75, 1.0]
    assert points[0, 0, -1].tolist() == [0.75, 0.0, 0.0, 1.0]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "does not say its size"),
        ("LUT_3D_SIZE 2\n0 0 0\n1 1 x", "line 3"),
        ("LUT_3D_SIZE 2\nnan 0 0", "line 2"),
        ("LUT_3D_SIZE 900000", "line 1"),
        ("LUT_3D_SIZE 65\n0 0 0", "has 1 colours"),
        ("PK zip, no text", "does not say its size"),
    ],
)
def test_a_table_that_is_none_is_refused_with_its_line(client: TestClient, text: str, said: str) -> None:
    answer = keep(client, text)
    assert answer.status_code == 400
    assert said in answer.json()["detail"]
    assert client.get(f"{URL}/tables").json() == []


def test_a_name_leads_nowhere_and_a_table_that_is_gone_is_told(client: TestClient) -> None:
    kept = keep(client, HALF + "\n#2", "../../etc/pass wd.cube").json()
    assert "/" not in kept["name"]
    take = next(m for m in client.get(URL).json()["media"] if m["kind"] == "take")
    song = next(m["id"] for m in client.get(URL).json()["media"] if m["kind"] == "song")
    assert client.put(f"{URL}/media/{take['id']}/table", json={"number": 99}).status_code == 404
    assert client.get(f"{URL}/tables/99.lut").status_code == 404
    assert client.put(f"{URL}/media/{song}/table", json={"number": kept["number"]}).status_code == 400
    assert client.put(f"{URL}/media/{take['id']}/table", json={"number": 0, "share": 3}).status_code == 422


def test_a_log_curve_is_kept_as_a_table_and_each_once(client: TestClient) -> None:
    made = [
        client.post(f"{URL}/tables", json={"kind": "curve", "curve": curve}).json()
        for curve in ("acescct", "film scan", "plain log", "acescct")
    ]
    assert made[3] == made[0]
    assert len({m["number"] for m in made}) == 3
    assert made[2]["name"].startswith("plain log 0.0833")
    other = {"kind": "curve", "curve": "plain log", "slope": 0.07, "offset": 0.5}
    assert client.post(f"{URL}/tables", json=other).json()["number"] != made[2]["number"]
    assert client.post(f"{URL}/tables", json={**other, "slope": 0}).status_code == 422
    assert client.post(f"{URL}/tables", json={"kind": "curve", "curve": "of a maker"}).status_code == 422


def test_colour_goes_out_as_a_table_for_each_different_colour(client: TestClient) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    assert client.get(f"{URL}/edits/1/export/cubes").status_code == 404, "there is none yet"
    shots = [i["id"] for lane in edit(client)["lanes"] if lane["kind"] == "base" for i in lane["items"]]
    warm = {"kind": "grade", "temperature": 0.3}
    client.post(f"{URL}/edits/1", json={"op": "treat", "items": shots[:3], "treatments": [warm]})
    with zipfile.ZipFile(io.BytesIO(client.get(f"{URL}/edits/1/export/cubes").content)) as file:
        (name,) = file.namelist()
        assert np.allclose(read_cube(file.read(name).decode()).lut, lut_of({"temperature": 0.3}), atol=1e-6)
    listed = client.get(f"{URL}/edits/1/export/edl").text
    assert listed.count(f"* LUT: {name}") >= 3
    assert any(
        "is named as a .cube" in line for line in client.get(f"{URL}/edits/1/export/edl/report").json()
    )


def test_stills_of_a_file_are_seen_as_the_film_will_show_them(client: TestClient) -> None:
    take = next(m for m in client.get(URL).json()["media"] if m["kind"] == "take" and m["prepared"])
    address = f"{URL}/colour/stills/{take['id']}"
    plain = picture_of(client.get(address).content)
    assert np.array_equal(
        plain, picture_of(client.get(f"{URL}/media/{take['id']}/stills.jpg?of={take['made_of']}").content)
    )
    client.put(f"{URL}/media/{take['id']}/grade", json={"values": {"exposure": 1.0, "saturation": 0.0}})
    seen = picture_of(client.get(address).content)
    wanted = graded(plain / 255, checked_grade({"exposure": 1.0, "saturation": 0.0})) * 255
    assert np.abs(seen - wanted).mean() < 2
    client.put(f"{URL}/media/{take['id']}/grade", json={"values": {}})
    song = next(m["id"] for m in client.get(URL).json()["media"] if m["kind"] == "song")
    assert client.get(f"{URL}/colour/stills/{song}").status_code == 404
    assert client.get(f"{URL}/colour/stills/nothing").status_code == 404


def picture_of(data: bytes) -> NDArray[np.float64]:
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), np.float64)


def test_no_ordinary_file_looks_flat(client: TestClient) -> None:
    answer = client.get(f"{URL}/colour/flat")
    assert answer.status_code == 200
    media = {m["id"]: m["name"] for m in client.get(URL).json()["media"]}
    assert set(answer.json()) <= set(media)


@pytest.mark.parametrize(
    ("contrast", "colour", "flat"), [(1.0, 1.0, False), (0.3, 0.3, True), (0.3, 3.0, False)]
)
def test_little_contrast_with_little_colour_is_flat(
    tmp_path: Path, contrast: float, colour: float, flat: bool
) -> None:
    grey = np.broadcast_to(np.linspace(0, 1, 160)[None, :, None], (90, 160, 3))
    tint = np.array([0.06, 0.0, -0.06]) * colour
    tile = np.clip(0.4 + contrast * (grey - 0.5) + tint, 0, 1)
    Image.fromarray((255 * tile).astype(np.uint8)).save(tmp_path / STILLS_SHEET, quality=95)
    assert _looks_flat(tmp_path, 2.0, (1920, 1080)) is flat


def test_a_file_that_drifted_is_evened_along_its_length_and_undone(client: TestClient, data: Path) -> None:
    """The stills of a take are made to go dark along it: its first and last pictures come nearer each other."""
    take = next(m for m in client.get(URL).json()["media"] if m["name"] == "GAL_01")
    address = f"{URL}/media/{take['id']}/evening"
    short = next(m["id"] for m in client.get(URL).json()["media"] if m["name"] == "rope")
    refused = client.put(f"{URL}/media/{short}/evening", json={"on": True})
    assert refused.status_code == 409
    assert "does not change" in refused.json()["detail"]
    assert client.put(address, json={"on": False}).status_code == 200
    song = next(m["id"] for m in client.get(URL).json()["media"] if m["kind"] == "song")
    assert client.put(f"{URL}/media/{song}/evening", json={"on": True}).status_code == 400
    assert client.put(f"{URL}/media/nothing/evening", json={"on": True}).status_code == 404
    sheet = next((data / "projects").glob(f"*/cache/{take['made_of']}/stills.jpg"))
    tiles = np.asarray(Image.open(sheet), np.float64)
    width, height = STILL_SIZE
    for n in range(tiles.shape[0] // height * (tiles.shape[1] // width)):
        part = tiles[n // STILL_COLUMNS * height :, n % STILL_COLUMNS * width :][:height, :width]
        part *= 1 - 0.5 * n * STILL_EVERY_S / take["seconds"]
    sheet.unlink()
    Image.fromarray(np.clip(tiles, 0, 255).astype(np.uint8)).save(sheet, quality=95)
    done = client.put(address, json={"on": True})
    assert done.status_code == 200, done.text
    assert "stops along its length" in done.json()["note"]
    assert next(m["evened"] for m in client.get(URL).json()["media"] if m["id"] == take["id"])
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    spans = [s for s in edit(client)["programme"]["layers"][0] if s["media"] == take["id"]]
    exposures = [s["chain"][0]["curves"]["exposure"][0]["value"] for s in spans]
    assert exposures[-1] - exposures[0] > 0.5, "later pictures are brought up"
    walls = [s for a in client.get(URL).json()["angles"] for s in a["spans"] if s["media"] == take["id"]]
    assert walls, "the wall of angles has it too"
    assert all(s["chain"][0]["step"] == "grade" for s in walls)
    assert len(walls[0]["chain"][0]["curves"]["exposure"]) > 3, "changing along it"
    client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    assert not next(m["evened"] for m in client.get(URL).json()["media"] if m["id"] == take["id"])
