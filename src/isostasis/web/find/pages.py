"""The blueprint of Find, with its routes."""

from .views import blueprint

__all__ = ["blueprint"]
