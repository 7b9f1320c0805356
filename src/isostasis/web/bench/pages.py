"""All pages of the place, for the application."""

from __future__ import annotations

from . import acts, rings
from .views import blueprint

__all__ = ["acts", "blueprint", "rings"]
