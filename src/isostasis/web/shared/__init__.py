"""What every page shares: opening a scene, saving an edit, the wet line, measures, the working of a figure."""

from __future__ import annotations

from .views import blueprint, install

__all__ = ["blueprint", "install"]
