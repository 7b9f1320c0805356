"""Bench: the one thing to do now, what is wet and what waits, over all scenes at work."""
