"""Devices that may speak to the pages, the code by which one pairs, which device made what; a clock for every scene."""

from secrets import token_urlsafe

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Make the tables and columns, and the clocks of scenes whose page was never opened."""
    op.create_table(
        "device",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("role", sa.String(10), nullable=False),
        sa.Column("key", sa.String(64), nullable=False, unique=True),
        sa.Column("paired_at", sa.String(32), nullable=False),
        sa.Column("seen_at", sa.String(32), nullable=False),
        sa.Column("turned_away_at", sa.String(32), nullable=True),
    )
    op.create_table(
        "pairing",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("code", sa.String(64), nullable=True),
        sa.Column("role", sa.String(10), nullable=False),
        sa.Column("ends_at", sa.String(32), nullable=True),
        sa.Column("tries", sa.JSON, nullable=False),
    )
    for table in ("revision", "step_event", "batch"):
        op.execute(f"ALTER TABLE {table} ADD COLUMN device_id INTEGER REFERENCES device (id)")
    scene, clock = (
        sa.table("scene", sa.column("id")),
        sa.table("clock", sa.column("scene_id"), sa.column("asked", sa.JSON), sa.column("token")),
    )
    connection = op.get_bind()
    known = set(connection.execute(sa.select(clock.c.scene_id)).scalars())
    for one in connection.execute(sa.select(scene.c.id)).scalars().all():
        if one not in known:
            connection.execute(clock.insert().values(scene_id=one, asked={}, token=token_urlsafe(24)))
