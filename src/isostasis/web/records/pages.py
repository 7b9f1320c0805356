"""The blueprint of records, with its routes."""

from . import entering, otherwise  # noqa: F401 - their routes
from .views import blueprint

__all__ = ["blueprint"]
