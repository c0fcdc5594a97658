"""The database: every change can be undone, nothing acknowledged is lost."""

import os
import signal
import sqlite3
import subprocess
import sys
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.rows import NOT_MADE, content, rows
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.base import cut, move_cut
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Edit, Item, checked
from zembi.core.errors import NotFound, Refused
from zembi.store import edits, tables
from zembi.store.database import Change, Database
from zembi.store.edits import insert_edit, load_edit, save_edit, turn
from zembi.store.entities import MarkSet


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database(tmp_path / "project.db")


def everything(database: Database) -> dict[str, list[dict[str, Any]]]:
    return {
        t.name: [content(r) for r in rows(database, t)]
        for t in tables.metadata.sorted_tables
        if t.name not in NOT_MADE
    }


def edit_read_anew(database: Database) -> Edit:
    """The edit as its rows tell; what is remembered of it has to be that."""
    with database.reading() as connection:
        known = load_edit(connection, 1)
        edits._KNOWN.clear()
        assert load_edit(connection, 1) == known
    return known


def test_migrations_make_just_the_tables_there_are(database: Database) -> None:
    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": False})
        assert compare_metadata(context, tables.metadata) == []


def test_opening_again_changes_nothing(database: Database) -> None:
    with database.changing("Make") as change:
        change.insert(tables.mark_set, {"name": "cut ideas", "shown": True})
    database.close()
    again = Database(database.path)
    assert [s.name for s in again.all(MarkSet)] == ["cut ideas"]
    assert again.undo_names() == ("Make", None)


def test_an_edit_is_remembered_until_anybody_changes_a_row_of_it(database: Database) -> None:
    with database.writing() as connection:
        insert_edit(Change(connection), "Edit 1", new_edit(500))
    known = edit_read_anew(database)
    assert edit_read_anew(database) == known
    with sqlite3.connect(database.path) as other:
        other.execute("UPDATE lane SET name = 'Changed'")
    other.close()
    assert {lane.name for lane in edit_read_anew(database).lanes} == {"Changed"}

    def fail() -> None:
        with database.changing("Fail") as change:
            before = load_edit(change.connection, 1)
            save_edit(change, 1, cut(before, 100, Fraction(24)), before)
            raise Refused("no")

    with pytest.raises(Refused):
        fail()
    assert len(edit_read_anew(database).shots) == 1


def test_what_undo_changes_of_an_edit_alone_is_read_again(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    with database.writing() as connection:
        insert_edit(Change(connection), "Edit 1", new_edit(500))
    known = [edit_read_anew(database)]
    for frame in (100, 50, 300):
        with database.changing("Cut") as change:
            save_edit(change, 1, cut(known[-1], frame, Fraction(24)), known[-1])
        known.append(edit_read_anew(database))
    read: list[int] = []
    monkeypatch.setattr(edits, "_read", lambda _connection, number: read.append(number))
    for back, orders in ((True, (2, 1, 0)), (False, (1, 2, 3))):
        for at in orders:
            turn(database, back=back)
            with database.reading() as connection:
                assert load_edit(connection, 1).lanes == known[at].lanes
    assert not read


def test_a_failed_change_leaves_all_as_it_was(database: Database) -> None:
    def fail() -> None:
        with database.changing("Fail") as change:
            change.insert(tables.mark_set, {"name": "x", "shown": True})
            raise Refused("No.")

    with pytest.raises(Refused):
        fail()
    assert database.all(MarkSet) == []
    assert database.undo_names() == (None, None)
    with pytest.raises(Refused, match="nothing to undo"):
        database.undo()
    with pytest.raises(NotFound, match="mark_set 7"):
        database.one(MarkSet, id=7)


def test_a_change_that_changes_nothing_is_not_journaled(database: Database) -> None:
    with database.changing("Make") as change:
        row = change.insert(tables.mark_set, {"name": "x", "shown": True})
    with database.changing("Same") as change:
        change.update(tables.mark_set, {"id": row["id"]}, {"name": "x"})
    assert database.undo_names() == ("Make", None)


def test_a_new_change_ends_what_could_be_redone(database: Database) -> None:
    for name in ("one", "two"):
        with database.changing(name) as change:
            change.insert(tables.mark_set, {"name": name, "shown": True})
    assert database.undo().name == "two"
    assert database.undo_names() == ("one", "two")
    with database.changing("three") as change:
        change.insert(tables.mark_set, {"name": "three", "shown": True})
    assert database.undo_names() == ("three", None)
    with pytest.raises(Refused, match="nothing to redo"):
        database.redo()


steps = st.lists(
    st.tuples(st.sampled_from(["add", "rename", "delete", "edit"]), st.integers(0, 5), st.integers(0, 400)),
    min_size=1,
    max_size=12,
)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps)
def test_undoing_and_redoing_visits_the_very_same_states(
    tmp_path: Path, steps: list[tuple[str, int, int]]
) -> None:
    path = tmp_path / f"{time.monotonic_ns()}.db"
    database = Database(path)
    with database.writing() as connection:
        insert_edit(Change(connection), "Edit 1", new_edit(500))
    states = [everything(database)]
    for kind, which, frame in steps:
        sets = database.all(MarkSet)
        before = len(states)
        with database.changing(f"{kind} {before}") as change:
            if kind == "add":
                change.insert(tables.mark_set, {"name": f"set {frame}", "shown": True})
            elif kind == "rename" and sets:
                change.update(tables.mark_set, {"id": sets[which % len(sets)].id}, {"name": f"now {frame}"})
            elif kind == "delete" and sets:
                change.delete(tables.mark_set, {"id": sets[which % len(sets)].id})
            elif kind == "edit":
                before_edit = load_edit(change.connection, 1)
                shots = (Item(0, AngleSource(which)), Item(1 + frame, ClipSource("m", 1.5, 0.5), held=True))
                lanes = new_edit(500, shots, (Item(frame, BlackSource(), frame + 9),)).lanes
                save_edit(change, 1, checked(replace(before_edit, lanes=lanes)), before_edit)
        edit_read_anew(database)
        now = everything(database)
        if now != states[-1]:
            states.append(now)
    for state in reversed(states[:-1]):
        turn(database, back=True)
        assert everything(database) == state
        edit_read_anew(database)
    for state in states[1:]:
        turn(database, back=False)
        assert everything(database) == state
        edit_read_anew(database)
    database.close()


def test_edits_are_kept_exactly_and_only_what_differs_is_written(database: Database) -> None:
    shots = tuple(Item(n * 10, AngleSource(n % 3 + 1)) for n in range(500))
    edit = new_edit(5000, shots, (Item(5, ClipSource("m", 1.25), 25),))
    with database.changing("Start") as change:
        assert insert_edit(change, "Edit 1", edit) == 1
    with database.reading() as connection:
        assert load_edit(connection, 1) == edit
    moved = move_cut(edit, 100, 1003, Fraction(24))
    with database.changing("Move a cut") as change:
        save_edit(change, 1, moved, edit)
        assert len(change.images) == 1
    with database.reading() as connection:
        assert load_edit(connection, 1) == moved


def test_the_next_id_only_rises_whatever_is_written_and_undone(database: Database) -> None:
    with database.changing("Start") as change:
        insert_edit(change, "Edit 1", new_edit(500, [Item(n * 10, BlackSource()) for n in range(40)]))
    with database.changing("Another cut") as change:
        before = load_edit(change.connection, 1)
        save_edit(change, 1, new_edit(500), before)
    with database.reading() as connection:
        assert load_edit(connection, 1).fresh == before.fresh
    database.undo()
    with database.changing("Cut") as change:
        back = load_edit(change.connection, 1)
        after = cut(back, 5, Fraction(24))
        save_edit(change, 1, after, back)
    ids = [i.id for i in after.shots]
    assert len(set(ids)) == len(ids) == 41


WRITER = """
import sys
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from zembi.store import tables
from zembi.store.database import Change, Database
database = Database(Path(sys.argv[1]))
for n in range(100000):
    with database.changing(f"Mark {n}") as change:
        change.insert(tables.mark_set, {"name": f"{n}", "shown": True})
    print(n, flush=True)
"""


def test_kill_at_any_moment_loses_no_acknowledged_change(tmp_path: Path) -> None:
    for wait in (0.05, 0.21, 0.4):
        path = tmp_path / f"{wait}.db"
        Database(path).close()
        writer = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True
        )
        assert writer.stdout is not None
        assert writer.stdout.readline().strip() == "0"
        time.sleep(wait)
        os.kill(writer.pid, signal.SIGKILL)
        acknowledged = [int(line) for line in writer.stdout.read().split() if line.isdigit()]
        writer.stdout.close()
        writer.wait()
        database = Database(path)
        kept = [int(r.name) for r in database.all(MarkSet)]
        assert kept == list(range(len(kept)))
        assert len(kept) - 1 >= max([0, *acknowledged[:-1]])
        # The journal and the rows agree: undoing takes back exactly the last one.
        database.undo()
        assert len(database.all(MarkSet)) == len(kept) - 1
        database.close()
