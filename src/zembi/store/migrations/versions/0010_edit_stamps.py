"""Each edit has a stamp that the database renews with every change of it, so that one read before is known again."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"

_RENEW = "INSERT OR REPLACE INTO edit_stamp VALUES ({row}.{key}, random());"


def upgrade() -> None:
    op.create_table(
        "edit_stamp",
        sa.Column("edit", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("value", sa.Integer, nullable=False),
    )
    op.execute("INSERT INTO edit_stamp SELECT id, random() FROM edit")
    for table, key in (("item", "edit"), ("lane", "edit"), ("edit", "id")):
        _trigger(table, "INSERT", _RENEW.format(row="NEW", key=key))
        _trigger(table, "UPDATE", _RENEW.format(row="NEW", key=key))
    for table in ("item", "lane"):
        _trigger(table, "DELETE", _RENEW.format(row="OLD", key="edit"))
    _trigger("edit", "DELETE", "DELETE FROM edit_stamp WHERE edit = OLD.id;")


def _trigger(table: str, event: str, does: str) -> None:
    op.execute(f"CREATE TRIGGER {table}_{event.lower()} AFTER {event} ON {table} BEGIN {does} END")
