"""The user's own labels, every version of them."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "label",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("name", sa.String(64), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("data", sa.Text, nullable=True),
        sa.Column("made_from", sa.String(64), nullable=True),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.UniqueConstraint("kind", "name", "version"),
    )
