"""What is kept: scenes with their revisions, and rows for what accrues. SQLite or PostgreSQL through SQLAlchemy.

`database` opens it, `tables` has its rows; one module an aggregate: `scenes`, `logbook` (batches and step events),
`marks`, `built`, `clock`, `labels`, `devices`, `settings`, `blobs`. `migrations` brings an older database up to date,
`fitting` says what of it no longer fits, `backup` copies it.
"""

from .database import Database, Unusable
from .scenes import NoSuchScene, Stale

__all__ = ["Database", "NoSuchScene", "Stale", "Unusable"]
