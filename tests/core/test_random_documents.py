"""Random documents: planned, or refused with a sentence that names a place; what is planned balances.

ISOSTASIS_DOCUMENTS sets how many; by default as many as a busy machine has time for.
"""

import os

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.fault import Faults
from isostasis.core.lifts.kinds.pour.pools import PourLift, stays_of
from isostasis.core.plan import plan
from isostasis.core.stages import STAGES
from tests.support.scenes import resolved

LABELS = shipped()
COUNT = int(os.environ.get("ISOSTASIS_DOCUMENTS", "60"))
small = st.floats(0.0004, 15).map(lambda value: round(value, 4))
MIXES = {
    family: sorted(mix.id for mix in LABELS.mixes.values() if mix.family == family)
    for family in ("skin", "texture", "resin", "binder", "wetting")
}


@st.composite
def points(draw, wide, deep):
    """A point on the base, now and then on its edge or beside it."""
    across, along = (draw(st.one_of(st.floats(0, 1), st.sampled_from([0.0, 1.0]))) for _ in range(2))
    beside = draw(st.integers(0, 40)) == 0
    return [round(across * wide + 30 * beside, 2), round(along * deep, 2)]


@st.composite
def rings(draw, wide, deep):
    """A rectangle, or a triangle."""
    if draw(st.booleans()):
        west, south = (
            draw(st.floats(0, 0.6).map(lambda share, side=side: round(share * side, 2))) for side in (wide, deep)
        )
        east, north = west + draw(st.floats(5, 0.4 * wide)), south + draw(st.floats(5, 0.4 * deep))
        return [[west, south], [east, south], [east, north], [west, north]]
    return [draw(points(wide, deep)) for _ in range(3)]


@st.composite
def forms(draw, number, wide, deep):
    kind = draw(st.sampled_from(["sheet", "mound", "basin", "channel", "rim", "ramp"]))
    path = [draw(points(wide, deep)) for _ in range(draw(st.integers(2, 3)))]
    own = {
        "sheet": {"outline": draw(rings(wide, deep)), "thickness_mm": draw(small)},
        "mound": {"outline": draw(rings(wide, deep)), "crown_mm": draw(small)},
        "basin": {
            "outline": draw(rings(wide, deep)),
            "depth_mm": draw(small),
            "bank_deg": draw(st.sampled_from([30, 60, 90])),
        },
        "channel": {"path": path, "width_mm": draw(small), "depth_mm": draw(small), "bank_deg": 60},
        "rim": {"path": path, "height_mm": draw(small), "width_mm": draw(small)},
        "ramp": {"path": path, "width_mm": draw(small), "start_mm": draw(small), "end_mm": draw(small)},
    }[kind]
    return {"id": f"form-{number}", "kind": kind, **own}


@st.composite
def lifts(draw, number):
    kind = draw(st.sampled_from(["skin", "texture", "fix", "coat", "shell", "pour", "pour"]))
    pour = draw(st.sampled_from(["level_mm", "depth_mm", "volume_ml"]))
    own = {
        "skin": {"mix": draw(st.sampled_from(MIXES["skin"])), "depth_mm": draw(small)},
        "texture": {"mix": draw(st.sampled_from(MIXES["texture"])), "depth_mm": draw(small),
                    "cover": draw(st.sampled_from([1.0, 0.4]))},
        "fix": {"mix": draw(st.sampled_from(MIXES["binder"])),
                "wetting": draw(st.sampled_from([None, *MIXES["wetting"]]))},
        "coat": {"material": draw(st.sampled_from(["acrylic-sealer", "white-glue", "gloss-varnish"])),
                 "coats": draw(st.integers(1, 3))},
        "shell": {"material": "plaster-cloth", "layers": draw(st.integers(1, 2))},
        "pour": {"mix": draw(st.sampled_from([*MIXES["resin"], "glue-water-1-1", "clear-gel"])), pour: draw(small)},
    }[kind]  # fmt: skip
    if kind == "pour" and draw(st.booleans()):
        own["stands"] = [{"area_mm2": draw(small) + 0.1, "count": draw(st.integers(1, 9))}]
    return {"id": f"lift-{number}", "kind": kind, **{name: one for name, one in own.items() if one is not None}}


@st.composite
def documents(draw):
    wide, deep = draw(st.integers(40, 400)), draw(st.integers(40, 400))
    patches, number = [], 0
    for place in range(draw(st.integers(1, 3))):
        own = []
        for _ in range(draw(st.integers(0, 4))):
            number += 1
            lift = draw(lifts(number))
            if lift["kind"] != "fix" or (own and own[-1]["kind"] == "texture"):
                own.append(lift)
        area = {"rest": True} if place == 0 else draw(
            st.one_of(rings(wide, deep).map(lambda ring: {"outline": ring}), st.just({"below_mm": 10}), st.just({"steeper_deg": 30}))
        )  # fmt: skip
        patches.append({"id": f"patch-{place}", "name": f"Patch {place}", "area": area, "lifts": own})
    slab = {"id": "slab", "kind": "sheet", "outline": [[0, 0], [wide, 0], [wide, deep], [0, deep]],
            "thickness_mm": draw(st.floats(16, 60))}  # fmt: skip
    more = [draw(forms(number, wide, deep)) for number in range(draw(st.integers(0, 3)))]
    return {
        "isostasis": 1, "name": "Random", "grid_mm": draw(st.sampled_from([3, 5])),
        "base": {"width_mm": wide, "depth_mm": deep, "dammed": draw(st.sampled_from(["all", "all", [], ["south"]])),
                 "tilt_mm_per_m": draw(st.sampled_from([[0, 0], [4, -3]]))},
        "room": {"temp_c": draw(st.floats(8, 32)), "rh": draw(st.floats(0.2, 0.95))},
        "forms": [slab, *more], "patches": patches,
    }  # fmt: skip


@given(documents())
@settings(max_examples=COUNT, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_random_document_is_planned_or_refused_with_a_sentence(data):
    try:
        scene = resolved(data)
        made = plan(scene)
    except Faults as refused:
        assert all(fault.where and fault.what for fault in refused.faults)
        return
    finally:
        STAGES.clear()
    for name, lift in made.lifts.items():
        if lift.kind != "pour":
            continue
        pour = scene.lift(name)
        assert isinstance(pour, PourLift)
        pools = sum(pool.volume_ml.number for pool in lift.pools)
        drunk, lost = lift.drunk_ml.number, lift.lost_ml.number
        if pour.volume_ml is not None:
            assert pools + drunk + lost == pytest.approx(pour.volume_ml, rel=2e-3, abs=1e-3)
        else:
            assert pools == pytest.approx(lift.volume_ml.number, rel=1e-6, abs=1e-6)
        fed = [feed.volume_ml.number for batch in made.batches for feed in batch.feeds if feed.lift == name]
        assert sum(fed) == pytest.approx(lift.mix_ml.number, rel=1e-6, abs=1e-6)
        _below_the_lip(lift, pour, scene)
    order = [step.id for step in made.steps]
    assert len(order) == len(set(order))
    for step in made.steps:
        assert all(one in order for one in (*step.after, *(window.of for window in step.windows)))
        assert step.kind != "mask" or any(step.id in other.after for other in made.steps)


def _below_the_lip(lift, pour, scene):
    """A drying coat that stands over the lip while wet is told."""
    from isostasis.core.ground.spill import lip_of
    from isostasis.core.lifts.fold import build
    from isostasis.core.lifts.kinds.pour.pools import DENT_MM, filled
    from isostasis.core.lifts.labels import Labels

    if not lift.pools or lift.pools[0].dry_ml is None:
        return
    site = build(scene).stages[pour.id].site
    pools = filled(pour, site).pools
    lip = lip_of(site.ground, scene.base, pools, DENT_MM)
    if lip is None or "over-lip-wet" in {notice.code for notice in lift.warnings}:
        return
    stays = stays_of(pour, Labels.of(scene))
    bed = max(pool.level_mm for pool in pools) - sum(layer.depth_mm.number for layer in lift.layers)
    for layer in lift.layers:
        assert bed + layer.depth_mm.number / stays <= lip.level_mm + 1e-3
        bed += layer.depth_mm.number
