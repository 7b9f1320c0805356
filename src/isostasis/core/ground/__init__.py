"""The ground as a field of heights: forms that shape it, what is laid on it, what fills its hollows.

`field` has the ground itself, `forms` the kinds of forms, `raster` covered fractions and distances,
`surface` true area and slopes, `offset` what a laid thickness does, `filling` liquids, `view` contours and cuts.
"""

from .field import Ground, bare_ground, empty_ground
from .offset import fill_to_slope, laid
from .surface import cell_true_area, slopes

__all__ = ["Ground", "bare_ground", "cell_true_area", "empty_ground", "fill_to_slope", "laid", "slopes"]
