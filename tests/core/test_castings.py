"""Pieces from moulds: what they take, when they come out, and the skin that is brought to their foot."""

from math import ceil

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.hardening.setting import set_minutes
from isostasis.core.mixing.parts import amounts, wet
from isostasis.core.plan import plan
from isostasis.core.terrain.reading import weigh
from tests.support.layups import crag
from tests.support.scenes import resolved


def test_pieces_moulds_and_hours():
    scene = resolved(crag())
    made = plan(scene)
    cast = made.forms["crag"].cast
    assert (cast.pieces.number, cast.rounds.number, cast.volume_ml.number) == (3, 2, 180)
    assert cast.mix_ml.number > 180
    assert sum(part.mass_g.number for part in cast.ingredients) == pytest.approx(cast.mass_g.number)
    sets = set_minutes(20, 0.70, amounts_ratio(scene), 20) / 60
    assert cast.hours.next.number == pytest.approx(2 * sets)
    assert cast.hours.workable.number == pytest.approx(sets / 2)
    assert cast.thickness_mm.number == pytest.approx(180 * 1000 / 1e4, rel=0.01)
    assert cast.hours.full.number > cast.hours.next.number
    steps = {step.id: step for step in made.steps}
    assert steps["cast-crag-2"].after == ("cast-crag-1",)
    assert steps["cast-crag-1"].wait_h == cast.hours.next.number
    assert steps["form-crag"].after == ("form-slab", "cast-crag-2")
    assert {"plaster-heat", "powder-dust", "slurry-drain"} <= {one.code for one in made.cautions_of("cast-crag-1")}
    fed = [feed for batch in made.batches for feed in batch.feeds if feed.form == "crag"]
    assert [feed.layer for feed in fed] == [1, 2]
    assert sum(feed.volume_ml.number for feed in fed) == pytest.approx(cast.mix_ml.number)
    assert {name: value for name, value in made.as_json()["batches"][0]["feeds"][0].items() if name != "volume_ml"} == {
        "form": "crag",
        "layer": 1,
    }
    plaster = next(need for need in made.buy if need.material == "plaster").need.number
    assert plaster == pytest.approx(cast.ingredients[0].mass_g.number)


def amounts_ratio(scene):
    mix = next(one for one in scene.mixes if one.id == "plaster-2-3")
    powder, water = amounts(mix, {one.id: one for one in scene.materials}, 100)
    return water.mass_g / powder.mass_g


def test_the_skin_is_brought_to_its_foot():
    bare = crag()
    bare["forms"].pop()
    without, made = plan(resolved(bare)), plan(resolved(crag()))
    stands = (100 / 5) ** 2
    assert without.built.covers["rest"].share.sum() - made.built.covers["rest"].share.sum() == pytest.approx(stands)
    stage = made.built.stages["skin"]
    rise = stage.after.z - stage.site.ground.z
    assert not rise[20:40, 20:40].any()
    assert rise[19, 30] == pytest.approx(4)  # right up to the foot, and no fence on it
    assert rise[18, 30] == pytest.approx(4)
    assert made.lifts["skin"].volume_ml.number == pytest.approx(without.lifts["skin"].volume_ml.number - 40, rel=0.01)
    # Cast later, it stands on the skin; switched off, the skin is whole.
    for fields in ({"after": "skin"}, {"off": True}):
        assert (
            plan(resolved(crag(**fields))).built.covers["rest"].share.sum() == without.built.covers["rest"].share.sum()
        )


def test_a_patch_may_lie_on_it():
    painted = {"id": "face", "name": "Face", "area": {"on": "crag"}, "lifts": [
        {"id": "slate", "kind": "coat", "material": "paint-slate"}]}  # fmt: skip
    made = plan(resolved(crag([painted])))
    assert made.built.covers["face"].share.sum() == pytest.approx(400)
    assert made.lifts["slate"].volume_ml.number > 400 * 25 / 1000 * 0.08
    assert np.allclose(made.built.covers["rest"].share + made.built.covers["face"].share, made.built.bare.inside)
    with pytest.raises(Faults, match=r"patches\[1\]\.area\.on: there is no form 'cliff' to lie on"):
        resolved(crag([{**painted, "area": {"on": "cliff"}}]))


def test_what_cannot_be_cast():
    with pytest.raises(Faults, match=r"forms\[1\]\.mix: 'foam-putty' does not set, so it cannot be cast"):
        plan(resolved(crag(mix="foam-putty")))
    for field, value in (("pieces", 0), ("mould_ml", 0), ("moulds", 1.5), ("height_mm", -3)):
        with pytest.raises(Faults, match=rf"forms\[1\]\.{field}"):
            resolved(crag(**{field: value}))


@given(st.integers(1, 40), st.integers(1, 9), st.integers(1, 4), st.floats(3, 4000))
@settings(max_examples=40, deadline=None)
def test_what_is_mixed_is_in_the_moulds_or_left(pieces, moulds, copies, mould_ml):
    scene = resolved(crag(copies=copies, pieces=pieces, moulds=moulds, mould_ml=mould_ml))
    made = plan(scene)
    cast = made.forms["crag"].cast
    assert cast.rounds.number == ceil(pieces * copies / moulds)
    left = next(term.value for term in cast.mix_ml.working if "left in" in term.what)
    assert cast.mix_ml.number == pytest.approx(pieces * mould_ml + left)
    of_all = sum(batch.volume_ml.number for batch in made.batches if batch.feeds[0].form)
    assert of_all == pytest.approx(cast.mix_ml.number * copies)
    assert all(batch.volume_ml.number <= scene.bench.bowl_ml * 1.0001 for batch in made.batches)
    mix = next(one for one in scene.mixes if one.id == "plaster-2-3")
    measure = wet(mix, {one.id: one for one in scene.materials})
    assert cast.weight_g.number + measure.free_water_g_per_ml * cast.volume_ml.number == pytest.approx(
        measure.density * cast.volume_ml.number
    )
    assert cast.weight_g.number in [term.value for term in weigh(scene, made.built, made.lifts, False).working]
