"""All pages of the place, for the application."""

from __future__ import annotations

from . import again, begin, cards, walking
from .views import blueprint

__all__ = ["again", "begin", "blueprint", "cards", "walking"]
