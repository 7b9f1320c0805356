"""Coats, and orders of a lay-up that work against themselves: every rule bites where it should and nowhere else."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import LiftSelector, OrderRule, shipped
from isostasis.core.fault import Faults
from isostasis.core.mixing.parts import wet
from isostasis.core.plan import plan
from tests.support.layups import GLOSS, LABELS, POND, RESIN, SKIN, board, coat, codes, fix, lifts_of, texture
from tests.support.scenes import resolved, square

SNOW = texture(id="snow", mix="snow", depth_mm=1)
TREES = texture(id="trees", mix="foliage", depth_mm=6, cover=0.2, school="onto-glue")
LEVELLED = texture(id="road", mix="road-fines", depth_mm=2, straightedge_mm=80)
DRY_LIGHTS = coat("lights", "paint-white", how="drybrush")
WASH = coat("wash", "paint-black", thin=6)

# code, a lay-up that it bites in, the lift that is told, a lay-up in which it does not.
CASES = [
    ("coarse-before-level", [texture(mix="ballast"), LEVELLED], "road", [LEVELLED, texture(mix="ballast")]),
    ("snow-before-trees", [SNOW, TREES], "trees", [TREES, SNOW]),
    ("bleeds-into-snow", [texture(mix="sifted-soil"), fix(), SNOW], "snow",
     [texture(mix="sifted-soil"), fix(), coat("seal", "acrylic-sealer"), SNOW]),
    ("gloss-before-retouch", [GLOSS, texture()], "bed", [texture(), GLOSS]),
    ("gloss-before-paint", [GLOSS, coat()], "coat", [coat(), GLOSS]),
    ("hidden-paint", [coat(), SKIN], "skin", [SKIN, coat()]),
    ("hidden-paint", [coat(), texture()], "bed", [coat(), texture(cover=0.5)]),
    ("oil-over-water", [RESIN, coat("oil", "oil-varnish")], "oil", [RESIN, GLOSS]),
    ("light-first-coat", [coat(), GLOSS], "gloss", [coat(), texture(cover=0.5), fix(), GLOSS]),
    ("wash-after-lights", [DRY_LIGHTS, WASH], "wash", [WASH, DRY_LIGHTS]),
    ("grout-masks", [texture(id="path", mix="road-fines", depth_mm=1), texture()], "bed",
     [texture(id="path", mix="road-fines", depth_mm=1), fix(), texture()]),
    ("unfixed", [texture()], "bed", [texture(), fix()]),
    ("unfixed", [texture()], "bed", [texture(school="onto-glue")]),
    ("wet-over-loose", [texture(), coat()], "coat", [texture(), fix(), coat()]),
]  # fmt: skip


@pytest.mark.parametrize(("code", "wrong", "told", "right"), CASES)
def test_a_rule_of_order_bites_and_lets_go(code, wrong, told, right):
    found = lifts_of(*wrong, forms=POND)
    (notice,) = (one for one in found[told].warnings if one.code == code)
    assert notice.text[0].isupper() and notice.reason.endswith(".")
    assert all(code not in codes(lift) for lift in lifts_of(*right, forms=POND).values())


def test_every_rule_of_order_has_a_case_and_fits_on_a_line():
    assert {rule.code for rule in shipped().rules.order} == {code for code, *_ in CASES}
    for rule in shipped().rules.order:
        assert len(rule.text) < 130, rule.code
    for fields in ({}, {"then": LiftSelector(), "needs": LiftSelector()}):
        with pytest.raises(ValueError, match="one of the two"):
            OrderRule(code="x", first=LiftSelector(), text="t", reason="r", **fields)


def test_the_first_coat_on_a_porous_bed_takes_more():
    made = lifts_of(SKIN, coat(coats=2))["coat"]
    each = 300 * 200 * 0.10 / 1000
    assert made.volume_ml.number == pytest.approx(each * 2.35, rel=0.01)
    assert sum(layer.volume_ml.number for layer in made.layers) == pytest.approx(made.volume_ml.number)
    sealed = lifts_of(SKIN, coat("seal", "acrylic-sealer"), coat(coats=2))["coat"]
    assert sealed.volume_ml.number == pytest.approx(each * 2, rel=0.01)


def test_a_wash_is_mostly_water_and_a_drybrush_hardly_paint():
    wash = lifts_of(coat(thin=4))["coat"]
    paint, water = wash.ingredients
    assert water.material == "water" and water.volume_ml.number == pytest.approx(4 * paint.volume_ml.number)
    dry = lifts_of(coat(how="drybrush"))["coat"]
    assert dry.volume_ml.number == pytest.approx(0.15 * lifts_of(coat())["coat"].volume_ml.number)
    steps = {step.id: step.do for step in plan(resolved(board(coat(thin=4)))).steps}
    assert steps["coat"].startswith("Brush acrylic paint, earth brown, let down with 4 of water,")
    assert wash.hours.next.number > lifts_of(coat())["coat"].hours.next.number * 0.9


@given(st.sampled_from(["paint-earth", "acrylic-sealer", "gloss-varnish", "house-paint-earth", "foam-coat"]),
       st.floats(0, 8), st.integers(1, 6), st.floats(0.1, 1))  # fmt: skip
@settings(max_examples=40, deadline=None)
def test_a_coats_solids_left_are_the_solids_laid(material, thin, coats, cover):
    scene = resolved(board(coat(material=material, thin=thin, coats=coats, cover=cover)))
    made = plan(scene).lifts["coat"]
    label = LABELS.materials[material]
    # Measured out = in place + left in the cup, and of what is in place just the solids stay.
    laid_g = made.ingredients[0].mass_g.number * made.volume_ml.number / made.mix_ml.number
    stays_mm = made.left_mm.number
    area = 300 * 200 * cover
    measure = wet(plan(scene).works["coat"].estimate.mix, {one.id: one for one in scene.materials})
    left_g = made.volume_ml.number * measure.dry_g_per_ml
    assert left_g == pytest.approx(laid_g * label.dries.solids, rel=1e-6)
    water_ml = made.volume_ml.number * measure.free_water_g_per_ml
    assert stays_mm * area / 1000 == pytest.approx(made.volume_ml.number - water_ml, rel=1e-6)


def test_what_a_later_gloss_mends_is_no_fault():
    gloss = coat("gloss", "gloss-varnish")
    crests, last = coat("crests", "paint-white", cover=0.2), coat("last", "gloss-varnish")
    shore = texture(id="shore", mix="sifted-soil", depth_mm=1, school="onto-glue")
    for between, code in ((crests, "gloss-before-paint"), (shore, "gloss-before-retouch")):
        assert code in codes(lifts_of(gloss, between)[between["id"]])
        assert code not in codes(lifts_of(gloss, between, last)[between["id"]])


def test_gel_and_thick_varnish_are_no_binders_to_soak_with():
    for mix in ("clear-gel", "varnish-water"):
        with pytest.raises(Faults, match="too thick to soak in"):
            lifts_of(texture(), fix(mix=mix))


def test_a_ramp_is_tried_on_what_lies_under_it():
    data = board(forms=[
        {"id": "pit", "kind": "basin", "outline": square(20, 20, 100, 100), "depth_mm": 5},
        {"id": "way", "kind": "ramp", "path": [[10, 60], [290, 60]], "width_mm": 30, "start_mm": 25, "end_mm": 40,
         "glue": "white-glue"},
    ])  # fmt: skip
    data["forms"][0]["glue"] = "white-glue"
    steps = {step.id: step for step in plan(resolved(data)).steps}
    assert steps["trial-fit"].after == ("form-slab",)
    assert steps["form-pit"].after == ("glue-slab",)
    assert steps["trial-fit-2"].after == ("form-pit", "form-way")
    assert steps["glue-way"].after == ("trial-fit-2",)
