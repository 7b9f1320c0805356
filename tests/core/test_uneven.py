"""Layers of uneven thickness, and how long hands take."""

from math import atan, degrees

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.hardening.uneven import evened
from isostasis.core.lifts.fold import build
from isostasis.core.lifts.labels import Labels
from isostasis.core.plan import plan
from isostasis.core.terrain.carve import flights
from tests.support.layups import board, coat, lifts_of
from tests.support.scenes import resolved, square

SLOPE = degrees(atan(25 / 40))


def flight():
    """Four steps of 25 mm rise and 40 mm going under 8 mm of compound, filled through the nosings, in a damp room."""
    steps = [
        {"id": f"step-{number}", "kind": "sheet", "outline": square(0, 0, 280 - 40 * number, 300), "thickness_mm": 25}
        for number in range(4)
    ]
    skin = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 8, "fill_steps_deg": SLOPE}
    return {
        "isostasis": 1, "name": "Flight", "grid_mm": 2.5, "base": {"width_mm": 320, "depth_mm": 300},
        "room": {"temp_c": 20, "rh": 0.75}, "forms": steps,
        "patches": [{"id": "bank", "name": "Bank", "area": {"outline": square(120, 0, 280, 300)}, "lifts": [skin]}],
    }  # fmt: skip


def test_filled_steps_dry_as_a_caster_reports():
    hours = plan(resolved(flight())).lifts["skin"].hours
    assert hours.next.number / 24 == pytest.approx(7.7, rel=0.05)
    pocket = next(term for term in hours.full.working if term.what == "deepest pocket")
    assert pocket.value == pytest.approx(29.2, rel=0.03)
    assert "near x" in pocket.source


def test_carve_or_fill_and_the_lift_agree():
    scene = resolved(flight())
    mix = shipped().mixes["paper-plaster"]
    found = flights(scene, build(scene), Labels.of(scene), SLOPE, mix)
    full = plan(scene).lifts["skin"].hours.full
    assert found["flight-1"].fill_h.number == pytest.approx(full.number, rel=0.01)


@given(st.integers(3, 20), st.integers(3, 20), st.floats(0.5, 40), st.floats(0, 1), st.sampled_from([1.0, 2.5, 5.0]))
def test_suction_evens_out_and_makes_no_water(rows, columns, deepest, flat, cell):
    deep = np.linspace(deepest * flat, deepest, columns)[None, :] * np.ones((rows, 1))
    share = np.ones((rows, columns))
    lies = evened(deep, share, cell)
    assert deep.min() - 1e-6 <= lies.pocket_mm <= lies.deepest_mm + 1e-6
    assert lies.slow_mm <= lies.deepest_mm + 1e-6
    assert lies.mean_mm == pytest.approx(deep.mean())
    assert evened(np.full_like(deep, deepest), share, cell).slow_mm == pytest.approx(deepest)


def test_a_coat_on_a_whole_board_takes_a_quarter_of_an_hour():
    data = board(coat(material="acrylic-sealer"))
    data["base"] = {"width_mm": 600, "depth_mm": 600}
    data["forms"][0]["outline"] = square(0, 0, 600, 600)
    (step,) = [step for step in plan(resolved(data)).steps if step.lift == "coat"]
    assert 15 <= step.hands_on_min <= 22


def test_a_thin_coat_of_sealer_is_ready_for_the_next_in_twenty_minutes():
    thin, normal, thick = (
        lifts_of(coat(material="acrylic-sealer", coats=2, film=film))["coat"] for film in ("thin", "normal", "thick")
    )
    assert thin.volume_ml.number < normal.volume_ml.number < thick.volume_ml.number
    assert 10 / 60 < thin.hours.usable.number < 35 / 60


def test_the_last_lift_ends_when_it_can_be_used():
    made = plan(resolved(board({"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4})))
    (step,) = [step for step in made.steps if step.lift == "skin"]
    assert step.wait_h == made.lifts["skin"].hours.usable.number
