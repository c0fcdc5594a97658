"""Three edits of one project: each has an address, and what changes the ground they stand on reaches all of them."""

from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.edits import told
from tests.rows import rows
from zembi.service.project.snapshot import edits_of
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.edits import insert_edit

URL = "/api/v1/projects/small"


def edit(client: TestClient, edit_id: int) -> dict[str, Any]:
    return told(client.get(f"{URL}/edits/{edit_id}").json())


def operate(client: TestClient, edit_id: int, op: str, **more: Any) -> dict[str, Any]:
    answer = client.post(f"{URL}/edits/{edit_id}", json={"op": op, **more})
    assert answer.status_code == 200, answer.text
    return told(answer.json())


@pytest.fixture
def three(client: TestClient, project: Project) -> TestClient:
    """The first edit cut roughly; two more of the same length, cut in other ways."""
    operate(client, 1, "rough cut", beats=4, broll=0.0)
    with project.database.changing("Two more edits") as change:
        for n, base in ((2, edits_of(project)[1]), (3, edits_of(project)[1])):
            plain = replace(base, lanes=tuple(replace(lane, items=lane.items[:1]) for lane in base.lanes))
            assert insert_edit(change, f"Edit {n}", plain, parent=1) == n
    for n, beats in ((2, 8), (3, 2)):
        operate(client, n, "rough cut", beats=beats, broll=0.0, seed=n)
    return client


def test_edits_are_listed_and_one_is_worked_on(three: TestClient) -> None:
    listed = three.get(f"{URL}/edits").json()
    assert [(e["id"], e["name"], e["parent"], e["current"]) for e in listed] == [
        (1, "Edit 1", None, True), (2, "Edit 2", 1, False), (3, "Edit 3", 1, False),
    ]  # fmt: skip
    assert three.get(URL).json()["edit"] == 1
    assert three.get(f"{URL}/edits/9").status_code == 404
    assert three.post(f"{URL}/edits/9", json={"op": "rough cut"}).status_code == 404


def test_an_operation_on_one_leaves_the_others_alone_and_is_undone_by_itself(
    three: TestClient, project: Project
) -> None:
    before = edits_of(project)
    shot = edit(three, 2)["shots"][1]
    operate(three, 2, "black", item=shot["id"])
    after = edits_of(project)
    assert (after[1], after[3]) == (before[1], before[3])
    assert after[2] != before[2]
    assert rows(project.database, tables.journal)[-1]["edit"] == 2
    undone = told(three.post(f"{URL}/undo", params={"edit": 2}).json())
    assert undone["id"] == 2
    assert undone["shots"][1]["source"] == shot["source"]
    assert edits_of(project) == before


def test_a_film_is_of_the_edit_that_was_asked_for_and_its_job_says_after_how_many_operations(
    three: TestClient, project: Project
) -> None:
    job = three.post(f"{URL}/edits/2/renders", json={"first": 0, "end": 2}).json()["job"]
    (found,) = (j for j in three.get(f"{URL}/jobs").json() if j["id"] == job)
    assert (found["edit"], found["operations"]) == (2, project.database.operations_of(2))
    assert found["operations"] == 1
    one, two = (three.get(f"{URL}/edits/{n}/export/edl").text for n in (1, 2))
    assert one != two


grounds = st.sampled_from(["grid", "merge", "cutdown"])


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(grounds, min_size=1, max_size=3), st.integers(1, 3))
def test_what_changes_the_ground_reaches_every_edit_and_undo_brings_all_back(
    three: TestClient, project: Project, asked: list[str], current: int
) -> None:
    """Whichever edit is worked on: what is changed is the same for all three."""
    with project.database.writing() as connection:
        connection.execute(tables.project.update().values(edit=current))
    before, steps = edits_of(project), 0
    for ground in asked:
        now = edits_of(project)
        angles = {a["number"]: a["id"] for a in three.get(URL).json()["angles"]}
        if ground == "grid":
            follow = three.patch(f"{URL}/song/grid", json={"action": "nudge", "seconds": 0.125}).json()
            assert {e["edit"] for e in follow["edits"]} == {1, 2, 3}
            answer = three.patch(f"{URL}/song/grid/cuts", json={"edits": follow["edits"]})
            assert answer.status_code == 200, answer.text
            steps += 2
            after = edits_of(project)
            for e in follow["edits"]:
                moved = dict(e["moves"])
                cuts = [moved.get(s.start, s.start) for s in now[e["edit"]].shots]
                assert [s.start for s in after[e["edit"]].shots] == cuts
        elif ground == "merge" and len(angles) > 1:
            gone = max(angles.values())
            kept = min(angles.values())
            answer = three.post(f"{URL}/coverage/angles/{kept}/merge", json={"angles": [gone]})
            assert answer.status_code == 200, answer.text
            steps += 1
            for one in edits_of(project).values():
                assert gone not in {getattr(s.source, "angle", None) for s in one.shots}
        elif ground == "cutdown":
            half = three.get(URL).json()["song"]["seconds"] / 2
            body = {"action": "leave out", "start_s": 0.3 * half, "end_s": 0.6 * half}
            answer = three.post(f"{URL}/song/cutdown", json=body)
            assert answer.status_code == 200, answer.text
            steps += 1
            length = three.get(URL).json()["length"]
            assert {e.length for e in edits_of(project).values()} == {length}
            assert all(e.length > length for e in now.values())
        for n in (1, 2, 3):
            shown = edit(three, n)
            assert shown["shots"][-1]["end"] == shown["length"] == edits_of(project)[n].length
    for _ in range(steps):
        assert three.post(f"{URL}/undo").status_code == 200
    assert edits_of(project) == before


def test_a_nudged_pass_moves_the_picture_of_every_edit_and_no_cut(
    three: TestClient, project: Project
) -> None:
    def shown(n: int) -> list[tuple[int, str | None, float]]:
        (layer, *_) = edit(three, n)["programme"]["layers"]
        return [(s["start"], s["media"], s["time"][0]["at_s"] if s["time"] else 0.0) for s in layer]

    take = next(t for t in three.get(URL).json()["takes"] if t["status"] == "locked")
    before, cuts = {n: shown(n) for n in (1, 2, 3)}, edits_of(project)
    number = take["passes"][0]["id"]
    answer = three.patch(f"{URL}/lineup/passes/{number}", json={"action": "nudge", "seconds": 0.5})
    assert answer.status_code == 200, answer.text
    assert edits_of(project) == cuts
    for n in (1, 2, 3):
        was, now = ({(at, m): s for at, m, s in of if m == take["media"]} for of in (before[n], shown(n)))
        both = was.keys() & now.keys()
        assert both, f"edit {n} shows the take"
        assert {round(now[k] - was[k], 6) for k in both} == {-0.5}
