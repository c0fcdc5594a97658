"""Databases of every released schema: opened, brought up to date, undone and redone."""

import multiprocessing
import os
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from tests.edits import over_of, ranges_of
from tests.rows import NOT_MADE, content, rows
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Edit, Empty, Item
from zembi.core.errors import Damaged
from zembi.core.treatments.model import Blur, Mirror, Vignette
from zembi.store import tables
from zembi.store.database import Database
from zembi.store.edits import load_edit
from zembi.store.entities import Lineup, Media, Pass, Section
from zembi.store.schema import head, migrate

BASELINES = sorted((Path(__file__).parent / "baselines").glob("*.sql"))


def restored(baseline: Path, folder: Path) -> Path:
    path = folder / "project.db"
    with sqlite3.connect(path) as connection:
        connection.executescript(baseline.read_text())
    connection.close()
    return path


def everything(database: Database) -> dict[str, list[dict[str, Any]]]:
    kept = [t for t in tables.metadata.sorted_tables if t.name not in NOT_MADE]
    return {t.name: [content(r) for r in rows(database, t)] for t in kept}


def revision_of(path: Path) -> str:
    with sqlite3.connect(path) as connection:
        return str(connection.execute("SELECT version_num FROM alembic_version").fetchone()[0])


@pytest.fixture(params=BASELINES, ids=lambda p: p.stem)
def baseline(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    return restored(request.param, tmp_path)


def test_there_is_a_baseline_for_every_schema_before_this_one() -> None:
    assert [b.stem for b in BASELINES] == [f"{n:04d}" for n in range(1, int(head() or 0))]


def test_a_project_of_an_older_schema_is_whole_and_walks_its_journal_both_ways(baseline: Path) -> None:
    database = Database(baseline)
    with database.reading() as connection:
        edit = load_edit(connection, 1)
    assert edit.shots == (Item(0, BlackSource()), Item(204, AngleSource(1), held=True))
    assert over_of(edit) == (Item(300, ClipSource("clip01", 1.5, 0.5), 348),)
    assert [lane.name for lane in edit.lanes] == ["Shots", "Cutaways", "Treated ranges"]
    assert {r.song for r in database.all(Lineup)} == {"song01"}
    # "Rename" and "Split" were undone in the old version: they can be done again in this one.
    assert database.undo_names() == ("Delete marks", "Rename Chorus 1")
    before = everything(database)
    assert database.redo().name == "Rename Chorus 1"
    assert database.one(Section, id=3).name == "Refrain"
    assert database.redo().name == "Split a section"
    assert [s.name for s in database.all(Section)][-1] == "Bridge"
    states = [everything(database)]
    names = []
    while database.undo_names()[0]:
        names.append(database.undo().name)
        states.append(everything(database))
    assert names[-1] == "Add angle 1"
    assert before in states
    assert database.all(Pass) == []
    assert len(database.all(Media)) == 4
    for state in reversed(states[:-1]):
        database.redo()
        assert everything(database) == state
    database.close()


def test_a_history_of_cuts_cutaways_and_ranges_is_walked_by_the_ids_that_they_have_now(
    tmp_path: Path,
) -> None:
    """It was written by the schema before: cut, moved, an angle, ranges added and taken, treated, laid over, joined."""
    path = tmp_path / "project.db"
    with sqlite3.connect(path) as connection:
        connection.executescript((BASELINES[0].parents[1] / "histories" / "0008.sql").read_text())
    connection.close()
    database = Database(path)

    def edit() -> Edit:
        with database.reading() as reading:
            return load_edit(reading, 1)

    mirror, vignette, blur = Mirror(), Vignette(0.5), Blur(0.5)
    now = edit()
    assert [s.start for s in now.shots] == [0, 110, 204, 250]
    assert [(r.start, r.end, r.treatments) for r in ranges_of(now)] == [(20, 200, (vignette,))]
    assert [c.start for c in over_of(now)] == [30, 300]
    assert now.shots[0].treatments == (Blur(0.02),)
    seen = [edit()]
    for name in ("Take off", "Join", "Treat a passage: blur"):
        assert database.redo().name == name
        seen.append(edit())
    assert [c.start for c in over_of(seen[-1])] == [30]
    assert [s.start for s in seen[-1].shots] == [0, 110, 250]
    assert [r.treatments for r in ranges_of(seen[-1])] == [(blur,), (vignette,)]
    back: list[Edit] = []
    while database.undo_names()[0] != "Split a section":
        database.undo()
        back.append(edit())
    assert back[:3] == seen[2::-1]
    by_ranges = [[r.treatments for r in ranges_of(e)] for e in back]
    assert [(mirror,), (vignette,)] in by_ranges
    assert [(mirror,)] in by_ranges
    first = back[-1]
    assert [s.start for s in first.shots] == [0, 204]
    assert not ranges_of(first)
    for _ in back[:-1]:
        database.redo()
    database.redo()
    assert edit() == seen[-1]
    assert [i.id for i in edit().shots] == [i.id for i in seen[-1].shots]
    database.close()


def test_an_edit_in_which_nothing_was_cut_is_empty_and_black_that_was_chosen_stays(tmp_path: Path) -> None:
    database = Database(restored(BASELINES[6], tmp_path))
    with database.reading() as connection:
        uncut, held, cut = (load_edit(connection, n).shots for n in (2, 3, 4))
    assert uncut == (Item(0, Empty()),)
    assert held == (Item(0, BlackSource(), held=True),)
    assert cut == (Item(0, BlackSource()), Item(48, BlackSource()))
    database.close()


def test_ids_that_only_the_journal_remembers_are_not_given_again(baseline: Path) -> None:
    database = Database(baseline)
    gone = {i["key"]["id"] if "key" in i else (i["before"] or i["after"])["id"]
            for row in rows(database, tables.journal) for i in row["changes"] if i["table"] == "mark"}  # fmt: skip
    with database.changing("Tap") as change:
        chosen = change.insert(tables.mark_set, {"name": "new", "shown": True})
        mark = change.insert(tables.mark, {"set_id": chosen["id"], "at_s": 3.0})
    assert mark["id"] > max(gone)
    assert chosen["id"] > 1
    while database.undo_names()[0]:
        database.undo()
    database.close()


def test_every_running_id_is_one_that_is_never_given_again(baseline: Path) -> None:
    Database(baseline).close()
    with sqlite3.connect(baseline) as connection:
        made = dict(connection.execute("SELECT name, sql FROM sqlite_master WHERE type = 'table'").fetchall())
        keys = dict(connection.execute("SELECT name, seq FROM sqlite_sequence").fetchall())
    for table in tables.metadata.sorted_tables:
        if table.kwargs.get("sqlite_autoincrement") or "AUTOINCREMENT" in made[table.name]:
            assert "AUTOINCREMENT" in made[table.name]
            assert table.name in keys


def test_references_still_hold_after_the_tables_were_made_anew(baseline: Path) -> None:
    database = Database(baseline)
    with database.changing("Remove the angle") as change:
        change.delete(tables.angle, {"id": 1})
    assert [p.angle for p in database.all(Pass)] == [None]
    database.undo()
    assert [p.angle for p in database.all(Pass)] == [1]
    with database.changing("Take out GAL_01") as change:
        change.delete(tables.media, {"id": "take01"})
    assert database.all(Pass) == []
    assert database.all(Lineup) == []
    database.undo()
    assert [p.id for p in database.all(Pass)] == [1]
    with sqlite3.connect(baseline) as connection:
        assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
    database.close()


def _open(path: Path) -> str:
    database = Database(path)
    database.close()
    return revision_of(path)


def test_several_processes_open_an_old_project_at_once(tmp_path: Path) -> None:
    path = restored(BASELINES[0], tmp_path)
    with multiprocessing.get_context("spawn").Pool(4) as pool:
        assert set(pool.map(_open, [path] * 8)) == {head()}


OPENER = "import sys; from pathlib import Path; from zembi.store.schema import migrate; print(flush=True); migrate(Path(sys.argv[1]))"


def test_a_kill_while_a_project_is_brought_up_to_date_leaves_the_old_or_the_new_one(tmp_path: Path) -> None:
    seen = set()
    for n, wait in enumerate((0.0, 0.01, 0.03, 0.06, 0.1, 0.2)):
        folder = tmp_path / str(n)
        folder.mkdir()
        path = restored(BASELINES[0], folder)
        opener = subprocess.Popen([sys.executable, "-c", OPENER, str(path)], stdout=subprocess.PIPE)
        assert opener.stdout is not None
        opener.stdout.readline()
        time.sleep(wait)
        os.kill(opener.pid, signal.SIGKILL)
        opener.communicate()
        seen.add(revision_of(path))
        database = Database(path)
        assert len(database.all(Media)) == 3
        assert revision_of(path) == head()
        database.close()
    assert seen <= {"0001", head()}


def test_what_is_no_project_of_this_version_is_refused_in_words_and_left_as_it_is(tmp_path: Path) -> None:
    newer = restored(BASELINES[-1], tmp_path)
    migrate(newer)
    with sqlite3.connect(newer) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(Damaged, match="newer version"):
        Database(newer)
    torn = tmp_path / "torn.db"
    torn.write_bytes(b"SQLite format 3\0" + os.urandom(5000))
    before = torn.read_bytes()
    with pytest.raises(Damaged, match="damaged"):
        Database(torn)
    assert torn.read_bytes() == before
    other = tmp_path / "other.db"
    with sqlite3.connect(other) as connection:
        connection.execute("CREATE TABLE recipes (id INTEGER)")
    with pytest.raises(Damaged, match="not one of a Zembi project"):
        Database(other)
