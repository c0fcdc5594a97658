"""Takes whose place by the clock was turned down are not offered it again."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("lineup", sa.Column("declined", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("lineup", "declined")
