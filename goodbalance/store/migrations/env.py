"""Alembic's entry: migrates over the connection it is handed."""

from alembic import context

from goodbalance.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
