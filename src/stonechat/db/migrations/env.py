"""Alembic's entry: runs migrations on the engine that `stonechat.db.migrate` hands over."""

from alembic import context

from stonechat.db import rows

with context.config.attributes["engine"].connect() as connection:
    context.configure(connection=connection, target_metadata=rows.PlanRow.metadata, transaction_per_migration=True)
    with context.begin_transaction():
        context.run_migrations()
