"""Records that were mishaps: what they were read off, and why."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "mishap",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("note", sa.String(500), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("device_id", sa.Integer, sa.ForeignKey("device.id"), nullable=True),
    )
