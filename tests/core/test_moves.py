"""What another plan of the same scene moves: what a caster notices, and nothing else."""

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.plan import plan
from isostasis.core.plan.moves import moves
from isostasis.core.reading import read
from isostasis.demo import document


def changed(name, label, **fields):
    known, scene = shipped(), read(document(name))
    before = resolve(scene, known)
    mix = known.mixes[label]
    reacts = mix.reacts.model_copy(update=fields)
    after = resolve(scene, known.with_own([], [mix.model_copy(update={"reacts": reacts})]))
    return moves(before, plan(before), plan(after))


def test_a_deeper_tin_is_poured_in_fewer_lifts():
    told = {(one.spot, one.what): one for one in changed("hollin-delf", "casting-resin", max_depth_mm=20.0)}
    lifts = told["Pit lake, water", "lifts"]
    assert (lifts.before, lifts.after) == (3, 2)
    assert {spot for spot, _ in told if spot} == {"Pit lake, water"}


def test_a_tin_that_sets_sooner_shortens_the_waits_alone():
    told = {one.what for one in changed("hollin-delf", "casting-resin", hard_h=18.0)}
    assert {"next lift after", "hard through after"} <= told
    assert "to mix" not in told and not any(one.startswith("needs") for one in told)


def test_the_same_tin_moves_nothing():
    assert changed("hollin-delf", "casting-resin", hard_h=24.0) == ()
