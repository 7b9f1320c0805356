"""This on that, and this beside that: every rule bites where it should and nowhere else."""

import numpy as np
import pytest

from isostasis.core.catalogue import shipped
from isostasis.core.fault import Faults
from isostasis.core.judging.neighbours import SHORTEST_MM, STEP_MM
from isostasis.core.plan import plan
from isostasis.core.plan.preview import lift_alone, site_of
from tests.support.layups import crag, heap
from tests.support.scenes import resolved, square

LACQUER = {"id": "lacquer", "kind": "coat", "material": "solvent-lacquer"}
RESIN = {"id": "film", "kind": "pour", "mix": "coating-resin", "depth_mm": 2}


def bites(data, code):
    return [check for check in plan(resolved(data)).checks if check.code == code]


def pond(*lifts, beside=()):
    """A basin in foam whose patch keeps to its floor, so that its water climbs on to the patch around it."""
    return {
        "isostasis": 1, "name": "Pond", "grid_mm": 5, "base": {"width_mm": 300, "depth_mm": 200},
        "forms": [{"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 25},
                  {"id": "hollow", "kind": "basin", "outline": square(100, 50, 200, 150), "depth_mm": 12, "bank_deg": 45}],
        "patches": [{"id": "rest", "name": "Rest", "area": {"rest": True}, "lifts": list(beside)},
                    {"id": "pond", "name": "Pond", "area": {"outline": square(115, 65, 185, 135)}, "lifts": list(lifts)}],
    }  # fmt: skip


def test_a_skin_on_resin_does_not_hold():
    skin = {"id": "again", "kind": "skin", "mix": "paper-plaster", "depth_mm": 2}
    (check,) = bites(pond(RESIN, skin), "wont-stick")
    assert check.lift == "again" and check.extent.number == pytest.approx(70 * 70, rel=0.1)
    assert not bites(pond(skin), "wont-stick")


def test_a_skin_on_a_sealed_face_has_no_key():
    seal = {"id": "seal", "kind": "coat", "material": "acrylic-sealer"}
    skin = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 2}
    (check,) = bites(pond(seal, skin), "no-key")
    assert check.lift == "skin" and "scuff" in check.text
    assert not bites(pond(skin, seal), "no-key")
    assert not bites(pond({**seal, "material": "paint-earth"}, skin), "no-key")


def test_paper_wants_a_shell_of_two_layers():
    data = heap()
    under_paper = (np.hypot(*np.indices((60, 80)) - np.array([[[30]], [[50]]])) < 15).sum() * 25
    assert not bites(data, "falls-in") and not bites(data, "paper-sags")
    (check,) = bites(heap(layers=1), "paper-sags")
    assert check.extent.number == pytest.approx(200 * 200, rel=0.05) and check.extent.number > under_paper
    del data["patches"][0]["lifts"][0]
    (check,) = bites(data, "falls-in")
    assert check.cells[30, 50] and not check.cells[30, 12]
    (timber,) = bites(heap(), "thirsty-timber")
    assert timber.cells[30, 2] and not timber.cells[30, 20]


def test_a_solvent_eats_foam_through_a_thin_skin_and_not_through_a_thick_one():
    thin = {"id": "skin", "kind": "skin", "mix": "plaster-2-3", "depth_mm": 2}
    with pytest.raises(Faults, match=r"lifts\[1\]: Lacquer: its solvent eats the foam .*; a water-based one"):
        plan(resolved(pond(thin, LACQUER)))
    thick = pond({**thin, "depth_mm": 8}, LACQUER)
    assert not bites(thick, "eats-foam")
    assert not bites(pond(thin, {**LACQUER, "material": "gloss-varnish"}), "eats-foam")
    codes = {caution.code for caution in plan(resolved(thick)).cautions_of("lacquer")}
    assert "solvent-vapour" in codes


def test_a_shore_on_a_neighbour_that_is_unsealed_and_damp():
    skin = {"id": "bank", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3}
    seal = {"id": "bank-seal", "kind": "coat", "material": "acrylic-sealer"}
    data = pond({**RESIN, "depth_mm": 8}, beside=[skin])
    (drinks,) = bites(data, "unsealed-bed")
    (wet,) = bites(data, "still-wet")
    assert drinks.other == wet.other == "Rest" and wet.extent.number == drinks.extent.number
    made = plan(resolved(data))
    full = made.lifts["bank"].hours.full.number
    step = next(step for step in made.steps if step.id in ("film", "film-1"))
    (window,) = (one for one in step.windows if one.what == "Bank on Rest dry")
    assert (window.of, window.from_h, window.to_h) == ("bank", full, None)
    assert made.lifts["bank"].hours.next.number < full
    # Sealed, it neither drinks nor must it dry on: a seal waits for the skin by itself.
    assert not bites(pond({**RESIN, "depth_mm": 8}, beside=[skin, seal]), "unsealed-bed")
    # The preview of a pour says what its plan says.
    scene = resolved(data)
    alone = lift_alone(site_of(scene, "film"), scene.lift("film")).plan
    assert "unsealed-bed" in {notice.code for notice in alone.warnings}


def test_beside_a_casting_and_beside_a_lower_neighbour():
    (check,) = bites(crag(), "rinse-pieces")
    assert (check.other, check.extent.number) == ("Crag", 400)
    low = {"id": "low", "name": "Low", "area": {"outline": square(300, 0, 400, 300)}, "lifts": []}
    (check,) = bites(crag([low]), "step-beside")
    assert check.lift == "skin" and check.extent.number == 300 and "4 mm above Low" in check.text
    assert all(start[0] == end[0] == 300 for start, end in check.edges)
    thin = crag([low])
    thin["patches"][0]["lifts"][0]["feather_mm"] = 40
    assert not bites(thin, "step-beside")
    level = crag(
        [{**low, "lifts": [{"id": "b", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4 - STEP_MM + 0.5}]}]
    )
    assert not bites(level, "step-beside")
    short = crag([{**low, "area": {"outline": square(395, 0, 400, SHORTEST_MM / 2)}}])
    assert not bites(short, "step-beside")


def test_every_rule_says_where_and_why():
    for rule in shipped().rules.neighbours:
        assert (rule.on or rule.beside) and (rule.lays or rule.attacks), rule.code
        assert "here" in rule.text or "along" in rule.text, rule.code
        assert bool(rule.refused) == rule.attacks
        assert len(rule.text) < 140 and rule.reason.endswith("."), rule.code


def test_a_check_is_a_warning_of_its_lift():
    made = plan(resolved(heap(layers=1)))
    told = {(name, notice.code) for name, lift in made.lifts.items() for notice in lift.warnings}
    assert {(check.lift, check.code) for check in made.checks} <= told
    assert "checks" not in made.as_json()
    assert made.figure("checks.0.extent").number > 0
