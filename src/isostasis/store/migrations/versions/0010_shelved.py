"""Scenes can be archived, or put into the bin."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    """Add the columns."""
    for name in ("archived_at", "binned_at"):
        op.add_column("scene", sa.Column(name, sa.String(32)))
