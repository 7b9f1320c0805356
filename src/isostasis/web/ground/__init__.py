"""Ground: shape it and see it. `views` the forms on plan and cut, `tools` what is read off the ground, `formats`
files in and out, `fields` what can be typed about each kind of form."""

from . import formats, tools
from .views import blueprint

__all__ = ["blueprint", "formats", "tools"]
