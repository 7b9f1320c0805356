"""What the surface will look like, schools of fixing side by side, bands of a bed, gradients and sieves."""

import numpy as np
import pytest

from isostasis.core.alternatives import alternatives
from isostasis.core.catalogue import shipped
from isostasis.core.colour.blend import gradient_recipes
from isostasis.core.colour.light import hexed, linear, wet_look
from isostasis.core.lifts.areas import true_area
from isostasis.core.lifts.colours import FOAM, colour_of
from isostasis.core.lifts.drinking import drinks
from isostasis.core.lifts.kinds.pour.bands import bands
from isostasis.core.lifts.labels import Labels
from isostasis.core.mixing.grains import sack_for
from isostasis.core.plan import plan
from isostasis.core.surface import looks, surface
from tests.support.layups import BINDERS, GLOSS, LABELS, POND, RESIN, SKIN, WETTING, board, coat, fix, texture
from tests.support.scenes import resolved


def seen(*lifts, stage="finished", wet=False, **fields):
    scene = resolved(board(*lifts, **fields))
    return hexed(surface(scene, plan(scene).built, stage, wet)[20, 30])


def test_each_stage_shows_what_lies_on_top():
    lifts = [SKIN, texture(id="bed"), fix(), coat(coats=2)]
    assert seen(*lifts, stage="bare") == LABELS.materials["foam-xps"].colour
    assert seen(*lifts, stage="skin") == LABELS.mixes["paper-plaster"].colour
    scene = resolved(board(*lifts))
    dust = colour_of(LABELS.mixes["quarry-dust"], Labels.of(scene))
    assert seen(*lifts, stage="bed") == seen(*lifts, stage="glue") == hexed(dust)
    painted = linear(seen(*lifts))
    assert np.abs(painted - linear(LABELS.materials["paint-earth"].colour)).max() < 0.01
    assert seen(*lifts, GLOSS) == seen(*lifts)  # clear
    assert linear(seen(*lifts, stage="bed", wet=True)) == pytest.approx(wet_look(dust), abs=0.005)
    with pytest.raises(KeyError):
        seen(*lifts, stage="nothing")


def test_gaps_and_washes_let_what_is_beneath_show():
    skin, dust = linear(seen(SKIN)), linear(seen(SKIN, texture()))
    assert linear(seen(SKIN, texture(cover=0.25))) == pytest.approx(0.25 * dust + 0.75 * skin, abs=0.005)
    full, wash, dry = (
        linear(seen(SKIN, coat(material="paint-black", **fields))) for fields in ({}, {"thin": 6}, {"how": "drybrush"})
    )
    assert (full < dry).all() and (dry < skin).all() and (full < wash).all() and (wash < skin).all()


def test_a_tint_in_the_mix_colours_it_through():
    tinted = {**SKIN, "tint": [{"material": "paint-rust", "drops_per_100_ml": 40}]}
    plain, red = linear(seen(SKIN)), linear(seen(tinted))
    assert red[1] < plain[1] and red[0] / red[1] > plain[0] / plain[1]


def test_a_drop_of_a_tint_is_as_large_as_the_users_own():
    """The look goes by the same drops as the amounts: fewer large ones colour as much as many small ones."""

    def look(drops, drop_ml):
        tinted = {**SKIN, "tint": [{"material": "paint-rust", "drops_per_100_ml": drops}]}
        scene = resolved({**board(tinted), "bench": {"drop_ml": drop_ml}})
        return surface(scene, plan(scene).built, "finished", False)[20, 30]

    assert look(40, 0.05) == pytest.approx(look(20, 0.1), rel=1e-6)
    assert look(40, 0.1)[1] < look(40, 0.05)[1]


def test_a_coloured_binder_stains_and_clear_ones_do_not():
    bare = seen(texture())
    assert seen(texture(), fix()) == bare
    assert seen(texture(), fix(mix="house-paint-water")) != bare


def test_chips_say_what_it_dries_to():
    scene = resolved(board(SKIN, texture(id="bed"), fix(), coat(thin=4)))
    found = looks(scene, "all")
    assert list(found) == ["skin", "bed", "glue", "coat"]
    assert found["bed"].beneath == found["skin"].dry
    assert found["skin"].beneath == FOAM
    assert found["glue"].change.number == pytest.approx(0, abs=1e-6)
    assert found["glue"].change_words == "the same to the eye"
    for look in found.values():
        assert linear(look.wet).sum() < linear(look.dry).sum()
        assert look.drying.number > 2


def test_every_school_of_fixing_is_the_plan_with_that_binder():
    data = board(SKIN, texture(mix="sand", depth_mm=8), fix())
    found = alternatives(resolved(data), "glue", shipped())
    assert len(found) == len(BINDERS) * (len(WETTING) + 1)
    for name in ("glue-water-1-1", "scenic-binder+water-detergent", "house-paint-water+alcohol-70"):
        binder, _, wet_by = name.partition("+")
        data["patches"][0]["lifts"][2] = fix(mix=binder, wetting=wet_by or None)
        made = plan(resolved(data)).lifts["glue"]
        assert found[name].figures["passes"].number == made.fixing.passes.number
        assert found[name].figures["hold"].number == pytest.approx(made.fixing.hold.number)
        assert found[name].figures["full_h"].number == pytest.approx(made.hours.full.number)
    dry, wetted = (found[name].figures for name in ("glue-water-1-1", "glue-water-1-1+alcohol-70"))
    assert wetted["hold_bottom"].number == wetted["hold"].number > dry["hold_bottom"].number == 0
    assert found["house-paint-water"].look[1] != found["glue-water-1-1"].look[1]
    assert found["glue-water-1-1"].figures["cost"] is None
    data["bench"] = {"prices": [{"material": "white-glue", "amount": 8, "pack": 1000}]}
    priced = alternatives(resolved(data), "glue", shipped())["glue-water-1-1"]
    data["patches"][0]["lifts"][2] = fix(wetting=None)
    glue = plan(resolved(data)).lifts["glue"].ingredients[0].volume_ml.number
    assert priced.figures["cost"].number == pytest.approx(glue * 8 / 1000)


def test_bands_of_a_bed_add_up_to_it():
    data = board(SKIN, coat("seal", "acrylic-sealer"), RESIN, forms=POND)
    scene = resolved(data)
    made = plan(scene)
    stage = made.built.stages["water"]
    shore, deep = LABELS.materials["paint-sand"], LABELS.materials["paint-teal"]
    found = bands(stage.site.lift, stage.site, 4, shore, deep, coats=2)
    wet = stage.after.z > stage.site.ground.z
    whole = true_area(stage.site.ground, stage.site.cover)
    assert 0 < sum(band.area_mm2.number for band in found) < whole
    assert sum(band.area_mm2.number for band in found) == pytest.approx(wet.sum() * 25, rel=0.15)
    assert [band.share for band in found] == pytest.approx([0, 1 / 3, 2 / 3, 1])
    assert found[0].deep_ml.number == 0 and found[-1].shore_ml.number == 0
    assert found[-1].to_mm == pytest.approx(5, rel=0.01)
    for band in found:
        assert band.shore_ml.number + band.deep_ml.number == pytest.approx(band.area_mm2.number * 0.1 * 2 / 1000)
    with pytest.raises(ValueError):
        bands(stage.site.lift, stage.site, 1, shore, deep)


def test_a_gradient_in_half_scoops():
    found = gradient_recipes(np.array([2.0, 0.0]), np.array([0.0, 1.0]), 5, 4)
    assert found == [(8, 0), (6, 2), (4, 4), (2, 6), (0, 8)]
    eased = gradient_recipes(np.array([1.0, 0.0]), np.array([0.0, 1.0]), 5, 4, eased=True)
    assert eased[0] == (8, 0) and eased[1][0] == 7 and eased[2] == (4, 4)
    with pytest.raises(ValueError):
        gradient_recipes(np.zeros(2), np.array([0.0, 1.0]), 3, 4)


def test_what_is_left_unsealed_drinks_lift_by_lift():
    scene = resolved(board(SKIN, texture(mix="ballast", depth_mm=10), fix(), RESIN, forms=POND))
    labels = Labels.of(scene)
    thirst = drinks(list(scene.patches[0].lifts[:3]), labels, 10_000)
    loose = drinks(list(resolved(board(texture(mix="ballast", depth_mm=10))).patches[0].lifts), labels, 10_000)
    assert loose.number == pytest.approx(10_000 * 10 * 0.42 * 0.6 / 1000)
    by_bed = next(term.value for term in thirst.working if term.what.startswith("Bed"))
    assert by_bed == pytest.approx(0.25 * loose.number)  # glued stone seals in part
    glue = coat("seal", "white-glue", coats=2)
    scene = resolved(board(texture(mix="ballast", depth_mm=10), glue))
    assert drinks(list(scene.patches[0].lifts), Labels.of(scene), 10_000).number == pytest.approx(0.25 * loose.number)
    sealed = resolved(board(SKIN, texture(), fix(), coat("seal", "acrylic-sealer"), RESIN, forms=POND))
    assert drinks(list(sealed.patches[0].lifts[:4]), Labels.of(sealed), 10_000).number == 0


def test_a_sack_for_what_passes_the_sieve():
    assert sack_for(300, {"1 mm": 0.6, "0.5 mm": 0.25}, "0.5 mm") == 1200
    for yields, mesh in (({"1 mm": 0.6}, "2 mm"), ({"1 mm": 0.0}, "1 mm"), ({"1 mm": 1.2}, "1 mm")):
        with pytest.raises(ValueError, match="sieve a cup of it"):
            sack_for(300, yields, mesh)


def test_a_tinted_water_is_drawn_as_it_looks_over_its_bed(pond):
    """Darker and greener with depth; without a tint there is nothing to draw; twice the drops is twice the depth."""
    from isostasis.core.colour.light import lab, linear
    from isostasis.core.surface import beneath, water_looks

    lift = pond["patches"][0]["lifts"][0]
    clear = resolved(pond)
    assert water_looks(clear, clear.patches[0].lifts[0], (5.0,)) == ()
    lift["tint"] = [{"material": "acrylic-ink-teal", "drops_per_100_ml": 2}]
    scene = resolved(pond)
    pour = scene.patches[0].lifts[0]
    shallow, middle, deep = (lab(linear(one)) for one in water_looks(scene, pour, (1.0, 5.0, 15.0)))
    bed = lab(beneath(scene, pour))
    assert bed[0] > shallow[0] > middle[0] > deep[0] and deep[1] < shallow[1]
    lift["tint"][0]["drops_per_100_ml"] = 4
    stronger = resolved(pond)
    assert water_looks(stronger, stronger.patches[0].lifts[0], (5.0,)) == water_looks(scene, pour, (10.0,))
