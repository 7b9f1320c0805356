"""The blueprint of what went wrong, with its routes."""

from .views import blueprint

__all__ = ["blueprint"]
