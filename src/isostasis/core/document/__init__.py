"""The scene document, version 1: what the user means.

`scene` has the models, `read` turns JSON into them or says what is wrong, `outline` knows rings,
`resolve` embeds every label in use so that a plan needs nothing else.
"""

from .read import read
from .resolve import ResolvedScene, resolve
from .scene import Base, Form, Lift, Patch, Room, Scene, Tint

__all__ = ["Base", "Form", "Lift", "Patch", "ResolvedScene", "Room", "Scene", "Tint", "read", "resolve"]
