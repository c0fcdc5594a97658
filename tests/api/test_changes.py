"""The answer to an operation holds what changed; brought together with what was known it is the whole edit."""

import itertools
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from tests.api.test_work import URL, edit
from zembi.service.answers.changes import Told, changed
from zembi.service.answers.views import (
    CutawayView,
    EditView,
    FindingView,
    ProgrammeView,
    ShotView,
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
    lists = {
        name: joined(before[name], answer[name], kept[name]) for name in ("shots", "cutaways", "findings")
    }
    return {
        **answer,
        **lists,
        "kept": None,
        "programme": {
            "layers": [joined(*layer) for layer in layers],
            "sound": answer["programme"]["sound"],
        },
    }


def view(starts: list[int], over: list[int], wrong: list[int]) -> EditView:
    source = SourceView("angle", 1, None, 0.0, 1.0, 0)
    spans = [
        [SpanView(a, a + 1, "picture", "m", "", (), False, None) for a in some] for some in (starts, over)
    ]
    return EditView(
        1, "cut", 100,
        [ShotView(a, a + 1, source, False, 1, 1.0, 0, "bar", None) for a in starts],
        [CutawayView(a, a + 1, source, None) for a in over],
        ProgrammeView([s for s in spans if s], SoundView((), 0.0, 0.0, 0.0, "smooth")),
        [FindingView("hole", a, a + 1, "no picture") for a in wrong], "cut", None, "cut", [], 0, None,
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
    assert (only.shots, only.cutaways, only.findings) == ([], [], [])
    assert not any(only.programme.layers)


def test_of_a_version_that_is_not_known_any_more_the_whole_is_told(tmp_path: Path) -> None:
    told = Told()
    first = told.whole(tmp_path, view([1, 2], [], []))
    second = view([1, 2, 3], [], [])
    assert told.since(tmp_path, second, first.version).shots == second.shots[2:]
    assert told.since(tmp_path / "other", second, first.version).shots == second.shots
    assert told.since(tmp_path, second, None).kept is None
    assert told.since(tmp_path, second, first.version + 1_000_000).kept is None
    assert told.whole(tmp_path, second).version == told.whole(tmp_path, second).version
    for n in range(20):
        told.whole(tmp_path, view([n], [], []))
    assert told.since(tmp_path, second, first.version).kept is None


def test_a_page_that_only_hears_of_changes_has_the_edit_that_is_stored(client: TestClient) -> None:
    known = edit(client)
    assert known["kept"] is None
    song = client.get(URL).json()["song"]
    bar = [song["beats"][b] for b in song["bars"]]
    angles = [a["id"] for a in client.get(URL).json()["angles"]]
    asked: list[tuple[str, dict[str, Any] | None]] = [
        ("edit", {"op": "switch", "working_s": bar[n], "angle": angles[n % 2], "unit": "bar", "lead": 0})
        for n in range(2, 7)
    ]
    asked += [("edit", {"op": "join", "start": None}), ("undo", None), ("undo", None), ("redo", None)]
    for path, body in asked:
        if body and "start" in body:
            body["start"] = known["shots"][2]["start"]
        answer = client.post(f"{URL}/{path}", json=body, params={"since": known["version"]})
        assert answer.status_code == 200, answer.text
        told = answer.json()
        assert told["kept"]["version"] == known["version"]
        assert len(told["shots"]) < 4, "only what is about the cut"
        known = whole(known, told)
        now = edit(client)
        assert {**known, "version": 0, "note": "", "undo": "", "redo": ""} == {
            **now, "version": 0, "note": "", "undo": "", "redo": "",
        }  # fmt: skip
