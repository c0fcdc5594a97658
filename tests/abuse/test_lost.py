"""Nothing that a person made leaves outside the journal: long works, overwritten files, deleted projects, killed workers."""

import json
import shutil
import threading
import time
import unicodedata
from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.abuse.support import LONGER, Idle, everything
from tests.api.test_work import URL, edit, media, operate, state
from tests.conftest import add, open_studio
from tests.media.films import film
from zembi.api.app import create_app
from zembi.core.errors import ZembiError
from zembi.jobs.pool import SeparateWorkers
from zembi.media.derive import derive_sound, derive_stills, derived_folder, write_flac
from zembi.media.sound import read_sound
from zembi.service.application.work import works
from zembi.service.media.library import find
from zembi.service.project.workspace import Project, Workspace, write_json
from zembi.store.entities import Job, Media

#: What a person makes; files and takes have rows of their own besides, which say how far they are.
MADE = (
    "item",
    "lane",
    "section",
    "mark",
    "mark_set",
    "lyric",
    "left_out",
    "corrections",
    "select",
    "listed_shot",
    "recipe",
    "feed",
)


def made(project: Project) -> dict[str, Any]:
    """Everything that a person made, and what was said of passes and angles."""
    rows = everything(project.database)
    out: dict[str, Any] = {name: rows[name] for name in MADE}
    out["edit"] = [(e["id"], e["name"], e["length"]) for e in rows["edit"]]
    out["pass"] = [(p["id"], p["verdict"], p["note"]) for p in rows["pass"] if p["verdict"] or p["note"]]
    out["angle"] = [(a["id"], a["name"], a["number"]) for a in rows["angle"] if a["by_hand"]]
    return out


@pytest.fixture
def card(tmp_path: Path, footage: Path) -> Path:
    """A folder of its own with a song that may be overwritten."""
    folder = footage / f"card-{tmp_path.name}"
    folder.mkdir()
    shutil.copy(footage / "song.flac", folder / "mix.flac")
    return folder


@pytest.fixture
def worked(client: TestClient, card: Path) -> TestClient:
    """A project of a song that may be overwritten, with something of all that a person makes, to the song's end."""
    add(client, URL, card, "song", "mix.flac")
    seconds = state(client)["song"]["seconds"]
    operate(client, "rough cut", beats=4)
    operate(client, "lay over", working_s=seconds - 6, end_s=seconds - 4, media=media(client, "rope")["id"])
    treated = [{"kind": "mirror"}]
    operate(
        client, "treat range", first=int(24 * (seconds - 5)), end=int(24 * (seconds - 3)), treatments=treated
    )
    for body in ({"times_s": [2.0, seconds - 2]},):
        assert client.post(f"{URL}/song/marks", json=body).status_code < 300
    assert (
        client.put(f"{URL}/song/lyrics", json={"text": "[00:02.00] one\n[00:30.00] two\n"}).status_code < 500
    )
    rope = media(client, "rope")["id"]
    knot = {"in_s": 1.0, "out_s": 2.0, "name": "knot"}
    kept = client.post(f"{URL}/broll/selects", json={"media": rope, "ranges": [knot]})
    assert kept.status_code == 201, kept.text
    passes = [p for t in state(client)["takes"] for p in t["passes"]]
    judged = client.patch(
        f"{URL}/coverage/passes/{passes[0]['id']}", json={"verdict": "circled", "note": "the one"}
    )
    assert judged.status_code == 200, judged.text
    return client


def test_a_song_that_was_overwritten_by_a_shorter_mix_takes_no_cut_for_good(
    worked: TestClient, card: Path, footage: Path
) -> None:
    project: Project = worked.app.state.studio.workspace.open("small")  # type: ignore[attr-defined]
    before, shown = made(project), edit(worked)
    old = (card / "mix.flac").read_bytes()
    sound, rate = read_sound(card / "mix.flac")
    write_flac(card / "mix.flac", sound[: 20 * rate], rate)
    song = next(m for m in state(worked)["media"] if m["name"] == "mix")
    assert song["condition"] == "changed"
    worked.post(f"{URL}/media/{song['id']}/preparations")
    shorter = edit(worked)
    assert shorter["length"] < shown["length"]
    assert len(shorter["shots"]) < len(shown["shots"])
    assert state(worked)["undo"] == "Take mix as it is now"
    assert worked.post(f"{URL}/undo").status_code == 200
    assert made(project) == before, "one step of undo brings all of it back"
    assert [s["start"] for s in edit(worked)["shots"]] == [s["start"] for s in shown["shots"]]
    assert worked.post(f"{URL}/redo").status_code == 200
    assert edit(worked)["length"] == shorter["length"]
    worked.post(f"{URL}/undo")
    (card / "mix.flac").write_bytes(old)
    assert next(m for m in state(worked)["media"] if m["name"] == "mix")["condition"] == "ok"
    assert edit(worked)["shots"] == shown["shots"]


def test_the_same_file_chosen_again_after_it_was_overwritten_is_one_step_too(
    worked: TestClient, card: Path
) -> None:
    project: Project = worked.app.state.studio.workspace.open("small")  # type: ignore[attr-defined]
    before = made(project)
    sound, rate = read_sound(card / "mix.flac")
    write_flac(card / "mix.flac", sound[: 20 * rate], rate)
    add(worked, URL, card, "song", "mix.flac")
    assert edit(worked)["length"] == 480
    worked.post(f"{URL}/undo")
    assert made(project) == before


def test_no_long_work_changes_what_a_person_made_outside_the_journal(
    worked: TestClient, card: Path, footage: Path, tmp_path: Path
) -> None:
    """Every kind of long work is done on files that changed meanwhile; what differs after it, undo brings back."""
    studio = worked.app.state.studio  # type: ignore[attr-defined]
    project: Project = studio.workspace.open("small")
    sound, rate = read_sound(card / "mix.flac")
    write_flac(card / "mix.flac", sound[: 25 * rate], rate)
    rows = {m.name: m.id for m in project.database.all(Media)}
    kept = made(project)
    assert all(
        kept[name] for name in ("item", "lane", "section", "mark", "mark_set", "lyric", "select", "pass")
    )
    arguments: dict[str, list[dict[str, Any]]] = {
        "prepare": [{"media": rows["mix"]}, {"media": rows["rope"]}, {"media": rows["GAL_01"]}],
        "hear": [{"media": rows["DECK_02"]}], "align": [{"media": rows["GAL_01"]}, {"media": rows["DECK_02"]}],
        "stills": [{"media": rows["rope"]}, {"media": rows["LAMP_03"]}], "picture": [{"media": rows["gulls"]}],
        "render": [{"first": 0, "end": 2, "file": "film.mp4"}], "lineup": [{"name": "lined"}], "shots": [{"media": rows["rope"]}],
        "collect": [{"folder": str(card / "collected")}],
        "send": [{"edit": 1, "item": edit(worked)["shots"][0]["id"], "handles": 2, "form": "prores"}],
    }  # fmt: skip
    kinds = works(studio.workspace)
    assert set(arguments) == set(kinds), "a new kind of work belongs into this walk"
    changed = []
    for kind, each in arguments.items():
        for given in each:
            before, undo = made(project), project.database.undo_names()[0]
            # Whether it can be done is another question: a shot may be empty by now.
            with suppress(ZembiError):
                kinds[kind](project.folder, given, lambda _s, _w: None)
            after = made(project)
            if after != before:
                changed.append(kind)
                assert project.database.undo_names()[0] != undo, f"{kind} changed it without a step of undo"
                project.database.undo()
                assert made(project) == before, kind
                project.database.redo()
    assert "prepare" in changed, "the overwritten song is such a change"


def test_a_deleted_project_does_not_come_back_while_its_files_are_prepared(
    tmp_path: Path, footage: Path
) -> None:
    clips = footage / f"many-{tmp_path.name}"
    clips.mkdir()
    for n in range(6):
        film(clips / f"clip{n}.mp4", Fraction(25), 150 + n, size=(640, 360))
    studio = open_studio(tmp_path / "data", footage, lambda: SeparateWorkers(2))
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        for turn in range(min(40, 3 * LONGER)):
            client.post("/api/v1/projects", json={"name": "Ghost", "rate": "24", "width": 320, "height": 180})
            add(client, "/api/v1/projects/ghost", clips, "broll", *(f"clip{n}.mp4" for n in range(6)))
            end = time.monotonic() + 20
            while time.monotonic() < end and not list(studio.workspace.projects_folder.glob("ghost/cache/*")):
                time.sleep(0.02)
            time.sleep(0.15 * (turn % 7))
            assert client.delete("/api/v1/projects/ghost").status_code == 200
            quiet = time.monotonic() + 3
            while time.monotonic() < quiet:
                assert not (studio.workspace.projects_folder / "ghost").exists()
                time.sleep(0.05)
            assert client.get("/api/v1/projects").json() == []


def test_what_a_killed_worker_was_making_goes_when_the_work_is_taken_up_again(tmp_path: Path) -> None:
    path = film(tmp_path / "take.mp4", Fraction(25), 40)
    cache = tmp_path / "cache"
    final = derived_folder(cache, "content")
    # No process has this number: they end below.
    dead = [cache / f"{final.name}.making-{part}-99999999" for part in ("stills", "sound")]
    other = cache / "another-2.making-stills-99999999"
    for folder in (*dead, other):
        folder.mkdir(parents=True)
        (folder / "half").write_bytes(b"x" * 1000)
    derive_stills(path, cache, "content", lambda _s, _w: None)
    assert (dead[0].exists(), dead[1].exists(), other.exists()) == (False, True, True)
    derive_sound(path, cache, "content", lambda _s, _w: None)
    assert not dead[1].exists()


def test_a_file_under_a_decomposed_name_is_found_when_it_is_dropped(tmp_path: Path) -> None:
    composed = unicodedata.normalize("NFC", "Gärten é.mp4")
    decomposed = unicodedata.normalize("NFD", composed)
    assert composed != decomposed
    folder = tmp_path / "card"
    folder.mkdir()
    (folder / decomposed).write_bytes(b"12345")
    workspace = Workspace(tmp_path / "data", [folder])
    assert find(workspace, [(composed, 5), (decomposed, 5), (composed, 6)]) == [
        str(folder / decomposed), str(folder / decomposed), "",
    ]  # fmt: skip


@pytest.fixture
def idle(tmp_path: Path, footage: Path) -> Iterator[TestClient]:
    studio = open_studio(tmp_path / "data", footage, Idle)
    with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
        client.post("/api/v1/projects", json={"name": "Small", "rate": "24", "width": 320, "height": 180})
        yield client


def test_many_clips_are_added_once_queued_once_and_taken_back_and_brought_back_in_one_go(
    idle: TestClient, footage: Path, tmp_path: Path
) -> None:
    folder = footage / f"heap-{tmp_path.name}"
    folder.mkdir()
    count = min(8000, 600 * LONGER)
    names = [f"c{n:04d}.mp4" for n in range(count)]
    for name in names:
        (folder / name).write_bytes(name.encode())
    project: Project = idle.app.state.studio.workspace.open("small")  # type: ignore[attr-defined]
    add(idle, URL, footage, "broll", "rope.mp4")
    before = everything(project.database)
    ids = add(idle, URL, folder, "broll", *names)
    assert add(idle, URL, folder, "broll", *names[:5]) == ids[:5], "none twice"
    assert len({j.arguments["media"] for j in project.database.all(Job)}) == count + 1
    first = project.database.one(Media, id=ids[0])
    after = everything(project.database)
    statements = counted(project, lambda: idle.post(f"{URL}/undo"))
    assert everything(project.database) == before
    assert statements < count, "not one by one, with all that could refer to each"
    assert {j.state for j in project.database.all(Job) if j.arguments["media"] != first.id} <= {
        "waiting",
        "cancelled",
    }
    assert sum(j.state == "waiting" for j in project.database.all(Job)) == 1
    again = counted(project, lambda: idle.post(f"{URL}/redo"))
    assert everything(project.database) == after
    assert again < 2 * count, "a row of a job for each, and little more"


def test_an_operation_asks_no_more_of_the_database_after_many_others(worked: TestClient) -> None:
    """Ten minutes of scripted editing had become slower: the journal's length must not tell."""
    project: Project = worked.app.state.studio.workspace.open("small")  # type: ignore[attr-defined]
    shots = [s["id"] for s in edit(worked)["shots"]][1:-1]
    counts, took = [], []
    for n in range(60 * LONGER):
        there = shots[n % len(shots)]
        on, off = {"op": "hold", "item": there, "held": True}, {"op": "hold", "item": there, "held": False}
        begun = time.perf_counter()
        counts.append(counted(project, lambda: [worked.post(f"{URL}/edits/1", json=o) for o in (on, off)]))  # noqa: B023
        took.append(time.perf_counter() - begun)
    assert max(counts[-20:]) <= max(counts[:20])
    tenth = len(took) // 10
    print(
        f"two operations: {1e3 * sum(took[:tenth]) / tenth:.1f} ms at first, {1e3 * sum(took[-tenth:]) / tenth:.1f} ms at last"
    )


def counted(project: Project, work: Any) -> int:
    """How many statements a piece of work sends to the database."""
    from sqlalchemy import event

    lock, count = threading.Lock(), 0

    def seen(*_args: Any) -> None:
        nonlocal count
        with lock:
            count += 1

    event.listen(project.database.engine, "before_cursor_execute", seen)
    try:
        work()
    finally:
        event.remove(project.database.engine, "before_cursor_execute", seen)
    return count


def test_a_small_file_that_several_threads_write_at_once_is_one_of_theirs(tmp_path: Path) -> None:
    path, wrong = tmp_path / "kept.json", []
    path.write_text("[]")

    def write(number: int) -> None:
        try:
            for _ in range(60):
                write_json(path, [number] * 500)
                assert len(set(json.loads(path.read_text()))) == 1
        except (OSError, ValueError, AssertionError) as fault:
            wrong.append(fault)

    writers = [threading.Thread(target=write, args=(n,)) for n in range(4)]
    for w in writers:
        w.start()
    for w in writers:
        w.join()
    assert wrong == []
    assert [p.name for p in tmp_path.iterdir()] == ["kept.json"]
