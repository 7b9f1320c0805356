"""Times that hold while a long search for better ones goes on, told to every process."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Add the column."""
    op.add_column("solver_job", sa.Column("first", sa.JSON))
