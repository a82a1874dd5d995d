"""Alembic's entry: run migrations on the connection that store/database.py hands over."""

from alembic import context

from sunglaze.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
