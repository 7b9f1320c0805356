"""Drying, setting and curing against published check values, an independent solver, and properties."""

from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp

from isostasis.core.catalogue import Reacts
from isostasis.core.document.scene import Room
from isostasis.core.hardening import layer
from isostasis.core.hardening.climate import Climate, evaporation
from isostasis.core.hardening.cure import faster, isothermal_hours, rate_constant, reduced_time
from isostasis.core.hardening.drying import coats_to_reach, hours_to_share, open_hours
from isostasis.core.hardening.flow import bubble_rise, clinging_film, ripple_decay, viscosity, wave_kept, wave_window
from isostasis.core.hardening.layer import (
    ANCHOR_BED,
    RESIN,
    Pour,
    gel_in_cup,
    heat_from_label,
    rested_in_cup,
    solve,
    solve_layers,
    working_minutes,
)
from isostasis.core.hardening.reference import solve_reference
from isostasis.core.hardening.setting import set_minutes

COATING = Reacts(hard_h=8, max_depth_mm=6, working_min=25)
CASTING = Reacts(hard_h=24, max_depth_mm=12, working_min=45)
DEEP = Reacts(hard_h=48, max_depth_mm=50, working_min=120)


def room(temp, rh=0.5):
    return Climate((0.0,), (float(temp),), (rh,))


def poured(label, depth, temp):
    return Pour(float(depth), ANCHOR_BED, label, heat_from_label(label).j_g, room(temp))


@pytest.mark.parametrize(("temp", "rh", "rate"), [(21, 0.5, 60.4), (21, 0.8, 23.0), (12, 0.7, 26.6), (28, 0.35, 97.9)])
def test_evaporation(temp, rh, rate):
    assert evaporation(temp, rh) == pytest.approx(rate, abs=1)


def test_ten_millimetres_of_compound():
    dry, damp = room(21), room(21, 0.8)
    assert hours_to_share(4400, 10, 4e-9, dry, 0.35) == pytest.approx(47.3, abs=0.1)
    assert hours_to_share(4400, 10, 4e-9, dry, 0.05) == pytest.approx(110.5, abs=0.1)
    assert hours_to_share(4400, 10, 4e-9, damp, 0.35) / 24 == pytest.approx(5.2, abs=0.05)
    assert hours_to_share(4400, 10, 4e-9, damp, 0.05) / 24 == pytest.approx(11.2, abs=0.05)


def test_saturated_air_never_dries_anything():
    assert hours_to_share(4400, 10, 4e-9, room(21, 1.0), 0.35) is None
    assert open_hours(100, room(21, 1.0)) is None


def test_two_faces_dry_much_faster():
    one = hours_to_share(4400, 10, 4e-9, room(21), 0.05)
    two = hours_to_share(4400, 10, 4e-9, room(21), 0.05, faces=2)
    assert two < one / 2 + 0.01


@given(st.floats(10, 8000), st.floats(0, 20), st.floats(5, 40), st.floats(0, 0.9), st.floats(0.05, 0.9))
def test_thicker_and_wetter_never_dries_sooner(water, depth, temp, rh, share):
    hours = hours_to_share(water, depth, 4e-9, room(temp, rh), share)
    assert hours_to_share(water * 1.1, depth, 4e-9, room(temp, rh), share) >= hours
    assert hours_to_share(water, depth + 1, 4e-9, room(temp, rh), share) >= hours
    assert hours_to_share(water, depth, 4e-9, room(temp, rh), share * 0.9) >= hours


def test_a_series_that_never_changes_is_a_steady_room():
    start = datetime(2026, 3, 1)
    series = [{"at": start + timedelta(hours=7 * step), "temp_c": 21, "rh": 0.5} for step in range(9)]
    changing = Climate.of(Room(series=series))
    for share in (0.35, 0.05):
        assert hours_to_share(4400, 10, 4e-9, changing, share) == pytest.approx(
            hours_to_share(4400, 10, 4e-9, room(21), share)
        )


def test_a_damp_night_pauses_drying():
    climate = Climate((0.0, 10.0, 20.0), (21.0, 21.0, 21.0), (0.5, 1.0, 0.5))
    steady = hours_to_share(4400, 10, 4e-9, room(21), 0.05)
    assert hours_to_share(4400, 10, 4e-9, climate, 0.05) == pytest.approx(steady + 10)


def test_coats_and_set():
    assert coats_to_reach(2, 0.5, 0.4) == 10
    assert set_minutes(40, 0.7, 0.7, 20) == 40
    assert set_minutes(40, 0.7, 0.8, 20) == pytest.approx(40 * 8 / 7)
    assert set_minutes(40, 0.7, 0.7, 10) > 40 > set_minutes(40, 0.7, 0.7, 30)
    assert set_minutes(40, 0.7, 0.7, -5) == set_minutes(40, 0.7, 0.7, 5)


def test_the_rate_law_is_anchored_to_the_label():
    assert rate_constant(COATING) == pytest.approx(1.2877e-4, rel=1e-4)
    assert isothermal_hours(COATING, 23, COATING.hard) == pytest.approx(8)
    for temp, gel in ((23, 4.155), (15, 7.469), (30, 2.552)):
        assert isothermal_hours(COATING, temp, COATING.gel) == pytest.approx(gel, abs=0.001)


@pytest.mark.parametrize(("label", "heat"), [(CASTING, 346.7), (COATING, 286.5), (DEEP, 154.7)])
def test_heat_of_reaction_from_the_label(label, heat):
    found = heat_from_label(label)
    assert found.j_g == pytest.approx(heat, rel=0.01)
    assert not found.cosmetic


def test_a_label_that_cannot_be_about_heat():
    thin = heat_from_label(Reacts(hard_h=12, max_depth_mm=0.5, working_min=20))
    assert (thin.j_g, thin.cosmetic) == (450, True)


@pytest.mark.parametrize(
    ("label", "depth", "temp", "peak", "share"),
    [
        (CASTING, 12, 15, 21.6, 0.02),
        (CASTING, 12, 23, 45, 0.02),
        (CASTING, 12, 26, 68, 0.05),
        (CASTING, 20, 23, 133, 0.05),
        (COATING, 3, 23, 28.8, 0.02),
        (COATING, 10, 23, 94, 0.05),
    ],
)
def test_peaks(label, depth, temp, peak, share):
    assert solve(poured(label, depth, temp))[0].peak_c - temp == pytest.approx(peak - temp, rel=share)


@pytest.mark.parametrize(
    ("label", "depth", "temp", "share"),
    [
        (CASTING, 12, 15, 0.02),
        (CASTING, 6, 21, 0.02),
        (CASTING, 12, 26, 0.05),
        (COATING, 3, 23, 0.02),
        (DEEP, 40, 19, 0.02),
    ],
)
def test_a_layer_agrees_with_an_independent_integration(label, depth, temp, share):
    pour = poured(label, depth, temp)
    ours, theirs = solve(pour)[0], solve_reference(pour)
    assert ours.peak_c - temp == pytest.approx(theirs.peak_c - temp, rel=share)
    assert ours.gel_h == pytest.approx(theirs.gel_h, rel=0.01)
    assert ours.hard_h == pytest.approx(theirs.hard_h, rel=0.03)


@pytest.mark.parametrize(
    "pour",
    [
        poured(CASTING, 12, 15),
        poured(CASTING, 12, 26),
        poured(COATING, 3, 23),
        poured(DEEP, 40, 19),
        Pour(8, ANCHOR_BED, CASTING, 300.0, Climate((0.0, 6.0, 15.0, 30.0), (21.0, 15.0, 23.0, 17.0), (0.5,) * 4)),
    ],
)
def test_steps_are_fine_enough(pour, monkeypatch):
    ours = solve(pour)[0]
    monkeypatch.setattr(layer, "STEP_CURE", 1e-6)
    monkeypatch.setattr(layer, "STEP_C", 1e-4)
    finer = solve(pour)[0]
    assert len(finer.hours) > 5 * len(ours.hours)
    assert (ours.gel_h, ours.hard_h) == pytest.approx((finer.gel_h, finer.hard_h), rel=0.006)
    assert ours.full_h == pytest.approx(finer.full_h, rel=0.02)
    assert (ours.peak_c, ours.bed_peak_c) == pytest.approx((finer.peak_c, finer.bed_peak_c), abs=0.3)


def test_a_thin_layer_is_isothermal():
    thin = solve(Pour(0.05, ANCHOR_BED, CASTING, 300.0, room(21)))[0]
    assert thin.gel_h == pytest.approx(isothermal_hours(CASTING, 21, CASTING.gel), rel=0.005)
    assert thin.peak_c == pytest.approx(21, abs=0.2)


@given(st.floats(2, 9), st.floats(10, 24), st.floats(120, 300))
@settings(max_examples=15)
def test_deeper_warmer_and_stronger_is_hotter(depth, temp, heat):
    def peak(depth, temp, heat):
        return solve(Pour(depth, ANCHOR_BED, CASTING, heat, room(temp)))[0].peak_c

    plain = peak(depth, temp, heat)
    assert peak(depth * 1.2, temp, heat) > plain
    assert peak(depth, temp + 2, heat) > plain
    assert peak(depth, temp, heat * 1.1) > plain


def test_several_heats_at_once_are_as_one_by_one():
    pour = poured(CASTING, 8, 21)
    together = solve(pour, (250.0, 340.0))
    for heat, course in zip((250.0, 340.0), together, strict=True):
        alone = solve(pour, (heat,))[0]
        assert course.peak_c == pytest.approx(alone.peak_c, abs=0.1)
        assert course.gel_h == pytest.approx(alone.gel_h, rel=0.005)


def test_several_layers_at_once_are_as_one_by_one():
    """Of different depths, on beds of different numbers of cells."""
    lower = poured(CASTING, 11, 21)
    pours = (lower, replace(lower, depth_mm=3.0, bed=((11.0, RESIN), *ANCHOR_BED)))
    for pour, (course,) in zip(pours, solve_layers(pours, (lower.heat_j_g,)), strict=True):
        alone = solve(pour)[0]
        assert course.peak_c == pytest.approx(alone.peak_c, abs=0.1)
        assert course.bed_peak_c == pytest.approx(alone.bed_peak_c, abs=0.1)
        assert course.gel_h == pytest.approx(alone.gel_h, rel=0.002)
        assert course.full_h == pytest.approx(alone.full_h, rel=0.01)  # steps are coarser once it is hard


def test_a_cold_night_slows_the_cure():
    night = Climate((0.0, 3.0, 13.0), (21.0, 12.0, 21.0), (0.5, 0.5, 0.5))
    pour = poured(CASTING, 6, 21)
    steady = solve(pour)[0]
    changed = solve(Pour(6.0, ANCHOR_BED, CASTING, pour.heat_j_g, night))[0]
    cold = solve(poured(CASTING, 6, 12))[0]
    assert steady.gel_h < changed.gel_h < cold.gel_h


def test_nothing_cures_in_the_frost_within_the_longest_wait():
    slow = Reacts(hard_h=200, max_depth_mm=12, working_min=45)
    frozen = solve(Pour(3.0, ANCHOR_BED, slow, 300.0, room(-10)))[0]
    assert frozen.full_h is None


def test_a_large_warm_cup_gives_less_time():
    heat = heat_from_label(CASTING).j_g
    assert working_minutes(CASTING, 100 / 1.1, 1.1, heat, 23) == pytest.approx(45)
    assert working_minutes(CASTING, 400, 1.1, heat, 23) < 30
    assert working_minutes(CASTING, 400, 1.1, heat, 15) > 45
    assert gel_in_cup(CASTING, 50, heat, 23) < isothermal_hours(CASTING, 23, CASTING.gel)


@pytest.mark.parametrize(("volume", "temp"), [(0.2, 21), (20, 23), (100, 15), (400, 23), (1500, 26)])
def test_a_cup_agrees_with_an_integration_in_time(volume, temp):
    heat = heat_from_label(CASTING).j_g
    width = (4 * volume * 1e-6 / np.pi) ** (1 / 3)
    cooling = 8 * 1.5 * np.pi * width**2 / (volume * 1e-6 * 1110 * 1900)

    def flow(_, state):
        alpha, warm = state
        rate = rate_constant(CASTING) * faster(CASTING, temp + warm) * (0.25 + alpha) * (1 - alpha) ** 1.6
        return rate, heat * 1000 / 1900 * rate - cooling * warm

    def gelled(_, state):
        return state[0] - CASTING.gel

    gelled.terminal = True
    run = solve_ivp(flow, (0, 4e5), (0.0, 0.0), method="LSODA", events=gelled, rtol=1e-8, atol=1e-10)
    assert gel_in_cup(CASTING, volume, heat, temp) == pytest.approx(run.t_events[0][0] / 3600, rel=2e-3)


def test_resin_thickens_to_the_gel():
    assert viscosity(CASTING, 0.0) == pytest.approx(0.8)
    assert viscosity(CASTING, 0.5) > 10
    assert np.isinf(viscosity(CASTING, 0.6))


def test_half_a_wave_is_kept_shortly_before_the_gel():
    gel = isothermal_hours(COATING, 21, COATING.gel)
    rate = rate_constant(COATING) * faster(COATING, 21) * 3600
    run = solve_ivp(lambda t, a: rate * (0.25 + a) * (1 - a) ** 1.6, (0, gel), [0.0], dense_output=True, rtol=1e-9)
    hours = np.linspace(0, gel, 3000)
    cure = run.sol(hours)[0]
    cure[-1] = COATING.gel
    kept = wave_kept(hours, cure, COATING, 2.0, 15.0, 1110)
    assert gel == pytest.approx(4.80, abs=0.005)
    assert hours[np.argmax(kept >= 0.5)] == pytest.approx(4.62, abs=0.01)
    assert (np.diff(kept) >= 0).all()
    window = wave_window(solve(poured(COATING, 2, 21))[0], COATING, 2.0, 15.0, 1110)
    assert window[0] < window[1]
    assert ripple_decay(15, 2, np.array([0.8]), 1110, 0.035)[0] > 0


def test_film_and_bubbles():
    assert clinging_film(0.8, 100, 1800, 60, 1110) == pytest.approx(0.0687, abs=0.0001)
    assert bubble_rise(1.0, 0.8, 1110) == pytest.approx(4 * bubble_rise(0.5, 0.8, 1110))


@pytest.mark.parametrize(
    "call",
    [
        lambda: solve(Pour(0.0, ANCHOR_BED, CASTING, 300.0, room(21))),
        lambda: hours_to_share(-1, 1, 1e-9, room(21), 0.5),
        lambda: set_minutes(0, 1, 1, 20),
        lambda: isothermal_hours(CASTING, 21, 1.0),
        lambda: clinging_film(0.8, 100, 0, 60, 1110),
        lambda: coats_to_reach(1, 0, 0.5),
        lambda: gel_in_cup(CASTING, 0, 300, 21),
        lambda: bubble_rise(0, 1, 1),
        lambda: ripple_decay(0, 1, np.ones(1), 1, 1),
    ],
)
def test_laws_refuse_what_is_outside_their_range(call):
    with pytest.raises(ValueError, match=r"above|0 or more|below"):
        call()


@pytest.mark.parametrize("alpha", [0.0, 0.1, 0.55, 0.8, 0.95, 0.999])
def test_the_time_to_a_degree_of_cure_is_its_integral(alpha):
    whole = quad(lambda a: 1 / ((0.25 + a) * (1 - a) ** 1.6), 0, alpha, limit=500)[0]
    assert reduced_time(alpha) == pytest.approx(whole, rel=1e-9, abs=1e-15)


@pytest.mark.parametrize("volume_ml", [20, 100, 400])
def test_a_rest_as_long_as_the_cup_takes_to_gel_ends_at_the_gel(volume_ml):
    label = CASTING
    hours = gel_in_cup(label, volume_ml, 346.7, 21.0)
    assert rested_in_cup(label, volume_ml, 346.7, 21.0, 0)[0] == 0
    assert rested_in_cup(label, volume_ml, 346.7, 21.0, 0.98 * hours)[0] < label.gel
    assert rested_in_cup(label, volume_ml, 346.7, 21.0, 1.02 * hours)[0] == pytest.approx(label.gel)
