"""Waves of tissue and glue: paper, litres, wetting again, hours; and what goes in is what stays and dries away."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.hardening.climate import Climate
from isostasis.core.hardening.drying import open_hours
from isostasis.core.mixing.parts import wet
from isostasis.core.plan import plan
from tests.support.layups import LABELS, board, codes, lifts_of
from tests.support.scenes import resolved


def waves(**fields):
    return {"id": "sea", "kind": "waves", "layers": 3, **fields}


def test_paper_litres_and_hours():
    made = lifts_of(waves())["sea"]
    need = 300 * 200 * 3 * 0.30 / 1000
    left = next(term.value for term in made.mix_ml.working if "left in" in term.what)
    assert made.mix_ml.number == pytest.approx(need + left)
    paper = made.ingredients[-1]
    assert (paper.material, paper.volume_ml.number) == ("tissue-paper", pytest.approx(60_000 * 3 * 1.15 * 0.05 / 1000))
    bought = next(one for one in plan(resolved(board(waves()))).buy if one.material == "tissue-paper")
    assert (bought.unit, bought.need.number) == ("mm2", pytest.approx(60_000 * 3 * 1.15))
    water = wet(LABELS.mixes["glue-water-1-1"], LABELS.materials).free_water_g_per_ml * 0.30 * 3 * 1000
    assert made.hours.workable.number == pytest.approx(open_hours(water, Climate((0,), (21,), (0.5,))))
    again = next(window for window in made.windows if "again" in window.what)
    assert (again.from_h, again.to_h) == (made.hours.workable.number, made.hours.next.number)
    assert "stays-soft" in codes(lifts_of(waves(layers=8))["sea"])


def test_what_waves_are_not_made_of():
    for fields, said in (({"mix": "sand"}, "'sand' binds nothing"), ({"material": "plaster"}, "is no thin paper"),
                         ({"layers": 0}, "layers: 0 does not fit")):  # fmt: skip
        with pytest.raises(Faults, match=said):
            lifts_of(waves(**fields))


@given(st.integers(1, 6), st.integers(1, 5))
@settings(max_examples=20, deadline=None)
def test_more_layers_never_dry_sooner_and_mass_balances(layers, more):
    thin, thick = (lifts_of(waves(layers=one))["sea"] for one in (layers, layers + more))
    assert thick.hours.full.number > thin.hours.full.number
    measure = wet(LABELS.mixes["glue-water-1-1"], LABELS.materials)
    taken = 60_000 * layers * 0.30 / 1000
    assert thin.volume_ml.number == pytest.approx(60_000 * layers * 0.05 / 1000 + taken * measure.stays)
