"""Titles over the API: laid, changed, drawn, followed by the film, and refused in words."""

import io
import json
from dataclasses import asdict
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pydantic import TypeAdapter

from tests.api.test_work import edit
from zembi.core.titles.card import Card, CardLine
from zembi.core.titles.presets import PRESETS, worded
from zembi.media.titles.fonts import FOLDER
from zembi.media.titles.raster import card_picture
from zembi.service.titles.cards import scaled

URL = "/api/v1/projects/small"


def lay(client: TestClient, one: Card, at: float = 4.0, **more: Any) -> Any:
    body = {"op": "lay card", "card": asdict(one), "working_s": at, **more}
    return client.post(f"{URL}/edits/1", json=body)


def in_frame(answer: Any, width: int, height: int) -> np.ndarray:
    """The picture of a card in its frame, values from 0 to 1."""
    part = np.asarray(Image.open(io.BytesIO(answer.content)), np.float32) / 255
    left, top = map(int, answer.headers["card-place"].split())
    out = np.zeros((height, width, 4), np.float32)
    out[top : top + part.shape[0], left : left + part.shape[1]] = part
    return out


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
    follow = client.patch(f"{URL}/song/grid", json={"action": "nudge", "seconds": 0.125}).json()
    assert titles(edit(client))[0]["start"] == before["start"]
    (of_edit,) = follow["edits"]
    answer = client.patch(f"{URL}/song/grid/cuts", json={"edits": [of_edit]})
    assert answer.status_code == 200, answer.text
    assert titles(edit(client))[0]["start"] == before["start"] + 3
    client.post(f"{URL}/undo")
    assert titles(edit(client))[0]["start"] == before["start"]


def test_the_page_gets_the_films_picture_of_a_card(client: TestClient) -> None:
    one = worded(PRESETS["caption"], "Lamp Room")
    query = {"card": json.dumps(asdict(one)), "width": 320, "height": 180}
    answer = client.get(f"{URL}/card.png", params=query)
    assert (answer.status_code, answer.headers["content-type"]) == (200, "image/png")
    assert "max-age" in answer.headers["cache-control"]
    seen = in_frame(answer, 320, 180)
    assert np.asarray(Image.open(io.BytesIO(answer.content))).shape[:2] != (180, 320), "only what it covers"
    drawn = card_picture(one, 320, 180).whole()
    premultiplied = np.concatenate([seen[..., :3] * seen[..., 3:], seen[..., 3:]], axis=2)
    assert np.abs(premultiplied - drawn).max() < 1.5 / 255
    small = in_frame(client.get(f"{URL}/card.png", params={**query, "width": 160, "height": 90}), 160, 90)
    assert small[..., 3].sum() == pytest.approx(seen[..., 3].sum() / 4, rel=0.02)


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


def lyric_titles(client: TestClient) -> list[tuple[int, int, str]]:
    return [(t["start"], t["end"], t["source"]["words"]) for t in titles(edit(client))]


def test_a_line_moved_or_corrected_moves_and_corrects_its_title(client: TestClient) -> None:
    client.put(
        f"{URL}/song/lyrics", json={"text": "[00:04.00]lamp room\n[00:08.00]burn the fog\n[00:12.00]turn\n"}
    )
    client.post(f"{URL}/edits/1", json={"op": "lay lyrics", "lead": 4, "hold": 0})
    first, second, third = client.get(URL).json()["song"]["lyrics"]
    assert lyric_titles(client)[:2] == [(92, 188, "lamp room"), (188, 284, "burn the fog")]
    ok = client.patch(f"{URL}/song/lyrics/{second['id']}", json={"song_s": 9.0, "text": "burn the fog away"})
    assert ok.status_code == 200
    # It begins a second later, and the one before it, which ends there, stays so much longer.
    assert lyric_titles(client)[:2] == [(92, 212, "lamp room"), (212, 284, "burn the fog away")]
    client.post(f"{URL}/undo")
    assert lyric_titles(client)[:2] == [(92, 188, "lamp room"), (188, 284, "burn the fog")]
    # What was changed by hand stays; the rest follows.
    by_hand = titles(edit(client))[1]
    body = {"op": "set card", "items": [by_hand["id"]], "card": asdict(Card((CardLine("BURN"),), size=0.2))}
    client.post(f"{URL}/edits/1", json=body)
    client.post(f"{URL}/edits/1", json={"op": "move item", "item": by_hand["id"], "frames": 10, "edge": "in"})
    client.patch(f"{URL}/song/lyrics/{second['id']}", json={"song_s": 8.5, "text": "burn it"})
    assert lyric_titles(client)[1] == (188 + 10 + 12, 284, "BURN")
    assert titles(edit(client))[1]["source"]["card"]["size"] == 0.2
    # A line that is deleted leaves its title, which follows none from then on.
    client.delete(f"{URL}/song/lyrics/{third['id']}")
    assert [t["source"]["line"] for t in titles(edit(client))] == [first["id"], second["id"], None]


def test_titles_follow_lyrics_that_are_read_anew(client: TestClient) -> None:
    client.put(
        f"{URL}/song/lyrics", json={"text": "[00:04.00]lamp room\n[00:08.00]lamp room\n[00:12.00]turn\n"}
    )
    client.post(f"{URL}/edits/1", json={"op": "lay lyrics", "lead": 0, "hold": 0})
    client.put(
        f"{URL}/song/lyrics", json={"text": "[00:05.00]lamp room\n[00:08.00]lamp room\n[00:10.00]other\n"}
    )
    now = client.get(URL).json()["song"]["lyrics"]
    assert [t[:2] for t in lyric_titles(client)][:2] == [(120, 192), (192, 240)]
    assert [t["source"]["line"] for t in titles(edit(client))] == [now[0]["id"], now[1]["id"], None]
    client.post(f"{URL}/undo")
    assert [t[:2] for t in lyric_titles(client)][:2] == [(96, 192), (192, 288)]


@pytest.mark.parametrize(
    ("form", "begins"),
    [("titles.srt", "1\n00:00:04,000"), ("titles.vtt", "WEBVTT"), ("titles.lrc", "[00:04.000]")],
)
def test_titles_go_out_as_timed_text(client: TestClient, form: str, begins: str) -> None:
    url = f"{URL}/edits/1/export/{form}"
    assert client.get(url).status_code == 404
    lay(client, card("Lamp", "Room"), at=4.0, unit="free", end_s=6.0)
    answer = client.get(url)
    assert answer.text.startswith(begins)
    assert form in answer.headers["content-disposition"]
    assert "held" in client.get(f"{url}/report").json()[0]


def findings(client: TestClient) -> list[str]:
    return [f["text"] for f in client.get(f"{URL}/edits/1").json()["findings"] if f["kind"] == "title"]


def test_titles_are_checked(client: TestClient) -> None:
    lay(client, worded(PRESETS["lyric low"], "lamp room"), at=4.0)
    assert findings(client) == []
    lay(
        client,
        worded(PRESETS["lyric low"], "burn the fog away and every one comes home"),
        at=8.0,
        unit="free",
        end_s=9.0,
    )
    assert [f for f in findings(client) if "too quick" in f and "42 characters" in f]
    lay(client, Card((CardLine("out"),), x=0.45), at=12.0)
    assert [f for f in findings(client) if "out of the safe area" in f]
    lay(client, Card((CardLine("💥 x"),)), at=16.0)
    assert [f for f in findings(client) if "no font has" in f]
    lay(client, worded(PRESETS["lyric low"], "lamp"), at=4.5)
    assert [f for f in findings(client) if "lies over another" in f]
    lay(client, Card((CardLine("high"),), anchor="top"), at=5.0)
    assert len([f for f in findings(client) if "lies over another" in f]) == 1, (
        "not where it stands elsewhere"
    )


@pytest.mark.parametrize("size", [(320, 180), (160, 90), (80, 45), (100, 57), (321, 180)])
def test_a_small_picture_of_a_card_is_the_films_by_areas(size: tuple[int, int]) -> None:
    picture = card_picture(worded(PRESETS["caption"], "Lamp Room"), 320, 180)
    wanted = cv2.resize(picture.whole(), size, interpolation=cv2.INTER_AREA)
    part, left, top = scaled(picture, size)
    drawn = np.zeros_like(wanted)
    drawn[top : top + part.shape[0], left : left + part.shape[1]] = part
    assert np.abs(drawn - wanted).max() < 1e-5


def test_a_picture_of_a_card_is_no_larger_than_a_film(client: TestClient) -> None:
    query = {
        "card": json.dumps(asdict(Card((CardLine("W" * 2000),), size=1.0, outline=0.3))),
        "width": 8192,
        "height": 8192,
    }
    answer = client.get(f"{URL}/card.png", params=query)
    assert (answer.status_code, "points at most" in answer.json()["detail"]) == (400, True)
    assert client.get(f"{URL}/card.png", params={**query, "width": 320, "height": 180}).status_code == 200


def test_styles_of_ones_own_are_kept_for_all_projects_and_taken_along(client: TestClient) -> None:
    styles = "/api/v1/title-styles"
    assert client.get(styles).json() == []
    kept = Card((CardLine("Harrow"), CardLine("light", 0.5, colour="#f7e6b0")), "condensed", size=0.2)
    assert client.post(styles, json={"name": " lamp ", "card": asdict(kept)}).status_code == 201
    assert [(s["name"], s["card"]["lines"][1]["size"]) for s in client.get(styles).json()] == [("lamp", 0.5)]
    text = client.get(f"{styles}/file").text
    assert client.delete(f"{styles}/lamp").status_code == 200
    assert client.delete(f"{styles}/lamp").status_code == 404
    assert client.post(f"{styles}/file", json={"text": text}).json()["note"] == "1 title style taken over"
    (again,) = client.get(styles).json()
    made = lay(client, TypeAdapter(Card).validate_python(again["card"]))
    assert titles(made.json())[0]["source"]["card"] == again["card"]
    for wrong in (
        "{}",
        "no",
        text.replace("#f7e6b0", "yellow"),
        text.replace("lamp", ""),
        '{"format": "zembi title styles 1", "styles": [1]}',
    ):
        assert client.post(f"{styles}/file", json={"text": wrong}).status_code == 400
    assert client.post(styles, json={"name": "", "card": asdict(kept)}).status_code == 400
    assert len(client.get(styles).json()) == 1


def test_the_contrast_of_a_title_is_measured_against_the_pictures_under_it(client: TestClient) -> None:
    numbers = [a["number"] for a in client.get(URL).json()["angles"]]
    assert numbers
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    lay(client, Card((CardLine("HELLO"),), size=0.3, box="#000000", box_opacity=1.0), at=4.0)
    lay(
        client,
        Card((CardLine("HELLO"),), size=0.3, colour="#101010", box="#000000", box_opacity=1.0),
        at=12.0,
    )
    found = client.get(f"{URL}/edits/1/titles/contrast").json()
    assert [c["ratio"] > 15 for c in found] == [True, False]
    assert found[0]["text"] == ""
    assert "hard to read" in found[1]["text"]
    (one,) = client.get(f"{URL}/edits/1/titles/contrast?item={found[1]['item']}").json()
    assert one == found[1]
    assert client.get(f"{URL}/edits/77/titles/contrast").status_code == 404


@pytest.mark.parametrize("form", ["srt", "vtt", "lrc"])
def test_titles_that_went_out_come_back_in(client: TestClient, form: str) -> None:
    for at, words in ((4.0, "lamp room"), (8.0, "burn the fog away")):
        lay(client, card(words), at=at, unit="free", end_s=at + 2)
    before = [(t["start"], t["end"], t["source"]["words"]) for t in titles(edit(client))]
    text = client.get(f"{URL}/edits/1/export/titles.{form}").text
    for title in titles(edit(client)):
        client.post(f"{URL}/edits/1", json={"op": "take off", "item": title["id"]})
    view = client.post(f"{URL}/edits/1/titles", json={"text": text, "name": f"titles.{form}"}).json()
    after = [(t["start"], t["end"], t["source"]["words"]) for t in titles(view)]
    if form == "lrc":
        # Only when they begin is held: each ends as the next begins, the last after as long as a line lasts.
        assert after == [(96, 192, "lamp room"), (192, 336, "burn the fog away")]
    else:
        assert after == before
    assert view["undo"] == "Lay 2 titles"


@pytest.mark.parametrize("text", ["", "no times at all", "WEBVTT\n", "\x00", "1\n00:99:00,000 --> x\nwords"])
def test_a_file_without_timed_words_is_refused(client: TestClient, text: str) -> None:
    refused = client.post(f"{URL}/edits/1/titles", json={"text": text})
    assert refused.status_code in (400, 422)
    assert len(refused.json()["detail"]) > 15


def test_a_font_file_lies_where_files_may_be_read(client: TestClient, footage: Any, tmp_path: Any) -> None:
    inside = footage / "own.woff"
    inside.write_bytes(next(FOLDER.glob("limelight-latin-400*.woff")).read_bytes())
    try:
        made = lay(client, Card((CardLine("Lamp"),), file=str(inside)))
        assert made.status_code == 200, made.text
        assert not [f for f in made.json()["findings"] if "stands in" in f["text"]]
        gone = lay(client, Card((CardLine("Room"),), file=str(footage / "gone.woff")), at=12.0).json()
        assert [f["text"] for f in gone["findings"] if "stands in" in f["text"]] == [
            "The title “Room”: The font file gone.woff is not there: “plain” stands in."
        ]
    finally:
        inside.unlink()
    outside = tmp_path / "secret.ttf"
    outside.write_bytes(b"x")
    for path in (str(outside), "/etc/passwd", f"{footage}/../../secret.ttf", "own.woff", "x" * 5000):
        refused = lay(client, Card((CardLine("x"),), file=path))
        assert refused.status_code in (400, 403), path
        query = {"card": json.dumps({"lines": [{"text": "x"}], "file": path}), "width": 64, "height": 36}
        assert client.get(f"{URL}/card.png", params=query).status_code in (400, 403)


def test_what_is_shown_of_a_card_is_drawn_for_the_page(client: TestClient) -> None:
    query = {"card": json.dumps({"lines": [{"text": "one two"}]}), "width": 320, "height": 180}

    def light(shown: dict[str, Any] | None) -> int:
        more = {} if shown is None else {"shown": json.dumps(shown)}
        answer = client.get(f"{URL}/card.png", params=query | more)
        return int((np.asarray(Image.open(io.BytesIO(answer.content)))[..., 3] > 200).sum())

    assert 0 == light({"end": 0}) < light({"end": 3}) < light(None) == light({})
    for wrong in (
        '{"end": "x"}',
        '{"grow": 1e9}',
        '{"heavier": -1}',
        '{"end": 99999999}',
        '{"colour": "red"}',
        "[]",
        "x",
    ):
        assert client.get(f"{URL}/card.png", params=query | {"shown": wrong}).status_code in (400, 422)


def test_words_come_as_they_are_sung(client: TestClient) -> None:
    lrc = "[00:04.00]<00:04.00> lamp <00:04.50> room\n[00:08.00]burn\n"
    client.put(f"{URL}/song/lyrics", json={"text": lrc})
    made = client.post(f"{URL}/edits/1", json={"op": "lay lyrics", "lead": 4}).json()
    first, second = titles(made)
    treat = {"op": "treat", "treatments": [{"kind": "one by one", "sung": True}]}
    view = client.post(f"{URL}/edits/1", json={**treat, "items": [first["id"]]}).json()
    spans = [s for s in view["programme"]["layers"][-1] if s["start"] < 150]
    assert [(s["start"], s["shown"] and s["shown"]["end"]) for s in spans] == [(92, 0), (96, 4), (108, 9)]
    refused = client.post(f"{URL}/edits/1", json={**treat, "items": [second["id"]]})
    assert refused.status_code == 409
    assert "LRC" in refused.json()["detail"]


def test_what_was_changed_by_hand_is_told_and_given_back(client: TestClient) -> None:
    client.put(f"{URL}/song/lyrics", json={"text": "[00:04.00]lamp room\n[00:08.00]burn the fog away\n"})
    made = client.post(f"{URL}/edits/1", json={"op": "lay lyrics"}).json()
    first = titles(made)[0]["id"]

    def told() -> list[str]:
        return list(client.get(f"{URL}/edits/1/titles/{first}/line").json()["by_hand"])

    assert told() == []
    client.post(f"{URL}/edits/1", json={"op": "move item", "item": first, "frames": -9})
    assert told() == ["place"]
    client.post(f"{URL}/edits/1", json={"op": "follow line", "items": [first]})
    assert told() == []
    client.post(f"{URL}/undo")
    assert told() == ["place"]
    assert client.get(f"{URL}/edits/1/titles/99999/line").status_code == 409
