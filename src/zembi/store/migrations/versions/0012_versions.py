"""A version of the cut has a note, the time when it was made, and can be locked; others write notes on it."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("edit", sa.Column("note", sa.Text, nullable=False, server_default=""))
    op.add_column("edit", sa.Column("made", sa.String, nullable=False, server_default=""))
    op.add_column("edit", sa.Column("locked", sa.Boolean, nullable=False, server_default="0"))
    op.create_table(
        "note",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("edit", sa.Integer, sa.ForeignKey("edit.id", ondelete="CASCADE"), nullable=False),
        sa.Column("start_s", sa.Float, nullable=False),
        sa.Column("end_s", sa.Float, nullable=False),
        sa.Column("who", sa.String, nullable=False, server_default=""),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("state", sa.String, nullable=False, server_default="open"),
        sa.Column("why", sa.String, nullable=False, server_default=""),
        sqlite_autoincrement=True,
    )
    op.execute("INSERT INTO sqlite_sequence (name, seq) VALUES ('note', 0)")
