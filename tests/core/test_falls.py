"""Falling water: the clinging film by its own law, what the fibre holds, pieces, waits for the gel, pools below."""

from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.hardening.flow import GRAVITY
from isostasis.core.hours import parse_hours
from isostasis.core.lifts.fold import build
from isostasis.core.mixing.parts import wet
from isostasis.core.plan import plan
from isostasis.core.schedule import ScheduleRequest, first_times
from isostasis.core.stock.sundries import sundry_uses
from tests.support.layups import LABELS, board, codes, lifts_of
from tests.support.scenes import resolved, square

CLIFF = {"id": "cliff", "kind": "sheet", "outline": square(0, 0, 150, 200), "thickness_mm": 100}
WEEK = ScheduleRequest(datetime(2027, 3, 1, 12, 0, tzinfo=UTC), parse_hours("mon-sun 09:00-23:00"))
WAY = [[100, 100], [200, 100]]


def falls(**fields):
    return {"id": "falls", "kind": "falls", "path": WAY, "width_mm": 20, **fields}


def cliff(*lifts):
    data = board(*lifts)
    data["forms"] = [CLIFF]
    return data


def made_of(*lifts):
    return plan(resolved(cliff(*lifts))).lifts


def ramp(rise):
    data = board(falls(path=[[250, 100], [50, 100]]))
    data["forms"] = [{"id": "slope", "kind": "ramp", "path": [[0, 100], [300, 100]], "width_mm": 200,
                      "start_mm": 1, "end_mm": 1 + rise}]  # fmt: skip
    return plan(resolved(data)).lifts["falls"]


def term(figure, what):
    return next(one.value for one in figure.working if what in one.what)


def test_resin_and_fibre_of_a_slope():
    made = ramp(150)
    long = np.hypot(200, 100)  # 200 mm of a grade of one in two
    assert term(made.volume_ml, "length") == pytest.approx(long, rel=0.01)
    film = term(made.volume_ml, "film")
    assert term(made.volume_ml, "fibre") == pytest.approx(0.48)  # 60 g a m2, 8 ml a g
    assert made.volume_ml.number == pytest.approx(3 * long * 20 * (film + 0.48) / 1000, rel=0.01)
    assert made.ingredients[-1].mass_g.number == pytest.approx(3 * long * 20 / 1e6 * 60, rel=0.01)
    label = LABELS.mixes["casting-resin"].reacts
    # Without thickening it would run off further: Jeffreys at the first viscosity until the gel is a lower bound.
    gel, density = made.hours.next, wet(LABELS.mixes["casting-resin"], LABELS.materials).density * 1000
    least = np.sqrt(label.viscosity_pa_s * long / 1000 / (density * GRAVITY * gel.number * 3600 * 100 / long)) * 1000
    assert 2 / 3 * least < film < 6 * least


def test_in_a_cold_room_a_layer_bonds_from_its_gel_on_and_not_before():
    data = cliff(falls())
    data["room"] = {"temp_c": 6, "rh": 0.5}
    made = plan(resolved(data)).lifts["falls"]
    bonds = next(one for one in made.windows if one.code == "gel")
    assert bonds.from_h > LABELS.mixes["casting-resin"].reacts.last_bond_h
    assert bonds.to_h >= bonds.from_h == made.hours.next.number


def test_a_steeper_slope_keeps_a_thinner_film():
    flat, steep = (term(ramp(rise).volume_ml, "film") for rise in (60, 250))
    assert steep < flat


def test_free_at_first_it_clings_on_both_sides_and_lies_on_nothing():
    along, free = made_of(falls())["falls"], made_of(falls(free=True))["falls"]
    assert term(free.volume_ml, "length") == pytest.approx(np.hypot(100, 100), rel=0.01)
    assert term(along.volume_ml, "length") == pytest.approx(200, abs=2 * 5)  # over the top, down, and on, to two cells
    film, held = term(free.volume_ml, "film"), term(free.volume_ml, "fibre")
    long = term(free.volume_ml, "length")
    assert free.volume_ml.number == pytest.approx(3 * long * 20 * (2 * film + held) / 1000)
    scene = resolved(cliff(falls(free=True)))
    stage = build(scene).stages["falls"]
    assert stage.after is stage.site.ground
    raised = build(resolved(cliff(falls()))).stages["falls"]
    rise = raised.after.z - raised.site.ground.z
    assert rise.max() > 1 and rise[20, 5] == 0  # 1.4 mm of it, and none beside


def test_layers_wait_for_the_gel_in_turn_with_a_tray_first_and_drips_cut_last():
    scene = resolved(cliff(falls()))
    made = plan(scene)
    steps = {step.id: step for step in made.steps}
    layers = [step for step in made.steps if step.lift == "falls" and step.course]
    assert len(layers) == 3
    gel = made.lifts["falls"].hours.next.number
    assert layers[0].wait_h == pytest.approx(gel, rel=0.2) and layers[1].after[-1] == layers[0].id
    kinds = [step.kind for step in steps.values()]
    assert kinds.index("tray") < kinds.index("falls") < kinds.index("trim")
    assert {"drips", "resin"} <= layers[0].hazards
    assert next(one for one in made.buy if one.material == "teased-cotton").unit == "g"
    found = first_times(made.steps, WEEK)
    uses = sundry_uses(scene, made, LABELS.sundries, LABELS.materials)
    assert [use.amount for use in uses if use.material == "drip-tray"] == [1]
    starts = {one.id: one.start for one in found.steps}
    assert starts[layers[0].id] < starts[layers[1].id] < starts[layers[2].id]


def test_a_wide_fall_is_soaked_in_pieces_within_the_working_time():
    made = plan(resolved(cliff(falls(width_mm=150, mix="quick-resin"))))
    step = next(one for one in made.steps if one.lift == "falls" and one.course)
    assert "Soak 4 pieces" in step.do  # two hands long, two strands wide
    for batch in made.batches:
        assert batch.working_min is None or batch.working_min > 0


def test_the_pool_below_first_or_after():
    pool = {"id": "pool", "kind": "basin", "outline": square(180, 60, 280, 140), "depth_mm": 8}
    water = {"id": "water", "kind": "pour", "mix": "casting-resin", "depth_mm": 5}

    def told(**fields):
        data = cliff(falls(path=[[140, 100], [200, 100]], **fields))
        data["forms"] = [
            {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 20},
            {**CLIFF, "thickness_mm": 80}, pool,
        ]  # fmt: skip
        data["patches"].append({"id": "tarn", "name": "Tarn", "area": {"outline": square(180, 60, 280, 140)},
                                "lifts": [water]})  # fmt: skip
        return codes(plan(resolved(data)).lifts["falls"])

    assert "falls-in-pool" in told() and "falls-on-pool" in told(after=["water"])


def test_without_a_path_it_runs_from_the_highest_spot_to_the_lowest():
    made = made_of(falls(path=None))["falls"]
    assert term(made.volume_ml, "length") > 100
    face = board(falls(path=None))
    face["patches"][0]["area"] = {"face_mm2": 4000, "slope_deg": 90}
    assert term(plan(resolved(face)).lifts["falls"].volume_ml, "length") == pytest.approx(200)


def test_what_cannot_fall_is_told():
    for fields, said in (
        ({"path": [[200, 100], [100, 100]]}, "begin at the higher end"),
        ({"path": [[20, 20], [20, 60]]}, "nothing falls there"),
        ({"path": [[100, 100], [900, 100]]}, "leaves the base"),
        ({"mix": "sand"}, "'sand' is no resin"),
        ({"material": "tissue-paper"}, "is no teased fibre"),
        ({"layers": 0}, "layers: 0 does not fit"),
        ({"width_mm": 0}, "width_mm"),
    ):
        with pytest.raises(Faults, match=said):
            made_of(falls(**fields))
    with pytest.raises(Faults, match="no lip and no foot"):
        lifts_of({"id": "falls", "kind": "falls"})
    assert "falls-layers" in codes(made_of(falls(layers=1))["falls"])
    assert "falls-layers" in codes(made_of(falls(layers=6))["falls"])


@given(st.floats(5, 120), st.integers(1, 4))
@settings(max_examples=15, deadline=None)
def test_twice_as_wide_takes_twice_as_much(wide, layers):
    one, two = (made_of(falls(width_mm=width, layers=layers))["falls"].volume_ml.number for width in (wide, 2 * wide))
    assert two == pytest.approx(2 * one)
