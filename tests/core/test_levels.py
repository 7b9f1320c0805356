"""Edges, lips and banks: what a grid must not decide."""

from math import cos, pi, radians, sin, tan

import pytest

from isostasis.core.fault import Faults
from isostasis.core.ground.meniscus import capillary_length, climb
from isostasis.core.mixing.parts import wet
from isostasis.core.plan import plan
from tests.support.layups import LABELS, codes, term
from tests.support.scenes import resolved, square

RECTANGLE = square(30, 30, 230, 190)
DISC = [[130 + 80 * cos(2 * pi * step / 96), 110 + 80 * sin(2 * pi * step / 96)] for step in range(96)]
SEAL = {"id": "seal", "kind": "coat", "material": "acrylic-sealer"}


def slab(*lifts, wide=300, deep=240, thick=40, grid=2, forms=(), **base):
    return {
        "isostasis": 1, "name": "Slab", "grid_mm": grid, "base": {"width_mm": wide, "depth_mm": deep, **base},
        "room": {"temp_c": 22, "rh": 0.5},
        "forms": [{"id": "slab", "kind": "sheet", "outline": square(0, 0, wide, deep), "thickness_mm": thick}, *forms],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}, "lifts": list(lifts)}],
    }  # fmt: skip


def basin(outline=RECTANGLE, depth_mm=16, bank_deg=90):
    return {"id": "hollow", "kind": "basin", "outline": outline, "depth_mm": depth_mm, "bank_deg": bank_deg}


def pour(**fields):
    return {"id": "water", "kind": "pour", "mix": "casting-resin", **fields}


def water(data):
    return plan(resolved(data)).lifts["water"]


def a_metre(bank_deg):
    """ml that climb a metre of bank."""
    mix = LABELS.mixes["casting-resin"]
    length = capillary_length(mix.reacts.surface_tension_n_m, wet(mix, LABELS.materials).density * 1000)
    return climb(bank_deg, mix.reacts.contact_angle_deg, length)[1]


@pytest.mark.parametrize("across", [False, True])
@pytest.mark.parametrize("over", [0, 25])
def test_a_channel_runs_out_at_either_edge_or_beyond_it(across, over):
    path = [[-over, 60], [500 + over, 60]]
    wide, deep = (120, 500) if across else (500, 120)
    cut = {"id": "cut", "kind": "channel", "path": [point[::-1] for point in path] if across else path,
           "width_mm": 50, "depth_mm": 12, "bank_deg": 60}  # fmt: skip
    made = plan(resolved(slab(wide=wide, deep=deep, thick=30, grid=5, forms=[cut])))
    run = 12 / tan(radians(60))
    assert made.forms["cut"].volume_ml.number == pytest.approx(-(50 - run) * 12 * 500 / 1000, rel=0.02)


def test_dams_tilt_with_the_board():
    data = slab(SEAL, pour(level_mm=29), wide=400, deep=200, thick=20, dammed="all", dam_mm=30, tilt_mm_per_m=[30, 0])
    with pytest.raises(Faults, match=r"from 24.* runs over the dam"):
        water(data)
    data["patches"][0]["lifts"][1]["level_mm"] = 23.9
    assert water(data).pools[0].level_mm.number == 23.9


@pytest.mark.parametrize("grid", [1, 2, 5])
@pytest.mark.parametrize("bank_deg", [30, 45, 60, 75, 90])
@pytest.mark.parametrize(("outline", "shore"), [(RECTANGLE, 720), (DISC, 160 * pi)], ids=["straight", "round"])
def test_the_climb_is_the_banks_whatever_the_grid(outline, shore, bank_deg, grid):
    made = water(slab(SEAL, pour(level_mm=32), grid=grid, forms=[basin(outline, bank_deg=bank_deg)]))
    inset = 0.0 if bank_deg == 90 else 8 / tan(radians(bank_deg))
    shore -= 8 * inset if outline is RECTANGLE else 2 * pi * inset
    assert term(made.mix_ml, "climbs") == pytest.approx(shore * a_metre(bank_deg) / 1000, rel=0.01)


@pytest.mark.parametrize("grid", [1, 2, 5])
def test_the_climb_at_round_dams_skins_and_posts(grid):
    ring = {"outline": {"disc_mm": 100}, "dammed": "all"}
    data = slab(SEAL, pour(level_mm=12), wide=100, deep=100, grid=grid, **ring)
    data["forms"] = []
    assert term(water(data).mix_ml, "climbs") == pytest.approx(100 * pi * a_metre(90) / 1000, rel=0.01)
    skin = {"id": "skin", "kind": "skin", "mix": "plaster-2-3", "depth_mm": 3}
    skinned = water(slab(skin, SEAL, pour(level_mm=32), grid=grid, forms=[basin()]))
    assert term(skinned.mix_ml, "climbs") == pytest.approx((720 - 8 * 3) * a_metre(90) / 1000, rel=0.01)
    posts = pour(level_mm=32, stands=[{"area_mm2": 25 * pi, "count": 6}])
    girth = water(slab(SEAL, posts, grid=grid, forms=[basin()]))
    assert term(girth.mix_ml, "climbs") == pytest.approx((720 + 60 * pi) * a_metre(90) / 1000, rel=0.01)


def test_a_layer_that_owns_no_ground_covers_no_bank():
    data = slab(SEAL, pour(level_mm=32), forms=[basin()])
    bare = water(data)
    skin = {"id": "skin", "kind": "skin", "mix": "plaster-2-3", "depth_mm": 3, "feather_mm": 5}
    data["patches"].insert(0, {"id": "none", "name": "None", "area": {"below_mm": -5}, "lifts": [skin]})
    assert term(water(data).mix_ml, "climbs") == term(bare.mix_ml, "climbs")


def test_the_bed_drinks_no_higher_than_the_water():
    gravel = {"id": "gravel", "kind": "texture", "mix": "ballast", "depth_mm": 5}
    made = water(slab(gravel, pour(depth_mm=4), thick=50, forms=[basin(depth_mm=30)]))
    drinks = 5 * 0.42 * 0.6 / 1000  # ml a mm2
    floor = made.pools[0].area_mm2.number
    assert floor * drinks < made.drunk_ml.number < (floor + 720 * 4) * drinks


def test_pools_are_liquid_as_poured():
    stands = [{"area_mm2": 78.54, "count": 6}]
    made = water(slab(SEAL, pour(level_mm=32, stands=stands), forms=[basin(bank_deg=60)]))
    assert sum(pool.volume_ml.number for pool in made.pools) == pytest.approx(made.volume_ml.number)
    assert sum(layer.volume_ml.number for layer in made.layers) == pytest.approx(made.volume_ml.number)


def test_a_board_that_is_level_all_over_holds_a_pour():
    made = water(slab(pour(volume_ml=300), wide=400, thick=25, dammed="all"))
    assert made.pools[0].level_mm.number == pytest.approx(25 + 300_000 / (400 * 240))


def test_a_coat_stays_below_the_lip_while_it_is_wet():
    glue = pour(mix="glue-water-1-1", depth_mm=1)
    made = water(slab(SEAL, glue, thick=50, forms=[basin(depth_mm=1.2)]))
    stood = 0.0
    for layer in made.layers:
        poured = layer.depth_mm.working[0].value
        assert stood + poured <= 1.2 + 1e-6
        stood += layer.depth_mm.number
    assert stood == pytest.approx(1.0)
    assert "over-lip-wet" not in codes(made)
    brimful = water(slab(SEAL, {**glue, "depth_mm": 1.2}, thick=50, forms=[basin(depth_mm=1.2)]))
    said = next(notice.text for notice in brimful.warnings if notice.code == "over-lip-wet")
    assert "mm over the lip while it is wet: about" in said


def test_a_coat_does_not_run_into_the_next_hollow_either():
    pans = [basin(square(20, 20, 120, 120), 1.2), {**basin(square(130, 20, 230, 120), 3), "id": "next"}]
    data = slab(SEAL, thick=50, forms=pans, dammed="all")
    glue = pour(mix="glue-water-1-1", depth_mm=1, lifts=[1.0])
    area = {"outline": square(10, 10, 125, 130)}
    data["patches"].append({"id": "pan", "name": "Pan", "area": area, "lifts": [glue]})
    said = next(notice.text for notice in water(data).warnings if notice.code == "over-lip-wet")
    assert "the lip into the next hollow" in said


def test_a_bed_thinner_than_a_hair_holds_back_no_heat():
    dust = {"id": "dust", "kind": "texture", "mix": "quarry-dust", "depth_mm": 0.0004}
    made = water(slab(dust, pour(level_mm=32), forms=[basin()]))
    assert made.hours.full.number > 0


def test_a_band_wider_than_its_turns_comes_apart_and_is_laid():
    ramp = {"id": "ramp", "kind": "ramp", "path": [[292.6, 166.7], [122.3, 67.1], [104.0, 3.0]], "width_mm": 5000,
            "start_mm": 20, "end_mm": 30}  # fmt: skip
    assert plan(resolved(slab(wide=300, deep=200, thick=10, forms=[ramp]))).forms["ramp"].volume_ml.number > 0
