"""All pages of the place, for the application."""

from __future__ import annotations

from . import carving, flats, foam, formats, inclines, joints, level, patches, pencil, photo, working
from .views import blueprint

__all__ = [
    "blueprint",
    "carving",
    "flats",
    "foam",
    "formats",
    "inclines",
    "joints",
    "level",
    "patches",
    "pencil",
    "photo",
    "working",
]
