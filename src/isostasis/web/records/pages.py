"""The blueprint of records, with its routes."""

from .views import blueprint

__all__ = ["blueprint"]
