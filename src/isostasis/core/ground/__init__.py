"""The ground as a field of heights: forms that shape it, what is laid on it, what fills its hollows.

`field` has the ground itself, `forms` the kinds of forms and the fold over them, `raster` covered fractions and
distances, `surface` true area and slopes, `offset` what a laid thickness does, `filling` and `spill` liquids,
`meniscus` how they climb, `view` contours and cuts.
"""
