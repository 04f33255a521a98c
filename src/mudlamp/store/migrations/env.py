"""Alembic's door: it runs on the connection that the caller hands over."""

from alembic import context

from mudlamp.store.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()
