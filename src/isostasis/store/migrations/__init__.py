"""Alembic: one file a change of the tables, in `versions`."""
