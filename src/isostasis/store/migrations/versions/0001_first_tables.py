"""The first tables: scene, revision, batch, step_event, setting."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Make them."""
    # A scene names a revision and a revision its scene: a file takes that as it comes, a server one after the other.
    in_file = op.get_bind().dialect.name == "sqlite"
    to_head = (sa.ForeignKey("revision.id", name="fk_scene_head"),) if in_file else ()
    op.create_table(
        "scene",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("slug", sa.String(100), nullable=False, unique=True),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("head_id", sa.Integer, *to_head),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), nullable=False, index=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revision.id"), index=True),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.Column("set_aside", sa.Boolean, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.UniqueConstraint("scene_id", "number"),
    )
    if not in_file:
        op.create_foreign_key("fk_scene_head", "scene", "revision", ["head_id"], ["id"])
    op.create_table(
        "batch",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), nullable=False, index=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("batch", sa.String(80), nullable=False),
        sa.Column("lift", sa.String(64), nullable=False),
        sa.Column("planned", sa.JSON, nullable=False),
        sa.Column("actual", sa.JSON, nullable=False),
        sa.Column("temp_c", sa.Double, nullable=False),
        sa.Column("rh", sa.Double, nullable=False),
        sa.Column("started_at", sa.String(32), nullable=False),
        sa.Column("finished_at", sa.String(32)),
        sa.Column("note", sa.String(500), nullable=False),
    )
    op.create_table(
        "step_event",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("scene_id", sa.Integer, sa.ForeignKey("scene.id"), nullable=False, index=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("step", sa.String(80), nullable=False),
        sa.Column("lift", sa.String(64)),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("planned", sa.JSON, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
    )
    op.create_table(
        "setting",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("value", sa.JSON, nullable=False),
    )
