"""The bench: what was sent already, timers put off, cautions read, photos of steps, readings of devices, waits moved by
the room, and how far a batch's card was walked."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def _scene() -> sa.Column[int]:
    return sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), nullable=False, index=True)


def _device() -> sa.Column[int]:
    return sa.Column("device_id", sa.Integer, sa.ForeignKey("device.id"), nullable=True)


def upgrade() -> None:
    """Add the tables, and the walk of a batch."""
    op.add_column("batch", sa.Column("walk", sa.JSON, nullable=False, server_default="[]"))
    op.create_table(
        "sent",
        sa.Column("key", sa.String(80), primary_key=True),
        sa.Column("at", sa.String(32), nullable=False),
        _device(),
    )
    op.create_table(
        "timer_note",
        sa.Column("id", sa.Integer, primary_key=True),
        _scene(),
        sa.Column("timer", sa.String(200), nullable=False),
        sa.Column("until", sa.String(32), nullable=True),
        sa.Column("at", sa.String(32), nullable=False),
        _device(),
    )
    op.create_table(
        "caution_read",
        sa.Column("id", sa.Integer, primary_key=True),
        _scene(),
        sa.Column("about", sa.String(120), nullable=False),
        sa.Column("code", sa.String(60), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        _device(),
    )
    op.create_table(
        "step_photo",
        sa.Column("id", sa.Integer, primary_key=True),
        _scene(),
        sa.Column("step", sa.String(80), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("thumb", sa.String(64), nullable=False),
        sa.Column("moment", sa.String(10), nullable=False),
        sa.Column("note", sa.String(500), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("gone_at", sa.String(32), nullable=True),
        _device(),
    )
    op.create_table(
        "device_reading",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("value", sa.JSON, nullable=False),
        sa.Column("at", sa.String(32), nullable=False, index=True),
        _device(),
    )
    op.create_table(
        "moved_wait",
        sa.Column("id", sa.Integer, primary_key=True),
        _scene(),
        sa.Column("event_id", sa.Integer, sa.ForeignKey("step_event.id"), nullable=True, index=True),
        sa.Column("batch_id", sa.Integer, sa.ForeignKey("batch.id"), nullable=True, index=True),
        sa.Column("hours", sa.Double, nullable=True),
        sa.Column("at", sa.String(32), nullable=False),
    )
