"""Ground: shape it and see it. Plan and cut, forms in order, volumes and areas."""

from .views import blueprint

__all__ = ["blueprint"]
