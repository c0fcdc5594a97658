"""The cutdown; lyrics that are not timed yet and words with times; colours of marks and mark sets."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "left_out",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("start_s", sa.Float(), nullable=False),
        sa.Column("end_s", sa.Float(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.add_column("lyric", sa.Column("position", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("lyric", sa.Column("timed", sa.Boolean(), nullable=False, server_default="1"))
    op.add_column("lyric", sa.Column("words", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("mark_set", sa.Column("hue", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("mark", sa.Column("hue", sa.Integer(), nullable=False, server_default="-1"))


def downgrade() -> None:
    op.drop_column("mark", "hue")
    op.drop_column("mark_set", "hue")
    op.drop_column("lyric", "words")
    op.drop_column("lyric", "timed")
    op.drop_column("lyric", "position")
    op.drop_table("left_out")
