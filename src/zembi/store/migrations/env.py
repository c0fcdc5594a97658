"""Runs migrations on the connection it is given."""

from alembic import context

from zembi.store.tables import metadata

connection = context.config.attributes.get("connection")
if connection is None:
    raise RuntimeError("Migrations run when a project is opened; there is no database to run them on alone.")
# The transaction is that of whoever opened it; see store.schema.
context.configure(
    connection=connection, target_metadata=metadata, render_as_batch=True, transactional_ddl=False
)
with context.begin_transaction():
    context.run_migrations()
