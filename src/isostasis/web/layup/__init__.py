"""Lay-up: the patch's column as a core sample, each lift with its amount and hours; add, reorder, remove."""

from .views import blueprint

__all__ = ["blueprint"]
