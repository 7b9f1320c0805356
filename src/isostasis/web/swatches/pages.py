"""The blueprint of swatches, with its routes."""

from . import judging, making, new, photo  # noqa: F401 - their routes
from .views import blueprint

__all__ = ["blueprint"]
