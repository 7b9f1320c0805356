"""The pages that all places share, for the application."""

from __future__ import annotations

from . import things
from .views import blueprint

__all__ = ["blueprint", "things"]
