"""Kept figures by the names that they have now: batches and steps count courses, schedules have no underscores."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def _changed(table: str, column: str, change: Any) -> None:
    """Every row's JSON of a column, changed."""
    rows = sa.table(table, sa.column("id"), sa.column(column), sa.column("step"), sa.column("lift"), sa.column("batch"))
    connection = op.get_bind()
    names = [one["name"] for one in sa.inspect(connection).get_columns(table)]
    wanted = [rows.c[name] for name in ("id", column, "step", "lift", "batch") if name in names]
    for row in connection.execute(sa.select(*wanted)).mappings().all():
        kept = row[column]
        made = change(json.loads(kept) if isinstance(kept, str) else kept, row)
        connection.execute(rows.update().where(rows.c.id == row["id"]).values({column: json.dumps(made)}))


def _title(step: str, lift: str | None) -> str:
    """What a step was called where its spot stood beside it."""
    words = step.split("-")
    return " ".join(words[1:] or words) if lift else " ".join(words)


def _step(kept: dict[str, Any], row: Any) -> dict[str, Any]:
    course = kept.pop("layer", None)
    several = bool(row["lift"]) and row["step"] != row["lift"]
    known = {"do": row["step"], "wait_h": None, "hands_on_min": 0.0, **kept}
    return {**known, "title": _title(row["step"], row["lift"]), "course": course,
            "of": None if course is None else max(course, 2) if several else 1}  # fmt: skip


def _batch(kept: dict[str, Any], row: Any) -> dict[str, Any]:
    course = kept.pop("layer", 1)
    feeds = kept.get("feeds") or [[kept.get("lift", row["lift"]), course, kept.get("volume_ml", 0.0)]]
    return {"lift": row["lift"], "working_min": None, "mix": "", "volume_ml": 0.0, "ingredients": [], **kept,
            "course": course, "feeds": feeds}  # fmt: skip


def _forecast(kept: dict[str, Any], _: Any) -> dict[str, Any]:
    steps = []
    for one in kept.get("steps", []):
        named = {name.lstrip("_"): value for name, value in one.items()}
        scene, _slash, step = named["id"].rpartition("/")
        steps.append({**named, "scene": scene, "step": step, "title": _title(step, None)})
    return {**{name.lstrip("_"): value for name, value in kept.items()}, "steps": steps}


def upgrade() -> None:
    """Rename them."""
    _changed("step_event", "planned", _step)
    _changed("batch", "planned", _batch)
    _changed("forecast", "made", _forecast)
