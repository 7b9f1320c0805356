"""The clock: notes of step events, what each scene's schedule is asked for, forecasts of its finish."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Make the tables and the column."""
    op.add_column("step_event", sa.Column("note", sa.String(500), nullable=False, server_default=""))
    op.create_table(
        "clock",
        sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), primary_key=True),
        sa.Column("asked", sa.JSON, nullable=False),
        sa.Column("token", sa.String(64), nullable=False, unique=True),
    )
    op.create_table(
        "forecast",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("question", sa.String(64), nullable=False),
        sa.Column("cause", sa.String(200), nullable=False),
        sa.Column("made", sa.JSON, nullable=False),
        sa.Column("options", sa.JSON, nullable=False),
    )
    op.create_index("ix_forecast_scene_id", "forecast", ["scene_id"])
