"""The plan: contents as docs/formats.md has them, conservation, order, and figures that show their working."""

import copy
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.figure import Figure
from isostasis.core.lifts.fold import build
from isostasis.core.plan import plan
from isostasis.core.plan.cautions import told_once
from isostasis.core.plan.preview import lift_alone, site_of
from tests.support.scenes import resolved, scene_data, square


def lifts_of(data):
    return plan(resolved(data)).lifts


def figures(thing, path=""):
    """Every figure in a plan with its path."""
    if isinstance(thing, Figure):
        yield path, thing
    elif isinstance(thing, dict):
        for name, value in thing.items():
            yield from figures(value, f"{path}.{name}".lstrip("."))
    elif isinstance(thing, tuple):
        for place, value in enumerate(thing):
            yield from figures(value, f"{path}.{place}")
    elif hasattr(thing, "__dataclass_fields__"):
        for name in thing.__dataclass_fields__:
            if not name.startswith("_"):
                yield from figures(getattr(thing, name), f"{path}.{name}".lstrip("."))


def test_the_json_has_just_the_keys_of_the_format(tarn):
    data = plan(resolved(tarn)).as_json()
    assert list(data) == ["plan", "scene", "patches", "forms", "lifts", "batches", "steps", "cautions", "buy"]
    assert set(data["patches"]["tarn"]) == {"plan_area_mm2", "true_area_mm2"}
    assert set(data["forms"]["hole"]) == {"volume_ml"}
    common = {
        "patch",
        "kind",
        "volume_ml",
        "mix_ml",
        "mass_g",
        "ingredients",
        "layers",
        "hours",
        "windows",
        "look_for",
        "warnings",
    }
    assert set(data["lifts"]["tarn-skin"]) == common
    assert set(data["lifts"]["tarn-water"]) == common | {"pools", "drunk_ml", "lost_ml"}
    assert set(data["lifts"]["tarn-water"]["hours"]) == {"workable", "next", "full", "usable"}
    assert set(data["lifts"]["tarn-water"]["layers"][0]) == {"depth_mm", "volume_ml", "peak_c"}
    assert set(data["lifts"]["tarn-water"]["pools"][0]) == {"level_mm", "volume_ml", "area_mm2", "deepest_mm"}
    assert data["lifts"]["tarn-water"]["ingredients"][0]["part"] == "A"
    assert "drops" in data["lifts"]["tarn-water"]["ingredients"][2]
    assert set(data["batches"][0]) == {"id", "mix", "volume_ml", "working_min", "feeds"}
    assert set(data["batches"][0]["feeds"][0]) == {"lift", "layer", "volume_ml"}
    assert all({"id", "do", "after", "hands_on_min", "wait_h", "windows"} <= set(step) <= {
        "id", "do", "after", "hands_on_min", "wait_h", "windows", "lift", "form", "kind", "patch", "course", "of",
        "only_if", "batch"} for step in data["steps"])  # fmt: skip
    assert set(data["cautions"][0]) == {"code", "text", "steps"}
    assert set(data["buy"][0]) == {"material", "need", "unit"}
    json.dumps(data, allow_nan=False)


def test_every_figure_is_found_by_its_path(tarn):
    made = plan(resolved(tarn))
    found = dict(figures(made))
    assert len(found) > 60
    for path, figure in found.items():
        assert made.figure(path) is figure
        assert figure.formula or figure.working or path.endswith("depth_mm"), path
    for wrong in ("lifts.nobody.mix_ml", "lifts.tarn-water", "lifts.tarn-water.layers.9.peak_c", "_build", "plan"):
        with pytest.raises(KeyError):
            made.figure(wrong)


def test_a_pond_by_hand(pond):
    water = lifts_of(pond)["water"]
    # 9 mm deep on a floor of 180 x 100, banks at 45 degrees: a frustum.
    exact = 9 / 6 * (180 * 100 + 4 * 189 * 109 + 198 * 118) / 1000
    assert water.volume_ml.number == pytest.approx(exact, rel=0.01)
    assert water.pools[0].deepest_mm.number == pytest.approx(9)
    assert water.lost_ml.number == 0


def test_what_is_mixed_is_what_is_needed_and_what_stays_behind(tarn):
    for lift in lifts_of(tarn).values():
        terms = sum(term.value for term in lift.mix_ml.working)
        assert lift.mix_ml.number == pytest.approx(terms)
        assert sum(part.mass_g.number for part in lift.ingredients) == pytest.approx(lift.mass_g.number)
        assert sum(layer.volume_ml.number for layer in lift.layers) == pytest.approx(lift.volume_ml.number)


def test_a_skin_is_true_area_times_thickness(tarn):
    made = plan(resolved(tarn))
    skin = made.lifts["tarn-skin"]
    assert skin.volume_ml.number == pytest.approx(made.patches["tarn"].true_area_mm2.number * 3 / 1000)
    assert skin.hours.next.number == skin.hours.full.number  # a seal follows: it must be dry
    assert made.lifts["bank-skin"].hours.next.number < made.lifts["bank-skin"].hours.full.number


def test_ten_millimetres_of_compound_in_a_scene(pond):
    pond["patches"][0]["lifts"] = [{"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 10}]
    skin = lifts_of(pond)["skin"]
    assert skin.hours.next.number == pytest.approx(47.3, abs=0.2)
    assert skin.hours.full.number == pytest.approx(110.5, abs=0.2)


def test_a_damp_room_says_that_nothing_dries(tarn):
    made = plan(resolved({**tarn, "room": {"temp_c": 21, "rh": 1.0}}))
    data = made.as_json()["lifts"]["tarn-skin"]
    assert data["hours"]["next"] is None
    assert data["hours"]["full"] is None
    assert made.lifts["tarn-skin"].hours.full.code == "wont-dry"
    assert data["warnings"][0]["code"] == "wont-dry"
    assert next(step for step in made.as_json()["steps"] if step["id"] == "tarn-skin")["wait_h"] is None


def test_a_colder_room_slows_the_week(tarn):
    def hours(temp):
        made = lifts_of({**tarn, "room": {"temp_c": temp, "rh": 0.5}})
        return made["tarn-skin"].hours.next.number, made["tarn-water"].hours.full.number

    assert all(cold > warm for cold, warm in zip(hours(14), hours(21), strict=True))


@pytest.mark.parametrize(("mix", "depth", "temp", "count"), [
    ("casting-resin", 9, 23, 1), ("casting-resin", 19, 23, 2), ("coating-resin", 9, 23, 2), ("deep-resin", 19, 23, 1),
])  # fmt: skip
def test_lifts_by_label(pond, mix, depth, temp, count):
    pond["forms"][1]["depth_mm"] = depth + 1
    pond["patches"][0]["lifts"][0] |= {"mix": mix, "level_mm": 24}
    pond["room"] = {"temp_c": temp, "rh": 0.5}
    layers = lifts_of(pond)["water"].layers
    assert len(layers) == count
    assert sum(layer.depth_mm.number for layer in layers) == pytest.approx(depth)
    assert all(layer.peak_c.number <= 60 for layer in layers)
    assert all(layer.peak_c.low < layer.peak_c.number < layer.peak_c.high for layer in layers)


def test_a_hot_room_takes_more_lifts(pond):
    pond["forms"][1]["depth_mm"] = 13
    pond["patches"][0]["lifts"][0] |= {"level_mm": 24}
    assert len(lifts_of(pond)["water"].layers) == 1
    assert len(lifts_of({**pond, "room": {"temp_c": 30, "rh": 0.5}})["water"].layers) > 1


def test_given_lifts_that_run_away_are_refused_and_hot_ones_warned(pond):
    pond["forms"][1]["depth_mm"] = 20
    pond["patches"][0]["lifts"][0] |= {"level_mm": 24, "lifts": [19]}
    with pytest.raises(Faults, match=r"lifts\[0\]\.lifts: a lift of 19 mm would run away to \d+ °C"):
        lifts_of({**pond, "room": {"temp_c": 23, "rh": 0.5}})
    pond["patches"][0]["lifts"][0] |= {"lifts": [12, 7]}
    warm = lifts_of({**pond, "room": {"temp_c": 28, "rh": 0.5}})["water"]
    assert "runs-hot" in {notice.code for notice in warm.warnings}


def test_pours_by_depth_and_by_volume_agree_with_level(pond):
    by_level = lifts_of(pond)["water"]
    lift = pond["patches"][0]["lifts"][0]
    del lift["level_mm"]
    by_depth = lifts_of(_with(pond, depth_mm=9.0))["water"]
    by_volume = lifts_of(_with(pond, volume_ml=by_level.volume_ml.number))["water"]
    assert by_depth.volume_ml.number == pytest.approx(by_level.volume_ml.number)
    assert by_volume.pools[0].level_mm.number == pytest.approx(24, abs=1e-3)


def _with(data, **fields):
    data = copy.deepcopy(data)
    data["patches"][0]["lifts"][0] |= fields
    return data


@given(st.floats(0.5, 2500))
@settings(max_examples=25)
def test_a_given_volume_is_in_pools_or_lost(volume):
    data = {
        "isostasis": 1,
        "name": "Two",
        "grid_mm": 5,
        "base": {"width_mm": 300, "depth_mm": 150},
        "forms": [
            {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 150), "thickness_mm": 25},
            {"id": "a", "kind": "basin", "outline": square(20, 20, 140, 130), "depth_mm": 9, "bank_deg": 60},
            {"id": "b", "kind": "basin", "outline": square(160, 20, 280, 130), "depth_mm": 12, "bank_deg": 60},
        ],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}, "lifts": [
            {"id": "water", "kind": "pour", "mix": "deep-resin", "volume_ml": volume, "at_mm": [80, 75]}]}],
    }  # fmt: skip
    water = lifts_of(data)["water"]
    pools = sum(pool.volume_ml.number for pool in water.pools)
    assert pools + water.lost_ml.number + water.drunk_ml.number == pytest.approx(volume, rel=1e-6)
    assert ("lost" in {notice.code for notice in water.warnings}) == (water.lost_ml.number > 0)


def test_a_hollow_counts_whole_for_the_patch_of_its_lowest_point(pond):
    pond["patches"] = [
        {
            "id": "west",
            "name": "West",
            "area": {"outline": square(60, 60, 110, 140)},
            "lifts": pond["patches"][0]["lifts"],
        },
        {"id": "bank", "name": "Bank", "area": {"rest": True}, "lifts": []},
    ]
    pond["forms"].append(
        {"id": "deep", "kind": "basin", "outline": square(80, 90, 90, 100), "depth_mm": 2, "bank_deg": 90}
    )
    whole = lifts_of(pond)["water"]
    assert whole.pools[0].area_mm2.number > 198 * 118 * 0.95


def test_low_ground_at_an_open_edge_is_no_hollow(pond):
    pond["forms"][0]["outline"] = square(20, 0, 300, 200)  # leaves a strip of bare board, at 0, to the west
    assert len(lifts_of(pond)["water"].pools) == 1


def test_a_dam_holds_to_its_height(pond):
    pond["forms"][1] |= {"outline": square(50, 0, 250, 160)}
    with pytest.raises(Faults, match=r"from 15 mm up it runs over the open south edge near .* dam the south edge"):
        lifts_of(pond)
    pond["base"]["dammed"] = ["south"]
    high = lifts_of(pond)["water"]
    assert "dam and tape off" in {window.what for window in high.windows}
    pond["base"]["dam_mm"] = 20
    with pytest.raises(Faults, match=r"from 20 mm up .* dam the south edge higher"):
        lifts_of(pond)


def test_a_tilted_board_is_told(pond):
    pond["base"]["tilt_mm_per_m"] = [4, 0]
    pond["patches"][0]["lifts"][0]["level_mm"] = 23
    water = lifts_of(pond)["water"]
    assert any(notice.code == "tilted" for notice in water.warnings)
    assert water.pools[0].deepest_mm.number == pytest.approx(8 + 0.36, abs=0.05)


def test_an_unsealed_bed_is_told(pond):
    water = pond["patches"][0]["lifts"]
    skin = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3}
    pond["patches"][0]["lifts"] = [skin, *water]
    assert "unsealed-bed" in {notice.code for notice in lifts_of(pond)["water"].warnings}
    pond["patches"][0]["lifts"] = [skin, {"id": "seal", "kind": "coat", "material": "acrylic-sealer"}, *water]
    assert "unsealed-bed" not in {notice.code for notice in lifts_of(pond)["water"].warnings}


def test_steps_wait_for_what_they_need(tarn):
    made = plan(resolved(tarn))
    steps = {step.id: step for step in made.steps}
    assert steps["tarn-skin"].after == ("form-hole",)
    assert steps["tarn-seal-2"].after == ("tarn-seal-1",)
    assert "tarn-seal-2" in steps["tarn-water"].after
    seen = set()
    for step in made.steps:
        assert set(step.after) <= set(steps)
        seen.add(step.id)
    assert steps["tarn-seal-1"].wait_h < steps["tarn-seal-2"].wait_h


def test_the_next_lift_has_a_window_in_which_it_bonds(pond):
    pond["forms"][1]["depth_mm"] = 20
    pond["patches"][0]["lifts"][0] |= {"level_mm": 24}
    steps = {step["id"]: step for step in plan(resolved(pond)).as_json()["steps"]}
    (window,) = steps["water-2"]["windows"]
    assert window["of"] == "water-1"
    assert window["from_h"] < window["to_h"]
    assert steps["water-1"]["wait_h"] == pytest.approx(window["from_h"])


def test_cautions_stand_at_the_steps_that_need_them(tarn):
    made = plan(resolved(tarn))
    codes = {caution.code: caution for caution in made.cautions}
    assert codes["resin-skin"].steps == ("tarn-water",)
    assert set(codes["powder-dust"].steps) == {"tarn-skin", "bank-skin"}
    assert all(step.startswith("form-") for step in codes["hot-wire-foam"].steps)
    assert {caution.code for caution in made.cautions_of("tarn-water")} >= {"resin-skin", "resin-cup"}


def test_copies_multiply_what_is_mixed_and_bought_not_one_copys_figures(pond):
    one, five = plan(resolved(pond)), plan(resolved({**pond, "copies": 5}))
    assert five.lifts["water"].volume_ml.number == pytest.approx(one.lifts["water"].volume_ml.number)
    need = {entry.material: entry.need.number for entry in five.buy}
    assert need["plywood-9"] == 5
    assert sum(batch.volume_ml.number for batch in five.batches) == pytest.approx(5 * five.lifts["water"].mix_ml.number)
    assert need["casting-resin"] == pytest.approx(5 * five.lifts["water"].mix_ml.number)


def test_a_form_switched_off_leaves_nothing(tarn):
    tarn["forms"][1]["off"] = True
    made = plan(resolved(tarn))
    assert "bank" not in made.forms
    assert made.patches["rest"].true_area_mm2.number == pytest.approx(34480, rel=0.01)


def test_a_given_level_by_itself_is_what_the_whole_plan_says(tarn):
    scene = resolved(tarn)
    alone = lift_alone(site_of(scene, "tarn-water"), scene.lift("tarn-water").model_copy(update={"level_mm": 22.5}))
    tarn["patches"][0]["lifts"][2]["level_mm"] = 22.5
    assert alone.plan == plan(resolved(tarn)).lifts["tarn-water"]


def test_the_fold_raises_the_ground_by_what_is_laid(tarn):
    built = build(resolved(tarn))
    stages = built.stages
    for name in ("tarn-skin", "bank-skin"):
        rise = stages[name].after.z - stages[name].site.ground.z
        assert (rise[stages[name].site.cover.mask] >= 2.999).all()
        assert (rise[~stages[name].site.cover.mask] == 0).all()
    assert stages["tarn-seal"].after is stages["tarn-seal"].site.ground
    wet = stages["tarn-water"].after.z > stages["tarn-water"].site.ground.z
    assert np.unique(stages["tarn-water"].after.z[wet]) == pytest.approx(24)
    # A pour sees the skins of other patches, though they are listed after it.
    assert stages["tarn-water"].site.ground.column(95, 5)[-1] == ("paper-plaster", pytest.approx(5))


def test_a_later_patch_does_not_see_what_goes_over_an_earlier_pour(tarn):
    tarn["patches"][0]["lifts"].append({"id": "over", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4})
    built = build(resolved(tarn))
    row, column = built.bare.cell_at(150, 80)
    assert built.finished.z[row, column] == pytest.approx(28)
    assert built.stages["tarn-water"].after.z[row, column] == pytest.approx(24)


def test_a_stepped_skin_fills_first(pond):
    pond["forms"] = [
        {"id": f"s{step}", "kind": "sheet", "outline": square(40 * step, 0, 300, 200), "thickness_mm": 25}
        for step in range(4)
    ]
    pond["patches"][0]["lifts"] = [
        {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3, "fill_steps_deg": 32}
    ]
    skin = lifts_of(pond)["skin"]
    fill = next(term for term in skin.volume_ml.working if term.what.startswith("fill"))
    assert fill.value == pytest.approx(3 * 25 * 40 / 2 * 200 / 1000, rel=0.02)
    assert "may-crack" in {notice.code for notice in skin.warnings}


def test_a_caution_is_told_in_full_once_a_visit():
    made = plan(resolved(scene_data()))
    steps = [step for step in made.steps if step.lift]
    told = told_once((step.id, made.cautions_of(step.id)) for step in steps)
    full = [caution.code for rows in told.values() for caution, again in rows if not again]
    assert len(full) == len(set(full)) > 1
    assert any(again for rows in told.values() for _, again in rows)
