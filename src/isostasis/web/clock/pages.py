"""All pages of the place, for the application."""

from __future__ import annotations

from . import gates, marks, out, room
from .views import blueprint

__all__ = ["blueprint", "gates", "marks", "out", "room"]
