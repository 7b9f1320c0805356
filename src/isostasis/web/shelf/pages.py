"""All pages of the place, for the application."""

from __future__ import annotations

from . import buying, packs, prices, shopping
from .views import blueprint

__all__ = ["blueprint", "buying", "packs", "prices", "shopping"]
