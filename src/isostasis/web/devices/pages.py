"""All pages of the place, for the application."""

from __future__ import annotations

from . import posting
from .views import blueprint

__all__ = ["blueprint", "posting"]
