"""Lay-up: the patch's column as a core sample, each lift with its amount and hours; add, reorder, remove. `views` the
page, `schools` a lift done otherwise, `colour` blends and bands."""

from . import colour, schools
from .views import blueprint

__all__ = ["blueprint", "colour", "schools"]
