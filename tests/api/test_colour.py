"""The tables of grades over the API, and a grade in the film."""

import io
import json
from typing import Any

import av
import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.test_titles import URL
from tests.api.test_work import edit
from zembi.core.colour.cube import read_cube
from zembi.core.colour.grade import LUT_SIZE, lut_of


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
