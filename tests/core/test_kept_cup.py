"""The kept cup as a witness: its touch stands for a moment of the layer; the lumped law along a room that changes."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.built.kept_cup import stands_for
from isostasis.core.catalogue import shipped
from isostasis.core.document.built import Built
from isostasis.core.document.scene import Reading, Room
from isostasis.core.hardening.climate import Climate
from isostasis.core.hardening.cure import isothermal_hours
from isostasis.core.hardening.layer import gel_in_cup, heat_from_label, hours_in_cup

TINS = shipped()
MIX = TINS.mixes["casting-resin"]
LABEL = MIX.reacts
HEAT = heat_from_label(LABEL).j_g
AT = datetime(2027, 3, 1, 19, tzinfo=UTC)


def steady(temp_c):
    return Climate((0.0,), (temp_c,), (0.5,))


def laid(wait_h=12.0, mix=MIX):
    return Built.model_construct(mix=mix, wait_h=wait_h, ended=AT)


@given(st.floats(5, 35), st.floats(2, 300))
def test_the_law_of_the_cup_is_one(temp_c, volume_ml):
    gel = hours_in_cup(LABEL, volume_ml, HEAT, steady(temp_c), LABEL.gel)
    assert gel == gel_in_cup(LABEL, volume_ml, HEAT, temp_c)
    hard = hours_in_cup(LABEL, volume_ml, HEAT, steady(temp_c), LABEL.hard)
    assert gel < hard <= isothermal_hours(LABEL, temp_c, LABEL.hard) * 1.001  # its own heat only quickens it


def test_a_room_that_changes_lies_between_its_two():
    colder = Climate((0.0, 2.0), (23.0, 14.0), (0.5, 0.5))
    hours = hours_in_cup(LABEL, 20, HEAT, colder, LABEL.hard)
    warm, cold = (hours_in_cup(LABEL, 20, HEAT, steady(temp), LABEL.hard) for temp in (23.0, 14.0))
    assert warm < hours < cold
    same = Climate((0.0, 2.0), (23.0, 23.0), (0.5, 0.5))
    assert hours_in_cup(LABEL, 20, HEAT, same, LABEL.hard) == pytest.approx(warm, rel=1e-9)


@pytest.mark.parametrize("bad", [(0, 0.8), (-1, 0.8), (20, 0), (20, 1)])
def test_no_cup_and_no_cure_are_refused(bad):
    with pytest.raises(ValueError, match="a batch is above 0 ml"):
        hours_in_cup(LABEL, bad[0], HEAT, steady(21), bad[1])


def test_a_cup_half_way_stands_for_the_layer_half_way():
    room = Room(temp_c=20)
    hard_h = hours_in_cup(LABEL, 20, HEAT, steady(20), LABEL.hard)
    mixed = AT - timedelta(minutes=20)
    half = stands_for(laid(), mixed, mixed + timedelta(hours=hard_h / 2), 20, room)
    assert (half - AT).total_seconds() / 3600 == pytest.approx(6.0)
    colder = Room(temp_c=20, series=(Reading(at=mixed, temp_c=12, rh=0.5),))
    assert stands_for(laid(), mixed, mixed + timedelta(hours=hard_h / 2), 20, colder) < half  # less far than it seems


def test_what_does_not_react_and_what_never_hardens_has_no_witness():
    at = AT + timedelta(hours=2)
    assert stands_for(laid(mix=TINS.mixes["paper-plaster"]), AT, at, 20, Room()) is None
    assert stands_for(laid(wait_h=None), AT, at, 20, Room()) is None
    with pytest.raises(ValueError, match="after it was mixed"):
        stands_for(laid(), AT, AT - timedelta(hours=1), 20, Room())
