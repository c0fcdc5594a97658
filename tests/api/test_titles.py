"""Titles over the API: laid, changed, drawn, followed by the film, and refused in words."""

import io
import json
from dataclasses import asdict
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.api.test_work import edit
from zembi.core.titles.card import Card, CardLine
from zembi.core.titles.presets import PRESETS, worded
from zembi.media.titles.raster import card_picture

URL = "/api/v1/projects/small"


def lay(client: TestClient, one: Card, at: float = 4.0, **more: Any) -> Any:
    body = {"op": "lay card", "card": asdict(one), "working_s": at, **more}
    return client.post(f"{URL}/edits/1", json=body)


def titles(view: dict[str, Any]) -> list[dict[str, Any]]:
    return [i for lane in view["lanes"] if lane["kind"] == "titles" for i in lane["items"]]


def card(*lines: str) -> Card:
    return Card(tuple(CardLine(t) for t in lines))


def test_a_title_is_laid_changed_undone_and_there_after_a_restart(client: TestClient) -> None:
    made = lay(client, worded(PRESETS["main title"], "Lamp Room", "Orrin Vale"))
    assert made.status_code == 200, made.text
    (title,) = titles(made.json())
    assert title["source"]["words"] == "Lamp Room\nOrrin Vale"
    span = made.json()["programme"]["layers"][-1][0]
    assert (span["kind"], span["card"]["font"]) == ("title", "slab")
    body = {"op": "set card", "items": [title["id"]], "card": asdict(card("The Keepers"))}
    assert client.post(f"{URL}/edits/1", json=body).status_code == 200
    assert client.get(URL).json()["undo"] == "Change the title “The Keepers”"
    assert titles(edit(client))[0]["source"]["words"] == "The Keepers"
    client.post(f"{URL}/undo")
    assert titles(edit(client))[0]["source"]["card"]["lines"][1]["size"] == 0.4
    client.post(f"{URL}/undo")
    assert not titles(edit(client))


def test_the_lyrics_become_titles_in_one_step(client: TestClient) -> None:
    client.put(f"{URL}/song/lyrics", json={"text": "[00:04.00]lamp room\n[00:08.00]burn the fog away\n"})
    body = {"op": "lay lyrics", "style": "lyric large"}
    made = client.post(f"{URL}/edits/1", json=body).json()
    assert [t["source"]["words"] for t in titles(made)] == ["lamp room", "burn the fog away"]
    assert [t["start"] for t in titles(made)] == [4 * 24 - 4, 8 * 24 - 4]
    assert titles(made)[0]["source"]["line"] == client.get(URL).json()["song"]["lyrics"][0]["id"]
    client.post(f"{URL}/undo")
    assert not titles(edit(client))


def test_a_title_stays_where_it_is_when_the_grid_moves_and_comes_along_when_asked(client: TestClient) -> None:
    lay(client, card("Lamp Room"), at=6.0, unit="bar")
    (before,) = titles(edit(client))
    client.patch(f"{URL}/song/grid", json={"action": "nudge", "seconds": 0.125})
    assert titles(edit(client))[0]["start"] == before["start"]


def test_the_page_gets_the_films_picture_of_a_card(client: TestClient) -> None:
    one = worded(PRESETS["caption"], "Lamp Room")
    query = {"card": json.dumps(asdict(one)), "width": 320, "height": 180}
    answer = client.get(f"{URL}/card.png", params=query)
    assert (answer.status_code, answer.headers["content-type"]) == (200, "image/png")
    assert "max-age" in answer.headers["cache-control"]
    seen = np.asarray(Image.open(io.BytesIO(answer.content)), np.float32) / 255
    drawn = card_picture(one, 320, 180).whole()
    premultiplied = np.concatenate([seen[..., :3] * seen[..., 3:], seen[..., 3:]], axis=2)
    assert np.abs(premultiplied - drawn).max() < 1.5 / 255
    small = client.get(f"{URL}/card.png", params={**query, "width": 160, "height": 90}).content
    assert Image.open(io.BytesIO(small)).size == (160, 90)


def test_how_a_card_is_set_is_told(client: TestClient) -> None:
    text = json.dumps(asdict(card("lamp 💥 " * 12)))
    told = client.get(f"{URL}/card", params={"card": text}).json()
    assert told["missing"] == ["💥"]
    assert len(told["lines"]) > 1
    assert 0.04 < told["left"] < told["right"] < 0.96


def test_words_are_in_the_rendered_film(client: TestClient) -> None:
    """The middle of the picture is light where the title is, and not before it."""
    lay(client, Card((CardLine("HHHHH"),), size=0.5), at=4.0, unit="free", end_s=5.0)
    job = client.post(f"{URL}/edits/1/renders", json={"first": 90, "end": 110}).json()["job"]
    film = client.get(f"{URL}/handoff/renders/{job}")
    assert film.status_code == 200
    import av

    with av.open(io.BytesIO(film.content)) as opened:
        pictures = [f.to_ndarray(format="gray") for f in opened.decode(video=0)]
    assert [bool(p[60:120, 80:240].max() > 200) for p in pictures] == [n >= 6 for n in range(20)]


@pytest.mark.parametrize("wrong", [
    {"lines": []}, {"lines": [{"text": ""}]}, {"lines": [{"text": "x" * 100_000}]}, {"lines": [{"text": "a\u0000b"}]},
    {"lines": [{"text": "x"}], "size": 1e9}, {"lines": [{"text": "x"}], "font": "/etc/passwd"}, {"lines": [{"text": "x"}], "unknown": 1},
    {"lines": [{"text": "x", "colour": "javascript:"}]}, {"lines": "x"}, {}, [], "x", None,
])  # fmt: skip
def test_a_card_that_cannot_be_set_is_refused_everywhere(client: TestClient, wrong: Any) -> None:
    before = edit(client)
    answer = client.post(f"{URL}/edits/1", json={"op": "lay card", "card": wrong, "working_s": 4.0})
    assert answer.status_code in (400, 422), answer.text
    assert answer.json()["detail"]
    for what in ("card", "card.png"):
        query = {"card": json.dumps(wrong), "width": 320, "height": 180}
        if len(query["card"]) < 40_000:
            assert client.get(f"{URL}/{what}", params=query).status_code == 400
    assert edit(client)["lanes"] == before["lanes"]
