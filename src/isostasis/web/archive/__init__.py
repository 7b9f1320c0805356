"""Everything in one file, and back: saved, told first, then merged or in the place of what is here. `waiting` holds a
file between being told and being taken in."""
