"""The journal under a state machine of the whole service, and the faults that were found in it."""

import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from tests.abuse.support import Later, everything, sound, tried
from tests.conftest import add
from tests.copies import copied
from tests.rows import rows
from zembi.api.app import create_app
from zembi.core.edit.model import checked
from zembi.jobs.runner import JobRunner
from zembi.service.application.studio import Studio
from zembi.service.application.work import works
from zembi.service.project.workspace import Project, Workspace
from zembi.store import tables
from zembi.store.edits import load_edit
from zembi.store.entities import (
    Angle,
    KeptCorrections,
    KeptItem,
    Lineup,
    Media,
    Pass,
    Section,
    Version,
)

URL = "/api/v1/projects/small"


def test_a_take_taken_out_comes_back_after_another_was_lined_up(
    client: TestClient, project: Project, footage: Path
) -> None:
    before = {m.name: m.id for m in project.database.all(Media, kind="take")}
    passes = project.database.all(Pass, media=before["GAL_01"])
    last = max(p.id for p in project.database.all(Pass))
    assert client.delete(f"{URL}/media/{before['GAL_01']}").status_code == 200
    assert client.delete(f"{URL}/media/{before['LAMP_03']}").status_code == 200
    (again,) = add(client, URL, footage, "take", "LAMP_03.mp4")
    fresh = project.database.all(Pass, media=again)
    assert fresh
    assert min(p.id for p in fresh) > last
    for _ in range(3):
        assert client.post(f"{URL}/undo").status_code == 200
    assert project.database.all(Pass, media=before["GAL_01"]) == passes
    sound(project)


def test_twenty_at_once_lose_no_acknowledged_nudge(client: TestClient, project: Project) -> None:
    def nudge(_n: int) -> int:
        return client.patch(f"{URL}/song/grid", json={"action": "nudge", "seconds": 0.001}).status_code

    with ThreadPoolExecutor(20) as pool:
        answers = list(pool.map(nudge, range(100)))
    moved = project.database.one(KeptCorrections, id=1).data["nudge_s"]
    assert moved == pytest.approx(0.001 * answers.count(200), abs=1e-9)
    assert answers.count(200) == 100


def test_angles_made_at_once_have_numbers_of_their_own(client: TestClient, project: Project) -> None:
    with ThreadPoolExecutor(16) as pool:
        answers = list(pool.map(lambda _n: client.post(f"{URL}/coverage/angles", json={}), range(24)))
    numbers = [a.number for a in project.database.all(Angle)]
    assert len(numbers) >= 24
    assert sorted(numbers) == list(range(1, len(numbers) + 1))
    assert {a.status_code for a in answers} == {201}


def test_undoing_a_rename_leaves_what_preparing_wrote(client: TestClient, project: Project) -> None:
    take = project.database.all(Media, kind="take")[0].id
    assert client.patch(f"{URL}/media/{take}", json={"name": "Wide"}).status_code == 200
    with project.database.writing() as connection:
        connection.execute(
            tables.media.update().where(tables.media.c.id == take).values(content="new", state="failed")
        )
    client.post(f"{URL}/undo")
    row = project.database.one(Media, id=take)
    assert (row.content, row.state) == ("new", "failed")
    assert row.name != "Wide"


def test_a_refused_request_changes_nothing(client: TestClient, project: Project) -> None:
    sections = project.database.all(Section)
    before = everything(project.database)
    answer = client.patch(
        f"{URL}/song/sections/{sections[1].id}",
        json={"name": "Refrain", "start_s": -5.0, "phrase_bars": 8},
    )
    assert answer.status_code == 409
    assert everything(project.database) == before
    good = {"name": "Refrain", "phrase_bars": 8}
    assert client.patch(f"{URL}/song/sections/{sections[1].id}", json=good).status_code == 200
    client.post(f"{URL}/undo")
    assert everything(project.database) == before, "one request is one step of undo"


def test_what_cuts_fall_on_is_no_step_of_undo_and_undo_leaves_it(
    client: TestClient, project: Project
) -> None:
    client.put(f"{URL}/song/level", json={"gain_db": -3.0})
    client.patch(f"{URL}/settings", json={"unit": "bar", "lead": 2})
    names = project.database.undo_names()
    client.patch(f"{URL}/settings", json={"unit": "half"})
    assert project.database.undo_names() == names
    client.post(f"{URL}/undo")
    state = client.get(URL).json()
    assert (state["unit"], state["lead"], state["level"]["gain_db"]) == ("half", 2, 0.0)


def test_another_song_carries_the_edit_over_and_undo_brings_all_back(
    client: TestClient, project: Project, footage: Path
) -> None:
    client.post(f"{URL}/edits/1", json={"op": "rough cut"})
    client.post(f"{URL}/song/marks", json={"times_s": [1.0, 20.0, 40.0]})
    old = everything(project.database)
    cuts = [s["start"] for s in client.get(f"{URL}/edits/1").json()["lanes"][0]["items"]]
    add(client, URL, footage, "song", "other.flac")
    state, edit = client.get(URL).json(), client.get(f"{URL}/edits/1").json()
    assert state["length"] == edit["length"] < old["edit"][0]["length"]
    assert [s["start"] for s in edit["lanes"][0]["items"]] == [c for c in cuts if c < edit["length"]]
    assert all(m["at_s"] < state["song"]["seconds"] for m in state["song"]["marks"])
    songs = {r.song for r in project.database.all(Lineup)}
    assert songs == {state["song"]["media"]}, "takes are lined up with the new song"
    client.post(f"{URL}/undo")
    now = everything(project.database)
    for name in ("project", "lane", "item", "mark", "section", "edit", "corrections", "lineup"):
        assert now[name] == old[name], name
    client.post(f"{URL}/redo")
    assert client.get(f"{URL}/edits/1").json()["length"] == edit["length"]


@pytest.mark.parametrize("name", ["notes.mp4", "HIGH_02.mp4", "nothing.wav"])
def test_what_cannot_be_the_song_is_refused_before_anything_changes(
    client: TestClient, project: Project, footage: Path, name: str
) -> None:
    before = everything(project.database)
    answer = client.post(f"{URL}/media", json={"paths": [str(footage / name)], "kind": "song"})
    assert answer.status_code == 422
    assert name in answer.json()["detail"]
    assert everything(project.database) == before


seconds = st.floats(0, 60, allow_nan=False)
small = st.integers(0, 12)


class Service(RuleBasedStateMachine):
    """A project, worked on in any order, with jobs that end whenever they do, and a server that is killed."""

    prepared: Path
    footage: Path

    @initialize()
    def begin(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.data = copied(self.prepared, Path(self._folder.name) / "data")
        self._serve()

    def _serve(self) -> None:
        workspace = Workspace(self.data, [self.footage])
        self.executor = Later()
        self.studio = Studio(workspace, JobRunner(works(workspace), lambda: self.executor))
        self.studio.start()
        self.client = TestClient(
            create_app(self.studio), base_url="http://127.0.0.1", raise_server_exceptions=False
        )
        self.project = workspace.open("small")

    def teardown(self) -> None:
        if hasattr(self, "project"):
            self.studio.stop()
            self.project.database.close()
            self._folder.cleanup()

    def _ids(self, table: Any) -> list[Any]:
        return [r["id"] for r in rows(self.project.database, table)] or [999]

    def _do(self, method: str, path: str, **body: Any) -> None:
        """Ask for something. What was done can be undone to the very same project, and done again."""
        database = self.project.database
        before, number = everything(database), len(rows(database, tables.journal, undone=False))
        answer = self.client.request(method, f"{URL}{path}", json=body or None)
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            assert answer.json()["detail"]
            assert everything(database) == before, f"{path} was refused and changed something"
            return
        after = everything(database)
        if len(rows(database, tables.journal, undone=False)) == number:
            return
        database.undo()
        assert everything(database) == before, f"undoing {path}"
        database.redo()
        assert everything(database) == after, f"redoing {path}"

    @rule(
        op=st.sampled_from(["switch", "cut", "lay over"]),
        at=seconds,
        n=small,
        unit=st.sampled_from(["free", "beat", "bar"]),
    )
    def cut_at(self, op: str, at: float, n: int, unit: str) -> None:
        angles, clips = (
            self._ids(tables.angle),
            [m.id for m in self.project.database.all(Media, kind="broll")],
        )
        body: dict[str, Any] = {
            "op": op,
            "working_s": at,
            "unit": unit,
            "lead": n % 3,
            "angle": angles[n % len(angles)],
        }
        if clips:
            body["media"] = clips[n % len(clips)]
        self._do("POST", "/edits/1", **body)

    @rule(
        op=st.sampled_from(["join", "move", "angle", "black", "hold", "lay", "take off", "rough cut"]),
        n=small,
        beats=st.integers(-3, 3),
    )
    def cut_shot(self, op: str, n: int, beats: int) -> None:
        lane = [i for i in self.project.database.all(KeptItem) if (i.lane == 1) != (op == "take off")]
        angles, clips = (
            self._ids(tables.angle),
            [m.id for m in self.project.database.all(Media, kind="broll")],
        )
        body: dict[str, Any] = {"op": op, "beats": beats, "angle": angles[n % len(angles)]}
        if lane:
            body["item"] = lane[n % len(lane)].id
        if clips:
            body["media"] = clips[n % len(clips)]
        self._do("POST", "/edits/1", **body)

    @rule(
        action=st.sampled_from(
            [
                "halve",
                "double",
                "half beat",
                "the one",
                "nudge",
                "pin",
                "take off pin",
                "more beats",
                "fewer beats",
                "as found",
            ]
        ),
        at=seconds,
        by=st.floats(-0.05, 0.05),
    )
    def correct(self, action: str, at: float, by: float) -> None:
        values: dict[str, Any] = {"the one": {"song_s": at}, "nudge": {"seconds": by}, "pin": {"song_s": at, "to_s": at + by},
            "take off pin": {"song_s": at}, "more beats": {"song_s": at}, "fewer beats": {"song_s": at}}.get(action, {})  # fmt: skip
        self._do("PATCH", "/song/grid", action=action, **values)

    @rule(
        n=small,
        at=seconds,
        name=st.text(max_size=8),
        bars=st.integers(0, 17),
        what=st.sampled_from(["change", "split", "join", "names"]),
    )
    def section(self, n: int, at: float, name: str, bars: int, what: str) -> None:
        ids = self._ids(tables.section)
        one = f"/song/sections/{ids[n % len(ids)]}"
        if what == "change":
            self._do("PATCH", one, name=name, start_s=at, phrase_bars=bars)
        elif what == "split":
            self._do("POST", "/song/sections", song_s=at)
        else:
            self._do("DELETE" if what == "join" else "POST", one if what == "join" else f"{one}/repeats")

    @rule(
        times=st.lists(seconds, min_size=1, max_size=4),
        n=small,
        what=st.sampled_from(["tap", "move", "delete", "set", "drop set", "make", "thin", "shift", "tidy"]),
    )
    def mark(self, times: list[float], n: int, what: str) -> None:
        marks, sets = self._ids(tables.mark), self._ids(tables.mark_set)
        mark, chosen = marks[n % len(marks)], sets[n % len(sets)]
        match what:
            case "tap":
                self._do("POST", "/song/marks", times_s=times)
            case "move":
                self._do("PATCH", f"/song/marks/{mark}", song_s=times[0], name="x")
            case "delete":
                self._do("PATCH", "/song/marks", action="delete", ids=[mark])
            case "set":
                self._do("POST", "/song/mark-sets", of="nothing", name=f"set {n}")
            case "drop set":
                self._do("DELETE", f"/song/mark-sets/{chosen}")
            case "make":
                self._do("POST", "/song/mark-sets", of="grid", every="bar")
            case "tidy":
                self._do("PATCH", "/song/marks", action="tidy", to="beat", reach_s=0.1)
            case _:
                self._do(
                    "PATCH",
                    "/song/marks",
                    action=what,
                    **({"keep_every": 2} if what == "thin" else {"shift_s": 0.02}),
                )

    @rule(
        text=st.lists(st.text(min_size=1, max_size=9), max_size=4),
        n=small,
        at=seconds,
        what=st.sampled_from(["set", "time", "delete"]),
    )
    def lyric(self, text: list[str], n: int, at: float, what: str) -> None:
        ids = self._ids(tables.lyric)
        if what == "set":
            self._do("PUT", "/song/lyrics", text="\n".join(text))
        else:
            self._do(
                *(
                    ("PATCH", f"/song/lyrics/{ids[n % len(ids)]}")
                    if what == "time"
                    else ("DELETE", f"/song/lyrics/{ids[n % len(ids)]}")
                ),
                **({"song_s": at} if what == "time" else {}),
            )

    @rule(
        a=seconds,
        b=seconds,
        n=small,
        what=st.sampled_from(["leave out", "use only", "move", "back", "level"]),
    )
    def cutdown(self, a: float, b: float, n: int, what: str) -> None:
        ids = self._ids(tables.left_out)
        one = f"/song/cutdown/{ids[n % len(ids)]}"
        match what:
            case "move":
                self._do("PUT", one, start_s=a, end_s=b)
            case "back":
                self._do("DELETE", one)
            case "level":
                self._do("PUT", "/song/level", gain_db=a / 10 - 3, fade_in_s=b / 60)
            case _:
                self._do("POST", "/song/cutdown", action=what, start_s=a, end_s=b)

    @rule(
        n=small,
        at=seconds,
        what=st.sampled_from(["choose", "accept", "nudge", "place", "revert", "unlock", "split", "join"]),
    )
    def settle_pass(self, n: int, at: float, what: str) -> None:
        ids = self._ids(tables.pass_)
        one = f"/lineup/passes/{ids[n % len(ids)]}"
        if what in ("choose", "place"):
            self._do("PATCH", one, action=what, song_start_s=at)
        elif what in ("nudge", "split"):
            self._do("PATCH", one, action=what, seconds=at / 10)
        else:
            self._do("PATCH", one, action=what)

    @rule(n=small, at=seconds, what=st.sampled_from(["accept", "redo", "clear", "unlock", "by hand"]))
    def settle_take(self, n: int, at: float, what: str) -> None:
        takes = [m.id for m in self.project.database.all(Media, kind="take")] or ["none"]
        if what == "by hand":
            self._do("POST", f"/lineup/takes/{takes[n % len(takes)]}/passes", pairs=[[at / 4, at]])
        else:
            self._do("PATCH", "/lineup/takes", action=what, takes=takes[: 1 + n % 3])

    @rule(
        n=small,
        m=small,
        at=seconds,
        what=st.sampled_from(["add", "describe", "remove", "order", "move", "feed"]),
    )
    def angles(self, n: int, m: int, at: float, what: str) -> None:
        angles, passes = self._ids(tables.angle), self._ids(tables.pass_)
        angle, one = angles[n % len(angles)], passes[m % len(passes)]
        match what:
            case "add":
                self._do("POST", "/coverage/angles", name=f"Angle {m}")
            case "describe":
                self._do("PATCH", f"/coverage/angles/{angle}", name=f"Wide {m}", hue=m)
            case "remove":
                self._do("DELETE", f"/coverage/angles/{angle}")
            case "order":
                self._do(
                    "PUT", "/coverage/order", ids=[*angles[n % len(angles) :], *angles[: n % len(angles)]]
                )
            case "move":
                self._do("PUT", f"/coverage/passes/{one}/angle", angle=angle if n % 3 else None)
            case "feed":
                self._do("POST", "/coverage/feeds", angle=angle, start_s=at, end_s=at + 8, pass_id=one)

    @rule(n=small, name=st.text(max_size=8), what=st.sampled_from(["take out", "add", "describe", "song"]))
    def files(self, n: int, name: str, what: str) -> None:
        ids = self._ids(tables.media)
        match what:
            case "take out":
                self._do("DELETE", f"/media/{ids[n % len(ids)]}")
            case "add":
                files = ["GAL_01.mp4", "DECK_02.mp4", "LAMP_03.mp4", "rope.mp4"]
                path = str(self.footage / files[n % len(files)])
                self._do("POST", "/media", paths=[path], kind="broll" if n % 4 == 3 else "take")
            case "describe":
                self._do("PATCH", f"/media/{ids[n % len(ids)]}", name=name, camera=name)
            case "song":
                song = ("other.flac", "song.flac")[n % 2]
                self._do("POST", "/media", paths=[str(self.footage / song)], kind="song")

    @rule(back=st.booleans())
    def turn(self, back: bool) -> None:
        answer = self.client.post(f"{URL}/{'undo' if back else 'redo'}")
        assert answer.status_code in (200, 409), answer.text

    @rule(n=small)
    def a_job_ends(self, n: int) -> None:
        self.executor.step(n)

    @rule()
    def kill_and_start_again(self) -> None:
        before = everything(self.project.database)
        self.studio.stop()
        self.project.database.close()
        self._serve()
        assert everything(self.project.database) == before

    @invariant()
    def all_is_well(self) -> None:
        if not hasattr(self, "project"):
            return
        answer = self.client.get(URL)
        assert answer.status_code == 200, answer.text
        sound(self.project)
        with self.project.database.reading() as connection:
            for row in self.project.database.all(Version):
                checked(load_edit(connection, row.id))
        numbers = [a.number for a in self.project.database.all(Angle)]
        assert len(set(numbers)) == len(numbers) <= 9


def test_any_order_of_work_can_be_undone_and_goes_wrong_only_in_words(prepared: Path, footage: Path) -> None:
    from hypothesis.stateful import run_state_machine_as_test

    Service.prepared, Service.footage = prepared, footage
    run_state_machine_as_test(Service, settings=tried(6, stateful_step_count=30))
