"""Rows as they lie in a database, for tests that compare all of it."""

from typing import Any

from sqlalchemy import Table
from sqlalchemy.engine import RowMapping

from zembi.store.database import Database, rows_of

#: Tables that hold nothing a person made: the journal and jobs, and an edit's stamp, which is new after every change.
NOT_MADE = ("journal", "job", "edit_stamp")


def content(row: RowMapping) -> dict[str, Any]:
    """A row without what undo leaves as it is: the next id of an edit's items, which are never given twice."""
    return {name: value for name, value in row.items() if name != "fresh"}


def rows(database: Database, table: Table, **where: Any) -> list[RowMapping]:
    """A table's rows by equality, in key order."""
    with database.reading() as connection:
        return rows_of(connection, table, where)
