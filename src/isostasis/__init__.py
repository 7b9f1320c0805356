"""Isostasis plans, mixes and records the casting of miniature ground."""

import os

# The arrays here are small: more threads of linear algebra only spin, beside the solver and every other request.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
