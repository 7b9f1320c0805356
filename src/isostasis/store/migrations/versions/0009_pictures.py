"""Pictures, by their content."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "picture",
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("content", sa.LargeBinary, nullable=False),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("focus", sa.Double),
        sa.Column("kept_at", sa.String(32), nullable=False),
    )
