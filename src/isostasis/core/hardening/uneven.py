"""Layers of uneven thickness: filled steps, feathered edges, hollows.

Suction evens water out sideways while the face is wet, so that thin places feed thick ones; what is deep inside a thick
one must still come out square to the face.
Source: two-period drying as in `drying`; capillary redistribution after Sherwood (1929); docs/science.md, drying.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
REACH = 2.0  # times the deepest thickness: how far suction evens water out
NEXT_SHARE = 0.9  # of the area past its constant-rate period: what follows may go on


@dataclass(frozen=True, slots=True)
class Thickness:
    """How thick a layer lies: `mean_mm` over its area, `slow_mm` what nine tenths of it have to dry at most, once
    suction has evened it out, `pocket_mm` that at its deepest cell `at` (row, column), which is `deepest_mm` thick."""

    mean_mm: float
    slow_mm: float
    pocket_mm: float
    deepest_mm: float
    at: tuple[int, int]


def evened(thickness_mm: Array, share: Array, cell_mm: float) -> Thickness:
    """How a layer of thickness (ny, nx), square to its face, dries: `share` of each cell that it covers.

    The mean over a disc of twice the deepest thickness round each cell. Raises ValueError for a layer that covers
    nothing.

    >>> even = evened(np.full((9, 9), 10.0), np.ones((9, 9)), 5.0)
    >>> round(even.slow_mm, 6), round(even.pocket_mm, 6)
    (10.0, 10.0)
    """
    from scipy.signal import fftconvolve

    on = share > 0
    if not on.any():
        raise ValueError("a layer covers at least one cell")
    laid = np.where(on, thickness_mm, 0.0)
    row, column = np.unravel_index(int(np.where(on, laid, -1.0).argmax()), laid.shape)
    deepest = float(laid[row, column])
    reach = min(int(REACH * deepest / cell_mm), max(laid.shape))
    around = np.hypot(*np.indices((2 * reach + 1, 2 * reach + 1)) - reach) <= reach + 1e-9
    weight = fftconvolve(share, around.astype(float), mode="same")
    even = fftconvolve(laid * share, around.astype(float), mode="same") / np.maximum(weight, 1e-9)
    order = np.argsort(even[on])
    passed = np.cumsum(share[on][order])
    slow = even[on][order][np.searchsorted(passed, NEXT_SHARE * passed[-1])]
    mean = float((laid * share).sum() / share.sum())
    return Thickness(mean, float(slow), float(even[row, column]), deepest, (int(row), int(column)))
