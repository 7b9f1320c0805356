"""New labels: from a family in a few fields, the rest by default; and mixes of one's own out of anything.

`families` has what is asked of each family and what is made of the answers, `compose` mixes out of materials and mixes.
Pure: what is made is kept by whoever asked.
"""

from .compose import Measure, compose
from .families import FAMILIES, Ask, Family, Made

__all__ = ["FAMILIES", "Ask", "Family", "Made", "Measure", "compose"]
