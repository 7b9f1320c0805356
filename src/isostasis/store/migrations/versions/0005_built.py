"""What was done, as records of their own beside the marks."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """A table of records; those of older marks are written when the database is opened."""
    op.create_table(
        "built",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), nullable=False, index=True),
        sa.Column("event_id", sa.Integer, sa.ForeignKey("step_event.id"), nullable=False, unique=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("record", sa.Text, nullable=False),
        sa.Column("ground", sa.Text, nullable=True),
    )
