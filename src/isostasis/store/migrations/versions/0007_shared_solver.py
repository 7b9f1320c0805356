"""Questions to a solver that several processes share, and the lease that says which of them solves."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Make the tables."""
    op.create_table(
        "solver_job",
        sa.Column("key", sa.String(300), primary_key=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("question", sa.JSON, nullable=False),
        sa.Column("about", sa.String(40), nullable=False),
        sa.Column("best", sa.Integer),
        sa.Column("bound", sa.Integer),
        sa.Column("made", sa.JSON),
        sa.Column("options", sa.JSON, nullable=False),
        sa.Column("wrong", sa.String(400)),
        sa.Column("over", sa.Boolean, nullable=False),
    )
    op.create_table(
        "lease",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("holder", sa.String(40), nullable=False),
        sa.Column("ends_at", sa.String(32), nullable=False),
    )
