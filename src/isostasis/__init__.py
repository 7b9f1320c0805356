"""Isostasis plans, mixes and records the casting of miniature ground."""

__version__ = "0.1.0"
