"""A version of the cut has a note, the time when it was made, and can be locked."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("edit", sa.Column("note", sa.Text, nullable=False, server_default=""))
    op.add_column("edit", sa.Column("made", sa.String, nullable=False, server_default=""))
    op.add_column("edit", sa.Column("locked", sa.Boolean, nullable=False, server_default="0"))
