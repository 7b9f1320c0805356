"""The blueprint of records, with its routes."""

from . import entering  # noqa: F401 - its routes
from .views import blueprint

__all__ = ["blueprint"]
