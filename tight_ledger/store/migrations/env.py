"""Alembic's environment: the connection is handed in by `store.schema`."""

from alembic import context

from tight_ledger.store.tables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()
