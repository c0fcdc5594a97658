"""Opening a project's database and changing it so that every change can be undone.

A project is read at one moment in time and changed in one transaction: what is opened inside either, by whatever
function of this thread, is part of it. SQLite's driver opens no transaction before a SELECT, so it is done here.
"""

import math
import sqlite3
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from threading import RLock, local
from typing import Any

from sqlalchemy import (
    Connection,
    Engine,
    Table,
    and_,
    create_engine,
    delete,
    event,
    func,
    insert,
    select,
    text,
    update,
)
from sqlalchemy.engine import RowMapping
from sqlalchemy.exc import IntegrityError

from zembi.core.errors import BadInput, NotFound, Refused
from zembi.store import tables
from zembi.store.entities import E, every, single
from zembi.store.schema import migrate

Row = Mapping[str, Any] | RowMapping

#: Seconds that one writer waits for another.
_PATIENCE_S = 15


def open_engine(path: Path, *, foreign_keys: bool = True) -> Engine:
    """An engine whose transactions begin when they are opened: for writing at once, else with the first look."""
    engine = create_engine(
        f"sqlite:///{path}", connect_args={"timeout": _PATIENCE_S, "check_same_thread": False}
    )

    @event.listens_for(engine, "connect")
    def prepare(connection: sqlite3.Connection, _record: Any) -> None:
        # The driver's own idea of transactions is switched off; "begin" below does it.
        connection.isolation_level = None
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA synchronous=FULL")
        connection.execute(f"PRAGMA foreign_keys={'ON' if foreign_keys else 'OFF'}")
        connection.execute(f"PRAGMA busy_timeout={1000 * _PATIENCE_S}")

    @event.listens_for(engine, "begin")
    def begin(connection: Connection) -> None:
        connection.exec_driver_sql(f"BEGIN {connection.get_execution_options().get('begins', 'IMMEDIATE')}")

    return engine


def _key_of(table: Table, row: Row) -> dict[str, Any]:
    return {c.name: row[c.name] for c in table.primary_key.columns}


def _where(table: Table, key: Row) -> Any:
    return and_(*(table.c[name] == value for name, value in key.items()))


def _check_numbers(value: Any) -> None:
    """Refuse what could be written but never read again.

    Raises:
        BadInput: a number that is not finite, or a whole one beyond 63 bits, anywhere inside.
    """
    if isinstance(value, float):
        if not math.isfinite(value):
            raise BadInput(f"{value} is not a number that can be kept.")
    elif isinstance(value, int):
        if not -(2**63) <= value < 2**63:
            raise BadInput(f"{value} is too large a number.")
    elif isinstance(value, Mapping):
        for inner in value.values():
            _check_numbers(inner)
    elif isinstance(value, list | tuple):
        for inner in value:
            _check_numbers(inner)


@dataclass
class Change:
    """A unit of work that remembers what it changed of each row, so that it can be undone whole.

    An image holds a row's key and what differs: ``before`` and ``after`` are the whole row where it was not
    there, or is no longer, else the columns that changed.
    """

    connection: Connection
    name: str = ""
    arguments: dict[str, Any] = field(default_factory=dict)
    images: list[dict[str, Any]] = field(default_factory=list)
    edit: int | None = None

    def insert(self, table: Table, values: Row) -> dict[str, Any]:
        """Add a row; returns it as stored, with its key."""
        _check_numbers(values)
        result = self.connection.execute(insert(table).values(**values))
        names = [c.name for c in table.primary_key.columns]
        key = dict(zip(names, result.inserted_primary_key or (), strict=True))
        after = dict(one_of(self.connection, table, key))
        self.images.append({"table": table.name, "key": key, "before": None, "after": after})
        return after

    def insert_all(self, table: Table, rows: Sequence[Row]) -> list[int]:
        """Add many rows of a table with a running id at once; every row names the same columns. Returns the ids."""
        if not rows:
            return []
        _check_numbers(list(rows))
        # The write lock is held, so the next ids are known.
        taken = self.connection.execute(
            text("SELECT seq FROM sqlite_sequence WHERE name = :name"), {"name": table.name}
        ).scalar()
        first = 1 + int(taken or 0)
        named = [{**row, "id": first + i} for i, row in enumerate(rows)]
        self.connection.execute(insert(table), named)
        query = select(table).where(table.c.id >= first).order_by(table.c.id)
        for after in self.connection.execute(query).mappings():
            self.images.append(
                {"table": table.name, "key": {"id": after["id"]}, "before": None, "after": dict(after)}
            )
        return [row["id"] for row in named]

    def update(self, table: Table, key: Row, values: Row) -> None:
        """Change a row; nothing is remembered where nothing differs.

        Raises:
            NotFound: no such row.
        """
        _check_numbers(values)
        now = one_of(self.connection, table, key)
        differs = {k: v for k, v in values.items() if now[k] != v}
        if differs:
            self.connection.execute(update(table).where(_where(table, key)).values(**differs))
            before = {k: now[k] for k in differs}
            self.images.append({"table": table.name, "key": dict(key), "before": before, "after": differs})

    def delete(self, table: Table, key: Row) -> None:
        """Remove a row, and first what the database would remove or let go of with it, so that undoing has all.

        Raises:
            NotFound: no such row.
        """
        before = dict(one_of(self.connection, table, key))
        for child in tables.metadata.sorted_tables:
            for column in child.columns:
                for foreign in column.foreign_keys:
                    if foreign.column.table is not table:
                        continue
                    for row in rows_of(self.connection, child, {column.name: before[foreign.column.name]}):
                        if foreign.ondelete == "SET NULL":
                            self.update(child, _key_of(child, row), {column.name: None})
                        else:
                            self.delete(child, _key_of(child, row))
        self.connection.execute(delete(table).where(_where(table, key)))
        self.images.append({"table": table.name, "key": dict(key), "before": before, "after": None})

    def delete_all(self, table: Table, where: Row | None = None) -> int:
        """Remove every row that matches, of a table that no other refers to; returns how many."""
        rows = rows_of(self.connection, table, where)
        query = delete(table).where(_where(table, where)) if where else delete(table)
        self.connection.execute(query)
        self.images += [
            {"table": table.name, "key": _key_of(table, r), "before": dict(r), "after": None} for r in rows
        ]
        return len(rows)

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

    def turn_all(self, images: Sequence[Row]) -> None:
        """Do the opposite of images, the last first; runs of rows added or removed go at once."""
        at = len(images)
        while at:
            at -= 1
            first = at
            table = tables.metadata.tables[images[at]["table"]]
            kind = _kind(images[at])
            alone = kind == "changed" or [c.name for c in table.primary_key.columns] != ["id"]
            while (
                not alone
                and first
                and images[first - 1]["table"] == table.name
                and _kind(images[first - 1]) == kind
            ):
                first -= 1
            if at - first < 2:
                self.turn(images[at])
                continue
            run = images[first : at + 1]
            if kind == "gone":
                self._bring_back(table, run)
            elif self._referred_to(table, [_id_of(i) for i in run]):
                for image in reversed(run):
                    self.turn(image)
            else:
                self._take_away(table, run)
            at = first

    def _referred_to(self, table: Table, ids: list[Any]) -> bool:
        """True if a row of any table refers to one of these."""
        for child in tables.metadata.sorted_tables:
            for column in child.columns:
                if not any(f.column.table is table for f in column.foreign_keys):
                    continue
                for some in _chunks(ids):
                    query = select(column).where(column.in_(some)).limit(1)
                    if self.connection.execute(query).first() is not None:
                        return True
        return False

    def _take_away(self, table: Table, added: Sequence[Row]) -> None:
        ids = [_id_of(i) for i in added]
        for some in _chunks(ids):
            rows = (
                self.connection.execute(select(table).where(table.c.id.in_(some)).order_by(table.c.id.desc()))
                .mappings()
                .all()
            )
            self.connection.execute(delete(table).where(table.c.id.in_(some)))
            self.images += [
                {"table": table.name, "key": {"id": r["id"]}, "before": dict(r), "after": None} for r in rows
            ]

    def _bring_back(self, table: Table, gone: Sequence[Row]) -> None:
        rows = {_id_of(i): _known(table, i["before"]) or {} for i in gone}
        there: set[Any] = set()
        for some in _chunks(list(rows)):
            there |= set(self.connection.execute(select(table.c.id).where(table.c.id.in_(some))).scalars())
        for key in there:
            self.update(table, {"id": key}, rows.pop(key))
        for names in {tuple(r) for r in rows.values()}:
            alike = [r for r in rows.values() if tuple(r) == names]
            self.connection.execute(insert(table), alike)
        self.images += [
            {"table": table.name, "key": {"id": k}, "before": None, "after": r} for k, r in rows.items()
        ]

    def turn(self, image: Row) -> None:
        """Do the opposite of an image to the project as it is now.

        Only what the image changed is written back. A row that is gone stays gone where it would be changed, and
        one that is there already is made as it was.
        """
        table = tables.metadata.tables[image["table"]]
        before, after = (_known(table, image[side]) for side in ("before", "after"))
        key = dict(image.get("key") or _key_of(table, before or after or {}))
        there = rows_of(self.connection, table, key)
        if before is None:
            if there:
                self.delete(table, key)
        elif after is None:
            self.update(table, key, before) if there else self.insert(table, before)
        elif there:
            differs = {k: v for k, v in before.items() if k not in after or after[k] != v}
            self.update(table, key, differs)


def _kind(image: Row) -> str:
    return "added" if image["before"] is None else "gone" if image["after"] is None else "changed"


def _id_of(image: Row) -> Any:
    """A row's id; whole numbers come back from the journal as such, and a file's is text."""
    return (image["before"] or image["after"])["id"]


def _chunks(ids: list[Any], size: int = 500) -> Iterator[list[Any]]:
    for start in range(0, len(ids), size):
        yield ids[start : start + size]


def _known(table: Table, row: Row | None) -> dict[str, Any] | None:
    """The values of a row of an older schema that still have a column."""
    return None if row is None else {k: v for k, v in row.items() if k in table.c}


@dataclass(frozen=True)
class Turned:
    """An operation that was undone or done again: its name, and images of the rows that this changed."""

    name: str
    images: list[dict[str, Any]]


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
        migrate(path)
        self.engine = open_engine(path)
        self._readers = self.engine.execution_options(begins="DEFERRED")
        self._writer = RLock()
        self._here = local()

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection that only reads, at one moment in time; inside another of this thread, that one."""
        open_now: Connection | None = getattr(self._here, "connection", None)
        if open_now is not None:
            yield open_now
            return
        with self._readers.connect() as connection, connection.begin():
            self._here.connection = connection
            try:
                # The moment is now, not that of the first look.
                connection.exec_driver_sql("SELECT 1 FROM journal LIMIT 1")
                yield connection
            finally:
                self._here.connection = None

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A transaction outside the undo journal (jobs, what is derived); inside another of this thread, that one."""
        if getattr(self._here, "writes", False):
            yield self._here.connection
            return
        assert getattr(self._here, "connection", None) is None, "written inside what only reads"
        with self._writer:
            later: list[Callable[[], object]] = []
            with self.engine.begin() as connection:
                self._here.connection, self._here.writes, self._here.later = connection, True, later
                try:
                    yield connection
                finally:
                    self._here.connection, self._here.writes = None, False
        for step in later:
            step()

    def when_kept(self, step: Callable[[], object]) -> None:
        """Do something once what this thread is writing is kept; at once where it writes nothing."""
        if getattr(self._here, "writes", False):
            self._here.later.append(step)
        else:
            step()

    @contextmanager
    def changing(
        self, name: str = "", arguments: Row | None = None, edit: int | None = None
    ) -> Iterator[Change]:
        """A transaction that is journaled under a name in plain words; any exception leaves all as it was.

        The name may be set on the change while it goes on; ``edit`` is the one it means, where it is of one. Inside another of this thread, that one goes on under
        its own name.
        """
        outer: Change | None = getattr(self._here, "change", None)
        if outer is not None:
            outer.name = outer.name or name
            yield outer
            return
        with self.writing() as connection:
            change = Change(connection, name, dict(arguments or {}), edit=edit)
            self._here.change = change
            try:
                yield change
            finally:
                self._here.change = None
            if change.images:
                connection.execute(delete(tables.journal).where(tables.journal.c.undone.is_(True)))
                row = {
                    "name": change.name,
                    "arguments": change.arguments,
                    "changes": change.images,
                    "undone": False,
                    "edit": change.edit,
                }
                connection.execute(insert(tables.journal).values(**row))

    def one(self, kind: type[E], /, **key: Any) -> E:
        """An entity by its key.

        Raises:
            NotFound: there is none.
        """
        with self.reading() as connection:
            return single(connection, kind, **key)

    def all(self, kind: type[E], /, **where: Any) -> list[E]:
        """Entities whose fields have these values, in the order of their keys."""
        with self.reading() as connection:
            return every(connection, kind, **where)

    def undo_names(self) -> tuple[str | None, str | None]:
        """Names of the next steps of undo and redo."""
        log = tables.journal
        with self.reading() as connection:
            done = connection.execute(
                select(log.c.name).where(log.c.undone.is_(False)).order_by(log.c.number.desc()).limit(1)
            ).scalar()
            undone = connection.execute(
                select(log.c.name).where(log.c.undone.is_(True)).order_by(log.c.number).limit(1)
            ).scalar()
        return done, undone

    def operations_of(self, edit: int) -> int:
        """Number of operations done to an edit and not undone."""
        log = tables.journal
        query = select(func.count()).where(log.c.edit == edit, log.c.undone.is_(False))
        with self.reading() as connection:
            return int(connection.execute(query).scalar() or 0)

    def undo(self) -> Turned:
        """Take back the last operation; returns what that did.

        Raises:
            Refused: nothing to undo.
        """
        return self._turn(back=True)

    def redo(self) -> Turned:
        """Do the last undone operation again; returns what that did.

        Raises:
            Refused: nothing to redo.
        """
        return self._turn(back=False)

    def _turn(self, *, back: bool) -> Turned:
        """Turn the journal's last or next operation round.

        What that really changed is kept in its place, so that turning it again brings back just what was there,
        also what had come since without the journal.
        """
        log = tables.journal
        order = log.c.number.desc() if back else log.c.number
        with self.writing() as connection:
            query = select(log).where(log.c.undone.is_(not back)).order_by(order).limit(1)
            row = connection.execute(query).mappings().first()
            if row is None:
                raise Refused("There is nothing to undo." if back else "There is nothing to redo.")
            change = Change(connection)
            try:
                change.turn_all(row["changes"])
            except IntegrityError:
                raise Refused(
                    f"“{row['name']}” cannot be {'undone' if back else 'done again'}: what it belongs to is gone."
                ) from None
            values = {"undone": back, "changes": change.images}
            connection.execute(update(log).where(log.c.number == row["number"]).values(**values))
            return Turned(row["name"], change.images)
