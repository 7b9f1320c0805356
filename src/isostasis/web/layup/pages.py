"""All pages of the place, for the application."""

from __future__ import annotations

from . import colour, ready, schools
from .views import blueprint

__all__ = ["blueprint", "colour", "ready", "schools"]
