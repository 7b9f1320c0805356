"""All pages of the place, for the application."""

from __future__ import annotations

from . import diary, gates, marks, out, room
from .views import blueprint

__all__ = ["blueprint", "diary", "gates", "marks", "out", "room"]
