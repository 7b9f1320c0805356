"""All pages of the place, for the application."""

from __future__ import annotations

from . import inout, new, tin
from .views import blueprint

__all__ = ["blueprint", "inout", "new", "tin"]
