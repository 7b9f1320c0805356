"""Lay-up: the patch's column as a core sample, each lift with its amount and hours; add, reorder, remove. `views` the
page, `schools` a lift done otherwise, `colour` blends and bands."""
