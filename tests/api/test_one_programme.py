"""One programme for all: the film, the timeline read back, and the list of cuts read by a reader not ours."""

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient

from tests.api.test_work import URL, edit, media, operate, refused, seen
from tests.media.films import counts
from tests.test_cli import zembi
from zembi.media.render import render
from zembi.service.handoff.films import film_of
from zembi.service.project.workspace import Project

RATE = Fraction(24)


@pytest.fixture
def cut(client: TestClient) -> TestClient:
    """A rough cut with a black shot, a clip at half speed, one laid over, and a part of the song left out."""
    operate(client, "rough cut", beats=4, broll=0.0)
    song = client.get(URL).json()["song"]
    bar = [song["beats"][b] for b in song["bars"]]
    body = {"action": "leave out", "start_s": bar[6], "end_s": bar[8]}
    assert client.post(f"{URL}/song/cutdown", json=body).status_code == 200
    shots = edit(client)["shots"]
    operate(client, "black", start=shots[1]["start"])
    operate(client, "lay", start=shots[2]["start"], media=media(client, "rope")["id"], speed=0.5)
    operate(client, "lay over", working_s=bar[8] + 0.1, media=media(client, "gulls")["id"])
    return client


def sound_of(path: Path) -> np.ndarray:
    with av.open(str(path)) as film:
        return np.concatenate([f.to_ndarray()[0] for f in film.decode(audio=0)])


def test_the_timeline_renders_to_the_film_that_the_project_renders_to(
    cut: TestClient, project: Project, tmp_path: Path
) -> None:
    render(replace(film_of(project, 1), width=320, height=180), tmp_path / "project.mp4")
    (tmp_path / "cut.otio").write_bytes(cut.get(f"{URL}/edits/1/export/otio").content)
    zembi("render", tmp_path / "cut.otio", "--out", tmp_path / "timeline.mp4", "--size", "320x180")
    wanted, found = counts(tmp_path / "project.mp4"), counts(tmp_path / "timeline.mp4")
    assert len(wanted) == edit(cut)["length"]
    assert found == wanted
    assert None in wanted, "the black shot has no count"
    a, b = sound_of(tmp_path / "project.mp4"), sound_of(tmp_path / "timeline.mp4")
    assert len(a) == len(b)
    assert np.corrcoef(a, b)[0, 1] > 0.9999


def test_the_list_of_cuts_is_what_is_on_screen_to_a_reader_not_ours(cut: TestClient) -> None:
    text = cut.get(f"{URL}/edits/1/export/edl").text
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=24)
    (track,) = timeline.video_tracks()
    found = []
    for clip in track.find_clips():
        there = clip.trimmed_range_in_parent()
        found.append((
            round(there.start_time.value), round(there.end_time_exclusive().value), clip.source_range.start_time.to_seconds(),
        ))  # fmt: skip
    wanted = [s for s in seen(edit(cut)) if s.media]
    first = wanted[0].start
    assert [(a + first, b + first) for a, b, _ in found] == [(s.start, s.end) for s in wanted]
    for (_, _, at), span in zip(found, wanted, strict=True):
        assert at == pytest.approx(max(0.0, span.time.start_s), abs=0.5 / 24 + 1e-6)


def test_an_angle_without_a_take_is_a_hole_that_says_so_everywhere(client: TestClient) -> None:
    angle = client.get(URL).json()["angles"][-1]
    number = angle["number"]
    covered = angle["spans"][-1]["end"] if angle["spans"] else 0
    length = edit(client)["length"]
    assert covered < length, "the last angle's take is shorter than the song"
    after = operate(client, "switch", working_s=(covered - 48) / 24, angle=angle["id"], unit="free")
    hole = after["programme"]["layers"][0][-1]
    assert (hole["kind"], hole["start"], hole["end"], hole["media"]) == ("hole", covered, length, None)
    assert hole["text"] == f"angle {number}, {angle['name']}, has no take here"
    told = [f["text"] for f in after["findings"] if f["kind"] == "hole"]
    assert any(f"angle {number}" in text for text in told)
    assert "on already" in refused(
        client, "switch", working_s=(covered - 24) / 24, angle=angle["id"], unit="free"
    )
