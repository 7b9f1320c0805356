"""Runs migrations on the connection that `database` hands over, or (to write a new one) on a file named with -x db=."""

from alembic import context
from sqlalchemy import create_engine

from isostasis.store.tables import Row

connection = context.config.attributes.get("connection")
if connection is None:
    connection = create_engine(f"sqlite:///{context.get_x_argument(as_dictionary=True)['db']}").connect()
context.configure(connection=connection, target_metadata=Row.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
