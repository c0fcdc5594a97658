"""The answer to an operation holds what changed; brought together with what was known it is the whole edit."""

import itertools
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from tests.api.test_work import URL
from zembi.service.answers.changes import Told, changed
from zembi.service.answers.views import (
    EditBadges,
    EditView,
    FindingView,
    ItemView,
    LaneView,
    ProgrammeView,
    SoundView,
    SourceView,
    SpanView,
)


def joined(before: list[Any], between: list[Any], ends: list[int]) -> list[Any]:
    return [*before[: ends[0]], *between, *before[len(before) - ends[1] :]]


def whole(before: dict[str, Any], answer: dict[str, Any]) -> dict[str, Any]:
    """What the page makes of an answer."""
    kept = answer["kept"]
    if kept is None:
        return answer
    old = itertools.chain(before["programme"]["layers"], itertools.repeat([]))
    layers = zip(old, answer["programme"]["layers"], kept["layers"], strict=False)
    known = {lane["id"]: lane["items"] for lane in before["lanes"]}
    return {
        **answer,
        "lanes": [
            {**lane, "items": joined(known.get(lane["id"], []), lane["items"], ends)}
            for lane, ends in zip(answer["lanes"], kept["lanes"], strict=True)
        ],
        "findings": joined(before["findings"], answer["findings"], kept["findings"]),
        "kept": None,
        "programme": {
            "layers": [joined(*layer) for layer in layers],
            "sound": answer["programme"]["sound"],
        },
    }


def view(starts: list[int], over: list[int], wrong: list[int]) -> EditView:
    source = SourceView("angle", 1, None, 0.0, 1.0, 0, "", None, None)
    spans = [
        [SpanView(a, a + 1, "picture", "m", "", (), False, None, None, None) for a in some]
        for some in (starts, over)
    ]

    def lane(number: int, kind: str, at: list[int]) -> LaneView:
        items = [ItemView(10 * a + number, a, a + 1, source, False, 1, 1.0, 0, "bar", None) for a in at]
        return LaneView(number, kind, kind, True, False, items)

    return EditView(
        1, "cut", 100, 0, 0, [lane(1, "base", starts), lane(2, "over", over)],
        ProgrammeView([s for s in spans if s], SoundView((), 0.0, 0.0, 0.0, "smooth")),
        [FindingView("hole", a, a + 1, "no picture", [], None) for a in wrong], "cut", None, "cut",
        EditBadges("half cut", "all clear"), 0, None,
    )  # fmt: skip


frames = st.lists(st.integers(0, 12), max_size=8).map(sorted)
views = st.builds(view, frames, frames, frames)


@given(views, views)
def test_what_changed_and_what_was_there_make_the_whole(before: EditView, after: EditView) -> None:
    before = replace(before, version=7)
    only = changed(before, after)
    assert only.kept is not None
    assert only.kept.version == 7
    assert whole(asdict(before), asdict(only)) == asdict(after)


@given(views)
def test_nothing_changed_is_nothing_told(same: EditView) -> None:
    only = changed(same, same)
    assert ([lane.items for lane in only.lanes], only.findings) == ([[], []], [])
    assert not any(only.programme.layers)


def test_of_a_version_that_is_not_known_any_more_the_whole_is_told(tmp_path: Path) -> None:
    told = Told()
    first = told.whole(tmp_path, view([1, 2], [], []))
    second = view([1, 2, 3], [], [])
    assert told.since(tmp_path, second, first.version).lanes[0].items == second.lanes[0].items[2:]
    assert told.since(tmp_path / "other", second, first.version).lanes == second.lanes
    assert told.since(tmp_path, replace(second, id=2), first.version).kept is None, "of another edit"
    assert told.since(tmp_path, second, None).kept is None
    assert told.since(tmp_path, second, first.version + 1_000_000).kept is None
    assert told.whole(tmp_path, second).version == told.whole(tmp_path, second).version
    for n in range(20):
        told.whole(tmp_path, view([n], [], []))
    assert told.since(tmp_path, second, first.version).kept is None


def test_a_page_that_only_hears_of_changes_has_the_edit_that_is_stored(client: TestClient) -> None:
    known = client.get(f"{URL}/edits/1").json()
    assert known["kept"] is None
    song = client.get(URL).json()["song"]
    bar = [song["beats"][b] for b in song["bars"]]
    angles = [a["id"] for a in client.get(URL).json()["angles"]]
    asked: list[tuple[str, dict[str, Any] | None]] = [
        ("edits/1", {"op": "switch", "working_s": bar[n], "angle": angles[n % 2], "unit": "bar", "lead": 0})
        for n in range(2, 7)
    ]
    asked += [("edits/1", {"op": "join", "item": None}), ("undo", None), ("undo", None), ("redo", None)]
    for path, body in asked:
        if body and "item" in body:
            body["item"] = known["lanes"][0]["items"][2]["id"]
        answer = client.post(f"{URL}/{path}", json=body, params={"since": known["version"], "edit": 1})
        assert answer.status_code == 200, answer.text
        told = answer.json()
        assert told["kept"]["version"] == known["version"]
        assert len(told["lanes"][0]["items"]) < 4, "only what is about the cut"
        known = whole(known, told)
        now = client.get(f"{URL}/edits/1").json()
        assert {**known, "version": 0, "note": "", "undo": "", "redo": ""} == {
            **now, "version": 0, "note": "", "undo": "", "redo": "",
        }  # fmt: skip
