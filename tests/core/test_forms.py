"""Every kind of form against exact volumes and areas, and what holds of all of them."""

import copy
import zlib
from itertools import pairwise
from math import atan, degrees, pi, radians, sqrt, tan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.document.outline import disc
from isostasis.core.document.scene import Base
from isostasis.core.fault import Faults
from isostasis.core.ground.field import empty_ground
from isostasis.core.ground.forms import bare_ground
from isostasis.core.ground.forms.basin import Basin
from isostasis.core.ground.forms.bevel import Bevel
from isostasis.core.ground.forms.channel import Channel
from isostasis.core.ground.forms.mound import Mound
from isostasis.core.ground.forms.ramp import Ramp
from isostasis.core.ground.forms.rim import Rim
from isostasis.core.ground.forms.sheet import Sheet
from isostasis.core.ground.forms.survey import Grid, Survey
from isostasis.core.ground.offset import fill_to_slope
from isostasis.core.ground.raster import band, distance_to_ring, nearest_side
from isostasis.core.ground.surface import cell_true_area
from isostasis.core.lifts.fold import build
from tests.support.scenes import resolved, square

BOARD = Base(width_mm=600, depth_mm=400)
# The default grid of a board this long, and half of it, with how near the volume has to come.
GRIDS = [(5.0, 0.01), (2.5, 0.002)]


def ring(*corners):
    return tuple(tuple(map(float, point)) for point in square(*corners))


SLAB = Sheet(id="slab", outline=ring(0, 0, 600, 400), thickness_mm=30)


def volume(ground):
    return float((ground.z * ground.inside).sum()) * ground.cell_area / 1000


def frustum():
    form = Basin(id="f", outline=ring(100, 100, 300, 220), depth_mm=10, bank_deg=45)
    return (SLAB, form), 30 * 240 - (200 * 120 + 180 * 100 + sqrt(200 * 120 * 180 * 100)) * 10 / 3 / 1000


def cone():
    """A disc carved to a cone: its crown would stand at 100 tan 15, below the sheet's top."""
    round_ = disc(200, (300, 200), 360)
    forms = Sheet(id="d", outline=round_, thickness_mm=40), Bevel(id="b", outline=round_, slope_deg=15)
    return forms, pi * 100**2 * 100 * tan(radians(15)) / 3 / 1000


def wedge():
    return (Ramp(id="r", path=((50.0, 200.0), (550.0, 200.0)), width_mm=100, start_mm=0, end_mm=40),), 500 * 100 * 20 / 1000  # fmt: skip


def slanting_wedge():
    """Neither its sides nor its ends run along the grid."""
    path = ((100.0, 80.0), (420.0, 320.0))
    return (Ramp(id="r", path=path, width_mm=90, start_mm=5, grade=0.05),), 400 * 90 * (5 + 10) / 1000


def stairs():
    forms = tuple(
        Sheet(id=f"s{step}", outline=ring(100 + 40 * step, 50, 600, 350), thickness_mm=25) for step in range(4)
    )
    return forms, sum((500 - 40 * step) * 300 * 25 for step in range(4)) / 1000


def tilted_plane():
    points = ((0, 0, 10), (600, 0, 40), (0, 400, 30), (600, 400, 60))
    return (Survey(id="s", points=points),), 600 * 400 * 35 / 1000


def hump():
    """Half a sine over a disc, turned about its axis."""
    return (Mound(id="m", outline=disc(240, (300, 200), 360), crown_mm=50),), 2 * pi * 50 * 120**2 * (2 / pi - 4 / pi**2) / 1000  # fmt: skip


def bank():
    return (Rim(id="r", path=((60.0, 60.0), (540.0, 340.0)), height_mm=20, width_mm=60),), sqrt(480**2 + 280**2) * 20 * 60 * 2 / pi / 1000  # fmt: skip


def ring_bank():
    return (Rim(id="r", outline=disc(200, (300, 200), 360), height_mm=15, width_mm=40),), 2 * pi * 100 * 15 * 40 * 2 / pi / 1000  # fmt: skip


def gully():
    """A trapezium across, cut through level ground, flat at both ends."""
    form = Channel(id="c", path=((100.0, 200.0), (500.0, 200.0)), width_mm=80, depth_mm=15, bank_deg=45)
    return (SLAB, form), 30 * 240 - 400 * (80 + 50) / 2 * 15 / 1000


def bowl():
    """A spherical cap, measured in as a grid."""
    cell, radius = 1.0, (80**2 + 24**2) / 48
    x = (np.arange(600) + 0.5) * cell
    y = (np.arange(400) + 0.5) * cell
    away2 = (x[None, :] - 300) ** 2 + (y[:, None] - 200) ** 2
    z = 30 - np.maximum(np.sqrt(np.maximum(radius**2 - away2, 0)) - (radius - 24), 0)
    return (Survey(id="s", grid=Grid.of(z, cell)),), 30 * 240 - pi * 24 * (3 * 80**2 + 24**2) / 6 / 1000


@pytest.mark.parametrize(("cell", "near"), GRIDS)
@pytest.mark.parametrize("shape", [frustum, cone, wedge, slanting_wedge, stairs, tilted_plane, hump, bank, ring_bank, gully, bowl])  # fmt: skip
def test_volumes_are_exact(shape, cell, near):
    forms, exact = shape()
    ground, done = bare_ground(BOARD, cell, forms)
    assert sum(one.volume_ml for one in done) == pytest.approx(exact, rel=near)
    assert volume(ground) == pytest.approx(exact, rel=0.01)


@pytest.mark.parametrize(("cell", "near"), GRIDS)
def test_hollows_themselves_are_exact(cell, near):
    """Of what is cut, not only of what is left, which a whole board would hide."""
    for shape in (frustum, gully, bowl):
        forms, exact = shape()
        ground, _ = bare_ground(BOARD, cell, forms)
        assert 7200 - volume(ground) == pytest.approx(7200 - exact, rel=near), shape.__name__


@pytest.mark.parametrize(("cell", "near"), GRIDS)
def test_true_areas_are_exact(cell, near):
    forms, _ = tilted_plane()
    ground, _ = bare_ground(BOARD, cell, forms)
    assert cell_true_area(ground).sum() == pytest.approx(600 * 400 * sqrt(1 + 0.05**2 + 0.05**2), rel=near)
    forms, _ = stairs()
    ground, _ = bare_ground(BOARD, cell, forms)
    # The grid's own idea of a riser is a face one cell wide.
    risers = 4 * 300 * (sqrt(25**2 + cell**2) - cell) + 2 * sum(
        (sqrt((25 * high) ** 2 + cell**2) - cell) * length for high, length in ((1, 40), (2, 40), (3, 40), (4, 380))
    )
    assert cell_true_area(ground).sum() == pytest.approx(600 * 400 + risers, rel=near)


def test_a_cone_leans_as_it_should_and_no_more():
    forms, _ = cone()
    ground, _ = bare_ground(BOARD, 2.5, forms)
    rise = np.abs(np.diff(ground.z[80]))[125:155]
    assert (rise <= 2.5 * tan(radians(15)) + 1e-9).all()
    assert ground.z.max() == pytest.approx(100 * tan(radians(15)), abs=1.0)


@pytest.mark.parametrize("cell", [5.0, 2.5])
def test_carving_a_flight_takes_what_filling_it_would(cell):
    """A regular flight: the triangle below the line through the feet is as large as the one above it."""
    forms, _ = stairs()
    slope = degrees(atan(25 / 40))
    bare, _ = bare_ground(BOARD, cell, forms)
    filled = (fill_to_slope(bare, bare.on_base & (np.arange(bare.shape[0]) > 0)[:, None], slope) - bare.z)[bare.shape[0] // 2].sum()  # fmt: skip
    carved, _ = bare_ground(BOARD, cell, (*forms, Bevel(id="b", outline=ring(90, 60, 600, 340), slope_deg=slope)))
    taken = (bare.z - carved.z)[bare.shape[0] // 2].sum()
    assert filled * cell == pytest.approx(4 * 25 * 40 / 2, rel=0.005)
    assert taken * cell == pytest.approx(4 * 25 * 40 / 2, rel=0.03)


def test_a_bevel_leaves_the_bases_edge_upright():
    ground, (_, bevel) = bare_ground(BOARD, 5.0, (SLAB, Bevel(id="b", outline=ring(0, 0, 600, 400), slope_deg=30)))
    assert bevel.volume_ml == 0
    assert (ground.z == 30).all()


def test_a_ramp_only_raises_unless_it_cuts():
    hill = Sheet(id="hill", outline=ring(200, 100, 400, 300), thickness_mm=40)
    path = ((100.0, 200.0), (500.0, 200.0))
    over, _ = bare_ground(BOARD, 5.0, (hill, Ramp(id="r", path=path, width_mm=40, start_mm=20, end_mm=20)))
    through, (_, ramp) = bare_ground(BOARD, 5.0, (hill, Ramp(id="r", path=path, width_mm=40, start_mm=20, end_mm=20, cut=True)))  # fmt: skip
    assert (over.z[40, 60], through.z[40, 60], through.z[40, 25]) == (40, 20, 20)
    assert ramp.volume_ml == pytest.approx(200 * 40 * 20 / 1000 - 200 * 40 * 20 / 1000, abs=1e-6)
    with pytest.raises(Faults, match=r"forms\[0\]\.grade: -0.1 over 400 mm ends 20 mm below.*at least -0.05"):
        bare_ground(BOARD, 5.0, (Ramp(id="r", path=path, width_mm=40, start_mm=20, grade=-0.1),))


def test_a_channel_follows_the_ground_and_takes_its_lower_lip():
    bank = Sheet(id="bank", outline=ring(0, 200, 600, 400), thickness_mm=20)
    ground, _ = bare_ground(
        BOARD,
        5.0,
        (SLAB, bank, Channel(id="c", path=((100.0, 200.0), (500.0, 200.0)), width_mm=60, depth_mm=10, bank_deg=90)),
    )
    assert ground.z[40, 60] == 20
    assert ground.z[47, 60] == 50
    steep = Survey(id="s", points=((0, 0, 60), (600, 0, 30), (0, 400, 60), (600, 400, 30)))
    ground, _ = bare_ground(BOARD, 5.0, (steep, Channel(id="c", path=((100.0, 200.0), (500.0, 200.0)), width_mm=60, depth_mm=10, bank_deg=90)))  # fmt: skip
    bed = ground.z[40, 25:95]
    assert np.diff(bed) == pytest.approx(-0.25, abs=0.3)
    assert bed[0] - bed[-1] == pytest.approx(69 * 5 / 20, abs=0.6)
    with pytest.raises(Faults, match="40 mm cuts through the board: the lowest lip stands 30 mm above it; at most 30"):
        bare_ground(
            BOARD, 5.0, (SLAB, Channel(id="c", path=((100.0, 200.0), (500.0, 200.0)), width_mm=60, depth_mm=40))
        )


def test_banks_that_meet_make_a_v():
    ground, (_, cut) = bare_ground(
        BOARD,
        2.5,
        (SLAB, Channel(id="c", path=((100.0, 200.0), (500.0, 200.0)), width_mm=20, depth_mm=25, bank_deg=45)),
    )
    assert ground.z.min() == pytest.approx(30 - 10 + 1.25)
    assert cut.volume_ml == pytest.approx(-400 * 20 * 10 / 2 / 1000, rel=0.03)


def test_a_survey_goes_no_farther_than_it_reaches():
    spots = ((100, 100, 20), (200, 100, 20), (150, 200, 50))
    free, _ = bare_ground(BOARD, 5.0, (SLAB, Survey(id="s", points=spots)))
    assert free.z[10, 10] == 30
    assert free.z[21, 30] == pytest.approx(20 + 30 * 7.5 / 100, abs=0.1)
    held, _ = bare_ground(BOARD, 5.0, (SLAB, Survey(id="s", points=spots, outline=ring(0, 0, 300, 300))))
    assert held.z[0, 30] == pytest.approx(20)  # level beyond the hull, from its nearest point
    assert held.z[59, 30] == pytest.approx(50)
    assert held.z[70, 30] == 30
    with pytest.raises(Faults, match=r"forms\[0\]: its lowest height is -4.95 mm, below the board's top"):
        bare_ground(BOARD, 5.0, (Survey(id="s", points=((0, 0, -5), (600, 0, 7), (0, 400, -5))),))


def test_a_grid_is_the_same_heights_again():
    rng = np.random.default_rng(3)
    z = rng.random((30, 40)) * 80
    z[4, 5] = np.nan
    grid = Grid.of(z, 5.0)
    again = grid.z()
    assert np.isnan(again[4, 5])
    assert np.nanmax(np.abs(again - z)) <= grid.step_mm / 2 + 1e-9
    assert Grid.model_validate_json(grid.model_dump_json()) == grid


def test_a_bomb_in_a_grid_is_not_unpacked():
    import base64

    bomb = base64.b64encode(zlib.compress(bytes(200_000_000), 9)).decode()
    with pytest.raises(ValueError, match="the heights are more than 2 x 2"):
        Grid(columns=2, rows=2, cell_mm=1, step_mm=1, heights=bomb)


FORMS = {
    "sheet": {"kind": "sheet", "outline": square(40, 40, 200, 160), "thickness_mm": 12},
    "mound": {"kind": "mound", "outline": square(220, 30, 290, 120), "crown_mm": 18},
    "ramp": {"kind": "ramp", "path": [[20, 180], [280, 180]], "width_mm": 20, "start_mm": 20, "end_mm": 34},
    "rim": {"kind": "rim", "outline": square(60, 60, 120, 120), "height_mm": 6, "width_mm": 12},
    "basin": {"kind": "basin", "outline": square(140, 60, 190, 110), "depth_mm": 9},
    "channel": {"kind": "channel", "path": [[10, 20], [200, 25]], "width_mm": 16, "depth_mm": 6},
    "bevel": {"kind": "bevel", "outline": square(30, 30, 210, 170), "slope_deg": 40},
    "dips": {"kind": "dips", "outline": square(70, 120, 130, 170), "dips": [[100, 145, 8], [85, 140, 5]]},
    "survey": {"kind": "survey", "points": [[230, 130, 21], [290, 130, 25], [260, 170, 30]]},
}


def scene(*kinds):
    slab = {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 20}
    return {
        "isostasis": 1, "name": "All", "grid_mm": 2.5, "base": {"width_mm": 300, "depth_mm": 200},
        "forms": [slab, *({"id": kind, **FORMS[kind]} for kind in kinds)],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}}],
    }  # fmt: skip


@given(st.permutations(sorted(FORMS)), st.sampled_from(sorted(FORMS)))
@settings(max_examples=12)
def test_switching_a_form_off_and_on_changes_nothing(kinds, switched):
    data = scene(*kinds)
    before = build(resolved(data))
    place = next(place for place, form in enumerate(data["forms"]) if form["id"] == switched)
    off = copy.deepcopy(data)
    off["forms"][place]["off"] = True
    without = build(resolved(off))
    alone = build(resolved({**data, "forms": [form for form in data["forms"] if form["id"] != switched]}))
    assert (without.bare.z == alone.bare.z).all()
    off["forms"][place]["off"] = False
    assert (build(resolved(off)).bare.z == before.bare.z).all()


@given(st.permutations(sorted(FORMS)))
@settings(max_examples=12)
def test_what_the_forms_add_is_what_the_ground_holds(kinds):
    """The stages add up exactly; the volumes told differ only by the part-covered cells at edges."""
    built = build(resolved(scene(*kinds)))
    grounds = [empty_ground(resolved(scene()).base, 2.5), *(one.ground for one in built.forms)]
    steps = [volume(after) - volume(before) for before, after in pairwise(grounds)]
    assert sum(steps) == pytest.approx(volume(built.bare))
    assert sum(one.volume_ml for one in built.forms) == pytest.approx(volume(built.bare), rel=0.02)
    assert built.bare.column(30, 30)[0] == ("foam-xps", pytest.approx(20))


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=20)
def test_order_only_matters_where_forms_overlap(seed):
    rng = np.random.default_rng(seed)
    kinds = [("mound", "ramp"), ("basin", "channel"), ("rim", "survey"), ("mound", "basin"), ("rim", "channel")]
    one, other = kinds[int(rng.integers(len(kinds)))]
    assert (build(resolved(scene(one, other))).bare.z == build(resolved(scene(other, one))).bare.z).all()
    low, high = build(resolved(scene("sheet", "basin"))).bare.z, build(resolved(scene("basin", "sheet"))).bare.z
    assert (low != high).any()


@given(st.integers(0, 2**32 - 1), st.integers(3, 40))
@settings(max_examples=20)
def test_distances_in_blocks_are_those_of_every_side(seed, corners):
    rng = np.random.default_rng(seed)
    turns = np.sort(rng.random(corners)) * 2 * pi
    away = 30 + 200 * rng.random(corners)
    points = np.stack([300 + away * np.cos(turns), 200 + away * np.sin(turns)], axis=1)
    x, y = (np.arange(150) + 0.5) * 4, (np.arange(100) + 0.5) * 4
    found = distance_to_ring(tuple(map(tuple, points)), x, y)
    sides = zip(points, np.roll(points, -1, axis=0), strict=True)
    each = [nearest_side(np.array([a]), np.array([b]), x, y)[0] for a, b in sides]
    assert found == pytest.approx(np.min(each, axis=0))


def test_a_band_knows_its_sides_and_ends():
    strip = band(((50.0, 100.0), (150.0, 100.0), (150.0, 180.0)), 20.0, (80, 80), 2.5)
    assert (strip.length, strip.area) == (180, pytest.approx(180 * 20 - 100 + 100 * pi / 4, rel=0.01))
    rows, columns = strip.box
    left = strip.side[41 - rows.start, 30 - columns.start]
    assert left > 0 > strip.side[38 - rows.start, 30 - columns.start]
    assert strip.along[40 - rows.start, 40 - columns.start] == pytest.approx(51.25)
    assert strip.share.sum() * 2.5**2 == pytest.approx(strip.area, rel=1e-6)


def test_a_form_may_wait_for_a_lift(pond):
    """Rebuilding on cast ground: an island set into the pond once its first water is hard."""
    pond["patches"][0]["lifts"][0]["level_mm"] = 20
    pond["patches"][0]["lifts"].append({"id": "more", "kind": "pour", "mix": "casting-resin", "level_mm": 24})
    pond["forms"].append({"id": "isle", "kind": "mound", "outline": square(130, 80, 170, 120), "crown_mm": 20, "after": "water"})  # fmt: skip
    built = build(resolved(pond))
    cell = built.bare.cell_at(150, 100)
    assert built.bare.z[cell] == 15
    assert built.at("water").z[cell] == 20
    assert built.at("isle").z[cell] == pytest.approx(40, abs=0.5)
    assert built.stages["more"].site.ground.z[cell] == pytest.approx(40, abs=0.5)
    without = {**pond, "forms": pond["forms"][:-1]}
    from isostasis.core.plan import plan

    made, plain = plan(resolved(pond)), plan(resolved(without))
    assert made.lifts["more"].volume_ml.number < plain.lifts["more"].volume_ml.number
    steps = {step.id: step for step in made.steps}
    assert steps["form-isle"].after == ("water",)
    assert steps["form-isle"].windows[0].from_h == pytest.approx(made.lifts["water"].hours.full.number)
    assert "form-isle" in steps["more"].after
    with pytest.raises(KeyError):
        built.at("nowhere")


RULES = [
    ({"steeper_deg": 40}, lambda z, x, y: None),
    ({"below_mm": 18}, lambda z, x, y: z < 18),
    ({"above_mm": 24}, lambda z, x, y: z > 24),
    ({"near": "edge", "within_mm": 12}, lambda z, x, y: (np.minimum(np.minimum(x, 300 - x), np.minimum(y, 200 - y)) <= 12)),
    ({"near": "hole", "within_mm": 10}, lambda z, x, y: np.hypot(np.maximum(np.abs(x - 150) - 100, 0), np.maximum(np.abs(y - 100) - 60, 0)) <= 10),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "means"), RULES, ids=lambda one: str(one)[:24])
def test_patches_by_rule(pond, rule, means):
    pond["patches"] = [
        {"id": "all", "name": "All", "area": {"rest": True}},
        {"id": "ruled", "name": "Ruled", "area": rule},
    ]
    built = build(resolved(pond))
    share = built.covers["ruled"].share
    x, y = np.meshgrid((np.arange(150) + 0.5) * 2, (np.arange(100) + 0.5) * 2)
    expected = means(built.bare.z, x, y)
    if expected is None:  # the banks of the hole stand at 45 degrees
        assert 2 * (200 + 120) * 10 * 0.6 < share.sum() * 4 < 2 * (200 + 120) * 10 * 1.4
    else:
        assert (share > 0.5).sum() == expected.sum() > 0
    assert (share + built.covers["all"].share).sum() == pytest.approx(150 * 100)
