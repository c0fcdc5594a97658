"""The line-up over the interface of the server: by hand, several takes at once, by the clock, and as open files."""

import csv
import io
import json
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import update

from tests.api.test_work import URL, angle, edit, media, operate, state, take
from zembi.core.footage.files import facts_to_dict
from zembi.media.sound import read_sound, resample
from zembi.service.lineup import placing
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import Media, single


def passes(client: TestClient, name: str) -> list[dict[str, Any]]:
    return sorted(take(client, name)["passes"], key=lambda p: p["take_start_s"])


def place(client: TestClient, number: int, action: str, **more: float) -> Any:
    return client.patch(f"{URL}/lineup/passes/{number}", json={"action": action, **more})


def batch(client: TestClient, action: str, *names: str) -> str:
    ids = [media(client, n)["id"] for n in names]
    answer = client.patch(f"{URL}/lineup/takes", json={"action": action, "takes": ids})
    assert answer.status_code == 200, answer.text
    return str(answer.json()["note"])


def song_at(p: dict[str, Any], take_s: float) -> float:
    return float(p["song_start_s"] + p["rate"] * (take_s - p["take_start_s"]))


def test_a_pass_is_split_moved_apart_and_joined_again(client: TestClient) -> None:
    (whole,) = passes(client, "GAL_01")
    operate(client, "rough cut")
    cuts = [s["start"] for s in edit(client)["shots"]]
    middle = (whole["take_start_s"] + whole["take_end_s"]) / 2
    assert place(client, whole["id"], "split", seconds=whole["take_end_s"] + 5).status_code == 400
    assert place(client, whole["id"], "split", seconds=middle).status_code == 200
    head, tail = passes(client, "GAL_01")
    assert (head["take_end_s"], tail["take_start_s"]) == (middle, middle)
    for t in (whole["take_start_s"], middle, whole["take_end_s"]):
        assert song_at(head, t) == pytest.approx(song_at(whole, t))
        assert song_at(tail, t) == pytest.approx(song_at(whole, t))
    assert tail["angle"] == whole["angle"], "both feed the angle"
    place(client, tail["id"], "nudge", seconds=3.0)
    assert "restarted" in place(client, head["id"], "join").json()["detail"]
    assert place(client, tail["id"], "revert").status_code == 200
    assert place(client, head["id"], "join").status_code == 200
    (again,) = passes(client, "GAL_01")
    assert (again["take_start_s"], again["take_end_s"]) == (whole["take_start_s"], whole["take_end_s"])
    assert place(client, again["id"], "join").status_code == 409
    assert [s["start"] for s in edit(client)["shots"]] == cuts
    for _ in range(4):
        client.post(f"{URL}/undo")
    assert passes(client, "GAL_01") == [whole]


def test_a_joint_of_a_song_cut_on_set_is_told_and_moved_along_both_lines(client: TestClient) -> None:
    (whole,) = passes(client, "GAL_01")
    beats = state(client)["song"]["beats"]
    left = beats[len(beats) // 3]
    at = whole["take_start_s"] + (left - whole["song_start_s"]) / whole["rate"]
    place(client, whole["id"], "split", seconds=at)
    head, tail = passes(client, "GAL_01")
    assert take(client, "GAL_01")["joints"] == [], "nothing jumps there"
    place(client, tail["id"], "place", song_start_s=left - (beats[9] - beats[1]))
    (joint,) = take(client, "GAL_01")["joints"]
    assert (joint["before"], joint["kind"]) == (head["id"], "twice")
    assert "played twice between pass 1 and 2" in joint["words"]
    assert joint["on_beat_s"] == pytest.approx(at, abs=0.02)
    assert joint["end_s"] - joint["start_s"] == pytest.approx(beats[9] - beats[1], abs=0.02)
    head, tail = passes(client, "GAL_01")
    assert place(client, head["id"], "joint", seconds=at + 0.5).status_code == 200
    first, second = passes(client, "GAL_01")
    assert (first["take_end_s"], second["take_start_s"]) == (at + 0.5, at + 0.5)
    for t in (at + 0.5, at + 2):
        assert song_at(second, t) == pytest.approx(song_at(tail, t)), "it stays on its line"
    assert second["moved_ms"] == pytest.approx(tail["moved_ms"], abs=1e-6)
    for wrong, words in ((first["take_start_s"] + 0.5, "less than a second"), (1e4, "less than a second")):
        answer = place(client, head["id"], "joint", seconds=wrong)
        assert (answer.status_code, words in answer.json()["detail"]) == (409, True)
    assert "No pass follows" in place(client, tail["id"], "joint", seconds=at).json()["detail"]
    client.post(f"{URL}/undo")
    assert passes(client, "GAL_01")[0]["take_end_s"] == pytest.approx(at)


def test_a_head_is_placed_by_typing(client: TestClient) -> None:
    (p,) = passes(client, "DECK_02")
    assert place(client, p["id"], "place", song_start_s=4.25).status_code == 200
    (now,) = passes(client, "DECK_02")
    assert (now["song_start_s"], now["origin"], now["status"]) == (4.25, "by hand", "locked")
    assert place(client, p["id"], "place", song_start_s=999.0).status_code == 409
    assert place(client, p["id"], "place").status_code == 422


def test_several_takes_at_once_are_one_step_of_undo(client: TestClient) -> None:
    before = state(client)["takes"]
    assert "2 passes unlocked" in batch(client, "unlock", "GAL_01", "DECK_02")
    assert {take(client, n)["status"] for n in ("GAL_01", "DECK_02")} == {"choose"}
    said = batch(client, "accept", "GAL_01", "DECK_02", "LAMP_03")
    assert said == "2 passes locked; 1 fit several places and wait for your choice"
    assert take(client, "LAMP_03")["status"] == "choose"
    assert "3 passes cleared" in batch(client, "clear", "GAL_01", "DECK_02", "LAMP_03")
    assert passes(client, "GAL_01") == []
    batch(client, "redo", "GAL_01", "LAMP_03")
    assert [take(client, n)["status"] for n in ("GAL_01", "LAMP_03", "DECK_02")] == [
        "locked",
        "choose",
        "unmatched",
    ]
    for _ in range(3):
        client.post(f"{URL}/undo")
    after = {t["media"]: t["status"] for t in state(client)["takes"]}
    assert after == {t["media"]: t["status"] for t in before}
    assert client.patch(f"{URL}/lineup/takes", json={"action": "clear", "takes": []}).status_code == 422


def test_a_slate_note_speaks_for_a_place(client: TestClient) -> None:
    (p,) = passes(client, "LAMP_03")
    assert [x["reasons"] for x in p["places"]] == [[], []]
    path = f"{URL}/media/{media(client, 'LAMP_03')['id']}"
    assert client.patch(path, json={"slate": "ch2 tk 3"}).status_code == 200
    (p,) = passes(client, "LAMP_03")
    assert [x["reasons"] for x in p["places"]] == [[], ["the slate note says Chorus 2"]]
    assert p["status"] == "choose", "it is shown, not decided"


def clocked(project: Project, client: TestClient, **codes: str) -> None:
    """Give takes timecodes, and let the line-up think again."""
    with project.database.writing() as connection:
        for name, code in codes.items():
            row = single(connection, Media, name=name)
            facts = facts_to_dict(replace(row.facts, timecode=code))
            connection.execute(update(tables.media).where(tables.media.c.id == row.id).values(facts=facts))
        placing.propose_by_clock(connection, Change(connection))


def test_a_take_without_sound_is_offered_a_place_by_timecode(client: TestClient, project: Project) -> None:
    assert take(client, "HIGH_02")["status"] == "silent"
    clocked(project, client, GAL_01="10:00:00:00", HIGH_02="10:00:07:30")
    silent = take(client, "HIGH_02")
    (p,) = silent["passes"]
    assert (silent["status"], p["origin"], p["angle"]) == ("choose", "clock", None)
    assert p["proposed"] == "GAL_01 ran at the same time by timecode"
    # 7.5 s into GAL_01, whose song begins 2 s in.
    assert song_at(p, 0.0) == pytest.approx(5.5, abs=1e-3)
    assert place(client, p["id"], "accept").status_code == 200
    (locked,) = passes(client, "HIGH_02")
    assert (locked["status"], locked["origin"], locked["proposed"]) == ("locked", "by hand", "")
    client.post(f"{URL}/undo")
    batch(client, "clear", "HIGH_02")
    (gal,) = passes(client, "GAL_01")
    place(client, gal["id"], "accept")
    assert take(client, "HIGH_02")["status"] == "silent", "what was turned down is not offered again"


def exported(client: TestClient) -> zipfile.ZipFile:
    answer = client.post(f"{URL}/lineup/exports")
    assert answer.status_code == 202, answer.text
    packed = client.get(f"{URL}/lineup/exports/{answer.json()['job']}")
    assert packed.status_code == 200
    return zipfile.ZipFile(io.BytesIO(packed.content))


def member(archive: zipfile.ZipFile, ending: str) -> bytes:
    return archive.read(next(n for n in archive.namelist() if n.endswith(ending)))


def test_the_line_up_is_given_out_and_read_back(client: TestClient, footage: Path, tmp_path: Path) -> None:
    archive = exported(client)
    table = list(csv.DictReader(io.StringIO(member(archive, "passes.csv").decode())))
    assert {r["take"] for r in table} == {"GAL_01", "DECK_02", "LAMP_03"}
    assert json.loads(member(archive, "passes.json"))["song"].endswith("song.flac")
    (gal,) = passes(client, "GAL_01")
    row = next(r for r in table if r["take"] == "GAL_01")
    assert float(row["song_start_s"]) == pytest.approx(gal["song_start_s"], abs=1e-6)
    # The take's sound lies where the song's does: sample against sample, through the room.
    heard = tmp_path / "gal.wav"
    heard.write_bytes(member(archive, "GAL_01.wav"))
    sound, rate = read_sound(heard)
    song, song_rate = read_sound(footage / "song.flac")
    assert len(sound) == pytest.approx(len(song) * rate / song_rate, abs=rate / 1000)
    a = resample(sound[10 * rate : 14 * rate, 0], rate, 8000)
    b = resample(song[10 * song_rate : 14 * song_rate].mean(axis=1), song_rate, 8000)
    lags = np.correlate(a - a.mean(), b - b.mean(), "full")
    assert abs(int(np.argmax(np.abs(lags))) - (len(b) - 1)) <= 2
    text = member(archive, "lineup.otio")
    before = [passes(client, n) for n in ("GAL_01", "DECK_02", "LAMP_03")]
    place(client, gal["id"], "nudge", seconds=0.5)
    batch(client, "clear", "DECK_02")
    answer = client.post(f"{URL}/lineup/timeline?name=lineup.otio", content=text)
    assert answer.status_code == 200, answer.text
    assert answer.json()["note"].startswith("3 passes of 3 takes")
    for was, name in zip(before, ("GAL_01", "DECK_02", "LAMP_03"), strict=True):
        for old, new in zip(was, passes(client, name), strict=True):
            for key in ("take_start_s", "take_end_s", "song_start_s", "rate"):
                assert new[key] == pytest.approx(old[key], abs=1e-9)
            assert (new["status"], new["origin"]) == (old["status"], old["origin"])
    assert angle(client, "DECK")["spans"]
    client.post(f"{URL}/undo")
    assert passes(client, "DECK_02") == []


def test_a_timeline_of_others_is_refused_in_words(client: TestClient) -> None:
    def read(text: bytes) -> Any:
        return client.post(f"{URL}/lineup/timeline?name=x.otio", content=text)

    assert "not an OpenTimelineIO file" in read(b"\xff\xfe no").json()["detail"]
    assert "not an OpenTimelineIO file" in read(b"words").json()["detail"]
    track = otio.schema.Track(kind="Video")
    span = otio.opentime.TimeRange(otio.opentime.RationalTime(0, 24), otio.opentime.RationalTime(48, 24))
    track.append(otio.schema.Clip("z", otio.schema.ExternalReference("file:///elsewhere/z.mp4"), span))
    timeline = otio.schema.Timeline("t")
    timeline.tracks.append(track)
    foreign = otio.adapters.write_to_string(timeline, "otio_json").encode()
    assert "is a take of this project" in read(foreign).json()["detail"]
    batch(client, "clear", "GAL_01", "DECK_02", "LAMP_03")
    assert client.post(f"{URL}/lineup/exports").status_code == 409
    assert client.get(f"{URL}/lineup/exports/1").status_code == 409


def test_a_take_looked_at_again_costs_nothing(client: TestClient, project: Project) -> None:
    gal = project.database.one(Media, name="GAL_01")
    (kept,) = project.derived(gal).glob("align-*.json")
    stamp = kept.stat().st_mtime_ns
    before = passes(client, "GAL_01")
    batch(client, "redo", "GAL_01")
    assert kept.stat().st_mtime_ns == stamp
    assert [{**p, "id": 0} for p in passes(client, "GAL_01")] == [{**p, "id": 0} for p in before]
