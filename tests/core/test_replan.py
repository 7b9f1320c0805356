"""A plan that changed while the work was under way."""

import copy
import re

from isostasis.core.plan import plan
from isostasis.core.replan import Done, changes, layer_ml
from tests.support.scenes import resolved, scene_data


def done(made, *names):
    steps = {step.id: step for step in made.steps}
    return [
        Done(name, steps[name].do, steps[name].lift, steps[name].course, layer_ml(made, steps[name])) for name in names
    ]


def test_what_stands_goes_unmentioned():
    scene = resolved(scene_data())
    made = plan(scene)
    assert changes(scene, made, done(made, "form-slab", "form-bank", "form-hole", "tarn-skin", "tarn-seal-1")) == []


def test_more_less_waste_and_what_lies_under():
    data = scene_data()
    before = plan(resolved(data))
    was = done(before, "tarn-skin", "tarn-seal-1", "tarn-seal-2", "tarn-water")
    deeper = copy.deepcopy(data)
    deeper["patches"][0]["lifts"][2]["level_mm"] = 24.8
    scene = resolved(deeper)
    [told] = [one for one in changes(scene, plan(scene), was) if one.code == "more"]
    more = (
        plan(scene).lifts["tarn-water"].layers[0].volume_ml.number
        - before.lifts["tarn-water"].layers[0].volume_ml.number
    )
    assert re.search(rf"{more:.0f}(\.\d)? ml remain to be laid", told.text) or f"{more:.3g} ml remain" in told.text
    lower = copy.deepcopy(data)
    lower["patches"][0]["lifts"][2]["level_mm"] = 22
    scene = resolved(lower)
    assert "too much lie there" in next(one.text for one in changes(scene, plan(scene), was) if one.code == "less")
    fewer = copy.deepcopy(data)
    del fewer["patches"][0]["lifts"][1]
    scene = resolved(fewer)
    assert [one.code for one in changes(scene, plan(scene), was)].count("waste") == 2
    late = copy.deepcopy(data)
    late["patches"][0]["lifts"].insert(1, {"id": "tarn-tone", "kind": "coat", "material": "paint-teal"})
    scene = resolved(late)
    [told] = [one for one in changes(scene, plan(scene), was) if one.code == "under"]
    assert "Tarn tone on Tarn is not done, and Tarn seal, which goes on it, is" in told.text
