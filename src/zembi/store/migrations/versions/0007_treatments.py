"""Treatments of shots, cutaways and passages, and recipes of them."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    for table in ("edit", "shot", "cutaway"):
        op.add_column(table, sa.Column("treated", sa.JSON(none_as_null=True), nullable=True))
    op.create_table(
        "recipe",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("treatments", sa.JSON, nullable=False),
        sqlite_autoincrement=True,
    )
    op.execute("INSERT INTO sqlite_sequence (name, seq) VALUES ('recipe', 0)")


def downgrade() -> None:
    op.drop_table("recipe")
    for table in ("edit", "shot", "cutaway"):
        op.drop_column(table, "treated")
