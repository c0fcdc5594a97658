"""Rows as they lie in a database, for tests that compare all of it."""

from typing import Any

from sqlalchemy import Table
from sqlalchemy.engine import RowMapping

from zembi.store.database import Database, rows_of


def rows(database: Database, table: Table, **where: Any) -> list[RowMapping]:
    """A table's rows by equality, in key order."""
    with database.reading() as connection:
        return rows_of(connection, table, where)
