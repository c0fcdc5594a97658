"""Locks of a project's database: what a process holds is held whatever else it opens there."""

import subprocess
import sys
from pathlib import Path

from zembi.service.project.workspace import Workspace, open_folder

#: Another process that opens the database, looks, and closes it: the last to close would take the write-ahead log away.
PASSES_BY = """
import sqlite3, sys
connection = sqlite3.connect(sys.argv[1])
connection.execute("SELECT count(*) FROM journal").fetchone()
connection.close()
"""


def test_opening_a_project_again_lets_go_of_no_lock_of_the_process(tmp_path: Path) -> None:
    workspace = Workspace(tmp_path)
    project = workspace.create("Lamp", "24", 320, 180)
    with project.database.writing() as connection:
        connection.exec_driver_sql("UPDATE project SET name = 'Lamp Room'")
    log = project.folder / "project.db-wal"
    assert log.exists()
    kept = log.stat().st_ino
    # As a worker does, which reports by one connection and works by another.
    again = open_folder(project.folder)
    again.database.close()
    for _ in range(2):
        subprocess.run([sys.executable, "-c", PASSES_BY, str(project.folder / "project.db")], check=True)
    assert log.exists(), "this process still has it open"
    assert log.stat().st_ino == kept
    with project.database.writing() as connection:
        connection.exec_driver_sql("UPDATE project SET name = 'Lamp Room 2'")
    with open_folder(project.folder).database.reading() as connection:
        assert connection.exec_driver_sql("SELECT name FROM project").scalar() == "Lamp Room 2"
