"""Alembic's entry: runs the migrations over the connection it is given."""

from alembic import context

from finchwort.store.records import Base

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    compare_type=True,
)
with context.begin_transaction():
    context.run_migrations()
