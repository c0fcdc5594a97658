"""The whole job over the interface of the server: song, line-up, coverage, sheet, hand-off."""

import io
import re
import shutil
from fractions import Fraction
from pathlib import Path
from typing import Any

import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient

from tests.edits import asked, told
from tests.media.films import counts
from tests.spans import seen
from zembi.core.programme.model import source_frames
from zembi.core.timebase import frame_middle
from zembi.demo.synth import Performance
from zembi.media.probe import frame_times
from zembi.service.project.workspace import Project
from zembi.store.entities import Media

URL = "/api/v1/projects/small"


def state(client: TestClient) -> dict[str, Any]:
    return dict(client.get(URL).json())


def edit(client: TestClient) -> dict[str, Any]:
    return told(client.get(f"{URL}/edits/1").json())


def operate(client: TestClient, op: str, **more: Any) -> dict[str, Any]:
    """Do an operation that names shots and cutaways by their first frames."""
    answer = client.post(f"{URL}/edits/1", json=asked(edit(client), {"op": op, **more}))
    assert answer.status_code == 200, answer.text
    return told(answer.json())


def refused(client: TestClient, op: str, **more: Any) -> str:
    answer = client.post(f"{URL}/edits/1", json=asked(edit(client), {"op": op, **more}))
    assert answer.status_code in (400, 409), answer.text
    return str(answer.json()["detail"])


def media(client: TestClient, name: str) -> dict[str, Any]:
    return next(m for m in state(client)["media"] if m["name"] == name)


def take(client: TestClient, name: str) -> dict[str, Any]:
    return next(t for t in state(client)["takes"] if t["media"] == media(client, name)["id"])


def angle(client: TestClient, name: str) -> dict[str, Any]:
    return next(a for a in state(client)["angles"] if a["name"] == name)


def test_every_file_is_prepared_or_says_why_not(client: TestClient) -> None:
    found = {m["name"]: m for m in state(client)["media"]}
    assert all(m["prepared"] for name, m in found.items() if name != "notes")
    assert found["notes"]["state"] == "failed"
    assert "notes.mp4 is not a media file" in found["notes"]["error"]
    assert (found["DECK_02"]["rate"], found["DECK_02"]["camera"]) == ("29.97", "DECK")
    failed = [j for j in client.get(f"{URL}/jobs").json() if j["state"] == "failed"]
    assert [j["title"] for j in failed] == ["Preparing notes"]


def test_the_song_is_listened_to_and_corrected(client: TestClient, performance: Performance) -> None:
    song = state(client)["song"]
    assert song["bpm"] == pytest.approx(120, abs=0.01)
    assert [s["name"] for s in song["sections"]] == ["Verse 1", "Chorus 1", "Verse 2", "Chorus 2"]
    cuts = [s["start"] for s in operate(client, "rough cut")["shots"]]
    second = song["beats"][song["bars"][2] + 1]
    assert (
        client.patch(f"{URL}/song/grid", json={"action": "the one", "song_s": second + 0.02}).status_code
        == 200
    )
    moved = state(client)["song"]
    assert second in [moved["beats"][i] for i in moved["bars"]]
    assert [s["start"] for s in edit(client)["shots"]] == cuts, "moving the grid moves no cut"
    client.patch(f"{URL}/song/grid", json={"action": "halve"})
    assert state(client)["song"]["bpm"] == pytest.approx(60, abs=0.01)
    client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    assert state(client)["song"]["bars"] == song["bars"]
    assert client.patch(f"{URL}/song/grid", json={"action": "metre", "metre": 40}).status_code == 400


def test_sections_and_marks(client: TestClient) -> None:
    first, second, *_ = state(client)["song"]["sections"]
    path = f"{URL}/song/sections/{second['id']}"
    bar_s = 2.0
    client.patch(path, json={"name": "Refrain", "start_s": second["start_s"] + bar_s + 0.2})
    after = state(client)["song"]["sections"][1]
    assert (after["name"], after["start_s"]) == (
        "Refrain",
        pytest.approx(second["start_s"] + bar_s, abs=1e-3),
    )
    assert client.patch(f"{URL}/song/sections/{first['id']}", json={"start_s": 9.0}).status_code == 409
    assert client.patch(path, json={"name": "  "}).status_code == 400
    ids = client.post(f"{URL}/song/marks", json={"times_s": [1.52, 3.4, 7.07]}).json()
    shown = client.patch(
        f"{URL}/song/marks", json={"action": "tidy", "to": "beat", "reach_s": 0.08, "preview": True}
    ).json()["moved"]
    assert [m["id"] for m in shown] == [ids[0], ids[2]]
    assert [m["at_s"] for m in state(client)["song"]["marks"]] == [1.52, 3.4, 7.07], "looking moves nothing"
    assert (
        client.patch(f"{URL}/song/marks", json={"action": "tidy", "to": "beat", "reach_s": 0.08}).json()[
            "moved"
        ]
        == shown
    )
    assert [m["at_s"] for m in state(client)["song"]["marks"]] == pytest.approx([1.5, 3.4, 7.0], abs=5e-3)
    client.patch(f"{URL}/song/marks/{ids[1]}", json={"song_s": 12.0})
    client.patch(f"{URL}/song/marks", json={"action": "delete", "ids": [ids[0]]})
    assert [m["at_s"] for m in state(client)["song"]["marks"]] == pytest.approx([7.0, 12.0], abs=5e-3)
    assert client.post(f"{URL}/song/marks", json={"times_s": [9999.0]}).status_code == 400
    assert client.post(f"{URL}/song/marks", json={"times_s": ["nan"]}).status_code == 422


def test_takes_are_lined_up_and_doubt_is_said(client: TestClient) -> None:
    status = {
        m["name"]: t["status"]
        for t in state(client)["takes"]
        for m in state(client)["media"]
        if m["id"] == t["media"]
    }
    assert status == {
        "GAL_01": "locked", "DECK_02": "locked", "LAMP_03": "choose", "LOFT_08": "unmatched", "HIGH_02": "silent", "notes": "failed",
    }  # fmt: skip
    (p,) = take(client, "GAL_01")["passes"]
    assert p["song_start_s"] - p["take_start_s"] == pytest.approx(-2.0, abs=5e-4)
    (p,) = take(client, "LAMP_03")["passes"]
    assert [x["section"] for x in p["places"]] == ["Chorus 1", "Chorus 2"]
    assert p["angle"] is None


def test_an_ambiguous_take_is_chosen_and_taken_back(client: TestClient) -> None:
    (p,) = take(client, "LAMP_03")["passes"]
    place = p["places"][1]["song_start_s"]
    url = f"{URL}/lineup/passes/{p['id']}"
    assert client.patch(url, json={"action": "choose", "song_start_s": place}).status_code == 200
    chosen = take(client, "LAMP_03")
    assert (chosen["status"], chosen["passes"][0]["song_start_s"], chosen["passes"][0]["origin"]) == (
        "locked",
        place,
        "by hand",
    )
    assert angle(client, "LAMP")["spans"]
    client.post(f"{URL}/undo")
    assert take(client, "LAMP_03")["status"] == "choose"
    assert not any(a["name"] == "LAMP" for a in state(client)["angles"])


def test_nudging_moves_the_picture_and_no_cut(client: TestClient) -> None:
    before = operate(client, "rough cut")
    (p,) = take(client, "GAL_01")["passes"]
    url = f"{URL}/lineup/passes/{p['id']}"
    client.patch(url, json={"action": "nudge", "seconds": 0.1})
    after = edit(client)
    assert [s["start"] for s in after["shots"]] == [s["start"] for s in before["shots"]]
    gal = media(client, "GAL_01")["id"]
    was = {s.start: s.time.start_s for s in seen(before) if s.media == gal and s.start}
    now = {s.start: s.time.start_s for s in seen(after) if s.media == gal}
    assert was
    assert all(now[start] - in_s == pytest.approx(-0.1, abs=1e-9) for start, in_s in was.items())
    client.patch(url, json={"action": "revert"})
    assert take(client, "GAL_01")["passes"][0]["moved_ms"] == 0
    assert client.patch(url, json={"action": "nudge"}).status_code == 422


def test_locking_by_hand(client: TestClient) -> None:
    silent = media(client, "HIGH_02")["id"]
    url = f"{URL}/lineup/takes/{silent}/passes"
    assert client.post(url, json={"pairs": [[1.0, 9.0]]}).status_code == 201
    (p,) = take(client, "HIGH_02")["passes"]
    assert (p["song_start_s"] - p["take_start_s"], p["rate"], p["status"]) == (8.0, 1.0, "locked")
    assert client.post(url, json={"pairs": [[0.5, 9.0], [2.5, 13.0]]}).status_code == 201
    (p,) = take(client, "HIGH_02")["passes"]
    assert p["rate"] == pytest.approx(2.0)
    assert p["song_start_s"] + 2.0 * (2.5 - p["take_start_s"]) == pytest.approx(13.0)
    assert "wrong beat" in client.post(url, json={"pairs": [[0.0, 1.0], [2.0, 30.0]]}).json()["detail"]
    assert client.post(url, json={"pairs": []}).status_code == 422


def test_angles_are_named_ordered_and_fed(client: TestClient) -> None:
    gal, deck = angle(client, "GAL"), angle(client, "DECK")
    assert (gal["number"], deck["number"]) == (1, 2)
    operate(client, "rough cut")
    shown = edit(client)["programme"]
    client.put(f"{URL}/coverage/order", json={"ids": [deck["id"], gal["id"]]})
    assert angle(client, "DECK")["number"] == 1
    assert edit(client)["programme"] == shown, "renumbering changes no picture"
    client.patch(f"{URL}/coverage/angles/{gal['id']}", json={"name": "Gallery wide", "hue": 7})
    assert (angle(client, "Gallery wide")["hue"], angle(client, "Gallery wide")["number"]) == (7, 2)
    (p,) = take(client, "DECK_02")["passes"]
    client.put(f"{URL}/coverage/passes/{p['id']}/angle", json={"angle": gal["id"]})
    deck_id = media(client, "DECK_02")["id"]
    assert {s["media"] for s in angle(client, "Gallery wide")["spans"]} == {media(client, "GAL_01")["id"]}
    body = {"angle": gal["id"], "start_s": 8.5, "end_s": 16.5, "pass_id": p["id"]}
    assert client.post(f"{URL}/coverage/feeds", json=body).status_code == 200
    spans = angle(client, "Gallery wide")["spans"]
    assert [(s["start"], s["end"]) for s in spans if s["media"] == deck_id] == [(204, 396)]
    assert (
        client.post(f"{URL}/coverage/feeds", json={**body, "start_s": 60.0, "end_s": 64.0}).status_code == 409
    )
    assert client.delete(f"{URL}/coverage/angles/{gal['id']}").status_code == 409
    assert client.put(f"{URL}/coverage/order", json={"ids": [gal["id"]]}).status_code == 400


@pytest.mark.parametrize(("unit", "lead", "expected"), [
    ("free", 0, 101), ("half", 0, 102), ("beat", 0, 96), ("beat", 2, 94), ("bar", 0, 108), ("bar", 1, 107),
])  # fmt: skip
def test_switching_falls_on_the_grid_with_the_lead(
    client: TestClient, unit: str, lead: int, expected: int
) -> None:
    # Beats fall every 12 frames from frame 12; a bar every 48 frames: 12, 60, 108.
    after = operate(client, "switch", working_s=4.24, angle=angle(client, "GAL")["id"], unit=unit, lead=lead)
    assert [s["start"] for s in after["shots"]] == [0, expected]
    assert after["note"] == "Switch to angle 1"


def test_cuts_are_made_moved_joined_and_undone_over_a_restart(client: TestClient, project: Project) -> None:
    gal, deck = angle(client, "GAL")["id"], angle(client, "DECK")["id"]
    operate(client, "switch", working_s=0.5, angle=gal, unit="beat")
    operate(client, "switch", working_s=4.5, angle=deck, unit="beat")
    moved = operate(client, "move", start=108, to=110)
    assert [(s["start"], s["label"]) for s in moved["shots"]] == [(0, "start"), (12, "bar"), (110, "+2 f")]
    beaten = operate(client, "move", start=110, beats=1)
    assert [s["start"] for s in beaten["shots"]] == [0, 12, 122]
    assert operate(client, "join", start=122)["undo"] == "Join"
    assert "first shot" in refused(client, "join", start=0)
    assert "not there any more" in refused(client, "move", start=77, to=80)
    assert "between frames" in refused(client, "move", start=12, to=0)
    project.database.close()
    assert client.post(f"{URL}/undo").json()["note"] == "Join"
    for _ in range(4):
        client.post(f"{URL}/undo")
    assert [s["start"] for s in edit(client)["shots"]] == [0]
    for _ in range(5):
        client.post(f"{URL}/redo")
    assert [s["start"] for s in edit(client)["shots"]] == [0, 12]
    assert client.post(f"{URL}/redo").status_code == 409


def test_b_roll_is_laid_from_its_in_point(client: TestClient) -> None:
    rope = media(client, "rope")["id"]
    assert client.patch(f"{URL}/media/{rope}", json={"select": [1.0, 4.0]}).status_code == 200
    operate(client, "cut", working_s=6.5, unit="bar")
    assert "12 frames missing" not in refused(client, "lay", start=0, media=rope)
    operate(client, "cut", working_s=2.5, unit="bar")
    laid = operate(client, "lay", start=0, media=rope)
    assert laid["shots"][0]["source"] == {
        "kind": "clip",
        "angle": None,
        "media": rope,
        "in_s": 1.0,
        "speed": 1.0,
        "slip": 0,
        "words": "",
        "card": None,
        "line": None,
    }
    over = operate(client, "lay over", working_s=8.5, media=rope, unit="beat")
    assert [(c["start"], c["end"]) for c in over["cutaways"]] == [(204, 252)]
    assert any(s.start == 204 and s.media == rope for s in seen(over))
    text = refused(client, "lay over", working_s=12.5, end_s=18.5, media=rope, unit="beat")
    assert re.search(r"“rope” is too short for this place: 72 frames missing", text)
    assert operate(client, "take off", start=204)["cutaways"] == []
    assert client.patch(f"{URL}/media/{rope}", json={"select": [4.0, 4.0]}).status_code == 400
    assert "no picture to lay" in refused(client, "lay", start=0, media=state(client)["song"]["media"])


def test_rough_cut_covers_the_song_and_keeps_what_is_held(client: TestClient) -> None:
    assert state(client)["badges"]["sheet"] == "not cut"
    assert [f["kind"] for f in edit(client)["findings"]] == ["uncut"]
    operate(client, "cut", working_s=8.5, unit="bar")
    operate(client, "cut", working_s=10.5, unit="bar")
    operate(client, "angle", start=204, angle=angle(client, "DECK")["id"])
    operate(client, "hold", start=204)
    after = operate(client, "rough cut")
    assert next(s for s in after["shots"] if s["start"] == 204)["held"]
    assert after["length"] == after["shots"][-1]["end"] == state(client)["length"]
    assert all(a["source"] != b["source"] for a, b in zip(after["shots"], after["shots"][1:], strict=False))
    assert [f for f in after["findings"] if f["kind"] == "hole"] == []
    assert {f["kind"] for f in after["findings"]} <= {"too short"}
    assert state(client)["badges"]["sheet"] == "100 % cut"


def rendered(client: TestClient, **body: Any) -> bytes:
    job = client.post(f"{URL}/edits/1/renders", json=body).json()["job"]
    found = next(j for j in client.get(f"{URL}/jobs").json() if j["id"] == job)
    assert found["state"] == "done", found
    answer = client.get(f"{URL}/handoff/renders/{job}")
    assert answer.headers["content-type"] == "video/mp4"
    return answer.content


def shown(client: TestClient, project: Project) -> list[int | None]:
    """The source frame that each programme frame should show, from the programme as the page is told it."""
    files = {m.id: project.path_of(m) for m in project.database.all(Media)}
    out: list[int | None] = []
    for span in seen(edit(client)):
        out += (
            [None] * span.frames
            if span.media is None
            else source_frames(span, Fraction(24), frame_times(files[span.media]).times).tolist()
        )
    return out


def test_what_is_rendered_is_what_was_cut(
    client: TestClient, project: Project, tmp_path: Path, performance: Performance
) -> None:
    operate(client, "rough cut")
    operate(client, "lay over", working_s=8.5, media=media(client, "gulls")["id"], unit="beat")
    (tmp_path / "film.mp4").write_bytes(rendered(client))
    wanted = shown(client, project)
    assert counts(tmp_path / "film.mp4") == wanted
    (tmp_path / "part.mp4").write_bytes(rendered(client, first=100, end=160))
    assert counts(tmp_path / "part.mp4") == wanted[100:160]
    # In sync: the count of a shot on the gallery's take is the take's frame at that song time.
    n = next(s.start for s in seen(edit(client)) if s.media == media(client, "GAL_01")["id"]) + 3
    assert abs(wanted[n] - int((frame_middle(n, Fraction(24)) + 2.0) * 24)) <= 1  # type: ignore[operator]


def test_exports_hold_the_same_frames(client: TestClient) -> None:
    operate(client, "rough cut")
    operate(client, "lay over", working_s=8.5, media=media(client, "gulls")["id"], unit="beat")
    answer = client.get(f"{URL}/edits/1/export/otio")
    assert 'filename="Small.otio"' in answer.headers["content-disposition"]
    timeline = otio.adapters.read_from_string(answer.text, "otio_json")
    assert [t.name for t in timeline.tracks] == ["Shots", "Cutaways", "Song"]
    assert [c.name for c in timeline.tracks[1].find_clips()] == ["gulls"]
    edl = client.get(f"{URL}/edits/1/export/edl").text
    events = re.findall(r"^\d{3}  \w+", edl, re.MULTILINE)
    assert len(events) == sum(s.media is not None for s in seen(edit(client)))
    assert "bar" in client.get(f"{URL}/edits/1/export/csv").text
    assert "Chorus 1" in client.get(f"{URL}/edits/1/export/vtt").text
    assert client.get(f"{URL}/edits/1/export/midi").content.startswith(b"MThd")
    assert client.get(f"{URL}/edits/1/export/doc").status_code == 422


def test_a_missing_file_is_offline_can_be_relinked_and_loses_nothing(
    client: TestClient, footage: Path, project: Project, tmp_path: Path
) -> None:
    operate(client, "rough cut")
    before = edit(client)
    moved = footage / "moved"
    moved.mkdir(exist_ok=True)
    shutil.move(footage / "GAL_01.mp4", moved / "GAL_01.mp4")
    try:
        gal = media(client, "GAL_01")
        assert gal["condition"] == "offline"
        assert any(f["kind"] == "offline" for f in edit(client)["findings"])
        answer = client.post(f"{URL}/edits/1/renders", json={})
        assert answer.status_code == 409
        assert "Offline: GAL_01.mp4" in answer.json()["detail"]
        wrong = client.put(f"{URL}/media/{gal['id']}/path", json={"path": str(footage / "rope.mp4")})
        assert "not the same file" in wrong.json()["detail"]
        assert (
            client.put(f"{URL}/media/{gal['id']}/path", json={"path": str(moved / "GAL_01.mp4")}).status_code
            == 200
        )
        assert media(client, "GAL_01")["condition"] == "ok"
        assert edit(client)["shots"] == before["shots"]
    finally:
        shutil.move(moved / "GAL_01.mp4", footage / "GAL_01.mp4")


def test_the_bytes_of_what_was_made(client: TestClient) -> None:
    gal = media(client, "GAL_01")["id"]
    part = client.get(f"{URL}/media/{gal}/programme.h264", headers={"range": "bytes=100-299"})
    assert (part.status_code, len(part.content)) == (206, 200)
    index = client.get(f"{URL}/media/{gal}/wall.json").json()
    assert index["codec"].startswith("avc1.")
    assert len(index["times"]) == len(index["offsets"]) == len(index["sizes"])
    samples = client.get(f"{URL}/samples/{gal}", params={"start_s": -0.5, "seconds": 1.0})
    assert (len(samples.content), samples.headers["x-rate"]) == (32_000, "16000")
    assert not any(samples.content[:15_900])
    (p,) = take(client, "GAL_01")["passes"]
    curve = client.get(f"{URL}/lineup/passes/{p['id']}/match").json()
    assert len(curve) == 600
    assert max(curve) == 1.0
    assert client.get(f"{URL}/media/{gal}/secret.key").status_code == 404
    assert client.get(f"{URL}/media/nobody/wall.json").status_code == 404


def test_a_slot_that_stays_empty_says_why_and_each_way_out_fills_it(client: TestClient) -> None:
    operate(client, "make slots", first=0, end=edit(client)["length"], every="phrase")
    slots = edit(client)["shots"]
    rope = media(client, "rope")
    fill = {"op": "fill by rules", "first": 0, "end": slots[-1]["end"], "clips": [{"media": rope["id"]}]}
    url = f"{URL}/edits/1/left-empty"
    before = client.post(url, json=fill).json()
    assert edit(client)["shots"] == slots, "looking changes nothing"
    lack = before[0]
    frames = {s["id"]: s["end"] - s["start"] for s in slots}
    assert lack["frames"] == frames[lack["item"]] > lack["longest"]
    assert f"longest free stretch is {lack['longest']} f, this slot is {lack['frames']} f" in lack["words"]
    laid = {
        "op": "lay",
        "item": lack["item"],
        "media": rope["id"],
        "in_s": lack["in_s"],
        "speed": lack["speed"],
    }
    after = told(client.post(f"{URL}/edits/1", json=laid).json())
    shot = next(s for s in after["shots"] if s["id"] == lack["item"])
    assert (shot["source"]["media"], shot["source"]["speed"]) == (rope["id"], lack["speed"])
    assert not [f for f in after["findings"] if f["kind"] == "source runs out"], "slowed as told it reaches"
    assert lack["item"] not in {s["item"] for s in client.post(url, json=fill).json()}
    beyond = laid | {"in_s": 9999.0}
    assert "has no picture at" in client.post(f"{URL}/edits/1", json=beyond).json()["detail"]


def test_a_render_can_be_stopped_and_bad_requests_start_nothing(client: TestClient) -> None:
    assert client.post(f"{URL}/edits/1/renders", json={"first": 50, "end": 50}).status_code == 400
    assert client.get(f"{URL}/handoff/renders/999").status_code == 404
    assert client.delete(f"{URL}/jobs/999").status_code == 404
    assert io.BytesIO(rendered(client, first=0, end=2)).getbuffer().nbytes > 1000


def test_empty_slots_are_told_counted_looked_ahead_at_and_rendered(client: TestClient) -> None:
    operate(client, "rough cut")
    before = edit(client)
    body = {"op": "take out", "item": before["shots"][1]["id"], "how": "up"}
    ahead = client.post(f"{URL}/edits/1/preview", json=body)
    assert told(ahead.json())["shots"][-1]["source"]["kind"] == "empty"
    assert edit(client) == before, "looking changes nothing"
    made = operate(client, "make slots", first=0, end=before["length"], every="2 bars")
    assert {s["source"]["kind"] for s in made["shots"]} == {"empty"}
    assert made["findings"][0]["kind"] == "hole"
    assert "an empty slot" in made["findings"][0]["text"]
    rope, gulls = media(client, "rope")["id"], media(client, "gulls")["id"]
    clips = [{"media": gulls}, {"media": rope}]
    filled = operate(client, "fill", first=0, end=before["length"], clips=clips)
    assert [s["source"]["media"] for s in filled["shots"][:2]] == [gulls, rope]
    journal = state(client)["undo"]
    assert journal == "Fill slots with 2 clips"
    assert client.post(f"{URL}/edits/1/renders", json={"first": 0, "end": 12}).status_code == 202
    judged = client.get(f"{URL}/edits/1/judged").json()
    assert judged["shots"] == len(filled["shots"])
    assert sum(judged["falls"].values()) == len(filled["shots"]) - 1
    slipped = operate(client, "switch", working_s=10.0, angle=angle(client, "GAL")["id"], until_s=14.0)
    start = next(s["start"] for s in slipped["shots"] if s["source"]["kind"] == "angle")
    after = operate(client, "slip", start=start, frames=-2, on_purpose=True)
    assert [f["text"].split(" (")[0] for f in after["findings"] if f["kind"] == "out of sync"] == [
        "Angle 1, GAL, is out of sync on purpose, 2 frames early"
    ]
    for kind in ("otio", "edl", "csv"):
        assert client.get(f"{URL}/edits/1/export/{kind}").status_code == 200


def test_where_a_clip_would_come_is_told_and_comes(client: TestClient) -> None:
    rope = media(client, "rope")["id"]
    body = {"op": "lay at", "working_s": 4.0, "media": rope, "way": "next", "unit": "bar"}
    before = edit(client)
    told_of = client.post(f"{URL}/edits/1/placement", json=body)
    assert told_of.status_code == 200
    place = told_of.json()
    assert edit(client) == before, "nothing is changed by asking"
    if place["why"]:
        assert place["why"] in refused(client, **body)
        body |= {"by": "fitted"}
        place = client.post(f"{URL}/edits/1/placement", json=body).json()
    after = operate(client, body.pop("op"), **body)
    shot = next(s for s in after["shots"] if s["start"] == place["first"])
    assert (shot["end"], shot["source"]["media"]) == (place["end"], rope)
    assert (shot["source"]["in_s"], shot["source"]["speed"]) == (place["in_s"], place["speed"])
    wrong = {"op": "lay at", "working_s": 4.0, "media": "none", "way": "next"}
    assert client.post(f"{URL}/edits/1/placement", json=wrong).status_code == 400
    assert client.post(f"{URL}/edits/1/placement", json={**wrong, "way": "sideways"}).status_code == 422


def test_the_shot_list_is_laid_with_what_was_ticked_off(client: TestClient) -> None:
    before = edit(client)
    assert "shot list is empty" in refused(client, "assemble")
    names = [s["name"] for s in client.get(URL).json()["song"]["sections"]]
    for what in ("a rope", "a hand"):
        client.post(
            f"{URL}/shot-list/shots", json={"section": names[-1], "what": what, "camera": "", "note": ""}
        )
    listed = client.get(URL).json()["shot_list"]
    rope = media(client, "rope")["id"]
    client.put(f"{URL}/shot-list/shots/{listed[0]['id']}/tick", json={"media": rope, "on": True})
    after = operate(client, "assemble")
    begin = client.get(URL).json()["song"]["sections"][-1]["first_frame"]
    at = next(k for k, s in enumerate(after["shots"]) if s["start"] == begin)
    assert after["shots"][at]["source"]["media"] == rope
    assert after["shots"][at + 1]["source"]["words"] == "a hand"
    client.post(f"{URL}/undo")
    assert edit(client)["shots"] == before["shots"]
