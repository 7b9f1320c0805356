"""What is kept: scenes with their revisions, and rows for what accrues. SQLite through SQLAlchemy.

`database` opens it, `tables` has its rows; one module an aggregate: `scenes`, `work` (batches and step
events), `settings`. `migrations` brings an older database up to date.
"""

from .database import Database
from .scenes import NoSuchScene, Stale

__all__ = ["Database", "NoSuchScene", "Stale"]
