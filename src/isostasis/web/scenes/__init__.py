"""Scenes: choose, start, import, copy; each scene as a small cut through its ground, with what is wet now."""
