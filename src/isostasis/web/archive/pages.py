"""The blueprint of the archive, with its routes."""

from .views import blueprint

__all__ = ["blueprint"]
