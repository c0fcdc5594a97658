"""Angles as many as a shoot needs, with why their takes are together; passes circled or rejected, with a word on them;
selects; shot lists. What a file's name says of its camera is no longer kept as if the editor had said it.
"""

import json
import re
from pathlib import Path

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("angle", sa.Column("by_hand", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("angle", sa.Column("because", sa.Text(), nullable=False, server_default=""))
    op.add_column("pass", sa.Column("verdict", sa.String(), nullable=False, server_default=""))
    op.add_column("pass", sa.Column("note", sa.Text(), nullable=False, server_default=""))
    op.create_table(
        "select",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("media", sa.String(), sa.ForeignKey("media.id", ondelete="CASCADE"), nullable=False),
        sa.Column("in_s", sa.Float(), nullable=False),
        sa.Column("out_s", sa.Float(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("said", sa.JSON(), nullable=False, server_default="{}"),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "listed_shot",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("position", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("section", sa.String(), nullable=False, server_default=""),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("camera", sa.String(), nullable=False, server_default=""),
        sa.Column("note", sa.Text(), nullable=False, server_default=""),
        sa.Column("done", sa.JSON(), nullable=False, server_default="[]"),
        sqlite_autoincrement=True,
    )
    connection = op.get_bind()
    for name in ("select", "listed_shot"):
        connection.execute(
            sa.text("INSERT INTO sqlite_sequence (name, seq) VALUES (:name, 0)"), {"name": name}
        )
    _forget_guesses()


def _forget_guesses() -> None:
    connection = op.get_bind()
    paths = {}
    for key, path, kept in connection.execute(sa.text("SELECT id, path, tags FROM media")).all():
        paths[key] = path
        tags = json.loads(kept)
        if _forgot(tags, path):
            connection.execute(
                sa.text("UPDATE media SET tags = :tags WHERE id = :id"), {"tags": json.dumps(tags), "id": key}
            )
    for number, changes in connection.execute(sa.text("SELECT number, changes FROM journal")).all():
        images = json.loads(changes)
        said = [
            (row["tags"], row.get("path") or paths.get(row.get("id") or (image.get("key") or {}).get("id"), ""))
            for image in images if image["table"] == "media"
            for row in (image["before"], image["after"]) if row and "tags" in row
        ]  # fmt: skip
        # Every one, not only up to the first.
        if sum(_forgot(tags, path) for tags, path in said):
            connection.execute(
                sa.text("UPDATE journal SET changes = :changes WHERE number = :number"),
                {"changes": json.dumps(images), "number": number},
            )


def _forgot(tags: dict[str, object], path: str) -> bool:
    """Take a camera that only the file's name told out of its tags; whether there was one."""
    if not path or tags.get("camera") != _guessed(path):
        return False
    del tags["camera"]
    return True


def _guessed(path: str) -> str:
    """The camera that was kept for a file by its name."""
    stem = Path(path).stem
    base = re.sub(r"[\s_.-]*\d+[a-z]?$", "", stem, flags=re.IGNORECASE).strip(" _-.")
    folder = Path(path).parent.name
    if base.upper() in ("", "C", "CLIP", "IMG", "MVI", "DSC", "MOV", "VID", "GX", "GH", "P") and folder:
        return folder
    return base or stem


def downgrade() -> None:
    op.drop_table("listed_shot")
    op.drop_table("select")
    op.drop_column("pass", "note")
    op.drop_column("pass", "verdict")
    op.drop_column("angle", "because")
    op.drop_column("angle", "by_hand")
