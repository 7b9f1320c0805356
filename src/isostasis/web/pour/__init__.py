"""Pour: drag the water level; volume, parts, lifts, heat and hours follow at once."""

from .views import blueprint

__all__ = ["blueprint"]
