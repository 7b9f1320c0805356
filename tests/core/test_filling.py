"""Filling against plain searches, and properties of pouring on."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from isostasis.core.document.scene import Base
from isostasis.core.ground.field import empty_ground
from isostasis.core.ground.filling import outlets, pools_at_level, spill_levels, volume_for_level
from isostasis.core.ground.spill import fill_from
from tests.support.slow_spill import slow_fill

SIDE = 9
CELL = 10.0


def ground_of(z, base):
    return empty_ground(base, CELL).after(z, "foam")


@given(st.integers(0, 2**32 - 1), st.floats(2, 24))
@settings(max_examples=40)
def test_pools_at_a_level_hold_what_stands_below_it(seed, level):
    rng = np.random.default_rng(seed)
    base = Base(width_mm=SIDE * CELL, depth_mm=SIDE * CELL)
    z = rng.random((SIDE, SIDE)) * 20
    ground = ground_of(z, base)
    pools = pools_at_level(ground, z, level)
    assert sum(pool.volume_ml for pool in pools) == pytest.approx(volume_for_level(z, CELL**2, level))
    assert sum(pool.area_mm2 for pool in pools) == pytest.approx((z < level).sum() * CELL**2)
    together = np.zeros(z.shape, dtype=int)
    for pool in pools:
        together += pool.cells
        assert z[pool.lowest] == z[pool.cells].min()
        assert pool.deepest_mm == pytest.approx(level - z[pool.lowest])
    assert together.max(initial=0) <= 1


def brim_by_search(z, leaves, cell):
    """The least level at which water standing at a cell reaches an outlet: the best path's highest point."""
    import heapq

    queue, seen = [(z[cell], cell)], set()
    while queue:
        level, here = heapq.heappop(queue)
        if here in seen:
            continue
        seen.add(here)
        if leaves[here] <= level:
            return level
        if np.isfinite(leaves[here]):
            heapq.heappush(queue, (leaves[here], here))
            seen.discard(here)
            leaves = leaves.copy()
            leaves[here] = -np.inf
        for down, right in ((0, 1), (1, 0), (0, -1), (-1, 0)):
            near = here[0] + down, here[1] + right
            if 0 <= near[0] < z.shape[0] and 0 <= near[1] < z.shape[1] and near not in seen:
                heapq.heappush(queue, (max(level, z[near]), near))
    return np.inf


@given(st.integers(0, 2**32 - 1), st.sampled_from([(), ("south",), ("north", "east")]))
@settings(max_examples=30)
def test_the_brim_is_the_lowest_way_out(seed, dammed):
    rng = np.random.default_rng(seed)
    base = Base(width_mm=SIDE * CELL, depth_mm=SIDE * CELL, dammed=dammed)
    z = rng.random((SIDE, SIDE)) * 20
    ground = ground_of(z, base)
    levels, leaves = spill_levels(ground, z, base), outlets(ground, z, base)
    for _ in range(6):
        cell = tuple(int(one) for one in rng.integers(0, SIDE, 2))
        assert levels[cell] == pytest.approx(brim_by_search(z, leaves, cell))


def test_more_never_stands_lower():
    rng = np.random.default_rng(5)
    base = Base(width_mm=200, depth_mm=200, dammed="all", dam_mm=40)
    board = empty_ground(base, 5.0)
    ground = board.after(rng.random(board.shape) * 20, "foam")
    depth = np.zeros(board.shape)
    for volume in (1, 5, 20, 60, 150, 400, 900):
        now = np.zeros(board.shape)
        for pool in fill_from(ground, base, (20, 20), volume).pools:
            now[pool.cells] = pool.level_mm - ground.z[pool.cells]
        assert (now >= depth - 1e-9).all()
        depth = now


def test_a_pour_on_a_peak_runs_down_first():
    base = Base(width_mm=SIDE * CELL, depth_mm=SIDE * CELL)
    z = np.full((SIDE, SIDE), 10.0)
    z[4, 4], z[4, 6] = 15, 2
    z[4, 5] = 9
    (pool,) = fill_from(ground_of(z, base), base, (4, 4), 0.1).pools
    assert pool.lowest == (4, 6)


def test_it_all_runs_off_a_bare_board():
    base = Base(width_mm=SIDE * CELL, depth_mm=SIDE * CELL)
    filled = fill_from(empty_ground(base, CELL), base, (0, 0), 3.0)
    assert (filled.pools, filled.lost_ml, filled.lost_at) == ((), 3.0, (5.0, 5.0))


@given(st.integers(0, 100_000), st.floats(1, 400), st.booleans())
@settings(max_examples=60, deadline=None)
def test_a_pour_on_random_hills_goes_where_the_slow_reference_goes(seed, volume, rounded):
    rng = np.random.default_rng(seed)
    base = Base(width_mm=150, depth_mm=120, dammed=("all",), dam_mm=40 if seed % 3 else None)
    board = empty_ground(base, 5.0)
    z = gaussian_filter(rng.random(board.shape), 1.5) * 60
    ground = board.after(np.round(z) if rounded else z, "foam")
    start = int(rng.integers(board.shape[0])), int(rng.integers(board.shape[1]))
    quick, slow = fill_from(ground, base, start, volume), slow_fill(ground, ground.z, base, start, volume)

    def depth(filled):
        deep = np.zeros(board.shape)
        for pool in filled.pools:
            deep = np.where(pool.cells, pool.level_mm - ground.z, deep)
        return deep

    poured = sum(pool.volume_ml for pool in quick.pools) + quick.lost_ml
    assert poured == pytest.approx(volume, rel=1e-6)
    if not rounded:  # on flats water may take either of two equal ways
        assert depth(quick) == pytest.approx(depth(slow), abs=1e-6)
        assert quick.lost_ml == pytest.approx(slow.lost_ml, abs=1e-6)


def test_a_drop_on_an_open_edge_is_lost_at_once():
    base = Base(width_mm=100, depth_mm=80)
    board = empty_ground(base, 5.0)
    ground = board.after(np.full(board.shape, 10.0), "foam")
    assert fill_from(ground, base, (0, 5), 10).lost_ml == 10
