"""Trials on scrap with their lanes, photos and rounds of scores; records that were typed in or came from a file."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def _device() -> sa.Column[int]:
    return sa.Column("device_id", sa.Integer, sa.ForeignKey("device.id"), nullable=True)


def _scrap() -> sa.Column[int]:
    return sa.Column("scrap_id", sa.Integer, sa.ForeignKey("scrap.id"), nullable=False, index=True)


def upgrade() -> None:
    """Add the tables."""
    op.create_table(
        "scrap",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("board", sa.String(64), nullable=False),
        sa.Column("under", sa.JSON, nullable=False),
        sa.Column("temp_c", sa.Double, nullable=False),
        sa.Column("rh", sa.Double, nullable=False),
        sa.Column("weights", sa.JSON, nullable=False),
        sa.Column("note", sa.String(500), nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("gone_at", sa.String(32), nullable=True),
        _device(),
    )
    op.create_table(
        "swatch",
        sa.Column("id", sa.Integer, primary_key=True),
        _scrap(),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("control", sa.Boolean, nullable=False),
        sa.Column("lifts", sa.JSON, nullable=False),
        sa.Column("versions", sa.JSON, nullable=False),
        sa.Column("batch_id", sa.Integer, sa.ForeignKey("batch.id"), nullable=True),
        sa.Column("steps", sa.String(500), nullable=False),
        sa.Column("dry", sa.String(7), nullable=False),
        sa.Column("wet", sa.String(7), nullable=False),
        sa.Column("how", sa.String(200), nullable=False),
        sa.UniqueConstraint("scrap_id", "place"),
    )
    op.create_table(
        "scrap_photo",
        sa.Column("id", sa.Integer, primary_key=True),
        _scrap(),
        sa.Column("moment", sa.String(10), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("boxes", sa.JSON, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        _device(),
        sa.UniqueConstraint("scrap_id", "moment"),
    )
    op.create_table(
        "score_round",
        sa.Column("id", sa.Integer, primary_key=True),
        _scrap(),
        sa.Column("order", sa.JSON, nullable=False),
        sa.Column("scores", sa.JSON, nullable=False),
        sa.Column("note", sa.String(500), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        _device(),
    )
    op.create_table(
        "entered_record",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("scene", sa.String(100), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("label", sa.String(64), nullable=False),
        sa.Column("quantity", sa.String(10), nullable=False),
        sa.Column("predicted", sa.Double, nullable=False),
        sa.Column("low", sa.Double, nullable=True),
        sa.Column("high", sa.Double, nullable=True),
        sa.Column("at", sa.String(32), nullable=False),
        _device(),
    )
