"""An edit in which nothing was cut is empty: black is what somebody chose."""

from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.execute(
        """
        UPDATE shot SET source = '{"kind": "empty"}'
        WHERE start = 0 AND NOT held AND treated IS NULL AND json_extract(source, '$.kind') = 'black'
          AND edit IN (SELECT edit FROM shot GROUP BY edit HAVING count(*) = 1)
        """
    )


def downgrade() -> None:
    """Empty slots were known before: nothing has to be taken back."""
