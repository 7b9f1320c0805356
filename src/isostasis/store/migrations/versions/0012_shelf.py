"""The shelf: packs, what was taken out of them and put back, the list for the shop; photos and lineage of labels."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """Add the tables, and what a label is made of."""
    op.add_column("label", sa.Column("made_of", sa.JSON, nullable=True))
    op.create_table(
        "label_photo",
        sa.Column("kind", sa.String(10), primary_key=True),
        sa.Column("name", sa.String(64), primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False),
    )
    op.create_table(
        "pack",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("material", sa.String(64), nullable=False, index=True),
        sa.Column("part", sa.String(1), nullable=True),
        sa.Column("size", sa.Double, nullable=False),
        sa.Column("price", sa.Double, nullable=True),
        sa.Column("seller", sa.String(60), nullable=False),
        sa.Column("opened", sa.String(10), nullable=True),
        sa.Column("best_before", sa.String(10), nullable=True),
        sa.Column("place", sa.String(60), nullable=False),
        sa.Column("added_at", sa.String(32), nullable=False),
        sa.Column("gone_at", sa.String(32), nullable=True),
    )
    op.create_table(
        "pack_line",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("pack_id", sa.Integer, sa.ForeignKey("pack.id"), nullable=False, index=True),
        sa.Column("what", sa.String(10), nullable=False),
        sa.Column("amount", sa.Double, nullable=False),
        sa.Column("event_id", sa.Integer, sa.ForeignKey("step_event.id"), nullable=True, index=True),
        sa.Column("batch_id", sa.Integer, sa.ForeignKey("batch.id"), nullable=True, index=True),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.Column("device_id", sa.Integer, sa.ForeignKey("device.id"), nullable=True),
    )
    op.create_table(
        "purchase",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("material", sa.String(64), nullable=False),
        sa.Column("bought", sa.JSON, nullable=False),
        sa.Column("short", sa.JSON, nullable=False),
        sa.Column("unit", sa.String(10), nullable=False),
        sa.Column("scenes", sa.JSON, nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("ticked_at", sa.String(32), nullable=True),
        sa.Column("comes_at", sa.String(32), nullable=True),
        sa.Column("shelved_at", sa.String(32), nullable=True),
    )
