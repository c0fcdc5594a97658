"""Opening a project's database and changing it so that every change can be undone."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, Table, and_, create_engine, delete, event, insert, select, update
from sqlalchemy.engine import RowMapping

from zembi.core.errors import NotFound, Refused
from zembi.store import tables

Row = Mapping[str, Any]


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


def _open_engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 15, "check_same_thread": False})

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _record: Any) -> None:
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA synchronous=FULL")
        connection.execute("PRAGMA foreign_keys=ON")
        connection.execute("PRAGMA busy_timeout=15000")

    return engine


def _key_of(table: Table, row: Row) -> dict[str, Any]:
    return {c.name: row[c.name] for c in table.primary_key.columns}


def _where(table: Table, key: Row) -> Any:
    return and_(*(table.c[name] == value for name, value in key.items()))


@dataclass
class Change:
    """A unit of work that remembers each row's image before and after, so that it can be undone whole."""

    connection: Connection
    images: list[dict[str, Any]] = field(default_factory=list)

    def insert(self, table: Table, values: Row) -> dict[str, Any]:
        """Add a row; returns it as stored, with its key."""
        result = self.connection.execute(insert(table).values(**values))
        names = [c.name for c in table.primary_key.columns]
        key = dict(zip(names, result.inserted_primary_key or (), strict=True))
        after = dict(one_of(self.connection, table, key))
        self.images.append({"table": table.name, "before": None, "after": after})
        return after

    def update(self, table: Table, key: Row, values: Row) -> None:
        """Change a row; nothing is remembered where nothing differs.

        Raises:
            NotFound: no such row.
        """
        before = dict(one_of(self.connection, table, key))
        after = {**before, **values}
        if after != before:
            self.connection.execute(update(table).where(_where(table, key)).values(**values))
            self.images.append({"table": table.name, "before": before, "after": after})

    def delete(self, table: Table, key: Row) -> None:
        """Remove a row.

        Raises:
            NotFound: no such row.
        """
        before = dict(one_of(self.connection, table, key))
        self.connection.execute(delete(table).where(_where(table, key)))
        self.images.append({"table": table.name, "before": before, "after": None})

    def replace_all(self, table: Table, where: Row, rows: list[dict[str, Any]]) -> None:
        """Make the rows matching ``where`` exactly ``rows`` (keyed by primary key), touching only what differs."""
        names = [c.name for c in table.primary_key.columns]
        now = {tuple(r[n] for n in names): dict(r) for r in rows_of(self.connection, table, where)}
        then = {tuple(r[n] for n in names): r for r in rows}
        for key in now.keys() - then.keys():
            self.delete(table, dict(zip(names, key, strict=True)))
        for key, row in then.items():
            if key not in now:
                self.insert(table, row)
            elif {k: now[key][k] for k in row} != row:
                self.update(table, dict(zip(names, key, strict=True)), row)


def one_of(connection: Connection, table: Table, key: Row) -> RowMapping:
    row = connection.execute(select(table).where(_where(table, key))).mappings().first()
    if row is None:
        raise NotFound(f"There is no {table.name} {', '.join(str(v) for v in key.values())}.")
    return row


def rows_of(connection: Connection, table: Table, where: Row | None = None) -> list[RowMapping]:
    """Rows of a table, by equality, in key order."""
    query = select(table).order_by(*table.primary_key.columns)
    if where:
        query = query.where(_where(table, where))
    return list(connection.execute(query).mappings())


class Database:
    """One project's database."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._changes = Lock()
        self.engine = _open_engine(path)
        self._migrate()

    def _migrate(self) -> None:
        config = _config()
        head = ScriptDirectory.from_config(config).get_current_head()
        with self.engine.connect() as connection:
            if MigrationContext.configure(connection).get_current_revision() == head:
                return
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection that only reads, at one moment in time."""
        with self.engine.connect() as connection:
            yield connection

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A transaction outside the undo journal (files added, jobs)."""
        with self.engine.begin() as connection:
            yield connection

    @contextmanager
    def changing(self, name: str, arguments: Row | None = None) -> Iterator[Change]:
        """A transaction that is journaled under a name in plain words; any exception leaves all as it was."""
        with self._changes, self.engine.begin() as connection:
            change = Change(connection)
            yield change
            if change.images:
                connection.execute(delete(tables.journal).where(tables.journal.c.undone.is_(True)))
                row = {
                    "name": name,
                    "arguments": dict(arguments or {}),
                    "changes": change.images,
                    "undone": False,
                }
                connection.execute(insert(tables.journal).values(**row))

    def one(self, table: Table, **key: Any) -> RowMapping:
        """A row by key.

        Raises:
            NotFound: no such row.
        """
        with self.reading() as connection:
            return one_of(connection, table, key)

    def all(self, table: Table, **where: Any) -> list[RowMapping]:
        """Rows by equality, in key order."""
        with self.reading() as connection:
            return rows_of(connection, table, where)

    def undo_names(self) -> tuple[str | None, str | None]:
        """What undo and redo would do next."""
        log = tables.journal
        with self.reading() as connection:
            done = connection.execute(
                select(log.c.name).where(log.c.undone.is_(False)).order_by(log.c.number.desc()).limit(1)
            ).scalar()
            undone = connection.execute(
                select(log.c.name).where(log.c.undone.is_(True)).order_by(log.c.number).limit(1)
            ).scalar()
        return done, undone

    def undo(self) -> str:
        """Take back the last operation; returns its name.

        Raises:
            Refused: nothing to undo.
        """
        return self._turn(back=True)

    def redo(self) -> str:
        """Do the last undone operation again; returns its name.

        Raises:
            Refused: nothing to redo.
        """
        return self._turn(back=False)

    def _turn(self, *, back: bool) -> str:
        log = tables.journal
        order = log.c.number.desc() if back else log.c.number
        with self._changes, self.engine.begin() as connection:
            query = select(log).where(log.c.undone.is_(not back)).order_by(order).limit(1)
            row = connection.execute(query).mappings().first()
            if row is None:
                raise Refused("There is nothing to undo." if back else "There is nothing to redo.")
            images = reversed(row["changes"]) if back else row["changes"]
            for image in images:
                old, new = (image["after"], image["before"]) if back else (image["before"], image["after"])
                _apply(connection, tables.metadata.tables[image["table"]], old, new)
            connection.execute(update(log).where(log.c.number == row["number"]).values(undone=back))
            return str(row["name"])


def _apply(connection: Connection, table: Table, old: Row | None, new: Row | None) -> None:
    if new is None and old is not None:
        connection.execute(delete(table).where(_where(table, _key_of(table, old))))
    elif old is None and new is not None:
        connection.execute(insert(table).values(**new))
    elif old is not None and new is not None:
        connection.execute(update(table).where(_where(table, _key_of(table, old))).values(**new))
