"""Running ids are never given twice; a line-up knows its song; the level is no setting; what is undone is kept as
what undoing changed.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"

_RUNNING = (
    "section",
    "lyric",
    "mark_set",
    "mark",
    "left_out",
    "angle",
    "pass",
    "feed",
    "edit",
    "journal",
    "job",
)


def upgrade() -> None:
    op.add_column("lineup", sa.Column("song", sa.String(), nullable=False, server_default=""))
    op.execute("UPDATE lineup SET song = coalesce((SELECT song FROM project LIMIT 1), '')")
    op.add_column("project", sa.Column("level", sa.JSON(), nullable=False, server_default="{}"))
    for name in _RUNNING:
        with op.batch_alter_table(name, recreate="always", table_kwargs={"sqlite_autoincrement": True}):
            pass
    _part_level_from_settings()
    _turn_what_is_undone()
    _keep_clear_of_old_ids()


def _part_level_from_settings() -> None:
    """Undoing a change of the level brought back what cuts fell on at that time, too."""
    connection = op.get_bind()
    for key, settings in connection.execute(sa.text("SELECT id, settings FROM project")).all():
        kept = json.loads(settings)
        values = {"level": json.dumps(kept.pop("level", {})), "settings": json.dumps(kept), "id": key}
        connection.execute(
            sa.text("UPDATE project SET level = :level, settings = :settings WHERE id = :id"), values
        )
    for number, changes in connection.execute(sa.text("SELECT number, changes FROM journal")).all():
        images = json.loads(changes)
        rows = [i[side] for i in images if i["table"] == "project" for side in ("before", "after")]
        for row in rows:
            if row is not None and "settings" in row:
                row["level"] = row["settings"].pop("level", {})
        if rows:
            connection.execute(
                sa.text("UPDATE journal SET changes = :changes WHERE number = :number"),
                {"changes": json.dumps(images), "number": number},
            )


def _turn_what_is_undone() -> None:
    """Images of an operation that is undone told of doing it; now they tell of undoing it, to be turned again."""
    connection = op.get_bind()
    for number, changes in connection.execute(
        sa.text("SELECT number, changes FROM journal WHERE undone")
    ).all():
        turned = [{**i, "before": i["after"], "after": i["before"]} for i in reversed(json.loads(changes))]
        connection.execute(
            sa.text("UPDATE journal SET changes = :changes WHERE number = :number"),
            {"changes": json.dumps(turned), "number": number},
        )


def _keep_clear_of_old_ids() -> None:
    """Ids that only the journal remembers are not given again either."""
    connection = op.get_bind()
    highest: dict[str, int] = {}
    for (changes,) in connection.execute(sa.text("SELECT changes FROM journal")).all():
        for image in json.loads(changes):
            row = image["before"] or image["after"] or {}
            if isinstance(row.get("id"), int):
                highest[image["table"]] = max(highest.get(image["table"], 0), row["id"])
    for name in _RUNNING:
        column = "number" if name == "journal" else "id"
        kept = connection.execute(sa.text(f'SELECT max({column}) FROM "{name}"')).scalar() or 0
        connection.execute(sa.text("DELETE FROM sqlite_sequence WHERE name = :name"), {"name": name})
        connection.execute(
            sa.text("INSERT INTO sqlite_sequence (name, seq) VALUES (:name, :seq)"),
            {"name": name, "seq": max(kept, highest.get(name, 0))},
        )


def downgrade() -> None:
    op.drop_column("lineup", "song")
    op.drop_column("project", "level")
