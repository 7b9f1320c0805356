"""Open formats in and out. Each module knows one: `asc` ASCII grids, `heightmap` 16-bit pictures with a side file,
`spots` spot heights as CSV, `stl` solids, `drawing` plan, cut and cutting templates as SVG at true scale, `picture`
photographs, `archive` a scene with its photo.

`incoming` tells what a file is and makes a survey form of it. Faults are one sentence each.
"""

from .incoming import MAX_BYTES, survey_form

__all__ = ["MAX_BYTES", "survey_form"]
