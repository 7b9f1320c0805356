"""Trials on scrap: scrap (ways side by side, planned), ranking (which leads, and how surely), colour (read off a
photo), matching (a colour out of what is on the shelf)."""
