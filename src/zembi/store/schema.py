"""Bringing a project's database to this version's schema: one at a time, in one transaction, or not at all."""

from functools import cache
from pathlib import Path
from threading import Lock
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import NullPool, create_engine, event, inspect
from sqlalchemy.exc import DatabaseError, OperationalError

from zembi.core.errors import Damaged

_ONE_AT_A_TIME = Lock()
#: Seconds that a migration waits for another to end.
_PATIENCE_S = 60


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


@cache
def _revisions() -> tuple[str | None, frozenset[str]]:
    scripts = ScriptDirectory.from_config(_config())
    return scripts.get_current_head(), frozenset(s.revision for s in scripts.walk_revisions())


def head() -> str | None:
    """This version's schema."""
    return _revisions()[0]


def migrate(path: Path, to: str = "head") -> None:
    """Make a database, or bring it to this schema.

    The whole of it is one transaction that only one process at a time can hold, so that a kill leaves the old
    schema, and two at once leave the new one. References are not followed while tables are copied, but looked
    through before anything is kept.

    Raises:
        Damaged: not a database, damaged, or of a newer version; it is left as it is.
    """
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": _PATIENCE_S}, poolclass=NullPool)

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _record: Any) -> None:
        connection.isolation_level = None
        connection.execute(f"PRAGMA busy_timeout={1000 * _PATIENCE_S}")
        connection.execute("PRAGMA foreign_keys=OFF")

    newest, known = _revisions()
    try:
        with engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
            connection.rollback()
            if now is not None and now not in known:
                raise Damaged(
                    f"{path.parent.name} was made by a newer version of Zembi (its schema is {now}). "
                    "Update Zembi to open it."
                )
            if now == newest and to == "head":
                return
            if now is None and inspect(connection).get_table_names():
                raise Damaged(
                    f"{path.parent.name}/{path.name} is a database, but not one of a Zembi project."
                )
            connection.rollback()
            connection.exec_driver_sql("PRAGMA journal_mode=WAL")
            connection.rollback()
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            config = _config()
            config.attributes["connection"] = connection
            # The library keeps what it works on in one place for the whole process.
            with _ONE_AT_A_TIME:
                command.upgrade(config, to)
            lost = connection.exec_driver_sql("PRAGMA foreign_key_check").all()
            if lost:
                raise Damaged(f"{path.parent.name}: rows of “{lost[0][0]}” refer to what is not there.")
            connection.commit()
    except OperationalError as fault:
        if "locked" in str(fault.orig):
            raise Damaged(
                f"{path.parent.name} is being brought up to date by another process. Try again in a minute."
            ) from fault
        raise
    except DatabaseError as fault:
        raise Damaged(
            f"{path.parent.name}/{path.name} is damaged ({fault.orig}). Put a copy in its place, or delete the project."
        ) from fault
    finally:
        engine.dispose()
