"""A lead-in and a tail over the API, in the film and in what is handed on."""

import io
from typing import Any

import av
import numpy as np
from fastapi.testclient import TestClient

from tests.api.test_titles import URL, card, lay, titles
from tests.api.test_work import edit


def surround(client: TestClient, **parts: Any) -> dict[str, Any]:
    made = client.post(f"{URL}/edits/1", json={"op": "surround", **parts})
    assert made.status_code == 200, made.text
    return made.json()  # type: ignore[no-any-return]


def frames(value: int) -> dict[str, Any]:
    return {"value": value, "unit": "frames"}


def rendered(client: TestClient, **part: Any) -> tuple[list[np.ndarray], np.ndarray, int]:
    """Pictures in grey, sound of the first channel, and its rate."""
    job = client.post(f"{URL}/edits/1/renders", json=part).json()["job"]
    film = client.get(f"{URL}/handoff/renders/{job}")
    assert film.status_code == 200, film.text
    with av.open(io.BytesIO(film.content)) as opened:
        pictures, sound = [], []
        rate = opened.streams.audio[0].rate
        for frame in opened.decode(video=0, audio=0):
            if isinstance(frame, av.VideoFrame):
                pictures.append(frame.to_ndarray(format="gray"))
            else:
                sound.append(frame.to_ndarray()[0])
    return pictures, np.concatenate(sound), rate


def test_it_is_said_undone_and_there_after_a_restart(client: TestClient) -> None:
    view = surround(client, lead={"value": 2, "unit": "bars"}, tail=frames(48))
    assert (view["lead"], view["tail"]) == (96, 48)
    assert view["undo"] == "Change the lead-in and the tail"
    assert (edit(client)["lead"], edit(client)["tail"]) == (96, 48)
    client.post(f"{URL}/undo")
    assert (edit(client)["lead"], edit(client)["tail"]) == (0, 0)


def test_a_title_over_a_silent_lead_in_is_in_the_film_and_the_song_begins_where_it_did(
    client: TestClient,
) -> None:
    _, plain, rate = rendered(client, first=0, end=24)
    surround(client, lead=frames(24))
    lay(client, card("HHHH"), at=-0.5, unit="free")
    pictures, sound, _ = rendered(client, first=-24, end=24)
    assert len(pictures) == 48
    assert [bool(p.max() > 200) for p in pictures[:24]] == [n >= 12 for n in range(24)]
    assert np.abs(sound[: rate - 2048]).max() < 1e-3
    # Both are coded: the very samples are held to the song in the tests of rendering.
    a, b = plain[4096 : rate - 4096], sound[rate + 4096 : 2 * rate - 4096]
    assert np.corrcoef(a, b)[0, 1] > 0.99


def test_the_whole_film_has_both(client: TestClient) -> None:
    length = edit(client)["length"]
    surround(client, lead=frames(12), tail=frames(24))
    job = client.post(f"{URL}/edits/1/renders", json={}).json()["job"]
    done = next(j for j in client.get(f"{URL}/jobs").json() if j["id"] == job)
    assert done["result"]["frames"] == length + 36


def test_exports_know_where_the_song_begins(client: TestClient) -> None:
    lay(client, card("Words"), at=4.0, unit="free", end_s=5.0)
    media = client.get(URL).json()["media"]
    rope = next(m["id"] for m in media if m["name"].startswith("rope"))
    client.post(
        f"{URL}/edits/1",
        json={"op": "lay over", "working_s": 4.0, "media": rope, "unit": "free", "end_s": 5.0},
    )

    def given(kind: str) -> str:
        return client.get(f"{URL}/edits/1/export/{kind}").text

    before = {kind: given(kind) for kind in ("titles.srt", "edl", "vtt", "midi")}
    surround(client, lead=frames(48))
    assert "00:00:04,000 --> 00:00:05,000" in before["titles.srt"]
    assert "00:00:06,000 --> 00:00:07,000" in given("titles.srt")
    assert "00:00:00.500 --> " in before["vtt"]
    assert "00:00:02.500 --> " in given("vtt")
    assert "00:00:04:00 00:00:05:00" in before["edl"]
    assert "00:00:06:00 00:00:07:00" in given("edl")
    # The song's own bars begin where the song does.
    assert given("midi") == before["midi"]
    client.patch(URL, json={"first_timecode": "01:00:00:00"})
    assert "01:00:04:00 01:00:05:00" in given("edl")


def test_a_title_before_the_song_is_named_by_the_checks_where_it_is(client: TestClient) -> None:
    surround(client, lead=frames(48))
    view = lay(client, card("far too many words to be read in so short a time"), at=-0.5, unit="free").json()
    assert [(t["start"], t["end"]) for t in titles(view)] == [(-12, 0)]
    (found,) = [f for f in view["findings"] if f["kind"] == "title"]
    assert (found["start"], found["end"]) == (-12, 0)


def test_a_part_that_is_sent_out_may_lie_before_the_song(client: TestClient) -> None:
    surround(client, lead=frames(48))
    refused = client.post(f"{URL}/edits/1/renders", json={"first": -96, "end": -60})
    assert refused.status_code == 400
    assert "empty" in refused.json()["detail"]
