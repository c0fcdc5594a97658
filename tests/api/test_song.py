"""The Song view's work over the interface: grid, marks, lyrics, files, stems, and the cutdown with its film."""

import io
import json
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import mido
import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.test_work import URL, edit, media, operate, state, take
from zembi.demo.synth import Performance
from zembi.media.render import song_samples
from zembi.service.handoff import films
from zembi.service.media.analyses import listen_file
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Media

SONG = f"{URL}/song"


def ok(answer: Any) -> Any:
    assert answer.status_code < 300, answer.text
    return answer.json()


def beats(client: TestClient) -> list[float]:
    return list(state(client)["song"]["beats"])


def test_cuts_may_be_brought_along_after_the_grid_moved(client: TestClient) -> None:
    cuts = [s["start"] for s in operate(client, "rough cut")["shots"]]
    told = ok(client.patch(f"{SONG}/grid", json={"action": "nudge", "seconds": 0.125}))
    assert [s["start"] for s in edit(client)["shots"]] == cuts, "moving the grid moves no cut"
    assert told["farthest"] == 3
    (of_edit,) = told["edits"]
    assert (of_edit["edit"], [a for a, _ in of_edit["moves"]]) == (1, cuts[1:])
    ok(client.patch(f"{SONG}/grid/cuts", json={"edits": told["edits"]}))
    assert [s["start"] for s in edit(client)["shots"]] == [0, *(b for _, b in of_edit["moves"])]
    assert client.patch(f"{SONG}/grid/cuts", json={"edits": told["edits"]}).status_code == 409
    client.post(f"{URL}/undo")
    assert [s["start"] for s in edit(client)["shots"]] == cuts


@pytest.mark.parametrize(
    "correction",
    [
        {"action": "halve"},
        {"action": "double"},
        {"action": "half beat"},
        {"action": "the one", "song_s": 9.4},
        {"action": "tempo", "bpm": 90.5, "song_s": 10.0},
        {"action": "as found"},
    ],
)
def test_a_correction_is_heard_as_it_will_be(client: TestClient, correction: dict[str, Any]) -> None:
    before = state(client)["song"]
    heard = ok(client.post(f"{SONG}/grid/clicks", json=correction))
    assert state(client)["song"] == before, "hearing it changes nothing"
    ok(client.patch(f"{SONG}/grid", json=correction))
    song = state(client)["song"]
    inside = [(i, at) for i, at in enumerate(song["beats"]) if 0 <= at < song["seconds"]]
    assert [c["at_s"] for c in heard] == pytest.approx([at for _, at in inside])
    assert [c["down"] for c in heard] == [i in song["bars"] for i, _ in inside]


def test_a_correction_without_its_value_says_which(client: TestClient) -> None:
    for method, path in (("PATCH", "grid"), ("POST", "grid/clicks")):
        told = client.request(method, f"{SONG}/{path}", json={"action": "the one"})
        assert told.status_code == 422
        assert "song_s" in told.json()["detail"]


def test_tempo_typed_tapped_pinned_and_kept_when_heard_again(client: TestClient, project: Project) -> None:
    found = state(client)["song"]
    ok(client.patch(f"{SONG}/grid", json={"action": "tempo", "bpm": 90.5, "song_s": 10.0}))
    assert state(client)["song"]["bpm"] == pytest.approx(90.5)
    taps = [4.5 + 1.0 * k + 0.01 * (k % 2) for k in range(8)]
    ok(client.patch(f"{SONG}/grid", json={"action": "tap", "taps": taps}))
    now = state(client)["song"]
    # The taps are at half the tempo found: its own grid counted half as fast, not a rough one through the taps.
    assert (now["factor"], now["straight"]) == (0.5, False)
    assert now["bpm"] == pytest.approx(60, abs=0.005)
    assert client.patch(f"{SONG}/grid", json={"action": "tap", "taps": [1, 2]}).status_code == 400
    ok(client.patch(f"{SONG}/grid", json={"action": "as found"}))
    beat = found["beats"][60]
    ok(client.patch(f"{SONG}/grid", json={"action": "pin", "song_s": beat, "to_s": beat + 0.05}))
    ok(client.patch(f"{SONG}/grid", json={"action": "more beats", "song_s": 2.6}))
    bent = state(client)["song"]
    assert min(abs(b - beat - 0.05) for b in bent["beats"]) < 1e-6
    assert len(bent["beats"]) == len(found["beats"]) + 1
    listen_file(project.derived(media_row(project))).unlink()
    runner_prepare(client, media(client, "song")["id"])
    assert state(client)["song"]["beats"] == pytest.approx(bent["beats"], abs=1e-9)


def test_a_passage_is_tapped_by_itself_and_taken_off_again(client: TestClient) -> None:
    found = beats(client)
    start, end = found[40], found[60]
    taps = [start + 0.4 + 0.62 * k for k in range(5)]
    far = client.patch(
        f"{SONG}/grid", json={"action": "mend", "song_s": start, "to_s": end, "taps": [1, 1.6, 2.2, 2.8]}
    )
    assert far.status_code == 400
    assert "Tap inside the passage" in far.json()["detail"]
    assert beats(client) == found
    ok(client.patch(f"{SONG}/grid", json={"action": "mend", "song_s": end, "to_s": start, "taps": taps}))
    now = state(client)["song"]
    ((a, b, bpm),) = [(t["start_s"], t["end_s"], t["bpm"]) for t in now["tapped"]]
    assert (a, b, bpm) == pytest.approx((start, end, 60 / 0.62))
    assert [x for x in now["beats"] if x <= a + 1e-6 or x >= b - 1e-6] == pytest.approx(
        found[:41] + found[60:]
    )
    assert {round(t, 6) for t in taps} <= {round(x, 6) for x in now["beats"]}
    client.post(f"{URL}/undo")
    assert beats(client) == found
    client.post(f"{URL}/redo")
    ok(client.patch(f"{SONG}/grid", json={"action": "take off passage", "song_s": (start + end) / 2}))
    assert (beats(client), state(client)["song"]["tapped"]) == (found, [])
    assert client.patch(f"{SONG}/grid", json={"action": "take off passage", "song_s": 0}).status_code == 409


def test_a_beat_pinned_in_a_passage_in_doubt_moves_none_outside(client: TestClient, project: Project) -> None:
    found = beats(client)
    start, end = found[40], found[60]
    path = listen_file(project.derived(media_row(project)))
    heard = json.loads(path.read_text())
    heard["doubtful"] = [{"start_s": start, "end_s": end, "reason": "free"}]
    path.write_text(json.dumps(heard))
    (said,) = state(client)["song"]["doubtful"]
    assert said == {"start_s": start, "end_s": end, "reason": "free"}
    ok(client.patch(f"{SONG}/grid", json={"action": "pin", "song_s": found[50], "to_s": found[50] + 0.11}))
    now = beats(client)
    assert now[50] == pytest.approx(found[50] + 0.11)
    assert now[45] == pytest.approx(found[45] + 0.055, abs=0.01)
    assert now[:41] + now[60:] == pytest.approx(found[:41] + found[60:])
    ok(
        client.patch(
            f"{SONG}/grid",
            json={"action": "mend", "song_s": start, "to_s": end, "taps": [start + k for k in range(1, 6)]},
        )
    )
    assert state(client)["song"]["doubtful"] == [], "what was tapped is in doubt no more"


def test_marks_on_the_strongest_hit_of_each_bar(client: TestClient) -> None:
    song = state(client)["song"]
    edges = [song["beats"][i] for i in song["bars"]]
    ok(client.post(f"{SONG}/mark-sets", json={"of": "accents", "kinds": ["low"]}))
    marks = [m["at_s"] for m in state(client)["song"]["marks"]]
    hits = client.get(f"{SONG}/detail").json()["hits"]["low"]
    for a, b in pairwise(edges):
        here = [h for h in hits if a - 0.03 <= h["song_s"] < b - 0.03]
        inside = [m for m in marks if a - 0.03 <= m < b - 0.03]
        assert len(inside) == (1 if here else 0)
        if here:
            best = max(h["strength"] for h in here)
            assert min(abs(h["song_s"] - inside[0]) for h in here if h["strength"] > best - 0.002) < 1e-3


def test_marks_are_made_on_an_instrument_and_an_unknown_kind_is_refused(client: TestClient) -> None:
    ok(
        client.post(
            f"{SONG}/mark-sets", json={"of": "hits", "kinds": ["snare"], "sensitivity": 0.5, "name": "snares"}
        )
    )
    song = state(client)["song"]
    strong = [h for h in client.get(f"{SONG}/detail").json()["hits"]["snare"] if h["strength"] >= 0.5]
    assert len(song["marks"]) == len(strong) > 8
    # The small project's song is played with a snare on the second and fourth beat.
    beats = [
        b
        for i, b in enumerate(song["beats"])
        if any((i - d) % song["metre"] in (1, 3) for d in song["bars"][:1])
    ]
    near = [min(abs(m["at_s"] - b) for b in beats) < 0.03 for m in song["marks"]]
    assert sum(near) / len(near) > 0.8
    assert client.post(f"{SONG}/mark-sets", json={"of": "hits", "kinds": ["gong"]}).status_code == 422


def test_each_kind_of_hits_has_its_own_sensitivity(client: TestClient) -> None:
    def snares_of_a_set() -> int:
        ok(client.post(f"{SONG}/mark-sets", json={"of": "hits", "kinds": ["snare"], "name": "snares"}))
        project = state(client)
        newest = max(s["id"] for s in project["song"]["mark_sets"])
        return sum(m["set_id"] == newest for m in project["song"]["marks"])

    assert state(client)["sensitivities"]["snare"] == 0.5
    usual = snares_of_a_set()
    settings = "/api/v1/projects/small/settings"
    ok(client.patch(settings, json={"sensitivities": {"kick": 0.1}}))
    assert snares_of_a_set() == usual, "that of the kicks is none of the snares'"
    ok(client.patch(settings, json={"sensitivities": {"snare": 1.0}}))
    assert state(client)["sensitivities"] | {"snare": 1.0, "kick": 0.1} == state(client)["sensitivities"]
    assert snares_of_a_set() == len(client.get(f"{SONG}/detail").json()["hits"]["snare"]) >= usual
    assert client.patch(settings, json={"sensitivities": {"gong": 0.5}}).status_code == 422
    assert client.patch(settings, json={"sensitivities": {"snare": 1.5}}).status_code == 422


def media_row(project: Project) -> Any:

    return next(m for m in project.database.all(Media) if m.kind == "song")


def runner_prepare(client: TestClient, media_id: str) -> None:
    from zembi.service.media import library

    studio = client.app.state.studio  # type: ignore[attr-defined]
    library.prepare(studio.workspace.open("small"), studio.runner, media_id)


def test_mark_sets_are_made_thinned_shifted_hidden_and_cut_on(client: TestClient) -> None:
    note = ok(client.post(f"{SONG}/mark-sets", json={"of": "grid", "every": "bar"}))["note"]
    song = state(client)["song"]
    bars = [song["beats"][i] for i in song["bars"] if 0 <= song["beats"][i] < song["seconds"]]
    assert note == f"{len(bars)} marks made"
    (bar_set,) = song["mark_sets"]
    assert [m["at_s"] for m in song["marks"]] == pytest.approx(bars)
    ok(
        client.patch(
            f"{SONG}/marks", json={"action": "thin", "set_id": bar_set["id"], "keep_every": 2, "first": 1}
        )
    )
    ok(client.patch(f"{SONG}/marks", json={"action": "shift", "set_id": bar_set["id"], "shift_s": 0.3}))
    thinned = [m["at_s"] for m in state(client)["song"]["marks"]]
    assert thinned == pytest.approx([b + 0.3 for b in bars[1::2]])
    ok(
        client.post(
            f"{SONG}/mark-sets", json={"of": "hits", "kinds": ["low"], "sensitivity": 0.5, "name": "kicks"}
        )
    )
    sets = {s["name"]: s for s in state(client)["song"]["mark_sets"]}
    ok(client.patch(f"{SONG}/mark-sets/{sets['kicks']['id']}", json={"shown": False}))
    after = operate(client, "cut", working_s=thinned[2] + 0.2, unit="mark")
    assert [s["start"] for s in after["shots"]] == [0, round(thinned[2] * 24)], (
        "only marks that are shown count"
    )
    mark = state(client)["song"]["marks"][0]["id"]
    ok(client.patch(f"{SONG}/marks/{mark}", json={"name": "lamp turns", "hue": 3}))
    named = next(m for m in state(client)["song"]["marks"] if m["id"] == mark)
    assert (named["name"], named["hue"]) == ("lamp turns", 3)
    ok(client.delete(f"{SONG}/mark-sets/{sets['kicks']['id']}"))
    client.post(f"{URL}/undo")
    assert len(state(client)["song"]["mark_sets"]) == 2


def test_marks_sections_and_the_grid_go_out_and_come_back(client: TestClient) -> None:
    ok(client.post(f"{SONG}/marks", json={"times_s": [3.25, 9.5]}))
    before = state(client)["song"]
    for kind in ("vtt", "csv"):
        data = client.get(f"{SONG}/marks.{kind}").content
        section = before["sections"][1]
        ok(client.patch(f"{SONG}/sections/{section['id']}", json={"name": "Changed"}))
        note = ok(client.post(f"{SONG}/marks/file?name=back.{kind}", content=data))["note"]
        assert note == "4 sections and 2 marks"
        after = state(client)["song"]
        assert [s["name"] for s in after["sections"]] == [s["name"] for s in before["sections"]]
        assert [m["at_s"] for m in after["marks"]][::2] == pytest.approx([3.25, 9.5], abs=1e-3)
        client.post(f"{URL}/undo")
        client.post(f"{URL}/undo")
    midi = client.get(f"{SONG}/marks.mid").content
    assert mido.MidiFile(file=io.BytesIO(midi)).type == 1
    ok(client.patch(f"{SONG}/grid", json={"action": "double"}))
    assert ok(client.post(f"{SONG}/marks/file?name=grid.mid", content=midi))["note"].startswith("the grid")
    now = state(client)["song"]
    lines = [now["beats"][i] for i in now["bars"]]
    assert now["from_file"]
    for i in before["bars"]:
        if 0.1 < before["beats"][i] < before["seconds"] - 3:
            assert min(abs(line - before["beats"][i]) for line in lines) < 5e-4
    for data, words in ((b"\xff\xfe\0", "not text"), (b"a,b\n1,2\n", "start_s"), (b"WEBVTT\n", "no mark")):
        answer = client.post(f"{SONG}/marks/file?name=bad.csv", content=data)
        assert answer.status_code == 400
        assert words in answer.json()["detail"]


def test_lyrics_are_pasted_timed_and_given_out(client: TestClient) -> None:
    ok(client.put(f"{SONG}/lyrics", json={"text": "lamp room, lamp room\nkeep the dark at bay\n"}))
    first, second = state(client)["song"]["lyrics"]
    assert not first["timed"]
    ok(client.patch(f"{SONG}/lyrics/{first['id']}", json={"song_s": 8.7}))
    ok(client.patch(f"{SONG}/lyrics/{second['id']}", json={"song_s": 16.6}))
    rows = [p["lyric"] for p in state(client)["song"]["phrases"]]
    assert "lamp room, lamp room" in rows
    lrc = client.get(f"{SONG}/lyrics.lrc").text
    assert lrc == "[00:08.700]lamp room, lamp room\n[00:16.600]keep the dark at bay\n"
    ok(client.put(f"{SONG}/lyrics", json={"text": client.get(f"{SONG}/lyrics.srt").text, "name": "x.srt"}))
    assert [x["at_s"] for x in state(client)["song"]["lyrics"]] == [8.7, 16.6]
    ok(client.patch(f"{SONG}/lyrics/{state(client)['song']['lyrics'][0]['id']}", json={"timed": False}))
    assert client.get(f"{SONG}/lyrics.vtt").text.count("-->") == 1
    assert client.put(f"{SONG}/lyrics", json={"text": "\n"}).status_code == 400
    assert client.get(f"{SONG}/lyrics.doc").status_code == 400


def test_repeats_take_a_name_together(client: TestClient) -> None:
    sections = state(client)["song"]["sections"]
    chorus = next(s for s in sections if s["name"] == "Chorus 1")
    ok(client.patch(f"{SONG}/sections/{chorus['id']}", json={"name": "Refrain", "phrase_bars": 2}))
    assert ok(client.post(f"{SONG}/sections/{chorus['id']}/repeats"))["note"] == "2 sections named"
    named = [(s["name"], s["phrase_bars"]) for s in state(client)["song"]["sections"]]
    assert named[1] == ("Refrain 1", 2)
    assert named[3] == ("Refrain 2", 2)


def test_the_cutdown_takes_everything_with_it_and_back(client: TestClient, project: Project) -> None:
    before_edit = operate(client, "rough cut")
    ok(client.post(f"{SONG}/marks", json={"times_s": [2.0, 20.0, 50.0]}))
    ok(client.put(f"{SONG}/lyrics", json={"text": "[00:03.00]first\n[00:20.00]gone\n[00:52.00]last\n"}))
    whole = state(client)["song"]
    start, end = whole["sections"][1]["start_s"], whole["sections"][2]["start_s"]
    ok(
        client.post(
            f"{SONG}/cutdown", json={"action": "leave out", "start_s": start + 0.1, "end_s": end - 0.1}
        )
    )
    now = state(client)
    song, gone = now["song"], end - start
    assert now["whole"]["seconds"] == whole["seconds"]
    assert song["seconds"] == pytest.approx(whole["seconds"] - gone)
    assert song["joins"] == [pytest.approx(start)]
    assert [s["name"] for s in song["sections"]] == ["Verse 1", "Verse 2", "Chorus 2"]
    assert [m["at_s"] for m in song["marks"]] == pytest.approx([2.0, 50.0 - gone])
    assert [x["text"] for x in song["lyrics"]] == ["first", "last"]
    assert song["lyrics"][1]["at_s"] == pytest.approx(52.0 - gone)
    inside = [b for b in song["beats"] if 0.6 < b < song["seconds"]]
    assert np.allclose(np.diff(inside), 0.5, atol=2e-3), "the beat runs on"
    # Takes follow: what an angle shows at a working time is what it showed at that moment of the song.
    p = take(client, "GAL_01")["passes"][0]
    spans = next(a for a in now["angles"] if a["name"] == "GAL")["spans"]
    late = next(s for s in spans if s["start"] / 24 > start - 0.1)
    expected = p["take_start_s"] + (end - p["song_start_s"]) / p["rate"]
    assert late["time"][0]["at_s"] - (late["start"] / 24 - start) == pytest.approx(expected, abs=0.05)
    after = edit(client)
    assert after["length"] == now["length"]
    cuts = {round(s["start"] / 24, 1) for s in before_edit["shots"]}
    for shot in after["shots"][1:]:
        at = shot["start"] / 24
        assert round(at if at < start - 0.1 else at + gone, 1) in cuts or abs(at - start) < 0.1
    assert not [f for f in after["findings"] if f["kind"] == "hole"]
    for _ in range(1):
        client.post(f"{URL}/undo")
    assert edit(client)["shots"] == before_edit["shots"]
    client.post(f"{URL}/redo")
    (passage,) = state(client)["left_out"]
    ok(client.put(f"{SONG}/cutdown/{passage['id']}", json={"start_s": start, "end_s": end - 2.0}))
    assert state(client)["song"]["seconds"] == pytest.approx(whole["seconds"] - gone + 2.0, abs=1e-3)
    (passage,) = state(client)["left_out"]
    ok(client.delete(f"{SONG}/cutdown/{passage['id']}"))
    assert state(client)["song"]["seconds"] == whole["seconds"]
    answer = client.post(f"{SONG}/cutdown", json={"action": "leave out", "start_s": -5, "end_s": 9000})
    assert answer.status_code == 409
    assert "Nothing of the song" in answer.json()["detail"]


def test_the_films_sound_joins_on_the_beat_without_a_click(
    client: TestClient, project: Project, performance: Performance
) -> None:
    rate = performance.sample_rate
    start, end = performance.downbeats_s[4], performance.downbeats_s[10]
    ok(client.post(f"{SONG}/cutdown", json={"action": "leave out", "start_s": start, "end_s": end}))
    film = films.film_of(project, 1)
    assert film.song is not None
    heard = np.concatenate(
        [b for b, _ in song_samples(film.song, 0 * film.rate, film.end / film.rate, film.programme.sound)]
    )
    master = np.round(performance.audio * 32768) / 32768
    (join,) = state(client)["song"]["joins"]
    assert join == pytest.approx(start, abs=2e-3)
    (left,) = state(client)["left_out"]
    after = round(left["end_s"] * rate)
    at = round(join * rate)
    # From the join on it is the master from the beat on, sample for sample; and so it is until 20 ms before.
    assert np.abs(heard[at : at + rate] - master[after : after + rate]).max() < 1e-4
    assert np.abs(heard[: at - rate // 50] - master[: at - rate // 50]).max() < 1e-4
    step = np.abs(np.diff(heard[at - rate // 10 : at + rate // 100, 0])).max()
    usual = np.abs(np.diff(master[:, 0])).max()
    assert step <= usual, "no step that the song itself does not make"


def test_level_and_fades_are_in_the_rendered_film(client: TestClient, project: Project) -> None:
    ok(client.put(f"{SONG}/level", json={"gain_db": -6.0, "fade_out_s": 2.0}))
    level = state(client)["level"]
    assert level["gain_db"] == -6.0
    assert level["true_peak_db"] < -5.0
    film = films.film_of(project, 1)
    assert film.song is not None
    eight, nine = Fraction(8), Fraction(9)
    quiet = np.concatenate([b for b, _ in song_samples(film.song, eight, nine, film.programme.sound)])
    plain = np.concatenate([b for b, _ in song_samples(film.song, eight, nine)])
    assert np.allclose(quiet, plain * 10 ** (-6 / 20), atol=1e-6)
    assert client.put(f"{SONG}/level", json={"fade_in_s": 500.0}).status_code == 400
    operate(client, "rough cut")
    job = ok(client.post(f"{URL}/edits/1/renders", json={}))["job"]
    with av.open(str(films.rendered_file(project, job))) as rendered:
        sound = np.concatenate([f.to_ndarray() for f in rendered.decode(audio=0)], axis=1)
    assert np.abs(sound[:, -2000:]).max() < 0.02, "the end has faded away"


def test_stems_are_checked_and_used(client: TestClient, footage: Path, performance: Performance) -> None:
    for name, role in (("voice.flac", "voice"), ("drums.flac", "drums"), ("other.flac", "voice")):
        body = {"paths": [str(footage / name)], "kind": "stem", "role": role}
        ok(client.post(f"{URL}/media", json=body))
    assert media(client, "voice")["state"] == media(client, "drums")["state"] == "ready"
    assert "does not fit the song" in media(client, "other")["error"]
    detail = client.get(f"{SONG}/detail").json()
    assert detail["stems"] == ["drums", "voice"]
    voice = np.array(detail["voice"]) > 0.5
    at = (np.arange(len(voice)) + 0.5) * detail["lufs_hop_s"]
    singing = np.zeros(len(voice), dtype=bool)
    for start, end, _ in performance.syllables:
        singing |= (at >= start) & (at < end)
    assert np.mean(voice == singing) > 0.85
    strong = [h["song_s"] for h in detail["hits"]["kick"] if h["strength"] >= 0.5]
    kicks = performance.beats_s[::2]
    assert np.mean([min(abs(h - k) for h in strong) < 0.02 for k in kicks]) > 0.9, (
        "the stem's own start is counted"
    )
    assert (
        client.post(f"{URL}/media", json={"paths": [str(footage / "voice.flac")], "kind": "stem"}).status_code
        == 400
    )


def test_a_take_tapped_mark_on_the_working_song_lands_on_its_moment(client: TestClient) -> None:
    whole = state(client)["song"]
    start, end = whole["beats"][whole["bars"][6]], whole["beats"][whole["bars"][10]]
    ok(client.post(f"{SONG}/cutdown", json={"action": "leave out", "start_s": start, "end_s": end}))
    ok(client.post(f"{SONG}/marks", json={"times_s": [start + 5.0], "working": True}))
    assert state(client)["whole"]["marks"][0]["at_s"] == pytest.approx(end + 5.0, abs=1e-6)
    assert state(client)["song"]["marks"][0]["at_s"] == pytest.approx(start + 5.0, abs=1e-6)


def test_part_of_the_song_is_covered_to_its_last_frame(client: TestClient) -> None:
    operate(client, "rough cut")
    whole = state(client)["song"]
    ok(client.post(f"{SONG}/cutdown", json={"action": "use only", "start_s": 4.4, "end_s": 20.6}))
    now = state(client)
    assert now["song"]["seconds"] == pytest.approx(16.0, abs=0.01)
    beat = now["whole"]["beats"][min(range(len(whole["beats"])), key=lambda i: abs(whole["beats"][i] - 4.4))]
    assert now["kept"][0][0] == pytest.approx(beat)
    assert now["holes"] == []
    assert [f for f in edit(client)["findings"] if f["kind"] == "hole"] == []


def test_what_was_left_out_of_a_longer_song_never_leaves_nothing_of_this_one(
    client: TestClient, project: Project
) -> None:
    """As a song taken back by undo can find it: the project opens, with all of the song."""
    seconds = client.get(URL).json()["song"]["seconds"]
    with project.database.changing("Left out of another song") as change:
        change.insert(tables.left_out, {"start_s": 0.0, "end_s": seconds + 30})
    state = client.get(URL)
    assert state.status_code == 200
    assert state.json()["song"]["seconds"] == seconds
    assert client.get(f"{URL}/edits/1").status_code == 200
    one = state.json()["left_out"][0]["id"]
    assert client.delete(f"{URL}/song/cutdown/{one}").status_code == 200
