"""Large things by their content: the grids of surveys."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Make the table."""
    op.create_table(
        "blob",
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
    )
