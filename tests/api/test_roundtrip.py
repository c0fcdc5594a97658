"""A shot sent out for work in another program, and what comes back in its place to the frame."""

import json
from pathlib import Path
from typing import Any

import av
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.api.test_work import URL, edit, media, operate
from tests.media.films import counts, film
from zembi.media.render import render
from zembi.service.handoff import roundtrip
from zembi.service.handoff.films import film_of
from zembi.service.project.workspace import Project


def send(project: Project, item: int, **more: Any) -> dict[str, Any]:
    arguments = {"edit": 1, "item": item, "handles": 10, "form": "prores", **more}
    return roundtrip.send(project, arguments, lambda _s, _w: None)


@pytest.fixture
def cut(client: TestClient) -> TestClient:
    operate(client, "rough cut")
    start = edit(client)["shots"][1]["start"]
    operate(client, "lay", start=start, media=media(client, "rope")["id"], speed=0.5)
    return client


def frames_of(project: Project, first: int, end: int, folder: Path) -> list[int | None]:
    target = folder / f"{first}.mp4"
    render(film_of(project, 1, first, end), target)
    return counts(target)


@pytest.mark.parametrize(("form", "codec"), [("prores", "prores"), ("dnxhr", "dnxhd")])
def test_a_shot_is_written_with_handles_and_says_its_place(
    cut: TestClient, project: Project, tmp_path: Path, form: str, codec: str
) -> None:
    shot = edit(cut)["shots"][1]
    made = send(project, shot["id"], form=form)
    path = Path(made["folder"]) / made["file"]
    place = json.loads((Path(made["folder"]) / made["sidecar"]).read_text())
    assert (place["first"], place["end"], place["before"], place["after"]) == (
        shot["start"],
        shot["end"],
        10,
        10,
    )
    assert made["frames"] == shot["end"] - shot["start"] + 20
    with av.open(str(path)) as container:
        assert container.streams.video[0].codec_context.name == codec
        assert container.streams.video[0].average_rate == project.rate
    shown = counts(path)
    assert len(shown) == made["frames"]
    assert shown[10:-10] == frames_of(project, shot["start"], shot["end"], tmp_path)


def test_pictures_are_numbered(cut: TestClient, project: Project) -> None:
    shot = edit(cut)["shots"][1]
    made = send(project, shot["id"], form="png", handles=0)
    pictures = sorted((Path(made["folder"]) / made["file"]).iterdir())
    assert len(pictures) == shot["end"] - shot["start"]
    assert pictures[0].name.endswith("_000001.png")
    with Image.open(pictures[0]) as image:
        assert image.size == (project.about.width, project.about.height)


def test_what_comes_back_lies_in_its_place_to_the_frame_over_the_original(
    cut: TestClient, project: Project, tmp_path: Path
) -> None:
    before = edit(cut)
    shot = before["shots"][1]
    made = send(project, shot["id"])
    # Another program made a film of its own of it, with another count.
    back = project.folder / "sent" / f"{Path(made['file']).stem}_v2.mov"
    film(back, project.rate, made["frames"], size=(320, 180), start=500)
    answer = cut.post(f"{URL}/edits/1/returns", json={"path": str(back)})
    assert answer.status_code == 200, answer.text
    assert f"frames {shot['start']} to {shot['end']}" in answer.json()["note"]
    after = edit(cut)
    assert after["shots"] == before["shots"], "the original stays"
    (over,) = after["cutaways"]
    assert (over["start"], over["end"]) == (shot["start"], shot["end"])
    shown = frames_of(project, shot["start"], shot["end"], tmp_path)
    assert shown == list(range(510, 510 + shot["end"] - shot["start"])), "without the handles"
    cut.post(f"{URL}/undo")
    assert edit(cut)["cutaways"] == []


def test_a_passage_is_sent_with_its_cuts_and_comes_back_as_one_on_a_lane_of_its_own(
    cut: TestClient, project: Project, tmp_path: Path
) -> None:
    before = edit(cut)
    first, end = before["shots"][1]["start"] + 7, before["shots"][3]["start"] + 5
    body = {"first": first, "end": end, "handles": 8, "form": "prores"}
    job = cut.post(f"{URL}/edits/1/excerpts", json=body)
    assert job.status_code == 202, job.text
    made = roundtrip.send(project, {"edit": 1, "item": None, **body}, lambda _s, _w: None)
    place = json.loads((Path(made["folder"]) / made["sidecar"]).read_text())
    assert (place["first"], place["end"], place["before"], place["after"]) == (first, end, 8, 8)
    assert made["frames"] == end - first + 16
    shown = counts(Path(made["folder"]) / made["file"])
    assert shown == frames_of(project, first - 8, end + 8, tmp_path), "as it is seen, handles too"
    back = project.folder / "sent" / f"{Path(made['file']).stem}_graded.mov"
    film(back, project.rate, made["frames"], size=(320, 180), start=700)
    lanes = len(before["lanes"])
    answer = cut.post(f"{URL}/edits/1/returns", json={"path": str(back), "own_lane": True})
    assert answer.status_code == 200, answer.text
    after = edit(cut)
    assert after["shots"] == before["shots"]
    assert len(after["lanes"]) == lanes + 1
    assert frames_of(project, first, end, tmp_path) == list(range(708, 708 + end - first))
    cut.post(f"{URL}/undo")
    assert len(edit(cut)["lanes"]) == lanes
    for wrong in ({"first": 90, "end": 90}, {"first": 10**6, "end": 10**7}):
        assert cut.post(f"{URL}/edits/1/excerpts", json=wrong).status_code == 400


def test_what_is_not_known_or_too_short_is_refused_and_nothing_is_added(
    cut: TestClient, project: Project, tmp_path: Path
) -> None:
    count = len(cut.get(URL).json()["media"])
    shot = edit(cut)["shots"][1]
    stranger = film(project.folder / "stranger.mov", project.rate, 12)
    answer = cut.post(f"{URL}/edits/1/returns", json={"path": str(stranger)})
    assert answer.status_code == 400
    assert "is not known as a shot" in answer.json()["detail"]
    made = send(project, shot["id"])
    short = film(project.folder / "sent" / f"{Path(made['file']).stem}_short.mov", project.rate, 30)
    answer = cut.post(f"{URL}/edits/1/returns", json={"path": str(short)})
    assert answer.status_code == 409
    assert "too short" in answer.json()["detail"]
    (project.folder / "stranger.json").write_text(
        '{"format": "zembi shot 1", "first": 9, "end": 3, "before": 0}'
    )
    assert (
        "does not say where"
        in cut.post(f"{URL}/edits/1/returns", json={"path": str(stranger)}).json()["detail"]
    )
    assert len(cut.get(URL).json()["media"]) == count
    body = {"item": 999, "form": "prores", "handles": 5}
    assert "not there any more" in cut.post(f"{URL}/edits/1/excerpts", json=body).json()["detail"]
    operate(cut, "black", start=shot["start"])
    assert (
        "no picture"
        in cut.post(f"{URL}/edits/1/excerpts", json={**body, "item": shot["id"]}).json()["detail"]
    )
