"""Shells and skins: cloth cut from rolls, compounds by purpose and in courses, faces, and what balances."""

from math import ceil

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import Dries, Material, Mix, Part, Sets, shipped
from isostasis.core.fault import Faults
from isostasis.core.hardening.climate import Climate
from isostasis.core.hardening.drying import hours_to_share
from isostasis.core.hardening.setting import dry_strength
from isostasis.core.lifts.kinds.shell.cloth import LEAST_STRIP, OVERLAP_MM, SPARE, covered_by, cutting_plan
from isostasis.core.mixing.consistency import for_purpose
from isostasis.core.mixing.parts import BOUND_WATER, amounts, water_ratio, wet
from isostasis.core.plan import plan
from tests.support.layups import heap
from tests.support.scenes import resolved, square

LABELS = shipped()
ROLLS = st.tuples(st.floats(600, 6000), st.floats(80, 400))
TUBS = st.tuples(st.floats(150, 500), st.floats(100, 400))


@given(st.floats(1000, 3e6), st.integers(1, 4), ROLLS, TUBS)
@settings(max_examples=150)
def test_no_strip_leaves_its_roll_and_no_roll_is_wasted(area, layers, roll, tub):
    cuts = cutting_plan(area, layers, roll, tub)
    length, width = roll
    assert cuts.lanes * cuts.width_mm == pytest.approx(width)
    for strips in cuts.rolls:
        for lane in range(cuts.lanes):
            at = 0.0
            for strip in (one for one in strips if one.lane == lane):
                assert strip.begin_mm == pytest.approx(at)
                assert LEAST_STRIP * OVERLAP_MM - 1e-6 <= strip.length_mm <= cuts.length_mm + 1e-9
                at += strip.length_mm
            assert at <= length + 1e-6
    assert cuts.covers_mm2 >= layers * area * SPARE - 1e-6
    # The bound: so many whole rolls as the strips' cloth fills, were nothing left over at their ends.
    whole = covered_by(cuts.width_mm, cuts.length_mm) / (cuts.width_mm * cuts.length_mm)
    short_of = 1 - (length % cuts.length_mm if length % cuts.length_mm < LEAST_STRIP * OVERLAP_MM else 0.0) / length
    bound = ceil(layers * area * SPARE / (whole * length * width) - 1e-9)
    assert len(cuts.rolls) <= ceil(bound / min(short_of, 1.0) * 1.25) + 1


@given(st.floats(2e4, 2e6), st.integers(1, 3))
@settings(max_examples=60)
def test_with_the_usual_roll_and_tub_the_rolls_are_the_bound_or_one_more(area, layers):
    cuts = cutting_plan(area, layers, (3000, 200), (300, 200))
    bound = ceil(layers * area * SPARE / (covered_by(200, 300) / (200 * 300) * 3000 * 200) - 1e-9)
    assert bound <= len(cuts.rolls) <= bound + 1


def test_strips_of_a_tub():
    assert covered_by(150, 300) == 36_400
    cuts = cutting_plan(100_000, 2, (3000, 200), (320, 150))
    assert (cuts.lanes, cuts.width_mm, cuts.length_mm) == (2, 100, 320)
    assert cuts.count == ceil(2 * 100_000 * 1.05 / covered_by(100, 320))
    with pytest.raises(ValueError, match="takes no strip wider than its overlap of 20 mm"):
        cutting_plan(1000, 1, (3000, 200), (300, 20))


def test_a_shell_is_true_area_times_layers():
    made = plan(resolved(heap()))
    shell, area = made.lifts["cloth"], made.patches["all"].true_area_mm2.number
    assert shell.volume_ml.number == pytest.approx(area * 2 / 1000)
    assert len(shell.layers) == 2
    assert shell.strips.count.number == ceil(2 * area * 1.05 / covered_by(200, 300)) or shell.strips.rolls.number > 1
    assert shell.mix_ml.number > shell.volume_ml.number * 1.05
    cloth, water = shell.ingredients
    assert water.mass_g.number == pytest.approx(1.1 * cloth.mass_g.number)
    assert shell.hours.workable.number == pytest.approx(6 / 2 / 60 * 0.97, rel=0.01)
    assert shell.hours.next.number < shell.hours.full.number
    steps = {step.id: step for step in made.steps}
    assert steps["cloth-2"].after == ("cloth-1",)
    assert steps["cloth-1"].wait_h == pytest.approx(6 / 60 * 0.97, rel=0.01)
    assert "strips of 300 × 200 mm" in steps["cloth-1"].do
    assert not [batch for batch in made.batches if batch.feeds[0].lift == "cloth"]
    assert made.lifts["skin"].volume_ml.number > 4 * area / 1000 * 0.97
    needs = {need.material: need for need in made.buy}
    assert needs["plaster-cloth"].unit == "mm2"
    assert needs["plaster-cloth"].need.number == pytest.approx(shell.mix_ml.number * 1000, rel=0.01)
    assert {"plaster-heat", "powder-dust"} <= {caution.code for caution in made.cautions_of("cloth-1")}


def test_what_a_shell_warns_of():
    def codes(**shell):
        return {notice.code for notice in plan(resolved(heap(**shell))).lifts["cloth"].warnings}

    assert {"thirsty-timber", "board-warps"} <= codes()
    assert "paper-sags" not in codes()
    assert "paper-sags" in codes(layers=1)
    data = heap()
    data["copies"] = 40
    assert "change-the-tub" in {notice.code for notice in plan(resolved(data)).lifts["cloth"].warnings}
    data = heap(material="foam-xps")
    with pytest.raises(Faults, match=r"lifts\[0\]\.material: 'foam-xps' is no cloth on a roll"):
        plan(resolved(data))
    data = heap()
    data["bench"] = {"tub_mm": [200, 15]}
    with pytest.raises(Faults, match="takes no strip wider than its overlap"):
        plan(resolved(data))


def skin_plan(mix="paper-plaster", room=None, **fields):
    data = heap()
    data["patches"][0]["lifts"] = [{"id": "skin", "kind": "skin", "mix": mix, "depth_mm": 4, **fields}]
    if room:
        data["room"] = room
    return plan(resolved(data))


def test_consistency_changes_water_set_and_slump():
    floor, general, cliff = (skin_plan(consistency=one).lifts["skin"] for one in ("floor", "general", "cliff"))
    water = [
        next(part for part in lift.ingredients if part.material == "water").mass_g.number / lift.mass_g.number
        for lift in (floor, general, cliff)
    ]
    assert water[0] > water[1] > water[2]
    assert floor.hours.workable.number > general.hours.workable.number > cliff.hours.workable.number
    assert "spreads to about 90 mm" in floor.look_for[2]
    assert "spreads to about 45 mm" in cliff.look_for[2]
    assert "sags" in {notice.code for notice in floor.warnings}
    assert floor.volume_ml.number == pytest.approx(cliff.volume_ml.number)


def test_a_skin_in_courses_dries_sooner_and_does_not_crack():
    one, four = skin_plan(depth_mm=20), skin_plan(depth_mm=20, courses=4)
    assert "may-crack" in {notice.code for notice in one.lifts["skin"].warnings}
    assert "may-crack" not in {notice.code for notice in four.lifts["skin"].warnings}
    assert [layer.depth_mm.number for layer in four.lifts["skin"].layers] == [5] * 4
    assert sum(layer.volume_ml.number for layer in four.lifts["skin"].layers) == pytest.approx(four.lifts["skin"].volume_ml.number)  # fmt: skip
    waits = [step.wait_h for step in four.steps if step.lift == "skin"]
    assert len(waits) == 4
    # Each course has what the one below still holds to lose as well: the waits grow, to 1 / (1 - 0.35) of the first.
    assert waits == sorted(waits)
    assert waits[1] == pytest.approx(1.35 * waits[0])
    through = four.lifts["skin"].hours.full.number
    assert sum(waits[:-1]) + through < one.lifts["skin"].hours.full.number
    assert len([batch for batch in four.batches if batch.feeds[0].layer == 3]) >= 1


@pytest.mark.parametrize("mix", [mix.id for mix in LABELS.mixes.values() if mix.family == "skin"])
def test_every_compound_can_be_planned(mix):
    made = skin_plan(mix, depth_mm=1)
    lift = made.lifts["skin"]
    assert lift.mix_ml.number > lift.volume_ml.number
    assert lift.hours.full.number > 0
    assert any("spoonful" in line for line in lift.look_for)


def test_warnings_of_skins():
    def codes(**fields):
        return {notice.code for notice in skin_plan(**fields).lifts["skin"].warnings}

    assert "sets-hot" in codes(mix="plaster-2-3", depth_mm=60)
    wet_mix = {
        "id": "slop",
        "name": "Slop",
        "family": "skin",
        "source": "a test's own recipe",
        "ingredients": [{"material": "plaster", "parts": 1}, {"material": "water", "parts": 2}],
    }
    data = heap()
    data["mixes"] = [wet_mix]
    data["patches"][0]["lifts"] = [{"id": "skin", "kind": "skin", "mix": "slop", "depth_mm": 4}]
    assert "chalky" in {notice.code for notice in plan(resolved(data)).lifts["skin"].warnings}


def test_a_face_has_amounts_and_hours_and_no_place():
    data = heap()
    data["patches"].append({"id": "wall", "name": "Wall", "area": {"face_mm2": 9000, "slope_deg": 90}, "lifts": [
        {"id": "wall-cloth", "kind": "shell", "material": "plaster-cloth"},
        {"id": "wall-skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 5},
        {"id": "wall-paint", "kind": "coat", "material": "acrylic-sealer"}]})  # fmt: skip
    made = plan(resolved(data))
    assert made.patches["wall"].true_area_mm2.number == 9000
    assert made.patches["wall"].plan_area_mm2.number == pytest.approx(0, abs=1e-6)
    assert made.lifts["wall-skin"].volume_ml.number == pytest.approx(45)
    assert made.lifts["wall-cloth"].volume_ml.number == pytest.approx(9)
    assert made.lifts["wall-paint"].volume_ml.number > 0
    without = plan(resolved(heap()))
    assert (made.built.finished.z == without.built.finished.z).all()
    data["patches"][-1]["lifts"].append({"id": "wet", "kind": "pour", "mix": "casting-resin", "depth_mm": 3})
    with pytest.raises(Faults, match="Wall owns no ground to pour on"):
        plan(resolved(data))


PARTS = st.lists(st.floats(0.2, 5), min_size=3, max_size=3)


def mixture(parts, hemihydrate=0.8, solids=0.5):
    materials = {
        "p": Material(id="p", name="P", family="powder", density=0.9, particle_density=2.5, hemihydrate=hemihydrate, source="test"),
        "water": LABELS.materials["water"],
        "g": Material(id="g", name="G", family="binder", density=1.1, dries=Dries(solids=solids), source="test"),
    }  # fmt: skip
    mix = Mix(
        id="m", name="M", family="skin", source="test", sets=Sets(set_min=20, water_ratio=0.6),
        ingredients=tuple(Part(material=name, parts=part) for name, part in zip(materials, parts, strict=True)),
    )  # fmt: skip
    return mix, materials


@given(PARTS, st.floats(0, 1), st.floats(0.1, 0.9), st.floats(1, 5000))
@settings(max_examples=80)
def test_water_in_is_bound_and_free(parts, hemihydrate, solids, volume):
    mix, materials = mixture(parts, hemihydrate, solids)
    out = {one.material: one for one in amounts(mix, materials, volume)}
    water_in = out["water"].mass_g + out["g"].mass_g * (1 - solids)
    bound = min(BOUND_WATER * out["p"].mass_g * hemihydrate, water_in)
    free = wet(mix, materials).free_water_g_per_ml * volume
    assert bound + free == pytest.approx(water_in, rel=1e-6, abs=1e-9)
    assert sum(one.mass_g for one in out.values()) == pytest.approx(wet(mix, materials).density * volume)


@given(
    st.sampled_from(["paper-plaster", "plaster-2-3", "filler-grout-render", "joint-compound", "foam-putty"]),
    st.floats(0.5, 30),
    st.integers(1, 4),
)
@settings(max_examples=25)
def test_ingredients_in_are_placed_and_left_behind(mix, depth, courses):
    lift = skin_plan(mix, depth_mm=depth, courses=courses).lifts["skin"]
    left = next(term.value for term in lift.mix_ml.working if term.what.startswith("left in"))
    assert lift.mix_ml.number == pytest.approx(lift.volume_ml.number + left)
    assert sum(part.mass_g.number for part in lift.ingredients) == pytest.approx(lift.mass_g.number)


@given(st.floats(1, 40), st.floats(1, 40), st.floats(0.1, 0.95), st.floats(0.1, 0.95), st.floats(5, 35))
@settings(max_examples=80)
def test_damper_and_thicker_never_dry_sooner(one, other, rh, rh_other, temp):
    def hours(depth, damp):
        found = hours_to_share(440 * depth, depth, 4e-9, Climate((0.0,), (temp,), (damp,)), 0.05)
        return float("inf") if found is None else found

    thin, thick, dry, damp = min(one, other), max(one, other), min(rh, rh_other), max(rh, rh_other)
    assert hours(thin, dry) <= hours(thick, dry) + 1e-9
    assert hours(thin, dry) <= hours(thin, damp) + 1e-9


@given(st.sampled_from(["paper-plaster", "plaster-2-3", "filler-grout-render", "hard-putty"]))
def test_stiffer_is_never_weaker(name):
    ratios = [water_ratio(for_purpose(LABELS.mixes[name], one, LABELS.materials), LABELS.materials) for one in ("cliff", "general", "floor")]  # fmt: skip
    strengths = [dry_strength(ratio) for ratio in ratios]
    assert ratios == sorted(ratios)
    assert strengths == sorted(strengths, reverse=True)
    assert (dry_strength(0.6), dry_strength(0.8)) == (pytest.approx(14.4, abs=0.05), pytest.approx(8.3, abs=0.05))


def test_warm_cold_and_clouded_water_change_the_set():
    room, warm, cold, clouded = (
        skin_plan(**more).lifts["skin"].hours.workable.number
        for more in ({}, {"water_c": 40}, {"water_c": 5}, {"clouded": True})
    )
    assert warm < room < cold
    assert clouded == pytest.approx(0.6 * room)
    assert plan(resolved(heap(water_c=35))).lifts["cloth"].hours.workable.number < plan(resolved(heap())).lifts["cloth"].hours.workable.number  # fmt: skip
    with pytest.raises(Faults, match="water_c: 95 does not fit; it must be at most 60"):
        skin_plan(water_c=95)


def test_a_skin_is_coloured_through():
    made = skin_plan(tint=[{"material": "paint-earth", "drops_per_100_ml": 40}])
    lift = made.lifts["skin"]
    drops = next(part for part in lift.ingredients if part.drops)
    assert drops.drops.number == pytest.approx(0.4 * lift.mix_ml.number)
    assert lift.mass_g.number == pytest.approx(sum(part.mass_g.number for part in lift.ingredients))
    assert "paint-earth" in {need.material for need in made.buy}


def test_skins_of_other_colours_are_not_mixed_in_one_bowl():
    data = heap()
    data["patches"] = [
        {"id": "west", "name": "West", "area": {"outline": square(50, 0, 140, 300)}, "lifts": [
            {"id": "a", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3, "tint": [{"material": "paint-earth", "drops_per_100_ml": 40}]}]},
        {"id": "east", "name": "East", "area": {"rest": True}, "lifts": [{"id": "b", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3}]},
    ]  # fmt: skip
    assert all(len(batch.feeds) == 1 for batch in plan(resolved(data)).batches)
    data["patches"][1]["lifts"][0]["tint"] = data["patches"][0]["lifts"][0]["tint"]
    made = plan(resolved(data))
    assert {feed.lift for feed in made.batches[0].feeds} == {"a", "b"}
    for lift in made.lifts.values():
        assert next(part for part in lift.ingredients if part.drops).drops.number == pytest.approx(
            0.4 * lift.mix_ml.number
        )


def test_a_mix_in_which_nothing_binds_is_refused():
    data = heap()
    data["mixes"] = [{"id": "mud", "name": "Mud", "family": "skin", "source": "a test's own recipe", "ingredients": [
        {"material": "stone-dust", "parts": 2}, {"material": "water", "parts": 1}]}]  # fmt: skip
    data["patches"][0]["lifts"] = [{"id": "skin", "kind": "skin", "mix": "mud", "depth_mm": 4}]
    with pytest.raises(Faults, match=r"lifts\[0\]\.mix: nothing in 'mud' binds: no plaster, glue or paste; add one"):
        plan(resolved(data))


def test_two_hundred_millimetres_are_laid_and_warned_of_and_more_are_not():
    assert {"may-crack", "sets-hot"} <= {
        notice.code for notice in skin_plan("plaster-2-3", depth_mm=200).lifts["skin"].warnings
    }
    with pytest.raises(Faults, match="depth_mm: 201 does not fit; it must be at most 200"):
        skin_plan(depth_mm=201)


def test_windows_of_a_skin():
    windows = {window.what: window for window in skin_plan().lifts["skin"].windows}
    hours = skin_plan().lifts["skin"].hours
    assert windows["sand, seal"].from_h == pytest.approx(hours.full.number)
    assert windows["colour on the damp face"].from_h < windows["colour on the dry face, build on it"].from_h


def test_a_skin_that_thins_to_a_feather_edge():
    def strip(**fields):
        data = heap()
        data["forms"] = data["forms"][:1]
        data["base"]["board"] = "plywood-9"
        data["patches"] = [{"id": "west", "name": "West", "area": {"rest": True}}, {
            "id": "east", "name": "East", "area": {"outline": square(200, 0, 400, 300)}, "lifts": [
                {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 6, **fields}]}]  # fmt: skip
        return plan(resolved(data))

    full, thin = strip(), strip(feather_mm=100)
    # Along 100 of its 200 mm it is half as thick on the mean: three quarters of the volume.
    assert thin.lifts["skin"].volume_ml.number == pytest.approx(0.75 * full.lifts["skin"].volume_ml.number, rel=0.005)
    stage = thin.built.stages["skin"]
    rise = (stage.after.z - stage.site.ground.z)[30]
    assert rise[39] == 0 and rise[40] == pytest.approx(6 * 2.5 / 100) and rise[79] == 6
    assert (rise[40:60] == sorted(rise[40:60])).all()
    placed = float((stage.after.z - stage.site.ground.z).sum()) * 25 / 1000
    assert thin.lifts["skin"].volume_ml.number == pytest.approx(placed, rel=0.01)
