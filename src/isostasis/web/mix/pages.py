"""All pages of the place, for the application."""

from __future__ import annotations

from . import begin, cards, walking
from .views import blueprint

__all__ = ["begin", "blueprint", "cards", "walking"]
