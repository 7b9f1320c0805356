"""Textures and what fixes them: strewn volume, voids, passes, hold; and that nothing gets lost on the way."""

from math import ceil, radians, tan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.alternatives import alternatives
from isostasis.core.catalogue import shipped
from isostasis.core.fault import Faults
from isostasis.core.hardening.climate import Climate
from isostasis.core.hardening.drying import open_hours
from isostasis.core.mixing.grains import bed_of, hold_words, taken_up
from isostasis.core.mixing.parts import wet
from isostasis.core.plan import plan
from tests.support.layups import BINDERS, LABELS, WETTING, board, codes, fix, lifts_of, texture
from tests.support.scenes import resolved, square

BLENDS = sorted(name for name, mix in LABELS.mixes.items() if mix.family == "texture")


def test_strewn_on_the_flat_a_tenth_falls_beside():
    made = lifts_of(texture())["bed"]
    assert made.volume_ml.number == pytest.approx(300 * 200 * 4 / 1000)
    assert made.mix_ml.number == pytest.approx(240 / 0.9, rel=0.01)
    assert made.strewn.lost_ml.number == pytest.approx(made.mix_ml.number - 240)
    assert 0 < made.strewn.swept_ml.number < made.strewn.lost_ml.number
    assert sum(part.volume_ml.number for part in made.ingredients) == pytest.approx(made.mix_ml.number)
    assert made.hours.workable.value is None and made.hours.workable.code == "no-limit"
    assert made.hours.next.number == 0
    assert lifts_of(texture(cover=0.4))["bed"].volume_ml.number == pytest.approx(96)


def test_on_a_slope_more_falls_beside():
    ramp = {"id": "hill", "kind": "ramp", "path": [[0, 100], [300, 100]], "width_mm": 200, "start_mm": 25,
            "end_mm": 25 + 300 * tan(radians(22.5))}  # fmt: skip
    made = lifts_of(texture(), forms=[ramp])["bed"]
    assert made.mix_ml.number == pytest.approx(made.volume_ml.number / 0.75, rel=0.01)
    steep = {**ramp, "end_mm": 25 + 300 * tan(radians(44))}
    assert "rolls-off" in codes(lifts_of(texture(), forms=[steep])["bed"])
    assert "rolls-off" not in codes(lifts_of(texture(school="glue-twice"), forms=[steep])["bed"])


def test_glue_alone_holds_little_more_than_a_grain():
    made = lifts_of(texture(school="onto-glue"))["bed"]
    grain = bed_of(LABELS.mixes["quarry-dust"], LABELS.materials).grain_mm
    assert made.strewn.held_mm.number == pytest.approx(1.2 * grain)
    assert made.volume_ml.number == pytest.approx(60 * 1.2 * grain)
    assert "holds-a-grain" in codes(made)
    key = made.ingredients[-1]
    assert (key.material, key.volume_ml.number) == ("white-glue", pytest.approx(60_000 * 0.15 / 1000))
    # Open until a third of the water of 0.15 mm of white glue has left; then so much at a time.
    hours = open_hours(0.15 * 1.08 * 0.55 * 1000, Climate((0,), (21,), (0.5,)))
    assert made.hours.workable.number == pytest.approx(hours)
    assert made.strewn.at_a_time_mm2.number == pytest.approx(hours * 60 * 30_000)
    for copies, part in ((1, "all in one go"), (50, "cm² at a time")):
        many = plan(resolved({**board(texture(school="onto-glue")), "copies": copies}))
        assert part in next(step.do for step in many.steps if step.lift == "bed")
    with pytest.raises(Faults, match="'plaster' is no glue or paint to strew on"):
        lifts_of(texture(school="onto-glue", key="plaster"))


def test_a_straightedge_fills_what_lies_lower_and_leaves_the_rest():
    dip = {"id": "dip", "kind": "basin", "outline": square(130, 80, 170, 120), "depth_mm": 3, "bank_deg": 90}
    data = board(texture(straightedge_mm=120), forms=[dip])
    made = plan(resolved(data))
    ground = made.built.stages["bed"].after
    assert ground.z[5:-5, 5:-5] == pytest.approx(np.full((30, 50), 29.0))
    assert made.lifts["bed"].volume_ml.number == pytest.approx(240 + 40 * 40 * 3 / 1000, rel=0.03)
    assert "120 mm" in next(step.do for step in made.steps if step.lift == "bed")
    plain = plan(resolved(board(texture(), forms=[dip]))).built.stages["bed"].after.z
    assert plain[20, 30] == pytest.approx(26)


def test_voids_wetting_and_glue():
    made = lifts_of(texture(mix="ballast", depth_mm=10), fix())["glue"]
    space = 600 * 0.42
    assert made.fixing.wetting_ml.number == pytest.approx(0.3 * space)
    assert made.fixing.binder_ml.number == pytest.approx(0.6 * space)
    assert made.volume_ml.number == pytest.approx(0.9 * space)
    assert made.mix_ml.number > made.volume_ml.number
    assert made.fixing.passes.number == 1
    # 1:1 by volume, solids 0.45 of 1.08 g a ml.
    assert made.fixing.hold.number == pytest.approx(0.6 * 0.42 * 1.08 * 0.45 / 2)
    dry = lifts_of(texture(mix="ballast", depth_mm=10), fix(wetting=None))["glue"]
    assert dry.fixing.binder_ml.number == pytest.approx(0.9 * space)
    assert dry.fixing.wetting_ml.number == 0


def test_fines_take_more_passes_and_unwetted_they_stay_loose_below():
    def passes(mix, depth, **fields):
        return lifts_of(texture(mix=mix, depth_mm=depth), fix(**fields))["glue"].fixing.passes.number

    assert [passes("sand", depth) for depth in (6, 7, 12, 13)] == [1, 2, 2, 3]
    assert passes("sifted-soil", 8) == 2
    assert passes("road-fines", 6) == 3
    dry = lifts_of(texture(mix="road-fines", depth_mm=6), fix(wetting=None))["glue"]
    assert dry.fixing.passes.number == 1
    assert dry.fixing.reach_mm.number == pytest.approx(2 / 3)
    assert dry.fixing.hold_bottom.number == 0 < dry.fixing.hold.number
    assert [notice.text for notice in dry.warnings if notice.code == "loose-below"] == [
        "Unwetted it binds 0.67 of 6 mm and stays loose below: wet it first."
    ]
    assert passes("snow", 6, by="spray") == 2  # 3 mm a wet spray
    assert passes("sand", 6, by="spray") == 2
    assert passes("sand", 6, by="brush") == 4
    steps = [
        step for step in plan(resolved(board(texture(mix="sand", depth_mm=12), fix()))).steps if step.lift == "glue"
    ]
    assert [step.id for step in steps] == ["glue-1", "glue-2"]
    assert steps[0].do.endswith("pass 1 of 2") and steps[0].wait_h > 1


def test_what_a_fix_warns_of():
    assert "beads" in codes(lifts_of(texture(mix="sand", depth_mm=1), fix(wetting=None))["glue"])
    assert "blows-about" in codes(lifts_of(texture(mix="snow", depth_mm=1), fix(by="spray"))["glue"])
    thin = {"id": "weak", "name": "Weak", "family": "binder", "source": "test", "ingredients": [
        {"material": "white-glue", "parts": 1}, {"material": "water", "parts": 12}]}  # fmt: skip
    weak = {**board(texture(), fix(mix="weak")), "mixes": [thin]}
    assert "fragile" in codes(plan(resolved(weak)).lifts["glue"])
    assert [hold_words(one) for one in (0.029, 0.03, 0.079, 0.08)] == ["fragile", "sound", "sound", "hard"]
    assert "wont-dry" in codes(lifts_of(texture(), fix(), room={"temp_c": 15, "rh": 1})["glue"])


def test_snow_goes_on_in_thin_layers():
    assert "snow-loose" in codes(lifts_of(texture(mix="snow", depth_mm=4))["bed"])
    assert "snow-loose" not in codes(lifts_of(texture(mix="snow", depth_mm=1.5))["bed"])


def test_every_school_of_strewing_is_the_plan_with_it():
    data = board(texture(mix="ballast", depth_mm=5))
    found = alternatives(resolved(data), "bed", shipped())
    for school, one in found.items():
        made = lifts_of(texture(mix="ballast", depth_mm=5, school=school))["bed"]
        assert one.figures["amount"].number == pytest.approx(made.mix_ml.number)
        assert one.figures["held_mm"].number == made.strewn.held_mm.number
        assert (one.figures["key_ml"] is None) == (school == "dry")
    assert found["onto-glue"].figures["held_mm"].number < 5 == found["dry"].figures["held_mm"].number


def test_solids_over_one_are_refused():
    thick = {"id": "g", "name": "G", "family": "binder", "density": 1, "source": "x", "dries": {"solids": 1.2}}
    with pytest.raises(Faults, match=r"materials\[0\]\.dries\.solids: 1.2 does not fit; it must be at most 1"):
        resolved({**board(texture()), "materials": [thick]})


def test_a_wet_bed_below_blocks_the_fix():
    skin = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 5}
    made = plan(resolved(board(skin, texture(), fix())))
    step = next(step for step in made.steps if step.id == "glue-1")
    (window,) = step.windows
    assert (window.of, window.from_h) == ("skin", made.lifts["skin"].hours.full.number)
    assert made.lifts["skin"].hours.next.number < window.from_h
    assert "wet-bed" in codes(made.lifts["glue"])
    assert "alcohol-flame" in {caution.code for caution in made.cautions_of("glue-1")}


@pytest.mark.parametrize(("lifts", "said"), [
    ([fix()], "there is no texture just beneath to fix"),
    ([texture(), {"id": "c", "kind": "coat", "material": "paint-earth"}, fix()], "no texture just beneath"),
    ([texture(mix="glue-water-1-1")], "'glue-water-1-1' is no dry blend: it holds white glue"),
    ([texture(), fix(mix="sand")], "'sand' binds nothing"),
    ([texture(), fix(wetting="glue-water-1-1")], "'glue-water-1-1' wets nothing"),
    ([texture(), fix(by="hose")], "by"),
    ([texture(cover=0)], "cover: 0 does not fit; it must be above 0"),
    ([texture(depth_mm=101)], "it must be at most 100"),
])  # fmt: skip
def test_what_cannot_be_strewn_or_fixed(lifts, said):
    with pytest.raises(Faults, match=said.replace("(", r"\(")):
        lifts_of(*lifts)


def test_two_fixes_are_for_the_same_texture():
    made = lifts_of(texture(mix="ballast"), fix(), fix(id="again", wetting=None))
    stays = wet(LABELS.mixes["glue-water-1-1"], LABELS.materials).stays
    left = 0.42 * (1 - 0.6 * stays)  # what the first has left of the voids
    assert made["again"].fixing.binder_ml.number == pytest.approx(240 * left * 0.9)


def test_textures_of_one_blend_share_their_bowls():
    other = {
        "id": "west",
        "name": "West",
        "area": {"outline": square(0, 0, 100, 200)},
        "lifts": [texture(id="west-bed")],
    }
    made = plan(resolved(board(texture(school="glue-twice"), patches=[other])))
    fed = [feed.lift for batch in made.batches for feed in batch.feeds]
    assert fed == ["bed", "west-bed"]
    assert sum(batch.volume_ml.number for batch in made.batches) == pytest.approx(240 / 0.9, rel=0.01)
    assert made.lifts["bed"].ingredients[-1].material == "white-glue"
    assert made.lifts["bed"].mix_ml.number == pytest.approx(160 / 0.9, rel=0.01)


@given(st.sampled_from(BLENDS), st.floats(0.5, 30), st.floats(0.1, 1), st.sampled_from(BINDERS),
       st.sampled_from([*WETTING, None]), st.integers(1, 5))  # fmt: skip
@settings(max_examples=40, deadline=None)
def test_masses_and_voids_balance(blend, depth, cover, binder, wetting, copies):
    scene = resolved(
        board(texture(mix=blend, depth_mm=depth, cover=cover), fix(mix=binder, wetting=wetting), copies=copies)
    )
    made = plan(scene)
    bed, glue = made.lifts["bed"], made.lifts["glue"]
    labels = {one.id: one for one in scene.materials}
    # Strewn = in place + beside; every ml of blend is weighed out of its ingredients.
    assert bed.mix_ml.number == pytest.approx(bed.volume_ml.number + bed.strewn.lost_ml.number)
    mix = next(one for one in scene.mixes if one.id == blend)
    assert bed.mass_g.number == pytest.approx(bed.mix_ml.number * wet(mix, labels).density)
    # What is taken up never overfills the voids, and is no more than nine tenths of them.
    space = bed.volume_ml.number * bed_of(mix, labels).voids
    bound = min(1, glue.fixing.reach_mm.number * glue.fixing.passes.number / depth)
    assert glue.volume_ml.number == pytest.approx(0.9 * space * bound)
    assert bound == 1 or (wetting is None and glue.fixing.hold_bottom.number == 0)
    # Ingredients in = taken up + left behind, for liquids that keep their volume.
    measured = sum(part.volume_ml.number for part in glue.ingredients)
    assert measured == pytest.approx(glue.mix_ml.number)
    assert glue.mix_ml.number >= glue.volume_ml.number
    batched = sum(batch.volume_ml.number for batch in made.batches if batch.feeds[0].lift == "glue")
    assert batched == pytest.approx(glue.mixed_ml * copies)
    assert len(glue.layers) * glue.layers[0].volume_ml.number == pytest.approx(glue.volume_ml.number)


@given(st.sampled_from(BLENDS), st.floats(0.5, 20), st.floats(1.01, 3))
@settings(max_examples=30, deadline=None)
def test_a_thicker_bed_never_needs_fewer_passes_and_never_dries_sooner(blend, depth, times):
    thin, thick = (lifts_of(texture(mix=blend, depth_mm=one), fix())["glue"] for one in (depth, depth * times))
    assert thick.fixing.passes.number >= thin.fixing.passes.number
    assert thick.fixing.passes.number == ceil(depth * times / thick.fixing.reach_mm.number - 1e-9)
    assert thick.fixing.hold.number == pytest.approx(thin.fixing.hold.number)


def test_taking_up_is_bounded():
    for args in ((-1, 0.4, 0.3), (10, 1.0, 0.3), (10, 0.4, 0.95), (10, 0.4, 0.3, 1.2)):
        with pytest.raises(ValueError):
            taken_up(*args)
    assert sum(taken_up(100, 0.4, 0.3, left=0.0)) == pytest.approx(100 * 0.4 * 1.2)
