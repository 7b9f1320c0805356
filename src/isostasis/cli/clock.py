"""What the time is for all commands: one place, so that a test can say it."""

from __future__ import annotations

from datetime import UTC, datetime


def now() -> datetime:
    """This moment, UTC."""
    return datetime.now(UTC)
