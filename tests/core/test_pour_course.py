"""How a pour goes hour by hour, what its tint does to the bed, and what other resins and rooms would mean."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.alternatives import alternatives, rooms
from isostasis.core.catalogue import shipped
from isostasis.core.colour.light import difference, linear
from isostasis.core.colour.tint import GONE, SHOWS, bed_to_look, drop_strength, drops_until, layer_look, tinted
from isostasis.core.hardening.cure import isothermal_hours
from isostasis.core.hardening.flow import channel_reach, least_cover, mobility, puddle_reach
from isostasis.core.lifts.kinds.pour.course import curves, dams, flow, tint_chips, waves
from isostasis.core.lifts.labels import Labels
from isostasis.core.plan import plan
from tests.support.layups import SEAL, pond_with
from tests.support.scenes import resolved

LABELS = shipped()
SKIN = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3}


def asked(**pour):
    scene = resolved(pond_with(SKIN, SEAL, **pour))
    made = plan(scene)
    return scene, made, scene.lift("water"), made.built.stages["water"].site, Labels.of(scene)


def test_the_published_look_of_a_tinted_layer():
    bed, k, s = np.array(0.3), np.array(0.05), np.array(0.2)
    assert float(layer_look(bed, k, s, 3)) == pytest.approx(0.4246, abs=5e-5)
    assert float(layer_look(bed, k, s, 12)) == pytest.approx(0.4952, abs=5e-5)
    assert float(layer_look(bed, k, s, 0)) == 0.3
    # A clear dye weakens light there and back.
    assert float(layer_look(bed, k, np.array(0.0), 7)) == pytest.approx(0.3 * np.exp(-2 * 0.05 * 7))
    for wrong in (lambda: layer_look(bed, k, s, -1), lambda: layer_look(bed, -k, s, 1)):
        with pytest.raises(ValueError):
            wrong()


@given(st.floats(0, 1), st.floats(0, 2), st.floats(0, 2), st.floats(0, 100))
@settings(max_examples=150)
def test_a_layer_reflects_between_nothing_and_all(bed, k, s, depth):
    look = float(layer_look(np.array(bed), np.array(k), np.array(s), depth))
    assert -1e-6 <= look <= 1 + 1e-6


@given(st.floats(0.02, 0.98), st.floats(0, 0.5), st.floats(0.1, 40), st.floats(1.01, 3))
def test_deeper_clear_dye_is_darker(bed, k, depth, times):
    near, far = (float(layer_look(np.array(bed), np.array(k), np.array(0.0), one)) for one in (depth, depth * times))
    assert far <= near + 1e-12


def test_drops_until_the_bed_disappears():
    ink, paint = LABELS.materials["acrylic-ink-brown"], LABELS.materials["paint-earth"]
    beds = linear("#6b5138"), linear("#b09a78")
    for material in (ink, paint):
        drop = drop_strength(linear(material.colour), material.opacity, material.strength)
        found = [drops_until(beds, drop, depth, GONE) for depth in (2, 5, 20)]
        assert found[0] is None or found[0] > found[1] > found[2] > 0, material.id
        hidden = [tinted(bed, [(*drop, found[2])], 20) for bed in beds]
        assert np.abs(hidden[0] - hidden[1]).max() < 0.05
    assert drops_until((beds[0], beds[0]), drop, 5, GONE) == 0.0
    with pytest.raises(ValueError):
        drops_until(beds, drop, 0, GONE)


def test_chips_run_from_the_bare_bed_to_the_deepest():
    ink, resin = LABELS.materials["acrylic-ink-teal"], LABELS.mixes["casting-resin"]
    chips = tint_chips(ink, resin, 20, linear("#c0b090"), (0.0, 2.0), 2.0)
    assert chips.depths[0] == 0 and chips.depths[-1] == 20
    assert all(wet == cured for _, colours in chips.rows for wet, cured in colours)
    clear, tinted_row = ([cured for _, cured in colours] for _, colours in chips.rows)
    assert set(clear) == {"#c0b090"} and tinted_row[0] == "#c0b090"
    assert linear(tinted_row[-1]).sum() < linear(tinted_row[1]).sum() < linear("#c0b090").sum()


def test_what_dries_is_milky_until_then():
    ink, glue = LABELS.materials["acrylic-ink-teal"], LABELS.mixes["glue-water-1-1"]
    ((_, colours),) = tint_chips(ink, glue, 2, linear("#605040"), (2.0,), 2.0).rows
    assert colours[0][0] == colours[0][1]
    assert all(linear(wet).sum() > linear(cured).sum() for wet, cured in colours[1:])


@given(st.floats(0.05, 0.95), st.floats(0.0, 0.05), st.floats(0.0, 0.3), st.floats(0.5, 10))
def test_a_bed_painted_for_its_water_looks_as_it_shall(bed, k, s, depth):
    tints = [(np.full(3, k), np.full(3, s), 1.0)]
    look = tinted(np.full(3, bed), tints, depth)
    again = tinted(bed_to_look(look, tints, depth), tints, depth)
    assert np.allclose(again, look, atol=1e-6)


def test_a_tint_for_what_is_aimed_at():
    ink, resin, bed = LABELS.materials["paint-earth"], LABELS.mixes["casting-resin"], linear("#c0b090")
    gone, shown = (tint_chips(ink, resin, 20, bed, (), 1.0, aim, 10).aimed for aim in ("vanish", "show"))
    assert 0 < shown.number < gone.number  # stones show through less of it than makes them vanish
    drop = drop_strength(linear(ink.colour), ink.opacity, ink.strength)
    seen = [tinted(np.clip(bed * part, 0, 1), [(*drop, shown.number)], 10) for part in (0.65, 1.35)]
    assert float(difference(*seen)) == pytest.approx(SHOWS, abs=0.05)
    # Through a deeper water the bed is painted stronger: its darkest channel darker, its lightest no darker than white.
    chips = tint_chips(LABELS.materials["acrylic-ink-teal"], resin, 20, bed, (), 1.0)
    assert chips.painted[0] == ("#c0b090", "#c0b090")
    assert linear(chips.painted[2][0]).max() > linear("#c0b090").max()


def test_the_course_of_each_lift():
    _, made, lift, site, labels = asked(depth_mm=16)
    found = curves(lift, site, labels)
    assert len(found) == len(made.lifts["water"].layers) == 2
    for one, layer in zip(found, made.lifts["water"].layers, strict=True):
        assert one.core_c.max() == pytest.approx(layer.peak_c.number, abs=0.6)
        assert (np.diff(one.cure) >= -1e-9).all() and 0.9 < one.cure[-1] <= 1
        assert np.interp(one.gel_h, one.hours, one.cure) == pytest.approx(0.55, abs=0.02)
    assert curves(*asked(mix="glue-water-1-1", depth_mm=1)[2:]) == ()


def test_waves_are_kept_ever_better_until_the_gel():
    _, made, *rest = asked(mix="coating-resin", depth_mm=2)
    found = waves(*rest)
    assert list(found) == [5, 15, 40]
    for _, kept in found.values():
        assert (np.diff(kept) >= -1e-12).all() and kept[-1] == pytest.approx(1, abs=0.01)
    hours, kept = found[15]
    half = next(window for window in made.lifts["water"].windows if window.what.startswith("waves"))
    assert float(hours[int(np.argmax(kept >= 0.5))]) == pytest.approx(half.from_h, abs=0.02)
    assert waves(*asked(mix="glue-water-1-1", depth_mm=1)[2:]) == {}


def test_how_far_it_runs_and_what_rises():
    *_, lift, site, labels = asked(depth_mm=8)
    made = flow(lift, site, labels)
    assert made.points.number == 1 and made.spreads_mm.number > 100
    assert made.closes_mm.number == pytest.approx(0.93, abs=0.01)
    assert made.bubble_mm.number > 8
    assert flow(*asked(mix="varnish-water", depth_mm=1)[2:]) is None
    # At one viscosity the integral is time / viscosity: then Huppert's own values.
    assert channel_reach(500, 600 / 0.8, 1110) == pytest.approx(
        1.411e3 * (9.81 * (500e-6) ** 3 / (3 * 0.8 / 1110)) ** 0.2 * 600**0.2
    )
    assert puddle_reach(100, 600 / 0.8, 1110) == pytest.approx(
        0.894e3 * (9.81 * (1e-4) ** 3 / (3 * 0.8 / 1110)) ** 0.125 * 600**0.125
    )
    label = LABELS.mixes["coating-resin"].reacts
    hours = np.linspace(0, isothermal_hours(label, 23, label.gel), 50)
    assert mobility(hours, np.zeros(50), label) == pytest.approx(hours[-1] * 3600 / label.viscosity_pa_s)
    assert mobility(hours, np.linspace(0, label.gel, 50), label) < mobility(hours, np.zeros(50), label)
    for wrong in (lambda: channel_reach(-1, 1, 1), lambda: puddle_reach(1, -1, 1), lambda: least_cover(0, 1, 30)):
        with pytest.raises(ValueError):
            wrong()


def test_another_resin_is_the_plan_with_it():
    scene = resolved(pond_with(SKIN, SEAL, depth_mm=12))
    found = alternatives(scene, "water", shipped())
    for name in ("casting-resin", "coating-resin", "deep-resin", "clear-gel"):
        made = plan(resolved(pond_with(SKIN, SEAL, mix=name, depth_mm=12))).lifts["water"]
        assert found[name].figures["lifts"].number == len(made.layers)
        assert found[name].figures["mix_ml"].number == pytest.approx(made.mix_ml.number)
        assert found[name].figures["next_h"].number == pytest.approx(made.hours.next.number)
    assert found["glue-water-2-3"].figures == {} and "50 coats" in found["glue-water-2-3"].notes[0]
    assert found["clear-gel"].figures["peak_c"] is None


def test_a_warmer_room_is_sooner_and_hotter():
    found = list(rooms(resolved(pond_with(SKIN, SEAL, depth_mm=8)), "water", (12.0, 18.0, 23.0)).values())
    assert [one.name for one in found] == ["12 °C", "18 °C", "23 °C"]
    assert found[0].figures["whole_h"].number > found[1].figures["whole_h"].number > found[2].figures["whole_h"].number
    assert found[0].figures["peak_c"].number < found[1].figures["peak_c"].number < found[2].figures["peak_c"].number


def test_what_leans_on_a_dam_and_what_a_leak_would_lose():
    data = pond_with(SKIN, SEAL, level_mm=40)
    data["base"]["dammed"] = "all"
    scene = resolved(data)
    made = plan(scene)
    found = dams(scene.lift("water"), made.built.stages["water"].site, Labels.of(scene))
    assert found.length_mm.number == pytest.approx(2 * (300 + 200), rel=0.02)
    assert found.height_mm.number == pytest.approx(7, abs=0.1)  # 30 of foam and 3 of skin
    above = 300 * 200 * 7 / 1000
    assert found.foot_leak_ml.number == pytest.approx(above, rel=0.02)
    assert found.half_leak_ml.number == pytest.approx(above / 2, rel=0.02)
    assert dams(*asked(depth_mm=8)[2:]) is None


def test_the_kept_cup_gels_near_its_layer():
    *_, lift, site, labels = asked(mix="coating-resin", depth_mm=3)
    made = flow(lift, site, labels)
    layer = next(term.value for term in made.cup_h.working if "layer" in term.what)
    assert 0.5 * layer < made.cup_h.number < 1.5 * layer
