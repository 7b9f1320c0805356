"""Forms, areas, the offset and filling against exact values and properties."""

from math import atan, degrees, pi, sqrt

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.document.outline import disc
from isostasis.core.document.scene import Base
from isostasis.core.fault import Faults
from isostasis.core.ground.field import empty_ground, tilted
from isostasis.core.ground.filling import (
    brim,
    level_for_volume,
    outlets,
    pools_at_level,
    spill_levels,
    volume_for_level,
)
from isostasis.core.ground.forms import bare_ground
from isostasis.core.ground.forms.basin import Basin
from isostasis.core.ground.forms.sheet import Sheet
from isostasis.core.ground.meniscus import capillary_length, climb, shore
from isostasis.core.ground.offset import fill_to_slope, laid
from isostasis.core.ground.raster import centres, covered
from isostasis.core.ground.spill import fill_from
from isostasis.core.ground.surface import cell_true_area, slopes
from isostasis.core.ground.view import contours, depth_rings, light_on
from tests.support.scenes import square

BOARD = Base(width_mm=300, depth_mm=200)


def ring(*corners):
    return tuple(tuple(map(float, point)) for point in square(*corners))


def pond(cell=2.0, base=BOARD, depth=10, bank=45):
    forms = (
        Sheet(id="slab", outline=ring(0, 0, 300, 200), thickness_mm=25),
        Basin(id="hole", outline=ring(50, 40, 250, 160), depth_mm=depth, bank_deg=bank),
    )
    return bare_ground(base, cell, forms)


@pytest.mark.parametrize("cell", [1.0, 2.0, 5.0, 3.7])
def test_a_basin_is_the_frustum_of_its_banks(cell):
    _, (slab, hole) = pond(cell)
    assert slab.volume_ml == pytest.approx(1500)
    assert hole.volume_ml == pytest.approx(-209.333, rel=0.01)


def test_a_bowl_is_the_cap_of_its_sphere():
    base = Base(width_mm=100, depth_mm=100)
    board = empty_ground(base, 1.0)
    x, y = centres(board.shape, 1.0)
    radius = (40**2 + 12**2) / (2 * 12)
    away2 = (x[None, :] - 50) ** 2 + (y[:, None] - 50) ** 2
    z = 20 - np.maximum(np.sqrt(np.maximum(radius**2 - away2, 0)) - (radius - 12), 0)
    (pool,) = pools_at_level(board.after(z, "foam"), z, 20.0)
    assert pool.volume_ml == pytest.approx(31.064, rel=0.002)
    assert pool.area_mm2 == pytest.approx(pi * 40**2, rel=0.01)
    assert pool.deepest_mm == pytest.approx(12, abs=0.02)


def flight(cell, rise=25.0, going=40.0, steps=4):
    base = Base(width_mm=400, depth_mm=300)
    forms = tuple(
        Sheet(id=f"s{step}", outline=ring(100 + going * step, 0, 400, 300), thickness_mm=rise) for step in range(steps)
    )
    return bare_ground(base, cell, forms)[0]


@pytest.mark.parametrize("cell", [2.0, 5.0])
def test_filling_a_flight_takes_half_rise_times_going(cell):
    ground = flight(cell)
    filled = fill_to_slope(ground, ground.on_base, degrees(atan(25 / 40)))
    assert (filled - ground.z).sum() * cell**2 / 1000 == pytest.approx(600, rel=0.002)


def test_filling_leaves_a_plain_slope_alone():
    base = Base(width_mm=200, depth_mm=100)
    board = empty_ground(base, 5.0)
    x, _ = centres(board.shape, 5.0)
    z = np.broadcast_to(x * 0.5, board.shape).copy()
    ramp = board.after(z, "foam")
    assert fill_to_slope(ramp, ramp.on_base, 30) == pytest.approx(z)
    with pytest.raises(ValueError, match="between 0 and 90"):
        fill_to_slope(ramp, ramp.on_base, 90)


def test_a_skin_over_steps_builds_no_fence():
    ground = flight(5.0)
    rise = laid(ground, ground.on_base, 3.0) - ground.z
    assert rise == pytest.approx(3.0)


def test_a_skin_on_a_slope_is_thick_square_to_it():
    base = Base(width_mm=200, depth_mm=100)
    board = empty_ground(base, 2.0)
    x, _ = centres(board.shape, 2.0)
    ramp = board.after(np.broadcast_to(x, board.shape).copy(), "foam")
    rise = (laid(ramp, ramp.on_base, 3.0) - ramp.z)[10:-10, 10:-10]
    assert rise == pytest.approx(3 * sqrt(2))


@given(st.floats(0, 12), st.integers(0, 2**32 - 1))
@settings(max_examples=25)
def test_the_offset_never_lowers_and_grows_with_thickness(thickness, seed):
    rng = np.random.default_rng(seed)
    board = empty_ground(Base(width_mm=60, depth_mm=50), 2.0)
    ground = board.after(rng.random(board.shape) * 20, "foam")
    patch = rng.random(board.shape) > 0.3
    thin, thick = laid(ground, patch, thickness), laid(ground, patch, thickness + 1)
    assert (thin >= ground.z + thickness - 1e-9)[patch].all()
    assert (thin == ground.z)[~patch].all()
    assert (thick > thin)[patch].all()


def test_true_area_of_plane_and_slope_are_exact():
    board = empty_ground(BOARD, 5.0)
    assert cell_true_area(board).sum() == pytest.approx(60_000)
    x, _ = centres(board.shape, 5.0)
    ramp = board.after(np.broadcast_to(x * 0.75, board.shape).copy(), "foam")
    assert cell_true_area(ramp).sum() == pytest.approx(60_000 * 1.25)
    assert slopes(ramp) == pytest.approx(0.75)


def test_true_area_of_a_stepped_flight_counts_its_risers():
    ground = flight(5.0)
    assert cell_true_area(ground).sum() == pytest.approx(400 * 300 + 4 * 300 * (sqrt(25**2 + 5**2) - 5), rel=1e-6)


@given(st.integers(0, 2**32 - 1), st.sampled_from([1.7, 3.0, 5.0]))
@settings(max_examples=30)
def test_covered_shares_are_exact(seed, cell):
    points = np.random.default_rng(seed).random((7, 2)) * 90 + 5
    hull = tuple(map(tuple, np.asarray(shapely.convex_hull(shapely.MultiPoint(points)).exterior.coords)[:-1]))
    share = covered(hull, (40, 40), cell)
    inside = shapely.intersection(shapely.Polygon(hull), shapely.box(0, 0, 40 * cell, 40 * cell)).area
    assert share.sum() * cell**2 == pytest.approx(inside, abs=1e-6)
    assert 0 <= share.min() <= share.max() <= 1


def test_a_round_base_has_its_discs_area():
    ground = empty_ground(Base(width_mm=60, depth_mm=60, outline={"disc_mm": 60}), 2.0)
    assert ground.inside.sum() * 4 == pytest.approx(pi * 30**2, rel=1e-5)
    assert disc(60, (30, 30))[0][0] > 60


def test_a_sheet_lies_level_on_the_highest_ground_and_closes_gaps():
    forms = (
        Sheet(id="a", outline=ring(0, 0, 100, 200), thickness_mm=10),
        Sheet(id="b", outline=ring(50, 0, 200, 200), thickness_mm=10),
    )
    ground, (_, bridge) = bare_ground(BOARD, 5.0, forms)
    assert ground.z[0, 15] == 20
    assert ground.z[0, 30] == 20
    assert bridge.volume_ml == pytest.approx((50 * 10 + 100 * 20) * 200 / 1000)


def test_the_column_under_a_point_knows_what_was_cut():
    ground, _ = pond()
    assert ground.column(*ground.cell_at(150, 100)) == [("foam-xps", 15.0)]
    assert ground.column(*ground.cell_at(10, 10)) == [("foam-xps", 25.0)]


def test_a_cut_through_the_board_is_refused_with_the_depth_that_would_do():
    with pytest.raises(Faults, match=r"forms\[1\]\.depth_mm: 26 mm cuts through the board.*at most 25"):
        pond(depth=26)
    with pytest.raises(Faults, match="lay a sheet there first"):
        bare_ground(BOARD, 2.0, (Basin(id="hole", outline=ring(50, 40, 250, 160), depth_mm=5),))
    with pytest.raises(Faults, match="leaves no ground for a lip"):
        bare_ground(BOARD, 2.0, (Basin(id="hole", outline=ring(0, 0, 300, 200), depth_mm=5),))


@given(st.integers(0, 2**32 - 1), st.floats(0.01, 2000), st.booleans())
@settings(max_examples=40)
def test_level_and_volume_undo_each_other(seed, volume, weighted):
    rng = np.random.default_rng(seed)
    z = rng.normal(20, 6, (23, 31))
    weights = rng.random(z.shape) + 0.05 if weighted else None
    level = level_for_volume(z, 4.0, volume, weights)
    assert volume_for_level(z, 4.0, level, weights) == pytest.approx(volume, rel=1e-9)


def test_level_for_volume_refuses_nonsense():
    with pytest.raises(ValueError, match="0 or more"):
        level_for_volume(np.zeros(3), 1.0, -1)
    with pytest.raises(ValueError, match="0 or more"):
        level_for_volume(np.zeros(0), 1.0, 1)


def two_hollows():
    """Two hollows 10 mm deep with a saddle 4 mm below the rim between them."""
    board = empty_ground(Base(width_mm=130, depth_mm=50), 5.0)
    z = np.full(board.shape, 20.0)
    z[2:8, 2:12] = 10
    z[2:8, 14:24] = 10
    z[4:6, 12:14] = 16
    return board.after(z, "foam")


def test_pouring_on_spills_over_the_saddle_and_then_both_rise():
    ground = two_hollows()
    base = Base(width_mm=130, depth_mm=50)
    hollow = 60 * 25 * 6 / 1000  # up to the saddle
    start = (3, 3)
    (pool,) = fill_from(ground, base, start, hollow * 0.5).pools
    assert pool.level_mm == pytest.approx(13)
    one, other = sorted(fill_from(ground, base, start, hollow * 1.5).pools, key=lambda pool: -pool.level_mm)
    assert (one.level_mm, other.level_mm) == (pytest.approx(16), pytest.approx(13))
    (both,) = fill_from(ground, base, start, hollow * 2 + 124 * 25 * 2 / 1000).pools
    assert both.level_mm == pytest.approx(18)
    over = fill_from(ground, base, start, 500)
    assert over.pools[0].level_mm == pytest.approx(20)
    assert over.lost_ml == pytest.approx(500 - hollow * 2 - 124 * 25 * 4 / 1000)
    assert over.lost_at is not None


@given(st.integers(0, 2**32 - 1), st.floats(0.1, 400))
@settings(max_examples=40)
def test_what_is_poured_is_in_pools_or_lost(seed, volume):
    rng = np.random.default_rng(seed)
    base = Base(width_mm=100, depth_mm=80, dammed=("south",), dam_mm=25)
    board = empty_ground(base, 5.0)
    ground = board.after(rng.random(board.shape) * 20, "foam")
    start = int(rng.integers(16)), int(rng.integers(20))
    filled = fill_from(ground, base, start, volume)
    assert sum(pool.volume_ml for pool in filled.pools) + filled.lost_ml == pytest.approx(volume, rel=1e-6)
    levels = spill_levels(ground, ground.z, base)
    for pool in filled.pools:
        assert pool.level_mm <= levels[pool.lowest] + 1e-6


def test_the_brim_says_where_it_runs_over():
    ground, _ = pond()
    over = brim(ground, ground.z, BOARD, spill_levels(ground, ground.z, BOARD), ground.cell_at(150, 100))
    assert over is not None
    assert over.level_mm == 25
    dammed = Base(width_mm=300, depth_mm=200, dammed="all")
    assert brim(ground, ground.z, dammed, spill_levels(ground, ground.z, dammed), (50, 75)) is None
    assert np.isinf(outlets(ground, ground.z, dammed)).all()


def test_a_tilt_is_about_the_middle_of_the_board():
    ground, _ = pond()
    leaning = tilted(ground, Base(width_mm=300, depth_mm=200, tilt_mm_per_m=(4, 0)))
    assert (leaning - ground.z).mean() == pytest.approx(0, abs=1e-9)
    assert leaning[0, -1] - leaning[0, 0] == pytest.approx(0.298 * 4)


def test_menisci():
    a = capillary_length(0.035, 1110)
    assert a == pytest.approx(1.79, abs=0.005)
    height, volume = climb(90, 20, a)
    assert (height, volume) == (pytest.approx(2.06, abs=0.005), pytest.approx(3.02, abs=0.01))
    assert climb(15, 20, a) == (0, 0)
    assert climb(45, 20, a)[1] < volume


def test_the_shore_of_a_pond_is_its_rim():
    ground, _ = pond(1.0)
    (pool,) = pools_at_level(ground, ground.z, 20.0)
    lengths, angles, dams = shore(ground, ground.z, pool)
    assert lengths.sum() == pytest.approx(2 * (190 + 110), rel=0.02)
    assert np.median(angles) == pytest.approx(45, abs=1)
    assert dams == 0


def test_pictures_of_the_ground():
    ground, _ = pond()
    assert light_on(0.0, 0.0) == pytest.approx(np.sin(np.radians(42)))
    assert light_on(0.5, -0.5) < light_on(0.0, 0.0) < light_on(-0.5, 0.5)  # it shines from the north-west
    ((level, lines),) = contours(ground.z, 2.0, [20.0])
    assert level == 20
    assert len(lines) == 1
    (pool,) = pools_at_level(ground, ground.z, 24.0)
    ((outer,), (inner,)) = depth_rings(ground.z, pool.cells, 24.0, 2.0, (1e-6, 5.0))
    assert shapely.Polygon(inner).area < shapely.Polygon(outer).area
    assert shapely.Polygon(outer).area == pytest.approx(198 * 118, rel=0.02)
