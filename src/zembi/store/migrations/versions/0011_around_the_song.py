"""A film may begin before the song and end after it."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    for name in ("lead", "tail"):
        op.add_column("edit", sa.Column(name, sa.Integer, nullable=False, server_default="0"))
