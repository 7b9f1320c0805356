"""What is read off the ground: weights, steps, inclines, foam, joints, flats, figures that stand."""

import json
from math import atan, degrees, sqrt

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.document.scene import Base
from isostasis.core.fault import Faults
from isostasis.core.figure import Figure
from isostasis.core.ground.field import empty_ground
from isostasis.core.plan import plan
from isostasis.core.terrain.foam import KERF_MM, nest
from isostasis.core.terrain.incline import as_forms, solve
from isostasis.core.terrain.keep import stand, standing_map
from isostasis.core.terrain.report import SECTIONS, GroundQuery, report
from tests.support.scenes import resolved, square

FOAM = {"kind": "sheet", "material": "foam-xps"}


def sheet(name, ring, thickness=25, **more):
    return {"id": name, **FOAM, "outline": ring, "thickness_mm": thickness, **more}


def stairs(**base):
    """Four steps of 25 mm, 40 mm deep, 300 mm wide, free on all sides but the east."""
    return {
        "isostasis": 1, "name": "Stairs", "grid_mm": 5,
        "base": {"width_mm": 400, "depth_mm": 300, **base},
        "forms": [sheet(f"step-{number}", square(100 + 40 * number, 0, 400, 300)) for number in range(4)],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}, "lifts": []}],
    }  # fmt: skip


def read(data, *sections, **asked):
    scene = resolved(data)
    made = plan(scene)
    return report(scene, made.built, made.lifts, GroundQuery(**asked), shipped(), sections or SECTIONS)


def test_every_number_of_a_report_is_a_figure_that_opens(tarn):
    tarn["base"] |= {"joints_x_mm": [150]}
    tarn["flats"] = [{"id": "way", "name": "Way", "path": [[10, 170], [290, 170]], "width_mm": 10, "flat_mm": 0.5}]
    tarn["protect"] = [{"id": "hut", "name": "Hut", "outline": square(10, 150, 40, 180)}]
    found = read(tarn)
    json.dumps(found.as_json())

    def walk(thing, path=""):
        if isinstance(thing, Figure):
            assert found.figure(path) is thing
            assert thing.formula
            return 1
        names = getattr(thing, "__slots__", None) or (thing if isinstance(thing, dict) else ())
        items = [(name, thing[name] if isinstance(thing, dict) else getattr(thing, name)) for name in names]
        if isinstance(thing, tuple):
            items = list(enumerate(thing))
        return sum(walk(value, f"{path}.{name}".strip(".")) for name, value in items if "." not in str(name))

    assert walk(found) > 30
    with pytest.raises(KeyError):
        found.figure("reading.colour")


def test_the_reading_of_a_slab(pond):
    made = read(pond, "reading").reading
    assert made.plan_area_mm2.number == pytest.approx(60_000)
    assert made.true_area_mm2.number == pytest.approx(60_000 + 2 * (200 + 120 - 20) * 10 * (sqrt(2) - 1), rel=0.01)
    assert (made.highest_mm.number, made.lowest_mm.number) == (25, 15)
    assert made.steepest_deg.number == pytest.approx(45, abs=0.5)
    ply, foam = 300 * 200 * 9 / 1000 * 0.55, (1500 - 209.33) * 0.035
    assert made.weight_g.number == pytest.approx(ply + foam, rel=0.002)
    wet = read(pond, "reading", stage="finished").reading.weight_g.number
    water = plan(resolved(pond)).lifts["water"]
    assert wet - made.weight_g.number == pytest.approx(
        water.mass_g.number / water.mix_ml.number * water.volume_ml.number, rel=0.01
    )


def test_carve_or_fill_of_a_regular_flight():
    slope = degrees(atan(25 / 40))
    flights = read(stairs(), "flights", slope_deg=slope).flights
    (flight,) = flights.values()
    assert flight.name == "Step 0 to Step 3"
    assert flight.fill_ml.number == pytest.approx(600, rel=0.01)
    assert flight.carve_ml.number == pytest.approx(600, rel=0.05)
    assert flight.fill_mix_ml.number > flight.fill_ml.number
    assert flight.carve_h.number == 0
    deepest = 25 * 40 / sqrt(25**2 + 40**2)
    assert flight.fill_h.number > 24
    assert next(term.value for term in flight.fill_h.working if term.what == "depth") == pytest.approx(
        deepest, rel=0.12
    )
    assert (flight.fill_cost, flight.carve_cost) == (None, None)


def test_costs_come_with_prices():
    data = stairs()
    data["bench"] = {"prices": [
        {"material": "paper-fibre-powder", "amount": 12, "pack": 1000}, {"material": "foam-xps", "amount": 8, "pack": 750_000}]}  # fmt: skip
    (flight,) = read(data, "flights").flights.values()
    powder = shipped().mixes["paper-plaster"]
    assert powder.ingredients[0].material == "paper-fibre-powder"
    assert 0 < flight.fill_cost.number < 30
    assert flight.carve_cost.number == pytest.approx(flight.carve_ml.number * 1000 / 25 * 8 / 750_000)
    foam = read(data, "foam").foam["foam-xps"]
    assert foam.cost.number == pytest.approx(8 * foam.count.number)


@pytest.mark.parametrize("slope", [25, 38, 50])
def test_the_answer_turned_into_a_bevel_is_the_answer(slope):
    data = stairs()
    (flight,) = read(data, "flights", slope_deg=slope).flights.values()
    data["forms"].append(
        {"id": "bevel", "kind": "bevel", "outline": [list(point) for point in flight.outline], "slope_deg": slope}
    )
    made = plan(resolved(data))
    assert made.forms["bevel"].volume_ml.number == pytest.approx(-flight.carve_ml.number, rel=0.03)
    left = read(data, "flights", slope_deg=slope).flights
    assert sum(one.fill_ml.number for one in left.values()) < 0.1 * flight.fill_ml.number


def test_steps_that_other_forms_have_shaped_are_left_alone(pond):
    assert read(pond, "flights").flights == {}
    with pytest.raises(Faults, match="there is no compound 'mud'; one of"):
        read(pond, "flights", mix="mud")
    with pytest.raises(Faults, match="95° is no slope"):
        read(pond, "flights", slope_deg=95.0)


@given(st.floats(1, 160), st.floats(0.005, 0.03))
@settings(max_examples=60)
def test_every_incline_adds_up_to_its_height(height, grade):
    risers, shims = (50.0, 25.0, 12.0, 6.0), (2.0, 1.0, 0.5)
    answers = solve(height, grade, risers, shims, 0.03)
    assert answers
    for one in answers:
        total = sum(one.risers_mm) + sum(one.shims_mm) + one.wedge_mm.number + one.left_over_mm.number
        assert total == pytest.approx(height, abs=0.06)
        assert one.left_over_mm.number <= 0.26
        assert one.cut_mm.number == pytest.approx(one.wedge_mm.number / grade)
        assert one.run_mm.number == pytest.approx(height / grade)
        assert set(one.risers_mm) <= set(risers)
        assert sorted(one.starts_mm) == list(one.starts_mm)
    assert [one.effort for one in answers] == sorted(one.effort for one in answers)


def test_inclines_that_cannot_be():
    with pytest.raises(
        Faults, match="4 percent is steeper than your limit of 3 percent; at most 3, which takes 1033 mm"
    ):
        solve(31, 0.04, (25.0,), (), 0.03)
    with pytest.raises(Faults, match="above 0"):
        solve(0, 0.02, (25.0,), (), 0.03)
    with pytest.raises(Faults, match="8 risers of your stock do not reach 400 mm"):
        solve(400, 0.02, (25.0, 12.0), (), 0.03)
    assert solve(4, 0.02, (), (), 0.03)[0].words() == "a wedge cut at 200 mm"


def test_an_incline_as_forms_climbs_evenly_to_its_height():
    answer = next(one for one in solve(31, 0.025, (25.0, 12.0, 6.0), (1.0,), 0.03) if one.risers_mm == (25.0,))
    forms = as_forms(answer, 31, 0.025, (30, 60), (1.0, 0.0), 40, 0.0, "up", "foam-xps")
    scene = {
        "isostasis": 1, "name": "Up", "base": {"width_mm": 1300, "depth_mm": 120}, "forms": forms,
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}}],
    }  # fmt: skip
    made = plan(resolved(scene))
    along = made.built.bare.z[12]
    on = along > 0
    assert np.diff(along[on]) == pytest.approx(0.125, abs=1e-6)
    assert along.max() == pytest.approx(31, abs=0.13)
    block, wedge = made.forms["up-riser-1"].volume_ml.number, made.forms["up"].volume_ml.number
    assert block + wedge == pytest.approx(1240 * 31 / 2 * 40 / 1000, rel=0.01)
    assert block == pytest.approx(25 * 240 * 40 / 1000, rel=0.01)


@given(st.integers(0, 2**32 - 1), st.integers(1, 14))
@settings(max_examples=15)
def test_nested_pieces_lie_on_their_panels_and_on_no_other(seed, count):
    rng = np.random.default_rng(seed)
    rings = []
    for number in range(count):
        points = rng.random((6, 2)) * rng.uniform(60, 400, 2)
        hull = shapely.convex_hull(shapely.MultiPoint(points))
        assume(hull.geom_type == "Polygon")
        rings.append((f"p{number}", tuple((float(x), float(y)) for x, y in hull.exterior.coords[:-1])))
    panels = nest(tuple(rings), (800.0, 500.0))
    placed = [piece for panel in panels for piece in panel]
    assert sorted(piece.name for piece in placed) == sorted(name for name, _ in rings)
    areas = {name: shapely.Polygon(ring).area for name, ring in rings}
    for panel in panels:
        shapes = [shapely.Polygon(piece.outline) for piece in panel]
        for piece, shape in zip(panel, shapes, strict=True):
            assert shape.area == pytest.approx(areas[piece.name], rel=0.01)
            assert shapely.box(0, 0, 800, 500).covers(shape)
        for one, shape in enumerate(shapes):
            for other in shapes[one + 1 :]:
                assert shape.distance(other) >= KERF_MM - 0.05
    assert sum(areas.values()) <= len(panels) * 800 * 500


def test_pieces_use_the_room_beside_others():
    pieces = tuple(
        (f"p{number}", tuple((float(x), float(y)) for x, y in square(0, 0, 390, 490))) for number in range(4)
    )
    assert len(nest(pieces, (800.0, 500.0))) == 2
    with pytest.raises(ValueError, match="p fits on no panel"):
        nest((("p", tuple((float(x), float(y)) for x, y in square(0, 0, 900, 600))),), (800.0, 500.0))


def test_the_foam_list_cuts_at_joints_and_tells_how_near_the_bound_it_is():
    data = {
        "isostasis": 1, "name": "Long", "copies": 2,
        "base": {"width_mm": 1600, "depth_mm": 500, "joints_x_mm": [800]},
        "forms": [sheet("floor", square(0, 0, 1600, 500)), sheet("step", square(200, 200, 600, 500), 40)],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}}],
    }  # fmt: skip
    foam = read(data, "foam").foam["foam-xps"]
    names = sorted(piece.name for panel in foam.panels for piece in panel.pieces)
    assert len(names) == 2 * (2 + 2)
    assert "Floor, part 1, copy 1" in names
    assert "Step, layer 2, copy 2" in names
    assert foam.used_mm2.number == pytest.approx(2 * (1600 * 500 + 2 * 400 * 300))
    assert foam.count.number >= foam.bound.number == 3
    assert foam.offcut_mm2.number == pytest.approx(foam.count.number * 1250 * 600 - foam.used_mm2.number)
    assert any("40 mm thick: 2 of 25 mm, planed down" in note for note in foam.notes)
    wide = {
        **data,
        "copies": 1,
        "base": {"width_mm": 3000, "depth_mm": 900},
        "forms": [sheet("floor", square(0, 0, 3000, 900))],
    }
    floor = read(wide, "foam").foam["foam-xps"]
    assert all(shapely.Polygon(piece.outline).bounds[2] <= 1250 for panel in floor.panels for piece in panel.pieces)


def test_joints_match_unless_an_edge_runs_along_them(tarn):
    tarn["base"]["joints_x_mm"] = [150]
    (joint,) = read(tarn, "joints").joints.values()
    assert joint.mismatch_mm.number == 0
    assert set(joint.cut_forms) == {"Slab", "Bank"}
    assert joint.length_mm.number > 200 + 24
    skin, bank = joint.separators
    assert (skin.lift, bank.lift) == ("tarn-skin", "bank-skin")
    assert skin.height_mm.number == pytest.approx(10 + 3 * sqrt(2))
    assert skin.to_h == pytest.approx(2 * skin.from_h)
    assert 106 < skin.length_mm.number < 140
    tarn["base"] |= {"joints_x_mm": [], "joints_y_mm": [140]}
    (joint,) = read(tarn, "joints").joints.values()
    assert joint.mismatch_mm.number == pytest.approx(25)


def test_separators_and_masks_become_steps(tarn):
    tarn["base"]["joints_x_mm"] = [150]
    tarn["protect"] = [{"id": "hut", "name": "the hut", "outline": square(10, 150, 40, 180)}]
    steps = {step.id: step for step in plan(resolved(tarn)).steps}
    put, pull = steps["separator-x150-tarn-skin"], steps["separator-x150-tarn-skin-out"]
    assert put.id in steps["tarn-skin"].after
    assert pull.windows[0].of == "tarn-skin"
    assert pull.windows[0].to_h == pytest.approx(2 * pull.windows[0].from_h)
    assert "mask-hut" in steps["tarn-skin"].after
    assert steps["mask-hut"].do.startswith("Mask the hut: 0.2 m")
    assert "mask-hut" in steps["bank-skin"].after  # every spot near it waits, whichever comes first
    assert steps["bare-hut"].after == tuple(window.of for window in steps["bare-hut"].windows)
    order = list(steps)
    for step in steps.values():
        assert all(order.index(name) < order.index(step.id) for name in step.after), step.id


def test_what_is_masked():
    data = stairs()
    data["protect"] = [{"id": "rails", "name": "rails", "path": [[20, 50], [20, 250]], "width_mm": 16}]
    made = read(data, "protect").protect["rails"]
    assert made.area_mm2.number == pytest.approx(200 * 16)
    assert made.tape_mm.number == pytest.approx(432 * 1.05 + 40)
    assert made.near == ()


def test_gluing_is_cut_tried_and_glued():
    data = stairs()
    for form, glue in zip(data["forms"], ("white-glue", "contact-glue", "hot-glue", None), strict=True):
        form.update({"glue": glue} if glue else {})
    data["forms"].append({"id": "pit", "kind": "basin", "outline": square(20, 20, 80, 80), "depth_mm": 0.5})
    data["forms"][0]["outline"] = square(0, 0, 400, 300)
    made = plan(resolved(data))
    steps = {step.id: step for step in made.steps}
    assert steps["trial-fit"].after == ("form-step-0", "form-step-1", "form-step-2")
    assert steps["form-step-0"].after == ()
    assert (steps["glue-step-0"].after, steps["glue-step-0"].wait_h) == (("trial-fit",), 12)
    assert (steps["glue-step-1"].wait_h, steps["glue-step-2"].wait_h) == (0.5, 0.1)
    assert steps["form-step-3"].after == ("glue-step-2",)
    assert steps["form-pit"].after == ("form-step-3",)
    assert made.forms["step-0"].glue_ml.number == pytest.approx(400 * 300 * 0.2 / 1000)
    assert made.forms["step-1"].glue_ml.number == pytest.approx(260 * 300 * 0.2 / 1000)
    told = {caution.code: caution.steps for caution in made.cautions}
    assert told["hot-glue-burns"] == ("glue-step-2",)
    assert told["adhesive-foam"] == ("glue-step-1",)
    assert "form-step-0" in told["hot-wire-foam"]
    needs = {need.material: need for need in made.buy}
    assert needs["hot-glue"].unit == "g"


def test_a_flat_is_checked_after_every_lift(pond):
    pond["flats"] = [
        {"id": "shore", "name": "Shore", "outline": square(10, 10, 40, 190), "flat_mm": 0.2},
        {"id": "across", "name": "Across the pond", "path": [[20, 100], [280, 100]], "width_mm": 20, "flat_mm": 2},
        {"id": "high", "name": "Pier", "outline": square(255, 10, 290, 40), "flat_mm": 0.5, "height_mm": 29},
    ]
    pond["patches"][0]["lifts"].insert(0, {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4})
    pond["patches"][0]["lifts"][1]["level_mm"] = 27
    flats = read(pond, "flats").flats
    assert [stage.stage for stage in flats["shore"].stages] == ["bare", "skin"]
    assert flats["shore"].broken_at is None
    assert flats["high"].broken_at is None
    broken = flats["across"].broken_at
    assert broken.stage == "bare"
    assert broken.off_mm.number > 5
    pond["flats"][2]["height_mm"] = 31
    warned = plan(resolved(pond)).lifts["skin"].warnings
    assert [notice.code for notice in warned if notice.code == "not-flat"] == ["not-flat"]
    assert "Pier is off by 2 mm after this" in warned[-1].text


def board(z, cell=1.0):
    ny, nx = np.shape(z)
    ground = empty_ground(Base(width_mm=nx * cell, depth_mm=ny * cell), cell)
    return ground.after(np.array(z, dtype=float), "foam-xps")


def test_a_foot_stands_on_the_level_and_on_a_slope_but_leans():
    level = stand(board(np.zeros((60, 60))), (30, 30), 25)
    assert level.stands
    assert (level.lean_deg.number, level.rock_mm.number) == (0, 0)
    x = np.arange(60)
    ramp = stand(board(np.broadcast_to(x * 0.2, (60, 60))), (30, 30), 25)
    assert ramp.lean_deg.number == pytest.approx(degrees(atan(0.2)), abs=0.01)
    assert ramp.rock_mm.number == pytest.approx(0, abs=1e-6)
    assert not ramp.stands


def test_a_foot_rocks_on_a_ridge_and_on_a_knob():
    x = np.arange(60) + 0.5
    ridge = stand(board(np.broadcast_to(-np.abs(x - 30) * 0.1, (60, 60))), (30, 30), 25)
    assert ridge.rock_mm.number > 1
    knob = np.zeros((60, 60))
    knob[29:31, 29:31] = 2
    on_knob = stand(board(knob), (30, 30), 25)
    assert on_knob.rock_mm.number > 1.5
    assert not on_knob.stands
    assert stand(board(knob), (3, 30), 25) is None


def test_the_map_of_a_board_with_a_bump():
    z = np.zeros((120, 200))
    z[50:70, 150:170] = 6
    spots = standing_map(board(z), 25.0)
    assert len(spots) > 300
    falls = [spot for spot in spots if not spot.stands]
    assert falls
    assert all(np.hypot(spot.at[0] - 160, spot.at[1] - 60) < 32 for spot in falls)
    with pytest.raises(Faults, match="a foot of 900 mm finds no place"):
        read(stairs(), "wobble", foot_mm=900.0)
    found = read(stairs(), "wobble", at=(50.0, 150.0)).wobble
    assert found.here.stands
    assert 20 < found.stands.number < 95


def test_overlaps_are_told(tarn):
    tarn["patches"].append({"id": "edge", "name": "Edge", "area": {"near": "edge", "within_mm": 30}})
    overlaps = read(tarn, "overlaps").overlaps
    assert [(one.owner, one.loser) for one in overlaps] == [("edge", "tarn")]
    assert 1000 < overlaps[0].area_mm2.number < 6000


def test_a_ramp_is_cut_as_thick_as_it_stands_above_its_ground():
    data = stairs()
    data["forms"] = [
        sheet("floor", square(0, 0, 400, 300), 50),
        {"id": "up", "kind": "ramp", "path": [[20, 150], [380, 150]], "width_mm": 40, "start_mm": 50, "end_mm": 80},
    ]
    foam = read(data, "foam").foam["foam-xps"]
    names = [piece.name for panel in foam.panels for piece in panel.pieces]
    assert sorted(names) == ["Floor, layer 1", "Floor, layer 2", "Up, layer 1", "Up, layer 2"]
    assert any(note.startswith("Up is 29.") for note in foam.notes)
