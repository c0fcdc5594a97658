"""Pace by hand of each section."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("section", sa.Column("plan", sa.JSON(none_as_null=True), nullable=True))


def downgrade() -> None:
    op.drop_column("section", "plan")
